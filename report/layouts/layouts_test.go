package layouts

import (
	"bytes"
	"slices"
	"strings"
	"testing"
)

func TestWhatShipsCanBeReadAndComesBackTheSame(t *testing.T) {
	names := map[string]bool{}
	for _, name := range Shipped {
		l, err := ShippedLayout(name)
		if err != nil {
			t.Fatal(err)
		}
		again, err := Read(l.JSON())
		if err != nil || !bytes.Equal(again.JSON(), l.JSON()) {
			t.Errorf("%s comes back as\n%s, %v", name, again.JSON(), err)
		}
		names[l.Name] = true
	}
	if len(names) != len(Shipped) {
		t.Errorf("names are given twice: %v", names)
	}
	if _, err := ShippedLayout("../layouts"); err == nil {
		t.Error("a layout that does not ship was read")
	}
}

// A layout is refused with the place of what is wrong, and the limits hold to the last step.
func TestWhatIsWrongIsToldWithItsPlace(t *testing.T) {
	with := func(more string) string { return `{"name":"A","each":"batch",` + more + `}` }
	row := func(blocks string) string { return with(`"rows":[[` + blocks + `]]`) }
	for _, c := range []struct{ json, says string }{
		{with(`"rows":[]`), ""},
		{`{"each":"batch","rows":[]}`, "name"},
		{`{"name":"A","each":"day","rows":[]}`, "each"},
		{with(`"paper":"A3","rows":[]`), "paper"},
		{with(`"form":2,"rows":[]`), "later version"},
		{with(`"rows":[[]]`), "rows[0]: a row has one to 3"},
		{row(`{"kind":"text"},{"kind":"text"},{"kind":"text"}`), ""},
		{row(`{"kind":"text"},{"kind":"text"},{"kind":"text"},{"kind":"text"}`), "rows[0]"},
		{row(`{"kind":"poem"}`), `rows[0][0].kind: there is no block "poem"`},
		{row(`{"kind":"text"},{"kind":"head"}`), "rows[0][1].kind"},
		{row(`{"kind":"text","columns":7},{"kind":"text","columns":6}`), "13 of 12"},
		{row(`{"kind":"text","columns":6},{"kind":"text","columns":6}`), ""},
		{row(`{"kind":"text","columns":1}`), "columns"},
		{row(`{"kind":"chromatogram","height_mm":10}`), ""},
		{row(`{"kind":"chromatogram","height_mm":9.9}`), "height_mm"},
		{row(`{"kind":"chromatogram","angle_deg":90}`), ""},
		{row(`{"kind":"chromatogram","angle_deg":91}`), "angle_deg"},
		{row(`{"kind":"chromatogram","from_min":3,"to_min":3}`), "to_min"},
		{row(`{"kind":"chromatogram","labels":["smell"]}`), "labels"},
		{row(`{"kind":"text","id":"a"},{"kind":"text","id":"a"}`), "rows[0][1].id"},
		{row(`{"kind":"text","text":"{amount of EC; 3}"}`), ""},
		{row(`{"kind":"text","text":"{amount"}`), "rows[0][0].text"},
		{row(`{"kind":"text","text":"a } b"}`), "closes nothing"},
		{row(`{"kind":"text","text":"{}"}`), "names no value"},
		{row(`{"kind":"text","text":"{amount; many}"}`), "after the semicolon"},
		{row(`{"kind":"peaks","values":[{}]}`), "values[0]"},
		{row(`{"kind":"text","colour":"red"}`), "colour"},
		{with(`"margin_mm":{"left":4,"right":20,"top":20,"bottom":20},"rows":[]`), "margin_mm"},
		{with(`"margin_mm":{"left":75,"right":75,"top":20,"bottom":20},"rows":[]`), ""},
		{with(`"margin_mm":{"left":76,"right":75,"top":20,"bottom":20},"rows":[]`), "margin_mm"},
		{with(`"rows":[]`) + "x", "follows"},
		{"null", "name"},
		{"", "no layout"},
	} {
		_, err := Read([]byte(c.json))
		if (err == nil) != (c.says == "") || err != nil && !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, expected %q", c.json, err, c.says)
		}
	}
}

func TestBlocksShareTwelveColumns(t *testing.T) {
	for _, c := range []struct {
		said []int
		want []int
	}{{[]int{0}, []int{12}}, {[]int{0, 0}, []int{6, 6}}, {[]int{0, 0, 0}, []int{4, 4, 4}}, {[]int{5, 0}, []int{5, 7}}, {[]int{0, 3, 0}, []int{4, 3, 5}}, {[]int{4, 4}, []int{4, 4}}} {
		var row []Block
		for _, n := range c.said {
			row = append(row, Block{Columns: n})
		}
		if got := Widths(row); !slices.Equal(got, c.want) {
			t.Errorf("%v share as %v, want %v", c.said, got, c.want)
		}
	}
}

func TestPhrasesPartWordsAndValues(t *testing.T) {
	got, err := Phrases("Of {{{amount of Gallic acid; 3}}}: {retention_min of EC;.2} µ{vial}")
	if err != nil {
		t.Fatal(err)
	}
	var parts []string
	for _, p := range got {
		if p.Value == nil {
			parts = append(parts, p.Words)
			continue
		}
		text := p.Value.Quantity + "/" + p.Value.Compound
		if p.Value.Digits > 0 {
			text += "/3"
		}
		if p.Value.Decimals != nil {
			text += "/.2"
		}
		parts = append(parts, text)
	}
	if want := []string{"Of {", "amount/Gallic acid/3", "}: ", "retention_min/EC/.2", " µ", "vial/"}; !slices.Equal(parts, want) {
		t.Errorf("%q, want %q", parts, want)
	}
}

// Whatever bytes come, they are refused or are a layout that comes back the same.
func FuzzRead(f *testing.F) {
	for _, name := range Shipped {
		l, err := ShippedLayout(name)
		if err != nil {
			f.Fatal(err)
		}
		f.Add(l.JSON())
	}
	f.Add([]byte(`{"name":"A","each":"batch","rows":[[{"kind":"text","text":"{amount of EC; 3} {{"}]]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		l, err := Read(data)
		if err != nil {
			return
		}
		again, err := Read(l.JSON())
		if err != nil || !bytes.Equal(again.JSON(), l.JSON()) {
			t.Fatalf("%s comes back as %s: %v", l.JSON(), again.JSON(), err)
		}
	})
}
