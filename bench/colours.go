package bench

import (
	"fmt"
	"math"
	"math/rand/v2"
	"time"

	"yugen/core/batch"
	"yugen/core/channels"
	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/peaks"
	"yugen/core/screening"
	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/mzml"
)

// band is one absorption of a compound: where, how wide (nm), and how strong.
type band struct{ at, wide, height float64 }

// colourant is a compound of the colour screening, with a spectrum of our own making.
type colourant struct {
	id, name string
	atMin    float64
	bands    []band
}

var colourants = []colourant{
	{"caffeine", "Caffeine", 1.62, []band{{205, 14, 1}, {273, 15, 0.55}}},
	{"tartrazine", "Tartrazine", 2.05, []band{{212, 18, 0.5}, {258, 22, 0.62}, {427, 38, 1}}},
	{"glycoside", "Flavonol glycoside", 2.78, []band{{206, 16, 1}, {256, 16, 0.72}, {354, 30, 0.6}}},
	{"yellow", "Quinoline yellow", 3.3, []band{{236, 16, 0.8}, {288, 16, 0.4}, {412, 22, 0.95}, {434, 14, 0.7}}},
	{"blue", "Brilliant blue", 3.72, []band{{230, 20, 0.25}, {309, 18, 0.22}, {408, 18, 0.18}, {628, 24, 1}}},
	{"chlorophyllin", "Chlorophyllin", 4.4, []band{{405, 18, 1}, {502, 30, 0.1}, {630, 18, 0.28}}},
	{"orange", "Sunset yellow", 2.42, []band{{235, 18, 0.6}, {312, 20, 0.25}, {482, 30, 1}}},
	{"green", "Green S", 4.05, []band{{262, 20, 0.3}, {312, 16, 0.25}, {634, 22, 1}}},
	{unlisted, "Gardenia yellow", 2.075, []band{{238, 16, 0.5}, {330, 20, 0.4}, {440, 30, 0.8}}},
}

// unlisted is a colour that nobody looks for: it elutes with tartrazine, and is in no mix.
const unlisted = "gardenia"

func (c colourant) at(nm float64) float64 {
	v := 0.0
	for _, b := range c.bands {
		v += b.height * math.Exp(-math.Pow((nm-b.at)/b.wide, 2)/2)
	}
	return v
}

// Colours is an open library of the colours of the study.
func Colours() []spectra.Entry {
	list := make([]spectra.Entry, 0, len(colourants))
	for k, c := range colourants {
		e := spectra.Entry{ID: fmt.Sprintf("colour-%d", k+1), Name: c.name, Kind: spectra.Wavelength, Source: "made for the demo, as its files are", Conditions: "formic acid 0.1 %, acetonitrile"}
		for nm := 200.0; nm <= 700; nm += 4 {
			e.Lines = append(e.Lines, spectra.Line{At: nm, Height: math.Round(9990*c.at(nm)) / 10})
		}
		list = append(list, e)
	}
	return list
}

// ColourFiles is the number of injections of the study.
const ColourFiles = 14

const (
	colourRunMin = 5.2
	colourHz     = 5
	colourLevel  = 10.0 // mg/L of each dye in the mix
	mAUPerUnit   = 9.0  // at the best wavelength, per mg/L
	hidden       = 0.055
)

// ColourScreening simulates a search for added dyes in matcha by LC with a diode array, 200 to 700 nm in steps of 2: a mix of dyes, two honest lots, and three that
// are not, each injected twice; in the last a yellow dye elutes under the flavonol glycoside, where only the spectra across the peak show it. The same seed gives the same bytes.
func ColourScreening(seed uint64) (Study, error) {
	rng := rand.New(rand.NewPCG(seed, 0xc0106))
	s := Study{Name: "Matcha colour screening", Batch: "Autumn lots", Method: colourMethod(), SampleContents: map[string]map[string]float64{}}
	own := map[string]float64{"caffeine": 34, "glycoside": 26, "chlorophyllin": 12}
	with := func(more map[string]float64) map[string]float64 {
		out := map[string]float64{}
		for _, id := range []string{"caffeine", "glycoside", "chlorophyllin"} { // in order, so that the same seed gives the same
			out[id] = own[id] * (1 + 0.05*rng.NormFloat64())
		}
		for id, v := range more {
			out[id] += v
		}
		return out
	}
	mix := map[string]float64{}
	for _, c := range colourants {
		if c.id != unlisted {
			mix[c.id] = colourLevel
		}
	}
	standard := batch.Entry{Name: "Dyes 10 mg/L", Role: batch.Standard, Level: ptr(colourLevel), Vial: "2", Dilution: 1, Factor: 1}
	lot := func(name string, vial int) batch.Entry {
		return batch.Entry{Name: name, Role: batch.Sample, Vial: fmt.Sprint(vial), Dilution: 1, Factor: 1}
	}
	type injected struct {
		name     string
		entry    batch.Entry
		contents map[string]float64
		under    bool // the yellow elutes under the glycoside
	}
	run := []injected{{"blank", blankEntry("Blank", "1"), nil, false}, {"mix-1", standard, mix, false}, {"mix-2", standard, mix, false}}
	for vial, l := range []struct {
		file, name string
		contents   map[string]float64
		under      bool
	}{
		{"hill", "Hill garden", with(nil), false}, {"valley", "Valley", with(nil), false},
		{"online-a", "Online A", with(map[string]float64{"tartrazine": 4.2, "blue": 0.35}), false},
		{"online-b", "Online B", with(map[string]float64{"tartrazine": 0.9, unlisted: 1.6, "yellow": 3.1}), false},
		{"online-c", "Online C", with(map[string]float64{"yellow": hidden * own["glycoside"], "blue": 0.8}), true},
	} {
		for _, again := range []string{"1", "2"} {
			run = append(run, injected{l.file + "-" + again, lot(l.name, vial+3), l.contents, l.under})
		}
		s.SampleContents[l.name] = l.contents
	}
	run = append(run, injected{"mix-3", standard, mix, false})
	for n, in := range run {
		f, truth, err := colourFile(n, in.name, in.entry, in.contents, in.under, rng)
		if err != nil {
			return s, err
		}
		s.Files, s.RunList, s.Truth = append(s.Files, f), append(s.RunList, in.entry), append(s.Truth, truth)
	}
	return s, nil
}

