package bench

import (
	"fmt"
	"math/rand/v2"
	"time"

	"yugen/core/batch"
	"yugen/core/channels"
	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/peaks"
)

// analyte is a compound of the tea assay: response is the area (mAU · s) that 1 mg/L gives.
type analyte struct {
	id, name string
	shape    Shape
	response float64
	window   float64 // min
	parted   float64 // least resolution asked for
}

var analytes = []analyte{
	{"ga", "Gallic acid", Shape{2.94, 0.040, 0.030}, 8.5, 0.15, 0},
	{"tb", "Theobromine", Shape{5.14, 0.046, 0.032}, 9.5, 0.15, 0},
	{"egc", "EGC", Shape{6.36, 0.050, 0.036}, 3.2, 0.15, 0},
	{"c", "Catechin", Shape{7.44, 0.050, 0.034}, 6.0, 0.15, 0},
	{"caf", "Caffeine", Shape{8.80, 0.056, 0.085}, 9.2, 0.20, 0},
	{"egcg", "EGCG", Shape{10.52, 0.060, 0.040}, 5.2, 0.18, 0},
	{"ec", "EC", Shape{10.89, 0.060, 0.040}, 5.6, 0.16, 1.5},
	{"ecg", "ECG", Shape{14.26, 0.062, 0.044}, 6.5, 0.20, 0},
}

var internal = analyte{"is", "8-Chlorotheophylline", Shape{12.86, 0.058, 0.040}, 7.0, 0.20, 0}

const internalContent = 25.0 // mg/L in every injection but the blanks

// tea holds the contents of one tea in mg/g, in the order of analytes.
type tea struct {
	name, file string
	contents   [8]float64
}

var teas = []tea{
	{"Sencha first flush", "sencha-ff", [8]float64{0.60, 1.10, 38.2, 1.06, 27.4, 118.0, 9.8, 15.1}}, // EGCG is above the range
	{"Sencha second flush", "sencha-sf", [8]float64{0.74, 1.02, 34.6, 1.21, 24.9, 61.3, 8.4, 12.7}},
	{"Gyokuro", "gyokuro", [8]float64{0.81, 1.62, 21.5, 1.08, 36.9, 65.3, 7.1, 13.2}},
	{"Hojicha", "hojicha", [8]float64{1.24, 0.84, 9.4, 2.12, 18.6, 24.8, 4.9, 4.2}},
	{"Genmaicha", "genmaicha", [8]float64{0.86, 0.92, 17.3, 0.91, 13.1, 33.7, 5.6, 6.9}},
	{"Matcha", "matcha", [8]float64{0.95, 1.88, 26.3, 1.34, 34.2, 72.4, 9.1, 16.5}},
	{"Oolong, light roast", "oolong-light", [8]float64{1.02, 2.40, 24.6, 2.90, 25.3, 41.2, 8.2, 11.4}},
	{"Oolong, dark roast", "oolong-dark", [8]float64{1.96, 1.71, 9.8, 2.41, 22.4, 27.9, 6.6, 5.2}},
	{"Pouchong", "pouchong", [8]float64{0.88, 2.05, 28.1, 2.22, 23.7, 48.6, 8.8, 10.3}},
	{"White peony", "white-peony", [8]float64{1.52, 1.44, 12.6, 1.75, 31.5, 39.8, 6.4, 14.9}},
	{"Pu-erh, raw", "puerh-raw", [8]float64{2.31, 1.95, 15.2, 2.84, 29.6, 35.1, 10.2, 13.8}},
	{"Keemun", "keemun", [8]float64{3.72, 2.66, 4.1, 1.18, 33.9, 16.8, 3.9, 6.1}},
	{"Assam", "assam", [8]float64{3.41, 2.92, 3.6, 0.92, 37.8, 14.7, 3.4, 5.1}},
	{"Darjeeling second flush", "darjeeling-sf", [8]float64{2.88, 1.31, 5.3, 1.02, 29.7, 21.6, 4.3, 8.8}},
}

var levels = []float64{1, 5, 20, 60, 120, 200}

const (
	teaDilution = 2.0
	teaVolume   = 50.0 // mL
	checkLevel  = 60.0
	carried     = 0.6          // mg/L of caffeine left in the blank after the top standard
	leakingFile = "pouchong-2" // a seal gave way during this injection
)

