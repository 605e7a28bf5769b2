package jcamp

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// pseudoDigits writes whole numbers by the tables of the standard, which stand here a second time: a digit that means the first one and the sign of the number.
var pseudoDigits = map[string][2][]string{
	"SQZ": {strings.Split("@ABCDEFGHI", ""), strings.Split("@abcdefghi", "")},
	"DIF": {strings.Split("%JKLMNOPQR", ""), strings.Split("%jklmnopqr", "")},
	"DUP": {strings.Split("_STUVWXYZs", ""), nil},
}

func pseudoNumber(table string, v int) string {
	digits, sign := strconv.Itoa(max(v, -v)), 0
	if v < 0 {
		sign = 1
	}
	return pseudoDigits[table][sign][digits[0]-'0'] + digits[1:]
}

// squeezedTable writes ordinates in one form, in lines of random length; where repeats is set, a value or difference that comes again is counted.
func squeezedTable(rnd *rand.Rand, ys []int, form string, repeats bool) string {
	var b strings.Builder
	for from := 0; from < len(ys); {
		to := min(len(ys), from+1+rnd.IntN(40))
		if form == "DIF" && from == 0 {
			to = max(to, 2) // a line of one value ends in no difference, and what follows it would begin without a check
		}
		start := from
		if form == "DIF" && from > 0 {
			start-- // the line begins with a check: the value that the one before ended with
		}
		fmt.Fprintf(&b, "%d", start)
		line := []string{}
		for k := start; k < to; k++ {
			switch {
			case form == "AFFN":
				line = append(line, " "+strconv.Itoa(ys[k]))
			case form == "PAC":
				line = append(line, fmt.Sprintf("%+d", ys[k]))
			case form == "DIF" && k > start:
				line = append(line, pseudoNumber("DIF", ys[k]-ys[k-1]))
			default:
				line = append(line, pseudoNumber("SQZ", ys[k]))
			}
		}
		for k := 0; k < len(line); {
			n := 1
			for repeats && k+n < len(line) && line[k+n] == line[k] {
				n++
			}
			b.WriteString(line[k])
			if n > 1 {
				b.WriteString(pseudoNumber("DUP", n))
			}
			k += n
		}
		b.WriteString("\n")
		from = to
	}
	if form == "DIF" { // the last of a table of differences is checked, too
		fmt.Fprintf(&b, "%d%s\n", len(ys)-1, pseudoNumber("SQZ", ys[len(ys)-1]))
	}
	return b.String()
}

// Any ordinates in any form and any length of lines are read as they were written.
func TestAnythingWrittenInAnyFormIsReadAgain(t *testing.T) {
	for seed := range uint64(400) {
		rnd := rand.New(rand.NewPCG(seed, 5))
		ys := make([]int, 2+rnd.IntN(400))
		for k := range ys {
			switch rnd.IntN(4) {
			case 0:
				ys[k] = rnd.IntN(2_000_001) - 1_000_000
			case 1:
				ys[k] = rnd.IntN(7) - 3
			default: // as before, or a little more: what repetitions are for
				ys[k] = ys[max(0, k-1)] + rnd.IntN(3)*rnd.IntN(2)
			}
		}
		for _, form := range []string{"AFFN", "PAC", "SQZ", "DIF"} {
			repeats := (form == "SQZ" || form == "DIF") && rnd.IntN(2) == 0
			table := squeezedTable(rnd, ys, form, repeats)
			text := fmt.Sprintf("##TITLE= t\n##JCAMP-DX= 4.24\n##DATA TYPE= CHROMATOGRAM\n##XUNITS= SECONDS\n##YUNITS= COUNTS\n##FIRSTX= 0\n##LASTX= %d\n##XFACTOR= 0.5\n##YFACTOR= 0.25\n##NPOINTS= %d\n##XYDATA= (X++(Y..Y))\n%s##END=\n",
				len(ys)-1, len(ys), halved(table))
			f, err := Read([]byte(text))
			if err != nil {
				t.Fatalf("seed %d, %s, repetitions %v: %v\n%s", seed, form, repeats, err, table)
			}
			c := f.Channels[0]
			want := make([]float64, len(ys))
			for k, y := range ys {
				want[k] = float64(y) / 4
			}
			if !slices.Equal(c.Values, want) || c.TimesS[len(ys)-1] != float64(len(ys)-1) {
				t.Fatalf("seed %d, %s, repetitions %v: read otherwise than written:\n%s", seed, form, repeats, table)
			}
		}
	}
}

// halved doubles the abscissas of a table: its factor of abscissas is a half.
func halved(table string) string {
	lines := strings.Split(strings.TrimSuffix(table, "\n"), "\n")
	for k, l := range lines {
		end := 0
		for end < len(l) && l[end] >= '0' && l[end] <= '9' {
			end++
		}
		x, _ := strconv.Atoi(l[:end])
		lines[k] = strconv.Itoa(2*x) + l[end:]
	}
	return strings.Join(lines, "\n") + "\n"
}
