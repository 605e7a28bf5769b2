package batch

import (
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"yugen/core/curves"
)

// worked derives compound a in an injection of the batch of these tests.
func worked(t *testing.T, m Method, injectionID string) Working {
	t.Helper()
	list := run(t)
	r := processed(t, list, m, nil)
	w, ok := Work(Input{Injections: list, Method: m}, r, injectionID, "a")
	if !ok {
		t.Fatal("no working")
	}
	return w
}

func text(terms []Term) string {
	var b strings.Builder
	for _, t := range terms {
		b.WriteString(t.Text)
	}
	return b.String()
}

// Each model's reading is written as a person would calculate it, with its own coefficients.
func TestTheReadingOfEachModelIsWrittenOut(t *testing.T) {
	for model, want := range map[curves.Model]struct{ top, bottom string }{
		curves.Linear:          {" − ", "0."},
		curves.LinearOrigin:    {"1.", "0."},
		curves.Average:         {"1.", "0."},
		curves.Quadratic:       {"x with ", ""},
		curves.QuadraticOrigin: {" x² = ", ""},
		curves.LogLog:          {"log ", "0.9"},
	} {
		m := method()
		m.Curves.Model, m.Curves.Weight = model, curves.Unweighted
		w := worked(t, m, "u0")
		if len(w.Steps) != 6 {
			t.Errorf("%s: %d steps", model, len(w.Steps))
			continue
		}
		s := w.Steps[1]
		if !strings.Contains(s.Title, strings.ReplaceAll(string(model), "_", " ")) || !strings.Contains(text(s.Top), want.top) || (want.bottom == "") != (len(s.Bottom) == 0) || !strings.Contains(s.Result, "mg/L") {
			t.Errorf("%s: %s: (%s) ÷ (%s) = %s", model, s.Title, text(s.Top), text(s.Bottom), s.Result)
		}
		if i := slices.IndexFunc(append(s.Top, s.Bottom...), func(t Term) bool { return t.Link != nil && t.Link.Station == "curves" }); i < 0 {
			t.Errorf("%s: no number leads to the curve", model)
		}
	}
}

func TestTheWorkingOfACheckEndsInItsRecovery(t *testing.T) {
	w := worked(t, method(), "k1")
	last := w.Steps[len(w.Steps)-1]
	if w.Unit != "%" || last.Title != "Recovery of the check" || text(last.Bottom) != "20.000" || !strings.HasSuffix(last.Result, " %") {
		t.Errorf("%s in %q: %+v", w.Subject, w.Unit, last)
	}
	near(t, "recovery", w.Value, 100, 1)
}

func TestTheWorkingOfAStandardStopsAtItsConcentration(t *testing.T) {
	w := worked(t, method(), "s2")
	if len(w.Steps) != 2 || w.Unit != "mg/L" {
		t.Errorf("%+v", w)
	}
	near(t, "the standard reads", w.Value, 20, 3)
}

func TestWithoutInternalStandardAndWithAFactor(t *testing.T) {
	list := run(t)
	m := method()
	m.Compounds = m.Compounds[:2]
	list[6].Factor, list[6].Dilution = 1.25, 5
	r := processed(t, list, m, nil)
	w, _ := Work(Input{Injections: list, Method: m}, r, "u0", "a")
	if len(w.Steps[0].Bottom) != 0 || !strings.HasPrefix(w.Steps[0].Title, "Peak area, injection 7") {
		t.Errorf("%+v", w.Steps[0])
	}
	if top := text(w.Steps[2].Top); !strings.Contains(top, " × 5 × 50 mL × 1.25") || text(w.Steps[2].Bottom) != "0.25 g" {
		t.Errorf("(%s) ÷ (%s)", top, text(w.Steps[2].Bottom))
	}
}

func TestDoubtsSayWhatIsWrongAndWhatToDo(t *testing.T) {
	list := run(t)
	list[6].Sample = nil
	m := method()
	r := processed(t, list, m, nil)
	above, _ := Work(Input{Injections: list, Method: m}, r, "u0", "b")
	all := strings.Join(above.Doubts, " ")
	for _, want := range []string{"Diluted 1.6 times more it would lie inside", "A check next to this sample is outside", "no sample amount"} {
		if !strings.Contains(all, want) {
			t.Errorf("%q is missing in %q", want, all)
		}
	}
	if above.Unit != "mg/L" || len(above.Steps) != 2 {
		t.Errorf("without a sample amount only the concentration can be given: %+v", above)
	}
}

// Every step of a working says which formula it follows, and the help tells of every formula, and of none that no step follows.
func TestHelpHasTheFormulaOfEveryStep(t *testing.T) {
	text, err := os.ReadFile("../../docs/help.md")
	if err != nil {
		t.Fatal(err)
	}
	_, formulas, found := strings.Cut(string(text), "\n## Formulas\n")
	if !found {
		t.Fatal("no formulas")
	}
	var told []Rule
	for _, m := range regexp.MustCompile("(?m)^\\*\\*.+\\*\\* \\{(\\w+)\\} `.+`").FindAllStringSubmatch(formulas, -1) {
		told = append(told, Rule(m[1]))
	}
	if !slices.Equal(told, Rules) {
		t.Errorf("told %v, followed %v", told, Rules)
	}
	for _, model := range curves.Models {
		m := method()
		m.Curves.Model, m.Curves.Weight = model, curves.Unweighted
		for _, step := range worked(t, m, "u0").Steps {
			if !slices.Contains(told, step.Rule) {
				t.Errorf("%s: %q follows %q", model, step.Title, step.Rule)
			}
		}
	}
}