// TeaAssay simulates the demo study: caffeine, theobromine, gallic acid and catechins of 14 teas by LC-UV, with an internal
// standard. On purpose one tea is above the range in EGCG, the last check has lost EGCG, EC is not fully parted from EGCG,
// an unknown rides on the tail of caffeine, caffeine is carried over into the blank after the top standard, one injection
// got less internal standard, one weight was never written down, and in one injection the pump lost pressure, so that its later peaks came late.
// A second file of each injection holds a second wavelength and the conditions of the run. The same seed gives the same bytes.
func TeaAssay(seed uint64) (Study, error) {
	s := &simulation{
		rng: rand.New(rand.NewPCG(seed, 0x7ea)),
		out: Study{Name: "Green tea assay", Batch: "Spring teas", Method: TeaMethod(), SampleContents: map[string]map[string]float64{}},
	}
	s.inject("blank-start", blankEntry("Blank", "A1"), nil)
	for l, level := range levels {
		for r := range 2 {
			entry := batch.Entry{Name: fmt.Sprintf("Standard %g mg/L", level), Role: batch.Standard, Level: ptr(level), Vial: fmt.Sprintf("A%d", l+2), Dilution: 1, Factor: 1}
			s.inject(fmt.Sprintf("std-%03.0f-%d", level, r+1), entry, s.scattered(equal(level), 0.008))
		}
	}
	s.inject("blank-after-top", blankEntry("Blank after 200 mg/L", "A1"), map[string]float64{"caf": carried})
	s.check("Check, start", 1)
	for t, tea := range teas {
		switch t {
		case 5:
			s.check("Check, first third", 1)
		case 10:
			s.check("Check, second third", 0.97)
		}
		s.tea(t, tea)
	}
	s.check("Check, end", 0.872)
	s.inject("blank-end", blankEntry("Blank, end", "A1"), nil)
	if s.err != nil {
		return Study{}, s.err
	}
	return s.out, nil
}

type simulation struct {
	rng *rand.Rand
	out Study
	err error
}

func blankEntry(name, vial string) batch.Entry {
	return batch.Entry{Name: name, Role: batch.Blank, Vial: vial, Dilution: 1, Factor: 1}
}

func equal(level float64) map[string]float64 {
	m := map[string]float64{}
	for _, a := range analytes {
		m[a.id] = level
	}
	return m
}

// scattered varies contents by preparing and injecting them.
func (s *simulation) scattered(contents map[string]float64, relative float64) map[string]float64 {
	for _, a := range analytes {
		contents[a.id] *= 1 + relative*s.rng.NormFloat64()
	}
	return contents
}

func (s *simulation) check(name string, egcg float64) {
	contents := s.scattered(equal(checkLevel), 0.003)
	contents["egcg"] *= egcg
	s.inject("check", batch.Entry{Name: name, Role: batch.Check, Level: ptr(checkLevel), Vial: "A8", Dilution: 1, Factor: 1}, contents)
}

func (s *simulation) tea(t int, tea tea) {
	s.out.SampleContents[tea.name] = map[string]float64{}
	for r := range 2 {
		sample := 0.2 + 0.0016*s.rng.NormFloat64()
		sample = float64(int(sample*10000)) / 10000
		entry := batch.Entry{Name: tea.name, Role: batch.Sample, Vial: fmt.Sprintf("%c%d", 'B'+(2*t+r)/8, (2*t+r)%8+1), Dilution: teaDilution, Volume: ptr(teaVolume), Sample: ptr(sample), Factor: 1}
		contents := map[string]float64{}
		for i, a := range analytes {
			s.out.SampleContents[tea.name][a.id] = tea.contents[i]
			contents[a.id] = tea.contents[i] * sample / (teaVolume / 1000) / teaDilution
		}
		if tea.name == "Genmaicha" && r == 1 {
			entry.Sample = nil // never written down
		}
		s.inject(fmt.Sprintf("%s-%d", tea.file, r+1), entry, s.scattered(contents, 0.008))
	}
}

// inject simulates one injection and writes its file.
func (s *simulation) inject(name string, entry batch.Entry, contents map[string]float64) {
	n := len(s.out.Files)
	sensitivity := 1.012 - 0.0005*float64(n) + 0.004*s.rng.NormFloat64()
	if entry.Name == "Assam" && name == "assam-1" {
		sensitivity *= 0.915
	}
	shift := 0.01 - 0.0004*float64(n) + 0.004*s.rng.NormFloat64()
	var components []Component
	add := func(compound string, shape Shape, area float64) {
		shape.RetentionMin += shift
		components = append(components, Component{compound, shape, area * sensitivity})
	}
	for _, a := range analytes {
		if contents[a.id] > 0 {
			add(a.id, a.shape, a.response*contents[a.id])
		}
	}
	if entry.Role != batch.Blank {
		add(internal.id, internal.shape, internal.response*internalContent)
	}
	if entry.Role == batch.Sample {
		for k, u := range unknowns {
			add("", u.shape, u.area*(1+0.3*float64((n+k)%3)))
		}
	}
	leaking := name == leakingFile
	if leaking {
		for k := range components {
			components[k].RetentionMin = delayed(components[k].RetentionMin)
		}
	}
	file := fmt.Sprintf("%02d-%s.cdf", n+1, name)
	at := firstInjection.Add(time.Duration(n) * 20 * time.Minute)
	h := header(entry, at, "Tea catechins 278", "UV")
	h.SampleID = fmt.Sprintf("KL-%04d", 412*10+n)
	written, err := instrument{"UV 278 nm", "mAU", samplingHz}.write(file, detector(components, s.rng), h)
	if err != nil && s.err == nil {
		s.err = err
	}
	s.out.Files = append(s.out.Files, written)
	beside, err := alongside(file, components, leaking, at, entry.Name, rand.New(rand.NewPCG(uint64(n), 0x254)))
	if err != nil && s.err == nil {
		s.err = err
	}
	s.out.Alongside = append(s.out.Alongside, beside)
	s.out.RunList = append(s.out.RunList, entry)
	s.out.Truth = append(s.out.Truth, Truth{file, contents, components})
}

