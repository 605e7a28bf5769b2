package text

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strconv"
	"strings"
	"testing"
	"unicode/utf16"
)

// writer is how some program may write a table: which marks, units and habits it has.
type writer struct {
	rnd              *rand.Rand
	parted, decimal  string
	unit             string  // of times, as the heading has it
	perUnitS         float64 // seconds
	decimals         int
	scientific       bool
	newline          string
	quoted, trailing bool
	encoding         string
}

var unitsOfTime = map[string]float64{"min": 60, "s": 1, "sec": 1, "ms": 0.001, "h": 3600, "Minuten": 60, "seconds": 1}

func someWriter(rnd *rand.Rand) writer {
	pick := func(of ...string) string { return of[rnd.IntN(len(of))] }
	w := writer{rnd: rnd, parted: pick(",", ";", "\t", "|"), decimal: pick(".", ","), decimals: 3 + rnd.IntN(6), scientific: rnd.IntN(4) == 0, newline: pick("\n", "\r\n"), quoted: rnd.IntN(4) == 0, trailing: rnd.IntN(4) == 0, encoding: pick("utf-8", "utf-8 with a mark", "utf-16le", "utf-16be")}
	w.unit = pick("min", "s", "sec", "ms", "h", "Minuten", "seconds")
	w.perUnitS = unitsOfTime[w.unit]
	if w.parted == "," && !w.quoted {
		w.decimal = "."
	}
	return w
}

func (w writer) number(v float64) string {
	form := byte('f')
	if w.scientific {
		form = 'e'
	}
	return strings.Replace(strconv.FormatFloat(v, form, w.decimals, 64), ".", w.decimal, 1)
}

func (w writer) line(cells ...string) string {
	if w.quoted {
		for k, c := range cells {
			cells[k] = `"` + c + `"`
		}
	}
	line := strings.Join(cells, w.parted)
	if w.trailing {
		line += w.parted
	}
	return line + w.newline
}

func (w writer) encoded(text string) []byte {
	switch w.encoding {
	case "utf-8":
		return []byte(text)
	case "utf-8 with a mark":
		return []byte("\ufeff" + text)
	}
	var out []byte
	for _, u := range utf16.Encode([]rune("\ufeff" + text)) {
		if w.encoding == "utf-16le" {
			out = append(out, byte(u), byte(u>>8))
		} else {
			out = append(out, byte(u>>8), byte(u))
		}
	}
	return out
}

// However a table of times and signals is written, it is read as what it was: each number to the decimals that were written, each name and unit.
func TestATableIsReadHoweverItIsWritten(t *testing.T) {
	for seed := range uint64(1500) {
		rnd := rand.New(rand.NewPCG(seed, 11))
		w := someWriter(rnd)
		rows, channels := 12+rnd.IntN(60), 1+rnd.IntN(3)
		stepS := []float64{0.1, 0.5, 1, 2}[rnd.IntN(4)]
		var b strings.Builder
		if rnd.IntN(2) == 0 {
			b.WriteString(w.line("Sample name", "Oolong "+strconv.Itoa(int(seed))))
			b.WriteString(w.newline)
		}
		heads := []string{"Time (" + w.unit + ")"}
		for c := range channels {
			heads = append(heads, fmt.Sprintf("Signal %c [mAU]", 'A'+c))
		}
		b.WriteString(w.line(heads...))
		// Times are written to so many decimals that steps stay apart.
		timeDecimals := w.decimals + 4
		values := make([][]float64, channels)
		for i := range rows {
			tw := w
			tw.decimals = timeDecimals
			cells := []string{tw.number(float64(i) * stepS / w.perUnitS)}
			for c := range channels {
				v := math.Round((math.Exp(-math.Pow(float64(i-rows/2)/4, 2))*1000*rnd.Float64()-3)*1e3) / 1e3
				values[c] = append(values[c], v)
				cells = append(cells, w.number(v))
			}
			b.WriteString(w.line(cells...))
		}
		f, err := Read(w.encoded(b.String()))
		if err != nil {
			t.Fatalf("seed %d, %+v: %v\n%s", seed, w, err, b.String())
		}
		if len(f.Traces) != channels {
			t.Fatalf("seed %d, %+v: %d signals, %d written\n%s", seed, w, len(f.Traces), channels, b.String())
		}
		for c, tr := range f.Traces {
			if tr.Name != fmt.Sprintf("Signal %c", 'A'+c) || tr.Unit != "mAU" || len(tr.Values) != rows {
				t.Fatalf("seed %d, %+v: %q in %q, %d points\n%s", seed, w, tr.Name, tr.Unit, len(tr.Values), b.String())
			}
			for i, v := range tr.Values {
				within := 1e-9 + math.Pow(10, -float64(w.decimals))
				if w.scientific {
					within *= 1 + math.Abs(values[c][i])
				}
				if math.Abs(v-values[c][i]) > within || math.Abs(tr.TimeS(i)-float64(i)*stepS) > 0.02*stepS {
					t.Fatalf("seed %d, %+v: point %d is %g at %g s, was %g at %g s\n%s", seed, w, i, v, tr.TimeS(i), values[c][i], float64(i)*stepS, b.String())
				}
			}
		}
	}
}
