package bench

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"time"

	"yugen/core/batch"
	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/peaks"
	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/andi"
	"yugen/formats/mzml"
)

// ladderMin are the retention times of the alkanes C8 to C17 under the temperature programme of the aroma study.
var ladderMin = map[int]float64{8: 5.52, 9: 7.81, 10: 10.06, 11: 12.29, 12: 14.45, 13: 16.58, 14: 18.60, 15: 20.52, 16: 22.36, 17: 24.12}

// aroma holds how much of each volatile a tea gives off, in the order of volatiles, relative to the mix.
type aroma struct {
	name, file string
	contents   [20]float64
}

var aromas = []aroma{
	{"Sencha first flush", "sencha", [20]float64{8, 6, 5, 3, 4, 3, 2, 5, 12, 6, 2, 3, 4, 5, 1, 6, 8, 7, 9, 6}},
	{"Gyokuro", "gyokuro", [20]float64{6, 3, 3, 2, 5, 2, 3, 3, 8, 5, 2, 2, 2, 7, 0, 3, 9, 8, 14, 9}},
	{"Hojicha", "hojicha", [20]float64{5, 2, 1, 6, 3, 7, 8, 2, 2, 4, 5, 1, 2, 3, 0, 1, 2, 1, 5, 2}},
	{"Genmaicha", "genmaicha", [20]float64{14, 3, 2, 8, 9, 4, 6, 2, 3, 9, 3, 1, 1, 3, 0, 1, 2, 1, 4, 1}},
	{"Oolong, light roast", "oolong-light", [20]float64{4, 3, 4, 5, 3, 6, 7, 8, 14, 4, 6, 4, 5, 3, 2, 9, 11, 16, 7, 22}},
	{"Oolong, dark roast", "oolong-dark", [20]float64{5, 2, 2, 9, 4, 9, 12, 9, 8, 5, 9, 3, 6, 4, 1, 5, 5, 6, 6, 12}},
	{"Assam", "assam", [20]float64{9, 12, 4, 5, 4, 5, 9, 16, 19, 5, 8, 18, 7, 3, 3, 12, 2, 3, 6, 5}},
	{"Darjeeling second flush", "darjeeling", [20]float64{6, 7, 3, 7, 3, 8, 10, 24, 30, 4, 9, 21, 9, 3, 4, 34, 3, 5, 7, 7}},
}

// AromaFiles is the number of injections of the study.
const AromaFiles = 22

const (
	aromaFromMin = 4.5
	aromaToMin   = 24.6
	scanS        = 0.7
	lowestMass   = 35
	highestMass  = 300
	mixLevel     = 10.0
	aromaUnit    = 5200.0 // counts · s of the largest line that 1 of a volatile gives
)

// aromaTargets are the volatiles that the method knows; the others are for the one who looks.
var aromaTargets = []string{"hexanal", "hexenal", "linalool", "salicylate", "ionone"}

// TeaAroma simulates the volatiles of eight teas by GC-MS in scans from m/z 35 to 300, with a ladder of alkanes, a mix of all volatiles as standard, and an
// internal standard. Geraniol is strong in one tea and has a near twin, nerol, that its index tells apart; linalool has nonanal close behind it; the column bleeds.
// Standards and the ladder are written as ANDI mass spectrometry, samples as mzML. The same seed gives the same bytes.
func TeaAroma(seed uint64) (Study, error) {
	s := &aromaRun{rng: rand.New(rand.NewPCG(seed, 0xa50a)), out: Study{Name: "Tea aroma", Batch: "Spring aromas", Method: aromaMethod(), SampleContents: map[string]map[string]float64{}}}
	s.inject("blank", blankEntry("Blank", "1"), nil, false)
	ladder := map[string]float64{}
	for n := range ladderMin {
		ladder[alkane(n).id] = 12
	}
	s.inject("alkanes", batch.Entry{Name: "Alkanes C8 to C17", Role: batch.NoRole, Vial: "2", Dilution: 1, Factor: 1}, ladder, false)
	s.mix()
	for k, tea := range aromas {
		if k == 4 {
			s.mix()
		}
		contents := map[string]float64{}
		for i, v := range tea.contents {
			contents[volatiles[i].id] = v
		}
		s.out.SampleContents[tea.name] = contents
		for r := range 2 {
			s.inject(fmt.Sprintf("%s-%d", tea.file, r+1), batch.Entry{Name: tea.name, Role: batch.Sample, Vial: fmt.Sprint(4 + 2*k + r), Dilution: 1, Factor: 1}, contents, true)
		}
	}
	s.mix()
	s.inject("blank-end", blankEntry("Blank, end", "1"), nil, false)
	return s.out, s.err
}

type aromaRun struct {
	rng *rand.Rand
	out Study
	err error
}

// mix injects all volatiles at one level.
func (s *aromaRun) mix() {
	contents := map[string]float64{}
	for _, v := range volatiles[:20] {
		contents[v.id] = mixLevel
	}
	s.inject("mix", batch.Entry{Name: fmt.Sprintf("Aroma mix %g mg/L", mixLevel), Role: batch.Standard, Level: ptr(mixLevel), Vial: "3", Dilution: 1, Factor: 1}, contents, false)
}

// at is when an index elutes, by the ladder.
func at(index float64) float64 {
	n := int(index / 100)
	a, ok := ladderMin[n]
	if !ok {
		n, a = 8, ladderMin[8]
	}
	if n == 17 {
		n, a = 16, ladderMin[16]
	}
	return a + (index-100*float64(n))/100*(ladderMin[n+1]-a)
}

