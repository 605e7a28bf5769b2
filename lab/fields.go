package lab

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"yugen/core/batch"
	"yugen/core/quantities"
	"yugen/formula"
	"yugen/store"
)

// validFields refuses a method with a field that is not understood, and tells where.
func (l *Lab) validFields(ctx context.Context, batchID string, m batch.Method) error {
	if len(m.Fields) == 0 {
		return nil
	}
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return err
	}
	set := compiledFor(p, m)
	for k, problem := range set.Problems {
		if problem != nil {
			return refuseAt(fmt.Sprintf("/method/fields/%d/formula", k), "%s: %s", m.Fields[k].Name, problem.Says)
		}
	}
	return nil
}

// compiledFor are the fields of a method over the quantities that a batch would have with it.
func compiledFor(p Processed, m batch.Method) formula.Set {
	b := p.Batch
	b.Version.Method = m
	list, _ := base(b, p.Result)
	var names []string
	for _, c := range m.Compounds {
		names = append(names, c.Name)
	}
	return formula.Compile(m.Fields, list, names)
}

// FieldTry asks what a set of fields, one of which is being written, would be.
type FieldTry struct {
	Fields []batch.LabField `json:"fields"`
	At     int              `json:"at"` // which is looked at
	// InjectionID and CompoundID are of what the values here are.
	InjectionID string `json:"injection_id"`
	CompoundID  string `json:"compound_id"`
	// Cursor is where in the formula something is completed, in letters; -1 completes nothing.
	Cursor int `json:"cursor"`
}

// FieldTrial is what they would be.
type FieldTrial struct {
	Fields []FieldState `json:"fields"`
	// Values are those of the field that is looked at, over the batch.
	Values []FieldValue `json:"values"`
	// Words are what can stand at the cursor, with what it is here.
	Words []formula.Word `json:"words"`
}

// FieldState is one of them: understood, or what is wrong.
type FieldState struct {
	Problem *formula.Misread `json:"problem"`
	Unit    string           `json:"unit"` // that the formula gives
	Kind    quantities.Kind  `json:"kind"`
	Here    string           `json:"here"` // its value here, as it is shown
	Why     string           `json:"why"`  // why there is none
	Uses    []string         `json:"uses"`
	UsedBy  []string         `json:"used_by"` // names of fields
}

// FieldValue is a value of a field somewhere in the batch.
type FieldValue struct {
	InjectionID string   `json:"injection_id,omitempty"`
	CompoundID  string   `json:"compound_id,omitempty"`
	Number      *float64 `json:"number"`
	Shown       string   `json:"shown"`
	Why         string   `json:"why,omitempty"`
	Outside     bool     `json:"outside,omitempty"`
}

// maxFieldValues bounds the values of a trial.
const maxFieldValues = 2000

// TryFields computes fields without keeping them.
func (l *Lab) TryFields(ctx context.Context, batchID string, try FieldTry) (FieldTrial, error) {
	out := FieldTrial{Fields: []FieldState{}, Values: []FieldValue{}, Words: []formula.Word{}}
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return out, err
	}
	if len(try.Fields) > 0 && try.At < 0 || try.At > len(try.Fields) {
		return out, refuseAt("/at", "there is no field %d", try.At)
	}
	if len(try.Fields) > 200 {
		return out, refuseAt("/fields", "a method has at most 200 fields")
	}
	set, of, err := l.compiled(ctx, p.Batch, p.Result, try.Fields)
	if err != nil {
		return out, err
	}
	here := placeOf(of, p.Batch, try)
	if here.Number > 0 && here.Recorded == nil && p.Batch.Injections[here.Number-1].Typed == nil {
		if here.Recorded, err = l.recordedOf(ctx, p.Batch.Injections[here.Number-1]); err != nil {
			return out, err
		}
	}
	for k, f := range try.Fields {
		out.Fields = append(out.Fields, stateOf(set, k, f, here))
	}
	for k, f := range try.Fields {
		for n, other := range set.Compiled {
			if other != nil && slices.Contains(other.Uses, f.Short) {
				out.Fields[k].UsedBy = append(out.Fields[k].UsedBy, try.Fields[n].Name)
			}
		}
	}
	if try.At >= 0 && try.At < len(try.Fields) {
		f := try.Fields[try.At]
		if q, understood := set.Register.Find(f.Short); understood && q.Field {
			out.Values = valuesOf(q, f, of)
		}
		if try.Cursor >= 0 {
			out.Words = set.Complete(f, try.Cursor, here)
		}
	}
	return out, nil
}

// placeOf is where values are looked at: the chosen injection and compound.
func placeOf(of *quantities.Batch, b store.Batch, try FieldTry) quantities.Row {
	k := max(0, slices.IndexFunc(b.Injections, func(in store.Injection) bool { return in.ID == try.InjectionID }))
	if len(of.Injections) == 0 {
		return quantities.Row{Batch: of}
	}
	r := of.Injections[k]
	for c := range of.Method.Compounds {
		if one := &of.Method.Compounds[c]; one.ID == try.CompoundID || try.CompoundID == "" && c == 0 {
			r = r.Of(one)
		}
	}
	return r
}

func stateOf(set formula.Set, k int, f batch.LabField, here quantities.Row) FieldState {
	s := FieldState{Problem: set.Problems[k], Uses: []string{}, UsedBy: []string{}}
	one := set.Compiled[k]
	if one == nil {
		return s
	}
	s.Unit, s.Kind = one.Unit, one.Kind
	s.Uses = append(s.Uses, one.Uses...)
	q, _ := set.Register.Find(f.Short)
	v := q.Of(here)
	s.Here, s.Why = strings.TrimSpace(q.Shown(v)+" "+q.Unit), v.Why
	if v.Absent() {
		s.Here = ""
	}
	return s
}

func valuesOf(q quantities.Quantity, f batch.LabField, of *quantities.Batch) []FieldValue {
	list := []FieldValue{}
	for _, r := range formula.Places(of, q.Lives) {
		if len(list) >= maxFieldValues {
			break
		}
		v := q.Of(r)
		one := FieldValue{Number: v.Number, Shown: q.Shown(v), Why: v.Why}
		if r.Injected != nil {
			one.InjectionID = r.Injected.ID
		}
		if r.Compound != nil {
			one.CompoundID = r.Compound.ID
		}
		one.Outside = v.Text == "fail" || v.Number != nil && (f.Low != nil && *v.Number < *f.Low || f.High != nil && *v.Number > *f.High)
		list = append(list, one)
	}
	return list
}

// ExampleFields are ten fields to begin with.
func (l *Lab) ExampleFields(ctx context.Context, batchID string) ([]batch.LabField, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return nil, err
	}
	return formula.Examples(b.Version.Method), nil
}

// RenameField gives fields with every use of a short name as another.
func RenameField(fields []batch.LabField, from, to string) []batch.LabField {
	return formula.Rename(fields, from, to)
}