// unknowns are peaks of tea that the method has no name for; the third rides on the tail of caffeine.
var unknowns = []struct {
	shape Shape
	area  float64
}{
	{Shape{3.72, 0.045, 0.030}, 22}, {Shape{4.30, 0.050, 0.040}, 9}, {Shape{9.42, 0.044, 0.034}, 20}, {Shape{11.86, 0.060, 0.045}, 44},
}

// TeaMethod is the method of the tea assay.
func TeaMethod() batch.Method {
	m := batch.NewMethod()
	m.Channels[0].Peaks = peaks.Settings{WidthMin: 0.13, Threshold: peaks.DefaultThreshold, LeastArea: 1, TimeRules: []peaks.TimeRule{
		{Kind: peaks.LeaveOut, FromMin: 0, ToMin: 2.2}, {Kind: peaks.LeaveOut, FromMin: 15.2, ToMin: 18},
	}}
	for _, a := range append(analytes, internal) {
		c := compounds.Compound{ID: a.id, Name: a.name, ExpectedMin: a.shape.RetentionMin, Window: compounds.Window{Kind: compounds.Absolute, Value: a.window}, Rule: compounds.Nearest, Role: compounds.Target, MinResolution: a.parted}
		if a.id == internal.id {
			c.Role, c.Amount = compounds.InternalStandard, internalContent
		}
		m.Compounds = append(m.Compounds, c)
	}
	m.Curves = batch.Calibration{Response: batch.Area, Unit: "mg/L", Model: curves.Linear, Weight: curves.PerX}
	m.Checks = checks.Limits{RecoveryLow: 90, RecoveryHigh: 110, InternalStandard: 5, Blank: 20, ReplicateRSD: 8, Deviation: 15}
	m.Checks.Conditions = []checks.ConditionLimit{
		{Name: "Pump pressure", Unit: "bar", Low: ptr(120.0), High: ptr(260.0), Fall: 15, WithinS: 5},
		{Name: "Column temperature", Unit: "°C", Low: ptr(columnDegree - 0.5), High: ptr(columnDegree + 0.5)},
		{Name: "Gradient", Unit: "% B", Usual: 1},
	}
	// Caffeine must be borne out at the second wavelength.
	m.Channels = append(m.Channels, batch.Channel{ID: "uv-254-nm", Signal: channels.Signal{Name: "UV 254 nm", Unit: "mAU"}, Peaks: peaks.Settings{WidthMin: 0.13, Threshold: peaks.DefaultThreshold, LeastArea: 1, TimeRules: m.Channels[0].Peaks.TimeRules}})
	for i := range m.Compounds {
		if m.Compounds[i].ID == "caf" {
			m.Compounds[i].Qualifiers = []compounds.Qualifier{{Channel: "uv-254-nm", TolerancePercent: 15}}
		}
	}
	return m
}

// Demo is a batch of the demo: how to simulate it, and how many files it has when it is complete.
type Demo struct {
	Study, Batch, Method string
	Files                int
	Make                 func(seed uint64) (Study, error)
}

// TeaFiles is the number of injections of the tea assay.
var TeaFiles = 1 + 2*len(levels) + 1 + 4 + 2*len(teas) + 1

// Demos are the batches of the demo, the one to open first before the others.
func Demos() []Demo {
	list := []Demo{{"Green tea assay", "Spring teas", "Tea catechins 278", TeaFiles, TeaAssay}}
	list = append(list, Demo{"Camellia seed oil", "Spring pressing", "Methyl esters FID", OilFiles, CamelliaOil})
	for day := range fiveDays {
		list = append(list, Demo{"Five days", fmt.Sprintf("Day %d", day+1), "Tea limits 278", DayFiles, func(seed uint64) (Study, error) { return FiveDays(seed, day) }})
	}
	return append(list, Demo{"Tea aroma", "Spring aromas", "Tea aroma GC-MS", AromaFiles, TeaAroma}, Demo{"Matcha colour screening", "Autumn lots", "Dyes by diode array", ColourFiles, ColourScreening})
}
