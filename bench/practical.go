package bench

import (
	"fmt"
	"math/rand/v2"
	"strings"
)

// PracticalReads is what the unknown of Practical holds, mg/L.
const PracticalReads = 47.3

// Practical is a student's practical: six standards and an unknown, as delimited text whose names alone say what they are. The unknown has three peaks
// more than the standards.
func Practical(seed uint64) []File {
	rng := rand.New(rand.NewPCG(seed, 0x57d))
	var files []File
	for _, level := range []float64{5, 10, 20, 40, 60, 80} {
		files = append(files, PracticalFile(fmt.Sprintf("std %02.0f mg-L.csv", level), level, false, rng))
	}
	return append(files, PracticalFile("unknown cola.csv", PracticalReads, true, rng))
}

// PracticalFile is one of them: its peak stands at 3.42 min with an area of 7.8 mAU·s for each mg/L.
func PracticalFile(name string, level float64, more bool, rng *rand.Rand) File {
	components := []Component{{Shape: Shape{RetentionMin: 3.42 + 0.002*rng.NormFloat64(), SigmaMin: 0.042, TauMin: 0.02}, AreaS: 7.8 * level * (1 + 0.004*rng.NormFloat64())}}
	if more {
		for i, at := range []float64{1.74, 2.37, 4.63} {
			components = append(components, Component{Shape: Shape{RetentionMin: at, SigmaMin: 0.035, TauMin: 0.01}, AreaS: []float64{58, 24, 15}[i]})
		}
	}
	var text strings.Builder
	text.WriteString("time_min,UV 273 nm [mAU]\n")
	const hz = 5
	for i, v := range quietDetector(components, 6, hz, 1, rng) {
		fmt.Fprintf(&text, "%.5f,%.4f\n", float64(i)/hz/60, v)
	}
	return File{name, []byte(text.String())}
}

// Aroma is a batch of a gas chromatograph with flame ionisation: two terpenes of tea against an internal standard of 25 mg/L in every vial, as delimited text
// whose names say nothing, and the run list that a spreadsheet holds of it. The true contents of the samples come by name and compound, mg/L.
func Aroma(seed uint64) (files []File, runList string, truth map[string][2]float64) {
	rng := rand.New(rand.NewPCG(seed, 0xa40))
	truth = map[string][2]float64{"Oolong A": {18, 31}, "Oolong B": {42, 12}, "Jasmine": {7.5, 66}, "Earl grey": {88, 54}}
	rows := []string{"Name\tRole\tLevel"}
	inject := func(name, role, level string, limonene, linalool float64) {
		loss := 1 + 0.06*rng.NormFloat64() // of what the needle takes, alike for all
		at := func(min, area float64) Component {
			return Component{Shape: Shape{RetentionMin: min + 0.003*rng.NormFloat64(), SigmaMin: 0.025, TauMin: 0.008}, AreaS: area * loss * (1 + 0.003*rng.NormFloat64())}
		}
		components := []Component{at(6.2, 11*limonene), at(7.9, 9.5*linalool), at(9.4, 10*25)}
		var text strings.Builder
		text.WriteString("time_min,FID [pA]\n")
		const hz = 10
		for i, v := range flame(components, 14, hz, rng) {
			fmt.Fprintf(&text, "%.5f,%.4f\n", float64(i)/hz/60, v)
		}
		files = append(files, File{fmt.Sprintf("run%02d.csv", len(files)+1), []byte(text.String())})
		rows = append(rows, name+"\t"+role+"\t"+level)
	}
	inject("Hexane", "blank", "", 0, 0)
	for _, level := range []float64{5, 10, 25, 50, 100} {
		for range 2 {
			inject(fmt.Sprintf("Terpenes %g", level), "cal", fmt.Sprint(level), level, level)
		}
	}
	inject("Check 25", "QC", "25", 25, 25)
	for _, name := range []string{"Oolong A", "Oolong B", "Jasmine", "Earl grey"} {
		inject(name, "unknown", "", truth[name][0], truth[name][1])
	}
	return files, strings.Join(rows, "\n"), truth
}

// TwoDetectors is an injection of two wavelengths and a pump pressure in one table: a peak at 2 min at 278 nm, another at 4 min at 210 nm. Each k is another file; the third one ran in a warmer oven.
func TwoDetectors(k int) []byte {
	var text strings.Builder
	fmt.Fprintf(&text, "Column: C18, 150 mm\nOven: %d °C\n", map[bool]int{true: 45, false: 40}[k == 2])
	text.WriteString("time_min,UV 278 nm [mAU],UV 210 nm [mAU],Pump pressure [bar]\n")
	first, second := Shape{RetentionMin: 2, SigmaMin: 0.045, TauMin: 0.005}, Shape{RetentionMin: 4, SigmaMin: 0.045, TauMin: 0.005}
	for i := range 1200 {
		min := float64(i) / 200
		fmt.Fprintf(&text, "%.4f,%.4f,%.4f,%d\n", min, 9*first.at(min)+0.01*float64((i*i+k)%7), 9*second.at(min)+0.01*float64((i*i)%5), 180+i%3)
	}
	return []byte(text.String())
}
