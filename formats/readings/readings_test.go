package readings

import (
	"slices"
	"strconv"
	"strings"
	"testing"
)

// shape writes a table as name@level=responses, the days before them where there are several.
func shape(t Table) string {
	var rows []string
	for _, r := range t.Rows {
		var b strings.Builder
		b.WriteString(r.Name + "@")
		if r.Level != nil {
			b.WriteString(text(*r.Level))
		}
		for _, v := range r.Responses {
			b.WriteString("=")
			if len(t.Days) > 0 {
				b.WriteString(t.Days[v.Day] + ":")
			}
			b.WriteString(text(v.Value))
		}
		rows = append(rows, b.String())
	}
	return strings.Join(rows, " | ")
}

func TestTablesAsPeopleCopyThem(t *testing.T) {
	for what, c := range map[string]struct{ in, want, unit string }{
		"two bare columns":             {"1\t10.5\n5\t52\n\t33", "Standard 1@1=10.5 | Standard 5@5=52 | Unknown 1@=33", ""},
		"headings with a unit":         {"Conc. (µg/mL)\tArea\n1\t10\n5\t50\n", "Standard 1@1=10 | Standard 5@5=50", "µg/mL"},
		"names first":                  {"Name\tLevel, mg/L\tResponse\nStd A\t1\t10\nLeaf\t\t33", "Std A@1=10 | Leaf@=33", "mg/L"},
		"words where levels stand":     {"Level\tArea\n1\t10\n5\t50\nSencha\t33\nMatcha\t44", "Standard 1@1=10 | Standard 5@5=50 | Sencha@=33 | Matcha@=44", ""},
		"replicates by column":         {"x\ty1\ty2\ty3\n1\t10\t11\t9\n5\t50\t\t51", "Standard 1@1=10=11=9 | Standard 5@5=50=51", ""},
		"days by column":               {"Level\tDay 1\tDay 1\tDay 2\n1\t10\t11\t9\n5\t50\t52\t51", "Standard 1@1=Day 1:10=Day 1:11=Day 2:9 | Standard 5@5=Day 1:50=Day 1:52=Day 2:51", ""},
		"another language":             {"Gehalt (mg/l);Fläche\n0,5;12,25\n1;24,5", "Standard 0.5@0.5=12.25 | Standard 1@1=24.5", "mg/l"},
		"units behind numbers":         {"5 mg/L\t50\n10 mg/L\t100", "Standard 5@5=50 | Standard 10@10=100", "mg/L"},
		"commas part cells":            {"level,area\n1,10.5\n2,20.5", "Standard 1@1=10.5 | Standard 2@2=20.5", ""},
		"blanks part cells":            {"1  10,5\n2  20,5", "Standard 1@1=10.5 | Standard 2@2=20.5", ""},
		"thousands":                    {"level\tarea\n1\t1 234.5\n2\t2'469", "Standard 1@1=1234.5 | Standard 2@2=2469", ""},
		"a blank level and no names":   {"0\t0.1\n1\t10", "Standard 0@0=0.1 | Standard 1@1=10", ""},
		"rows without any response":    {"level\tarea\n1\t10\n2\t\n3\t30", "Standard 1@1=10 | Standard 3@3=30", ""},
		"empty lines and other breaks": {"level\tarea\r\n\r\n1\t10\r\n\r\n2\t20\r\n", "Standard 1@1=10 | Standard 2@2=20", ""},
	} {
		got, err := Read(c.in)
		if err != nil || shape(got) != c.want || got.Unit != c.unit {
			t.Errorf("%s: %s in %q, %v; want %s in %q", what, shape(got), got.Unit, err, c.want, c.unit)
		}
	}
}

func TestTablesThatCannotBeRead(t *testing.T) {
	for want, in := range map[string]string{
		"nothing in it":                      " \n\t\n",
		"no column of responses":             "1\n2\n3",
		"no row has both":                    "level\tarea\n\t10\n\t20",
		"line 3: \"low\" stands where":       "level\tarea\n1\t10\n2\tlow",
		"line 2: the level -1 is below 0":    "1\t10\n-1\t10",
		"line 2: the level \"5 µg/L\" is in": "1 mg/L\t10\n5 µg/L\t50",
		"more than 5000 rows":                strings.Repeat("1\t2\n", 5001),
		"201 columns":                        strings.Repeat("1\t", 200) + "1",
	} {
		if _, err := Read(in); err == nil || !strings.Contains(strings.ToLower(err.Error()), strings.ToLower(want)) {
			t.Errorf("got %v, want %q", err, want)
		}
	}
}

func TestWhatWasReadIsSaid(t *testing.T) {
	got, err := Read("Conc (mg/L)\tTag 1\tTag 2\n1,5\t10\t11\n3\t20,5\t22\nLeaf\t15\t16")
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"levels in mg/L, from the heading “Conc (mg/L)”", "2 days: Tag 1, Tag 2", "commas are read as decimal points", "2 rows of standards, 1 unknown"} {
		if !slices.Contains(got.Read, want) {
			t.Errorf("%q is not said in %q", want, got.Read)
		}
	}
}

// Whatever is pasted: no panic, and what is read is within bounds.
func FuzzRead(f *testing.F) {
	for _, s := range []string{"1\t2\n3\t4", "a;b\n1,5;2", "x y\n1 2", "Day 1\tDay 2\n1\t2", "\"", "1e999\t2", "−1\t2"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		got, err := Read(text)
		if err != nil {
			return
		}
		for _, r := range got.Rows {
			if r.Name == "" || len(r.Responses) == 0 || r.Level != nil && !(*r.Level >= 0) {
				t.Errorf("%+v", r)
			}
			for _, v := range r.Responses {
				if v.Day < 0 || v.Day > 0 && v.Day >= len(got.Days) {
					t.Errorf("%+v of %d days", v, len(got.Days))
				}
			}
		}
	})
}

func text(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }
