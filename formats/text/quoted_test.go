package text

import (
	"fmt"
	"slices"
	"strings"
	"testing"
)

// written is a table of times and two signals, with a separator, a decimal mark, line ends, and quotes around what quoted tells.
func written(separator, decimal, end string, quoted func(row, column int) bool) string {
	var b strings.Builder
	for row := range 40 {
		cells := []string{"Time (min)", "UV 278 nm", "UV 254 nm"}
		if row > 0 {
			cells = []string{fmt.Sprintf("%.3f", float64(row)/100), fmt.Sprintf("%.4f", 0.5*float64(row*row%17)), fmt.Sprintf("%.2e", 1000.5-float64(row))}
			for k := range cells {
				cells[k] = strings.Replace(cells[k], ".", decimal, 1)
			}
		}
		for k := range cells {
			if quoted(row, k) {
				cells[k] = `"` + cells[k] + `"`
			}
		}
		b.WriteString(strings.Join(cells, separator) + end)
	}
	return b.String()
}

// Quotes around fields change nothing of what is read, whatever is quoted, parted and marked with whatever.
func TestQuotedFieldsAreReadAsPlainOnes(t *testing.T) {
	for _, separator := range []string{",", ";", "\t"} {
		for _, decimal := range []string{".", ","} {
			if separator == "," && decimal == "," {
				continue // such fields must be quoted; that is below
			}
			for _, end := range []string{"\n", "\r\n"} {
				plain := read(t, written(separator, decimal, end, func(int, int) bool { return false }))
				if len(plain.Traces) != 2 || plain.Traces[0].Len() != 39 {
					t.Fatalf("%q %q: %d traces", separator, decimal, len(plain.Traces))
				}
				for what, quoted := range map[string]func(row, column int) bool{
					"everything": func(int, int) bool { return true },
					"the head":   func(row, _ int) bool { return row == 0 },
					"one column": func(_, column int) bool { return column == 1 },
					"one field":  func(row, column int) bool { return row == 20 && column == 2 },
				} {
					got := read(t, written(separator, decimal, end, quoted))
					for k := range plain.Traces {
						a, b := plain.Traces[k], got.Traces[k]
						if a.Name != b.Name || a.Unit != b.Unit || a.StepS != b.StepS || a.StartS != b.StartS || !slices.Equal(a.Values, b.Values) {
							t.Errorf("%q %q %q, %s quoted: %q %d values from %g s, plain %q %d from %g", separator, decimal, end, what, b.Name, b.Len(), b.StartS, a.Name, a.Len(), a.StartS)
						}
					}
				}
			}
		}
	}
	want := read(t, written(";", ",", "\n", func(int, int) bool { return false }))
	got := read(t, written(",", ",", "\n", func(row, _ int) bool { return row > 0 }))
	if !slices.Equal(got.Traces[1].Values, want.Traces[1].Values) || got.Traces[0].StepS != want.Traces[0].StepS {
		t.Errorf("decimal commas in quotes between commas: %g s, %v", got.Traces[0].StepS, got.Traces[1].Values[:3])
	}
}

// A head in quotes may hold the mark that parts fields, quotes, and a line end.
func TestAHeadInQuotes(t *testing.T) {
	f := read(t, "\"Time, min\",\"UV 278, reference \"\"off\"\"\"\n"+lines(12, 0.1, ","))
	if len(f.Traces) != 1 || f.Traces[0].Len() != 12 || !strings.Contains(f.Traces[0].Name, `278, reference "off"`) || f.Traces[0].EndS() < 60 {
		t.Errorf("%d traces, %q to %g s", len(f.Traces), f.Traces[0].Name, f.Traces[0].EndS())
	}
}

// A quotation mark that is never closed, as in a text that was cut, is refused or read as it stands; no line is lost without a word.
func TestAQuoteThatIsNotClosed(t *testing.T) {
	text := "Time (min),x\n" + lines(6, 1, ",") + "6,\"36\n" + lines(10, 1, ",")
	if f, err := Read([]byte(text)); err == nil && f.Traces[0].Len() < 10 {
		t.Errorf("%d of 17 lines are left, and nobody is told", f.Traces[0].Len())
	}
}
