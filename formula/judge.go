package formula

import (
	"fmt"
	"strings"

	"yugen/core/batch"
	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/quantities"
)

// maxNotices bounds what one field says of a batch.
const maxNotices = 100

// Judge holds the fields against their limits: what is outside, and what is false, is a notice.
func (s Set) Judge(b *quantities.Batch) (list []checks.Notice) {
	for _, one := range s.Compiled {
		if one == nil || one.Field.Low == nil && one.Field.High == nil && one.Kind != quantities.Text {
			continue
		}
		q, _ := s.Register.Find(one.Field.Short)
		n := 0
		for _, r := range Places(b, q.Lives) {
			says := outside(one.Field, q, q.Of(r))
			if says == "" {
				continue
			}
			if n++; n > maxNotices {
				break
			}
			list = append(list, notice(one.Field, r, says))
		}
	}
	return list
}

// Places are where a quantity has a value in a batch: the batch, each injection, or each target in each injection.
func Places(b *quantities.Batch, lives quantities.Lives) []quantities.Row {
	switch lives {
	case quantities.OfBatch:
		return []quantities.Row{{Batch: b}}
	case quantities.OfInjection, quantities.OfTrace:
		return b.Injections
	}
	var list []quantities.Row
	for _, r := range b.Injections {
		if r.Entry.Role == batch.Blank {
			continue
		}
		for k := range b.Method.Compounds {
			if c := &b.Method.Compounds[k]; c.Role == compounds.Target {
				list = append(list, r.Of(c))
			}
		}
	}
	return list
}

// outside says how a value misses its limits; nothing where it keeps them, or is absent.
func outside(f batch.LabField, q quantities.Quantity, v quantities.Value) string {
	switch {
	case v.Text == "fail":
		return "does not hold"
	case v.Number == nil:
		return ""
	}
	shown := strings.TrimSpace(q.Shown(v) + " " + q.Unit)
	switch {
	case f.Low != nil && *v.Number < *f.Low:
		return fmt.Sprintf("is %s, below %g", shown, *f.Low)
	case f.High != nil && *v.Number > *f.High:
		return fmt.Sprintf("is %s, above %g", shown, *f.High)
	}
	return ""
}

func notice(f batch.LabField, r quantities.Row, says string) checks.Notice {
	injection, compound, of := "", "", ""
	if r.Injected != nil {
		injection = r.Injected.ID
		of = strings.TrimSpace(r.Entry.Name + " " + r.Replicate)
	}
	if r.Compound != nil {
		compound = r.Compound.ID
		of = r.Compound.Name + " in " + of
	}
	subject := f.Name
	if of != "" {
		subject += ", " + of
	}
	return checks.New(checks.FieldLimit+checks.Kind("_"+f.Short), checks.Decide, checks.Results, injection, compound, subject, says)
}
