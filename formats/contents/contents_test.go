package contents

import (
	"encoding/json"
	"strings"
	"testing"
)

var (
	names  = []string{"Gallic acid", "Theobromine", "Caffeine"}
	levels = []float64{1, 5, 20}
)

func shape(t *testing.T, table Table) string {
	t.Helper()
	text, err := json.Marshal(table.Rows)
	if err != nil {
		t.Fatal(err)
	}
	return string(text)
}

func TestTablesOfContents(t *testing.T) {
	const row = `[{"compound":"Caffeine","purity_percent":null,"purity_se_percent":null,"amounts":[{"level":1,"amount":1.05},{"level":5,"amount":5.26},{"level":20,"amount":21}]}]`
	for what, c := range map[string]struct{ in, want, unit string }{
		"bare":                               {"Caffeine\t1.05\t5.26\t21", row, ""},
		"another case":                       {"CAFFEINE\t1.05\t5.26\t21", row, ""},
		"with a head":                        {"Compound, µg/mL\t1\t2\t3\nCaffeine\t1.05\t5.26\t21", row, "µg/mL"},
		"levels by their own value":          {"\t20\t5\t1\nCaffeine\t21\t5.26\t1.05", strings.Replace(strings.Replace(row, `{"level":1,"amount":1.05},`, "", 1), `{"level":5,"amount":5.26},{"level":20,"amount":21}`, `{"level":20,"amount":21},{"level":5,"amount":5.26},{"level":1,"amount":1.05}`, 1), ""},
		"numbers that are levels and places": {"Compound\t1\t2\t3\nCaffeine\t1.05\t5.26\t21", row, ""},
		"the same, some of them levels":      {"Compound\tLevel 1\tLevel 3\nCaffeine\t1.05\t21", strings.Replace(row, `{"level":5,"amount":5.26},`, "", 1), ""},
		"decimal commas":                     {"Substanz;Std 1;Std 2;Std 3\nCaffeine;1,05;5,26;21", row, ""},
		"an empty cell":                      {"Caffeine\t1.05\t\t21", strings.Replace(row, `{"level":5,"amount":5.26},`, "", 1), ""},
		"a blank level":                      {"Caffeine\t0\t–\t21", `[{"compound":"Caffeine","purity_percent":null,"purity_se_percent":null,"amounts":[{"level":1,"amount":0},{"level":20,"amount":21}]}]`, ""},
		"purity":                             {"Compound\tPurity, %\t±\t1 (mg/L)\tx\nCaffeine\t99.5\t0.3\t1.05\t5.26", `[{"compound":"Caffeine","purity_percent":99.5,"purity_se_percent":0.3,"amounts":[{"level":1,"amount":1.05},{"level":5,"amount":5.26}]}]`, "mg/L"},
	} {
		got, err := Read(c.in, names, levels)
		if err != nil || shape(t, got) != c.want || got.Unit != c.unit {
			t.Errorf("%s: %s in %q, %v; want %s", what, shape(t, got), got.Unit, err, c.want)
		}
	}
	got, err := Read("Caffeine\t1\t2\t3\nTannin\t1\t2\t3", names, levels)
	if err != nil || !strings.Contains(strings.Join(got.Read, "; "), "left aside") {
		t.Errorf("%v %v", got.Read, err)
	}
}

func TestTablesOfContentsThatCannotBe(t *testing.T) {
	for want, in := range map[string]string{
		"nothing in it":                    " ",
		"no row begins with":               "Tannin\t1\nAlcohol\t2",
		"4 columns of amounts for 3":       "Caffeine\t1\t2\t3\t4",
		"names a level that no standard":   "x\t7\nCaffeine\t1",
		"line 2: \"much\" stands where":    "x\t1\nCaffeine\tmuch",
		"line 2: \"-1\" stands where":      "x\t1\nCaffeine\t-1",
		"line 2: Caffeine stands twice":    "Caffeine\t1\nCaffeine\t2",
		"more columns of amounts than the": "x\ta\tb\tc\td\nCaffeine\t1\t2\t3\t4",
	} {
		if got, err := Read(in, names, levels); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("got %v %v, want %q", got, err, want)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add("Compound, µg/mL\t1\t2\nCaffeine\t1,5\t2")
	f.Add(";;\n")
	f.Fuzz(func(t *testing.T, text string) {
		got, err := Read(text, names, levels)
		if err != nil {
			return
		}
		for _, r := range got.Rows {
			for _, a := range r.Amounts {
				if !(a.Amount >= 0) {
					t.Errorf("%+v", r)
				}
			}
		}
	})
}
