package lab

import (
	"errors"
	"strings"
	"testing"

	"yugen/report/layouts"
	"yugen/store"
)

func shippedLayout(t *testing.T, name string) layouts.Layout {
	t.Helper()
	return must[layouts.Layout](t)(layouts.ShippedLayout(name))
}

// A layout is kept in versions with its study; two people at once do not write over each other; what ships is only copied; a batch remembers what it used.
func TestLayoutsAreKeptInVersions(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	one := shippedLayout(t, "certificate")
	if _, err := l.KeepLayout(ctx, id, "certificate", 1, one.JSON(), who); !errors.Is(err, ErrRefused) {
		t.Errorf("a layout that ships was changed: %v", err)
	}
	one.Name = "Ours"
	first := must[KeptLayout](t)(l.KeepLayout(ctx, id, "", 0, one.JSON(), who))
	if _, err := l.KeepLayout(ctx, id, "", 0, one.JSON(), who); !errors.Is(err, ErrRefused) {
		t.Errorf("a name was given twice: %v", err)
	}
	one.Paper = layouts.Letter
	second := must[KeptLayout](t)(l.KeepLayout(ctx, id, first.ID, 1, one.JSON(), who))
	if first.Version != 1 || second.Version != 2 {
		t.Errorf("versions %d and %d", first.Version, second.Version)
	}
	if _, err := l.KeepLayout(ctx, id, first.ID, 1, one.JSON(), "B. Second"); !errors.Is(err, store.ErrStale) {
		t.Errorf("version 2 was written over: %v", err)
	}
	if _, err := l.KeepLayout(ctx, id, first.ID, 2, []byte(`{"name":"Ours","each":"sample","rows":[[{"kind":"poem"}]]}`), who); !errors.Is(err, ErrRefused) || !strings.Contains(err.Error(), "rows[0][0].kind") {
		t.Errorf("a layout with a block that is none was kept: %v", err)
	}
	if err := l.UseLayout(ctx, id, "run-sheet"); err != nil {
		t.Fatal(err)
	}
	list := must[[]KeptLayout](t)(l.Layouts(ctx, id))
	if list[0].ID != "run-sheet" || list[1].ID != first.ID || list[1].Version != 2 || list[1].Layout.Paper != layouts.Letter || len(list) != 1+len(layouts.Shipped) {
		t.Errorf("the list begins with %s, %s version %d", list[0].ID, list[1].ID, list[1].Version)
	}
	if err := l.PutLayoutAway(ctx, id, first.ID, who); err != nil {
		t.Fatal(err)
	}
	if list := must[[]KeptLayout](t)(l.Layouts(ctx, id)); len(list) != len(layouts.Shipped) {
		t.Errorf("it is still there: %d", len(list))
	}
	if back := must[KeptLayout](t)(l.KeepLayout(ctx, id, "", 0, one.JSON(), who)); back.ID != first.ID || back.Version != 3 {
		t.Errorf("a name that comes back is %+v", back)
	}
}

// What is drawn has the pages of the kept layout, with boxes for everything, and says what is missing and where it is typed.
func TestALayoutIsDrawnWithItsBoxes(t *testing.T) {
	l, id := demo(t)
	b := must[store.Batch](t)(l.Batch(t.Context(), id))
	one := shippedLayout(t, "one-page")
	one.Rows = append(one.Rows, []layouts.Block{{ID: "words", Kind: layouts.Text, Text: "Sample {sample}, {amount of Caffeine; 3}."}})
	lacking := b.Injections[24] // its sample amount was not given
	d := must[Drawn](t)(l.DrawLayout(t.Context(), id, one.JSON(), lacking.ID, ""))
	if len(d.Pages) < 1 || d.WidthMM != 210 || len(d.Missing) != 3 || d.Missing[0].Quantity != "sample" || d.Missing[0].InjectionID != lacking.ID || d.Missing[1].Block != "words" {
		t.Errorf("%d pages, missing %+v", len(d.Pages), d.Missing)
	}
	values := 0
	for _, box := range d.Boxes {
		if box.Block == "words" && strings.HasPrefix(box.Part, "value:") {
			values++
		}
	}
	if values != 2 {
		t.Errorf("%d values are marked", values)
	}
	if _, err := l.DrawLayout(t.Context(), id, one.JSON(), "nobody", ""); !errors.Is(err, ErrRefused) {
		t.Errorf("drawn of an injection that is not there: %v", err)
	}
}
