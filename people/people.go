// Package people says who may do what: roles in a plain table, passwords, and who acts.
package people

import "slices"

// Role is what a person is in the laboratory; a person may have several.
type Role string

// The roles.
const (
	Reader    Role = "reader"
	Analyst   Role = "analyst"
	Developer Role = "method developer"
	Reviewer  Role = "reviewer"
	Keeper    Role = "keeper"
)

// Roles are all of them, in the order of the table.
var Roles = []Role{Reader, Analyst, Developer, Reviewer, Keeper}

// Right is something that may be done or not.
type Right string

// The rights. Altering raw data, a saved version or the record is nobody's, so there is none for it.
const (
	Anyone  Right = ""        // also who has not signed in
	Look    Right = "look"    // at everything, and make a copy of any result
	Work    Right = "work"    // bring in files, edit peaks, settle notices, keep reports
	Develop Right = "develop" // save a new version of a method
	Arrange Right = "arrange" // layouts, import profiles, ion lists, libraries
	Review  Right = "review"  // look at what others did by hand, sign it as reviewed, unlock what is signed
	Approve Right = "approve" // methods and results
	PutAway Right = "put away"
	Keep    Right = "keep" // people, tokens, backup
)

// Row is a line of the table of what a role may do.
type Row struct {
	Right Right  `json:"right"`
	Says  string `json:"says"`
	Roles []Role `json:"roles"`
}

// Table is what the roles may do; everything that asks for a right asks it.
var Table = []Row{
	{Look, "Look at everything, make a copy of any result", Roles},
	{Work, "Bring in files, edit peaks, settle notices", []Role{Analyst, Developer, Reviewer}},
	{Develop, "Save a new version of a method", []Role{Developer}},
	{Arrange, "Change a layout, import profile, ion list, library", []Role{Analyst, Developer, Reviewer}},
	{Review, "Review what others did, sign as reviewed, unlock", []Role{Reviewer}},
	{Approve, "Approve a method or results", []Role{Reviewer}},
	{PutAway, "Rename a batch, put it away", []Role{Reviewer, Keeper}},
	{Keep, "People, tokens, backup", []Role{Keeper}},
}

// Actor is who does something.
type Actor struct {
	ID     string
	Name   string
	Roles  []Role
	Alone  bool    // works on their own computer, without signing in: everything is theirs to do
	Limits []Right // of a token: nothing beyond these; nil for a person
}

// May tells whether somebody may do something.
func (a Actor) May(r Right) bool {
	switch {
	case r == Anyone, a.Alone:
		return true
	case a.Limits != nil && !slices.Contains(a.Limits, r):
		return false
	}
	for _, row := range Table {
		if row.Right == r {
			return slices.ContainsFunc(row.Roles, func(o Role) bool { return slices.Contains(a.Roles, o) })
		}
	}
	return false
}

// Rights are all that somebody may do.
func (a Actor) Rights() []Right {
	list := []Right{}
	for _, row := range Table {
		if a.May(row.Right) {
			list = append(list, row.Right)
		}
	}
	return list
}
