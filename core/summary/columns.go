package summary

import (
	"fmt"
	"slices"
	"strings"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/quantities"
)

// Column is what a measure is told of: a compound, the sum over several compounds, or the largest peak of an injection.
type Column struct {
	ID   string `json:"id"`
	Name string `json:"name"`

	members []string // names of compounds, of which there are several in a sum
	kind    columnKind
}

type columnKind int

const (
	ofCompound columnKind = iota
	ofSum
	ofLargest
)

// How columns are asked for, besides by the id of a compound.
const (
	AllCompounds = "all"     // each compound of the method
	LargestPeak  = "largest" // the peak of the largest area, named or not
	SumPrefix    = "sum:"    // sum:id+id, over chosen compounds
)

// maxColumns bounds those of one summary.
const maxColumns = 600

// Columns are those that are asked for, in that order; none asked are all compounds. A group is asked for as group:name.
func Columns(m batch.Method, asked []string) ([]Column, error) {
	if len(asked) == 0 {
		asked = []string{AllCompounds}
	}
	list := []Column{}
	for _, id := range asked {
		switch {
		case id == AllCompounds:
			for _, c := range m.Compounds {
				list = append(list, Column{ID: c.ID, Name: c.Name, members: []string{c.Name}})
			}
		case id == LargestPeak:
			list = append(list, Column{ID: id, Name: "Largest peak", kind: ofLargest})
		case strings.HasPrefix(id, batch.GroupPrefix):
			c := Column{ID: id, Name: "Sum of " + strings.TrimPrefix(id, batch.GroupPrefix), kind: ofSum}
			for _, k := range m.Targets() {
				if k.Group == strings.TrimPrefix(id, batch.GroupPrefix) {
					c.members = append(c.members, k.Name)
				}
			}
			if len(c.members) == 0 {
				return nil, fmt.Errorf("the method has no group %q", strings.TrimPrefix(id, batch.GroupPrefix))
			}
			list = append(list, c)
		case strings.HasPrefix(id, SumPrefix):
			c := Column{ID: id, kind: ofSum}
			for _, one := range strings.Split(strings.TrimPrefix(id, SumPrefix), "+") {
				k := withID(m, one)
				if k == nil {
					return nil, fmt.Errorf("the method has no compound %q to be summed", one)
				}
				if !slices.Contains(c.members, k.Name) {
					c.members = append(c.members, k.Name)
				}
			}
			c.Name = strings.Join(c.members, " + ")
			list = append(list, c)
		default:
			k := withID(m, id)
			if k == nil {
				return nil, fmt.Errorf("the method has no compound %q", id)
			}
			list = append(list, Column{ID: k.ID, Name: k.Name, members: []string{k.Name}})
		}
	}
	if len(list) > maxColumns {
		return nil, fmt.Errorf("a summary has %d columns at most, not %d", maxColumns, len(list))
	}
	return list, nil
}

func withID(m batch.Method, id string) *compounds.Compound {
	for k := range m.Compounds {
		if m.Compounds[k].ID == id {
			return &m.Compounds[k]
		}
	}
	return nil
}

// Single tells whether the column is of one compound, so that the limits of the method can be held against it.
func (c Column) Single() bool { return c.kind == ofCompound }

// Of is the value of a measure in an injection. Compounds are found by name, since a row may be of a batch whose method has other ids. In a sum, a compound
// that was not found counts as nothing; one that was found and has no value leaves the sum without one, and so does a measure that does not add.
func (c Column) Of(q quantities.Quantity, r quantities.Row) *float64 {
	switch c.kind {
	case ofLargest:
		return q.Of(largest(r)).Number
	case ofSum:
		return c.sum(q, r)
	}
	k := named(r, c.members[0])
	if k == nil {
		return nil
	}
	return q.Of(r.Of(k)).Number
}

func (c Column) sum(q quantities.Quantity, r quantities.Row) *float64 {
	if !q.Adds {
		return nil
	}
	total, any := 0.0, false
	for _, name := range c.members {
		k := named(r, name)
		if k == nil {
			return nil
		}
		row := r.Of(k)
		v := q.Of(row).Number
		switch {
		case v != nil:
			total, any = total+*v, true
		case row.Peak != nil:
			return nil
		}
	}
	if !any {
		return nil
	}
	return &total
}

// named is the compound of a name in the method of the row's batch.
func named(r quantities.Row, name string) *compounds.Compound {
	m := &r.Batch.Method
	for k := range m.Compounds {
		if m.Compounds[k].Name == name {
			return &m.Compounds[k]
		}
	}
	return nil
}

// largest is the row for the peak of the largest area, with its compound where it has a name.
func largest(r quantities.Row) quantities.Row {
	r.Compound, r.Peak = nil, nil
	if r.Injected == nil {
		return r
	}
	for k := range r.Injected.Peaks {
		if p := &r.Injected.Peaks[k]; r.Peak == nil || p.AreaS > r.Peak.AreaS {
			r.Peak = p
		}
	}
	if r.Peak != nil && r.Peak.CompoundID != "" {
		r.Compound = withID(r.Batch.Method, r.Peak.CompoundID)
	}
	return r
}
