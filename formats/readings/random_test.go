package readings

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strconv"
	"strings"
	"testing"
)

// A table of levels and responses is read as what it is however a spreadsheet hands it over: by tabs, semicolons or commas, with points or commas before decimals,
// with names before or behind, replicates beside one another, unknowns without a level, cells left empty.
func TestATableIsReadHoweverItIsCopied(t *testing.T) {
	heads := [][3]string{{"Name", "Level (mg/L)", "Area"}, {"Sample", "Conc. (mg/L)", "Response"}, {"Probe", "Gehalt (mg/L)", "Fläche"}, {"Muestra", "Nivel (mg/L)", "Señal"}}
	for seed := range uint64(3000) {
		rnd := rand.New(rand.NewPCG(seed, 29))
		parted := []string{"\t", ";", ","}[rnd.IntN(3)]
		comma := parted != "," && rnd.IntN(2) == 0
		named, headed := rnd.IntN(2) == 0, rnd.IntN(3) > 0
		if !headed {
			named = false // names without a heading are told from levels by their letters, and unknowns have none
		}
		decimals, replicates := 1+rnd.IntN(5), 1+rnd.IntN(4)
		number := func(v float64) string {
			text := strconv.FormatFloat(v, 'f', decimals, 64)
			if comma {
				text = strings.Replace(text, ".", ",", 1)
			}
			return text
		}
		rounded := func(v float64) float64 { p := math.Pow(10, float64(decimals)); return math.Round(v*p) / p }
		head := heads[rnd.IntN(len(heads))]
		var b strings.Builder
		if headed {
			cells := []string{}
			if named {
				cells = append(cells, head[0])
			}
			cells = append(cells, head[1])
			for k := range replicates {
				cells = append(cells, strings.TrimSpace(head[2]+" "+strconv.Itoa(k+1)))
			}
			b.WriteString(strings.Join(cells, parted) + "\n")
		}
		type line struct {
			level     float64
			unknown   bool
			responses []float64
		}
		var want []line
		for k := range 3 + rnd.IntN(10) {
			one := line{level: rounded(math.Exp(rnd.Float64()*6)) + 1, unknown: k > 1 && rnd.IntN(3) == 0}
			cells := []string{}
			if named {
				cells = append(cells, fmt.Sprintf("Tea %c", 'A'+k))
			}
			if one.unknown {
				cells = append(cells, "")
			} else {
				cells = append(cells, number(one.level))
			}
			for r := range replicates {
				if r > 0 && rnd.IntN(6) == 0 {
					cells = append(cells, "")
					continue
				}
				v := rounded(rnd.Float64() * 5000)
				one.responses, cells = append(one.responses, v), append(cells, number(v))
			}
			want = append(want, one)
			b.WriteString(strings.Join(cells, parted) + "\n")
		}
		got, err := Read(b.String())
		if err != nil {
			t.Fatalf("seed %d: %v\n%s", seed, err, b.String())
		}
		if len(got.Rows) != len(want) || headed && got.Unit != "mg/L" {
			t.Fatalf("seed %d: %d rows in %q, %d written\n%s", seed, len(got.Rows), got.Unit, len(want), b.String())
		}
		for k, r := range got.Rows {
			w := want[k]
			if (r.Level == nil) != w.unknown || r.Level != nil && math.Abs(*r.Level-w.level) > 1e-9 || len(r.Responses) != len(w.responses) {
				t.Fatalf("seed %d, row %d: %+v, was %+v\n%s", seed, k+1, r, w, b.String())
			}
			for i, v := range r.Responses {
				if math.Abs(v.Value-w.responses[i]) > 1e-9 {
					t.Fatalf("seed %d, row %d: %g, was %g\n%s", seed, k+1, v.Value, w.responses[i], b.String())
				}
			}
			if named && r.Name != fmt.Sprintf("Tea %c", 'A'+k) {
				t.Fatalf("seed %d, row %d is called %q\n%s", seed, k+1, r.Name, b.String())
			}
		}
	}
}
