package lab

import (
	"errors"
	"math"
	"slices"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/checks"
	"yugen/core/quantities"
	"yugen/report"
	"yugen/report/layouts"
	"yugen/store"
)

// The ten examples compute over the demo; the values are those that the result gives by hand.
func TestExampleFieldsOverTheDemo(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	fields := must[[]batch.LabField](t)(l.ExampleFields(ctx, id))
	p := must[Processed](t)(l.Process(ctx, id))
	for k, f := range fields {
		trial := must[FieldTrial](t)(l.TryFields(ctx, id, FieldTry{Fields: fields, At: k, Cursor: -1, InjectionID: p.Batch.Injections[20].ID}))
		if s := trial.Fields[k]; s.Problem != nil || len(trial.Values) == 0 {
			t.Errorf("%s: %+v, %d values", f.Name, s.Problem, len(trial.Values))
			continue
		}
		first := trial.Values[0]
		switch f.Short {
		case "samples_injected":
			want := 0.0
			for _, in := range p.Batch.Injections {
				if in.Role == batch.Sample {
					want++
				}
			}
			if *first.Number != want {
				t.Errorf("%g samples, counted %g", *first.Number, want)
			}
		case "area_named":
			named, all := 0.0, 0.0
			for _, peak := range p.Result.Injections[20].Peaks {
				all += peak.AreaS
				if peak.CompoundID != "" {
					named += peak.AreaS
				}
			}
			if got := *trial.Values[20].Number; math.Abs(got-100*named/all) > 1e-9 {
				t.Errorf("%g %% has a name, by hand %g", got, 100*named/all)
			}
		case "highest_pressure":
			if first.Number == nil || *first.Number < 50 || *first.Number > 500 {
				t.Errorf("the highest pressure is %+v", first)
			}
		}
	}
}

// Fields are part of the method: refused with their place when they are not understood; values outside their limits are notices; they stand in the matrix, the
// table, the report and its JSON like any quantity.
func TestFieldsArePartOfTheMethod(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	b := must[store.Batch](t)(l.Batch(ctx, id))
	m := b.Version.Method
	m.Fields = []batch.LabField{{Name: "Share of caffeine", Short: "caffeine_share", Lives: "injection", Formula: `100 * compound("Caffeine").area_s / sum(peaks, .aera_s)`, Unit: "%"}}
	_, err := l.SaveMethod(ctx, id, b.Revision, m, "a share", who)
	if !errors.Is(err, ErrRefused) || Pointer(err) != "/method/fields/0/formula" || !strings.Contains(err.Error(), "area_s is near") {
		t.Fatalf("%v at %s", err, Pointer(err))
	}
	m.Fields[0].Formula = `100 * compound("Caffeine").area_s / sum(peaks, .area_s)`
	m.Fields[0].High = ptr(40.0)
	b = must[store.Batch](t)(l.SaveMethod(ctx, id, b.Revision, m, "a share", who))
	p := must[Processed](t)(l.Process(ctx, id))
	outside := 0
	for _, in := range p.Result.Injections {
		peak, all := in.PeakOf("caffeine"), 0.0
		for _, c := range m.Compounds {
			if c.Name == "Caffeine" {
				peak = in.PeakOf(c.ID)
			}
		}
		for _, q := range in.Peaks {
			all += q.AreaS
		}
		if peak != nil && 100*peak.AreaS/all > 40 {
			outside++
		}
	}
	told := 0
	for _, n := range p.Result.Notices {
		if n.Kind == checks.FieldLimit+"_caffeine_share" {
			told++
		}
	}
	if outside == 0 || told != outside {
		t.Errorf("%d are above 40 %%, %d notices", outside, told)
	}
	matrix := must[Matrix](t)(l.MatrixOf(ctx, id, "caffeine_share"))
	if !matrix.Quantity.Field || matrix.Quantity.Unit != "%" || matrix.Rows[20].Cells[0].Number == nil {
		t.Errorf("%+v", matrix.Rows[20])
	}
	table := string(must[[]byte](t)(l.Document(ctx, id, "results.csv", "", "")))
	if !strings.Contains(strings.SplitN(table, "\n", 2)[0], ",caffeine_share") {
		t.Errorf("the table has %s", strings.SplitN(table, "\n", 2)[0])
	}
	one := must[layouts.Layout](t)(layouts.ShippedLayout("one-page"))
	one.Rows = append(one.Rows, []layouts.Block{{ID: "words", Kind: layouts.Text, Text: "Share {caffeine_share}."}})
	d := must[Drawn](t)(l.DrawLayout(ctx, id, one.JSON(), b.Injections[20].ID, ""))
	if shown := matrix.Rows[20].Cells[0].Shown; !strings.Contains(strings.Join(d.Pages, ""), "Share "+shown+" %.") {
		t.Errorf("the page does not say %s", shown)
	}
	in := must[report.Input](t)(l.inputFor(ctx, p, one, report.Subject{InjectionID: b.Injections[20].ID}))
	part := must[report.Input](t)(in.Only(layouts.EachInjection, report.Subject{InjectionID: b.Injections[20].ID}))
	data := string(must[[]byte](t)(report.CSV(part)))
	if whole := must[[]byte](t)(report.CSV(in)); !strings.Contains(string(whole), strings.Split(data, "\n")[1]) {
		t.Error("a row of one injection is another than in the whole")
	}
}

// While a formula is written its values follow, what can stand there is offered with what it is, uses are told, and renaming follows.
func TestWritingAField(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	b := must[store.Batch](t)(l.Batch(ctx, id))
	fields := []batch.LabField{{Name: "Whole", Short: "whole", Lives: "injection", Formula: "sum(peaks, .area_s)"}, {Name: "Share", Short: "share", Lives: "compound", Formula: "100 * area_s / who"}}
	trial := must[FieldTrial](t)(l.TryFields(ctx, id, FieldTry{Fields: fields, At: 1, Cursor: 18, InjectionID: b.Injections[20].ID}))
	if s := trial.Fields[1]; s.Problem == nil || s.Problem.Instead != "whole" || s.Problem.From != 15 {
		t.Errorf("%+v", s.Problem)
	}
	if len(trial.Words) == 0 || trial.Words[0].Insert != "whole" || trial.Words[0].Here == "" || trial.Words[0].From != 15 {
		t.Errorf("offered %+v", trial.Words)
	}
	fields[1].Formula = "100 * area_s / whole"
	trial = must[FieldTrial](t)(l.TryFields(ctx, id, FieldTry{Fields: fields, At: 1, Cursor: -1, InjectionID: b.Injections[20].ID}))
	if s := trial.Fields; s[1].Here == "" || !slices.Equal(s[0].UsedBy, []string{"Share"}) || s[1].Kind != quantities.Amount {
		t.Errorf("%+v", s)
	}
	got := RenameField(fields, "whole", "total")
	if got[0].Short != "total" || got[1].Formula != "100 * area_s / total" {
		t.Errorf("renamed: %+v", got)
	}
	words := must[FieldTrial](t)(l.TryFields(ctx, id, FieldTry{Fields: []batch.LabField{{Name: "P", Short: "p", Lives: "injection", Formula: `trace("Pu`}}, Cursor: 9, InjectionID: b.Injections[20].ID})).Words
	if len(words) != 1 || words[0].Insert != `Pump pressure").` || words[0].From != 7 {
		t.Errorf("offered %+v", words)
	}
	if _, err := l.TryFields(ctx, id, FieldTry{Fields: fields, At: 3}); !errors.Is(err, ErrRefused) {
		t.Errorf("a field that is not there: %v", err)
	}
}
