package server

import (
	"fmt"
	"net/http"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"

	"yugen/lab"
	"yugen/people"
	"yugen/store"
)

// SigningIn is a name with its password.
type SigningIn struct {
	Name     string `json:"name"`
	Password string `json:"password"`
}

// PasswordChange is a new password with the one before.
type PasswordChange struct {
	Present string `json:"present"`
	Next    string `json:"next"`
}

// Staff is who may come in, and what the roles may do.
type Staff struct {
	People []lab.Person  `json:"people"`
	Table  []people.Row  `json:"table"`
	Roles  []people.Role `json:"roles"`
}

func (s *server) staff(c *call) (any, error) {
	list, err := s.lab.People(c.Request().Context())
	return Staff{list, people.Table, people.Roles}, err
}

var recordQuery = []string{"who", "kind", "batch", "words", "from", "to"}

// wanted reads what is looked for in the record.
func wanted(c *echo.Context) (store.Wanted, error) {
	w := store.Wanted{BatchID: c.QueryParam("batch"), Who: c.QueryParam("who"), Action: c.QueryParam("kind"), Words: c.QueryParam("words")}
	if len(w.Words) > maxWords {
		return w, problem{Status: http.StatusBadRequest, Detail: fmt.Sprintf("words are at most %d bytes.", maxWords)}
	}
	for name, into := range map[string]*time.Time{"from": &w.From, "to": &w.To} {
		text := c.QueryParam(name)
		if text == "" {
			continue
		}
		var err error
		if *into, err = time.Parse(time.RFC3339, text); err != nil {
			return w, problem{Status: http.StatusBadRequest, Detail: name + " is a time as 2026-04-05T09:00:00Z."}
		}
	}
	return w, nil
}

// maxWords bounds what is looked for in the record.
const maxWords = 200

// recordCSV writes what is found of the record as it comes.
func (s *server) recordCSV(c *echo.Context) error {
	w, err := wanted(c)
	if err != nil {
		return err
	}
	attach(c, "record.csv")
	c.Response().Header().Set("Content-Type", "text/csv; charset=utf-8")
	return s.lab.RecordCSV(c.Request().Context(), w, c.Response())
}

func (s *server) recordJSON(c *echo.Context) error {
	w, err := wanted(c)
	if err != nil {
		return err
	}
	attach(c, "record.jsonl")
	c.Response().Header().Set("Content-Type", "application/x-ndjson")
	return s.lab.RecordJSON(c.Request().Context(), w, c.Response())
}

// peopleOperations are about who may come in, and who did what.
func (s *server) peopleOperations() []operation {
	return []operation{
		{http.MethodGet, "/session", "session", "Who one is here, and what one may do", nil, nil, Myself{}, func(c *call, _ any) (any, error) {
			return s.whoami(c.actor), nil
		}},
		{http.MethodPost, "/session", "signIn", "Sign in by name and password", nil, &SigningIn{}, Myself{}, func(c *call, body any) (any, error) {
			b := body.(*SigningIn)
			return s.signIn(c, b.Name, b.Password)
		}},
		{http.MethodDelete, "/session", "signOut", "Sign out", nil, nil, Myself{}, func(c *call, _ any) (any, error) { return s.signOut(c, false) }},
		{http.MethodPost, "/session/everywhere", "signOutEverywhere", "Sign out of every browser", nil, nil, Myself{}, func(c *call, _ any) (any, error) { return s.signOut(c, true) }},
		{http.MethodPost, "/session/password", "changePassword", "Change one's own password; every session ends", nil, &PasswordChange{}, Myself{}, func(c *call, body any) (any, error) {
			b := body.(*PasswordChange)
			if err := s.lab.ChangeOwnPassword(c.Request().Context(), c.actor, b.Present, b.Next); err != nil {
				return nil, err
			}
			return s.signIn(c, c.actor.Name, b.Next)
		}},
		{http.MethodGet, "/record", "findRecord", "Rows of the record by person, kind, batch, words and time, the newest first; before asks for those before a row", append(recordQuery, "before"), nil, lab.RecordPage{}, func(c *call, _ any) (any, error) {
			w, err := wanted(c.Context)
			if err != nil {
				return nil, err
			}
			before := int64(0)
			if text := c.QueryParam("before"); text != "" {
				if before, err = strconv.ParseInt(text, 10, 64); err != nil || before < 1 {
					return nil, problem{Status: http.StatusBadRequest, Detail: "before is the number of a row."}
				}
			}
			return s.lab.FindRecord(c.Request().Context(), w, before)
		}},
		{http.MethodGet, "/people", "people", "Who may come in, and what the roles may do", nil, nil, Staff{}, func(c *call, _ any) (any, error) { return s.staff(c) }},
		{http.MethodPost, "/people", "addPerson", "Let somebody in", nil, &lab.PersonAsked{}, Staff{}, func(c *call, body any) (any, error) {
			if _, err := s.lab.AddPerson(c.Request().Context(), *body.(*lab.PersonAsked), c.who); err != nil {
				return nil, err
			}
			return s.staff(c)
		}},
		{http.MethodPatch, "/people/:person", "changePerson", "Change roles or password of somebody, or whether they may come in", nil, &lab.PersonAsked{}, Staff{}, func(c *call, body any) (any, error) {
			if _, err := s.lab.ChangePerson(c.Request().Context(), c.Param("person"), *body.(*lab.PersonAsked), c.who); err != nil {
				return nil, err
			}
			return s.staff(c)
		}},
		{http.MethodGet, "/tokens", "tokens", "Tokens that have not ended: one's own, or everybody's for a keeper", nil, nil, []lab.ShownToken{}, func(c *call, _ any) (any, error) {
			return s.lab.Tokens(c.Request().Context(), c.actor)
		}},
		{http.MethodPost, "/tokens", "newToken", "Make a token that acts as oneself, with less; its text is shown once", nil, &lab.TokenAsked{}, lab.ShownToken{}, func(c *call, body any) (any, error) {
			return s.lab.NewToken(c.Request().Context(), c.actor, *body.(*lab.TokenAsked))
		}},
		{http.MethodDelete, "/tokens/:token", "endToken", "End a token", nil, nil, []lab.ShownToken{}, func(c *call, _ any) (any, error) {
			if err := s.lab.EndToken(c.Request().Context(), c.actor, c.Param("token")); err != nil {
				return nil, err
			}
			return []lab.ShownToken{}, nil
		}},
	}
}
