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
