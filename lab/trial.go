package lab

import (
	"context"
	"errors"
	"math"
	"slices"

	"yugen/core/batch"
	"yugen/formats"
	"yugen/formats/contents"
	"yugen/lab/change"
	"yugen/store"
)

// MethodTrial asks what another method would make of a batch.
type MethodTrial struct {
	Method      batch.Method `json:"method"`
	InjectionID string       `json:"injection_id"` // whose number is to be derived
	CompoundID  string       `json:"compound_id"`
}

// TriedMethod is what it would make of it: one number with its working, and how many change.
type TriedMethod struct {
	// Problem is why the method cannot be used; then the rest is empty.
	Problem string         `json:"problem,omitempty"`
	Working *batch.Working `json:"working"`
	// Terms are the parts of that number's uncertainty.
	Terms   []batch.UncertaintyTerm `json:"terms"`
	Percent *float64                `json:"uncertainty_percent"` // all of them together
	// Concentration and Amount are those of the injection alone.
	Concentration *float64 `json:"concentration"`
	Amount        *float64 `json:"amount"`
	Unit          string   `json:"unit"`    // that would be reported
	Moved         int      `json:"moved"`   // means that would become others
	Lost          int      `json:"lost"`    // that would be there no longer
	Gained        int      `json:"gained"`  // that are not there now
	Curves        int      `json:"curves"`  // that would be made anew
	Batches       int      `json:"batches"` // others that are processed by the version now in use, and stay with it
}

// TryMethod processes a batch by another method. Nothing is written.
func (l *Lab) TryMethod(ctx context.Context, batchID string, t MethodTrial) (TriedMethod, error) {
	out := TriedMethod{Terms: []batch.UncertaintyTerm{}}
	if err := t.Method.Validate(); err != nil {
		out.Problem = Reason(err)
		return out, nil
	}
	now, err := l.Process(ctx, batchID)
	if err != nil {
		return out, err
	}
	r, err := l.with(ctx, now.Batch, t.Method)
	if err != nil {
		if errors.Is(err, ErrRefused) {
			out.Problem = Reason(err)
			return out, nil
		}
		return out, err
	}
	out.Unit = t.Method.ReportedUnit()
	for i, row := range r.Samples {
		for id, v := range row.Values {
			before := now.Result.Samples[i].Values[id].Mean
			switch {
			case before == nil && v.Mean != nil:
				out.Gained++
			case before != nil && v.Mean == nil:
				out.Lost++
			case before != nil && (*before != *v.Mean || now.Batch.Version.Method.ReportedUnit() != out.Unit):
				out.Moved++
			}
		}
	}
	for i, c := range r.Curves {
		if i < len(now.Result.Curves) && change.JSON(c.Points) != change.JSON(now.Result.Curves[i].Points) {
			out.Curves++
		}
	}
	for _, in := range r.Injections {
		v, ok := in.Readings[t.CompoundID]
		if !ok || in.ID != t.InjectionID {
			continue
		}
		out.Concentration, out.Amount = v.Concentration, v.Amount
		if v.AmountSE != nil && *v.Amount != 0 {
			percent := 100 * *v.AmountSE / math.Abs(*v.Amount)
			out.Terms, out.Percent = append(out.Terms, v.Terms...), &percent
		}
	}
	if w, ok := batch.Work(batch.Input{Injections: entries(now.Batch), Method: t.Method, Choices: now.Batch.Choices}, r, t.InjectionID, t.CompoundID); ok {
		out.Working = &w
	}
	err = l.store.Read(ctx, func(tx *store.Tx) error {
		out.Batches, err = tx.UsedBy(now.Batch.Version.ID)
		return err
	})
	out.Batches = max(0, out.Batches-1)
	return out, err
}

// entries are the injections of a batch without their traces.
func entries(b store.Batch) []batch.Injection {
	list := make([]batch.Injection, len(b.Injections))
	for i, in := range b.Injections {
		list[i].Entry = in.Entry
	}
	return list
}

// Against tells how much replicates scatter against each internal standard.
func (l *Lab) Against(ctx context.Context, batchID string) ([]batch.AgainstRow, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return nil, err
	}
	return batch.AgainstTable(batch.Input{Injections: entries(p.Batch), Method: p.Batch.Version.Method, Choices: p.Batch.Choices}, p.Result), nil
}

// ReadContents says what a pasted table of what the standards hold is taken for. Nothing is written.
func (l *Lab) ReadContents(ctx context.Context, batchID, text string) (contents.Table, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return contents.Table{}, err
	}
	var names []string
	for _, c := range b.Version.Method.Targets() {
		names = append(names, c.Name)
	}
	t, err := contents.Read(text, names, levels(b))
	var unreadable *formats.Error
	if errors.As(err, &unreadable) {
		return t, refuse("%s", unreadable)
	}
	return t, err
}

// levels are those of the standards and checks of a batch, in ascending order.
func levels(b store.Batch) []float64 {
	var list []float64
	for _, in := range b.Injections {
		if in.Role == batch.Standard && in.Level != nil {
			list = append(list, *in.Level)
		}
	}
	slices.Sort(list)
	return slices.Compact(list)
}