func colourFile(n int, name string, entry batch.Entry, contents map[string]float64, under bool, rng *rand.Rand) (File, Truth, error) {
	const points = 251
	run := spectra.Run{About: spectra.About{Kind: spectra.Wavelength, Unit: "mAU"}}
	truth := Truth{File: fmt.Sprintf("colour-%02d-%s.mzML", n+1, name), Contents: contents}
	axis := make([]float64, points)
	shapes := make([][points]float64, len(colourants))
	for k := range axis {
		axis[k] = 200 + 2*float64(k)
		for c, of := range colourants {
			shapes[c][k] = of.at(axis[k])
		}
	}
	elutes := make([]Shape, len(colourants))
	for c, of := range colourants {
		elutes[c] = Shape{of.atMin + 0.002*rng.NormFloat64(), 0.042, 0.014}
		if under && of.id == "yellow" { // a resolution of about 0.5
			elutes[c].RetentionMin = colourants[2].atMin + 0.09
		}
		if contents[of.id] > 0 {
			truth.Components = append(truth.Components, Component{of.id, elutes[c], contents[of.id]})
		}
	}
	peakHeight := 60 * elutes[0].SigmaMin * math.Sqrt(2*math.Pi) / 60 // of a shape of unit area, per minute, over its height
	for i := 0; float64(i) <= colourRunMin*60*colourHz; i++ {
		t := float64(i) / colourHz / 60
		scan := spectra.Scan{TimeS: float64(i) / colourHz, Axis: axis, Values: make([]float64, points)}
		for c, of := range colourants {
			height := contents[of.id] * mAUPerUnit * elutes[c].at(t) * peakHeight
			if height < 1e-6 {
				continue
			}
			for k := range scan.Values {
				scan.Values[k] += height * shapes[c][k]
			}
		}
		for k := range scan.Values {
			drift := (1.2 + 0.5*t) * math.Exp(-(axis[k]-200)/28) // the gradient shows where its solvents absorb
			scan.Values[k] = math.Round(100*(scan.Values[k]+drift+0.09*rng.NormFloat64())) / 100
		}
		run.Scans = append(run.Scans, scan)
	}
	at := firstInjection.AddDate(0, 6, 2).Add(time.Duration(n) * 9 * time.Minute)
	data, err := mzml.Write(formats.File{Header: header(entry, at, "Dyes DAD", "DAD"), Spectra: []spectra.Run{run}})
	return File{truth.File, data}, truth, err
}

func colourMethod() batch.Method {
	m := batch.NewMethod()
	settings := peaks.Settings{WidthMin: 0.11, Threshold: peaks.DefaultThreshold}
	m.Channels[0].Peaks = settings
	// A dye is borne out by how it absorbs where it is coloured.
	coloured := map[string]float64{"tartrazine": 428, "yellow": 412, "blue": 628, "orange": 482, "green": 634}
	for _, nm := range []float64{412, 428, 482, 628, 634} {
		m.Channels = append(m.Channels, batch.Channel{ID: fmt.Sprintf("nm-%g", nm), Signal: channels.Signal{Kind: channels.Wavelength, Places: []channels.Place{{At: nm, Tolerance: 3}}}, Peaks: settings})
	}
	for _, c := range colourants {
		if c.id == unlisted {
			continue
		}
		var bears []compounds.Qualifier
		if nm := coloured[c.id]; nm > 0 {
			bears = []compounds.Qualifier{{Channel: fmt.Sprintf("nm-%g", nm), TolerancePercent: 30}}
		}
		m.Compounds = append(m.Compounds, compounds.Compound{Qualifiers: bears, ID: c.id, Name: c.name, ExpectedMin: c.atMin, Window: compounds.Window{Kind: compounds.Absolute, Value: 0.06}, Rule: compounds.Nearest, Role: compounds.Target})
	}
	m.Curves = batch.Calibration{Response: batch.Area, Unit: "mg/L", Model: curves.OnePoint, Weight: curves.Unweighted}
	m.Amounts.AsMeasured = true
	m.Screening = &screening.Rules{RetentionMin: 0.05, LeastMatch: 98, LeastSignalToNoise: 3, Only: []string{"tartrazine", "orange", "yellow", "blue", "green"}, Limits: map[string]float64{"tartrazine": 0.5, "orange": 0.5, "yellow": 0.5, "blue": 0.5, "green": 0.5}}
	m.Checks = checks.Limits{RecoveryLow: 80, RecoveryHigh: 120, ReplicateRSD: 15}
	return m
}