func (s *aromaRun) inject(name string, entry batch.Entry, contents map[string]float64, asMzML bool) {
	if s.err != nil {
		return
	}
	n := len(s.out.Files)
	present := contents
	if entry.Role != batch.Blank && entry.Role != batch.NoRole {
		present = map[string]float64{"is": mixLevel}
		for id, c := range contents {
			present[id] = c
		}
	}
	var eluting []elution
	var truth []Component
	for _, v := range aromaCompounds() {
		c := present[v.id]
		if c == 0 {
			continue
		}
		shape := Shape{at(v.index) + 0.004*s.rng.NormFloat64(), 0.028 + 0.0004*at(v.index), 0.012}
		area := aromaUnit * c * (1 + 0.02*s.rng.NormFloat64())
		lines := v.spectrum().Normalised(1)
		total := 0.0
		for _, l := range lines {
			total += l.Height
		}
		eluting = append(eluting, elution{shape, area, lines})
		truth = append(truth, Component{v.id, shape, area * total})
	}
	run := spectra.Run{About: spectra.About{Kind: spectra.Mass, Level: 1, Polarity: spectra.Positive, Unit: "counts"}, Scans: s.scans(eluting)}
	at := firstInjection.AddDate(0, 0, 9).Add(time.Duration(n) * 35 * time.Minute)
	h := header(entry, at, "Tea aroma GC-MS", "MS")
	file := fmt.Sprintf("aroma-%02d-%s", n+1, name)
	var data []byte
	if asMzML {
		file += ".mzML"
		data, s.err = mzml.Write(formats.File{Header: h, Spectra: []spectra.Run{run}})
	} else {
		file += ".cdf"
		data, s.err = andi.WriteSpectra(run, h)
	}
	s.out.Files, s.out.RunList = append(s.out.Files, File{file, data}), append(s.out.RunList, entry)
	s.out.Truth = append(s.out.Truth, Truth{file, contents, truth})
}

// aromaCompounds are all that the study injects.
func aromaCompounds() []volatile {
	list := append(slices.Clone(volatiles[:20]), internalVolatile)
	for n := 8; n <= 17; n++ {
		list = append(list, alkane(n))
	}
	return list
}

type elution struct {
	shape Shape
	area  float64 // of the largest line, counts · s
	lines spectra.Lines
}

// bleed are the lines of the column, which rise with the oven, and those of air.
var bleed = []spectra.Line{{At: 40, Height: 90}, {At: 44, Height: 140}, {At: 73, Height: 60}, {At: 147, Height: 34}, {At: 207, Height: 150}, {At: 281, Height: 48}}

// leastCounts is what the instrument writes at least.
const leastCounts = 36

// scans are those of one injection: what elutes, bleed and air, each with the noise of counting.
func (s *aromaRun) scans(eluting []elution) []spectra.Scan {
	var list []spectra.Scan
	for t := aromaFromMin; t <= aromaToMin; t += scanS / 60 {
		var heights [highestMass + 1]float64
		for _, e := range eluting {
			if height := e.area / 60 * e.shape.at(t); height > 0.5 {
				for _, l := range e.lines {
					heights[int(l.At)] += height * l.Height
				}
			}
		}
		oven := 0.35 + 1.3/(1+math.Exp(-(t-18)/2.6))
		for k, l := range bleed {
			if k > 1 {
				l.Height *= oven
			}
			heights[int(l.At)] += l.Height
		}
		for range 3 { // a spark of noise anywhere
			heights[lowestMass+s.rng.IntN(highestMass-lowestMass+1)] += 20
		}
		scan := spectra.Scan{TimeS: math.Round(t*60*1000) / 1000}
		for m, h := range heights {
			if h < leastCounts/2 {
				continue
			}
			if h += math.Sqrt(6*h+40) * s.rng.NormFloat64(); h >= leastCounts {
				scan.Axis, scan.Values = append(scan.Axis, float64(m)), append(scan.Values, math.Round(h))
			}
		}
		list = append(list, scan)
	}
	return list
}

func aromaMethod() batch.Method {
	m := batch.NewMethod()
	m.Channels[0].Peaks = peaks.Settings{WidthMin: 0.08, Threshold: peaks.DefaultThreshold}
	m.Ladder = &compounds.Ladder{Scale: compounds.LinearScale}
	for n := 8; n <= 17; n++ {
		m.Ladder.Rungs = append(m.Ladder.Rungs, compounds.Rung{Carbons: n, TimeMin: ladderMin[n]})
	}
	for _, v := range append(slices.Clone(volatiles[:20]), internalVolatile) {
		role, amount := compounds.Target, 0.0
		if v.id == "is" {
			role, amount = compounds.InternalStandard, mixLevel
		} else if !slices.Contains(aromaTargets, v.id) {
			continue
		}
		m.Compounds = append(m.Compounds, compounds.Compound{ID: v.id, Name: v.name, ExpectedMin: math.Round(100*at(v.index)) / 100, Window: compounds.Window{Kind: compounds.Absolute, Value: 0.06}, Rule: compounds.Nearest, Role: role, Amount: amount, MolarMass: v.mass})
	}
	m.Curves = batch.Calibration{Response: batch.Area, Unit: "mg/L", Model: curves.OnePoint, Weight: curves.Unweighted}
	m.Amounts.AsMeasured = true
	m.Checks = checks.Limits{RecoveryLow: 80, RecoveryHigh: 120, InternalStandard: 8, ReplicateRSD: 10}
	return m
}
