package bench

import (
	"fmt"
	"math/rand/v2"
	"time"

	"yugen/core/batch"
	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/peaks"
)

// esters are the fatty acid methyl esters of camellia seed oil; response is the area (pA · s) that 1 mg/L gives.
var esters = []analyte{
	{"c16", "Palmitate", Shape{8.10, 0.032, 0.012}, 1.42, 0.15, 0},
	{"c18", "Stearate", Shape{10.42, 0.036, 0.014}, 1.46, 0.12, 0},
	{"c18-1", "Oleate", Shape{10.71, 0.037, 0.020}, 1.47, 0.10, 0},
	{"c18-2", "Linoleate", Shape{11.28, 0.038, 0.016}, 1.44, 0.12, 0},
	{"c18-3", "Linolenate", Shape{12.05, 0.040, 0.016}, 1.41, 0.15, 0},
	{"c20-1", "Eicosenoate", Shape{13.36, 0.044, 0.018}, 1.48, 0.15, 0},
}

// oil holds the shares of one oil in percent, in the order of esters.
type oil struct {
	name, file string
	shares     [6]float64
}

var oils = []oil{
	{"Hill garden, cold pressed", "hill", [6]float64{8.6, 2.1, 80.4, 8.0, 0.3, 0.6}},
	{"River terrace, cold pressed", "river", [6]float64{9.4, 1.8, 77.9, 9.9, 0.4, 0.6}},
	{"Old orchard, refined", "orchard", [6]float64{8.9, 2.4, 79.2, 8.6, 0.3, 0.6}},
	{"Market blend", "market", [6]float64{10.8, 3.1, 61.5, 22.7, 1.3, 0.6}},
}

const (
	oilLevel = 200.0  // mg/L of each ester in the one standard
	oilTotal = 2000.0 // mg/L of esters in what is injected of an oil
)

// OilFiles is the number of injections of the study.
var OilFiles = 1 + 3 + 2*len(oils) + 1

// CamelliaOil simulates fatty acid methyl esters of camellia seed oils by GC-FID: one standard at one level, three times; oils in
// duplicate, reported as percent of the total; a closing check. The split has drifted a little by its end, within the limits. One oil
// has too much linoleate to be camellia alone.
func CamelliaOil(seed uint64) (Study, error) {
	rng := rand.New(rand.NewPCG(seed, 0x011))
	s := Study{Name: "Camellia seed oil", Batch: "Spring pressing", Method: oilMethod(), SampleContents: map[string]map[string]float64{}}
	inject := func(name string, entry batch.Entry, contents map[string]float64) error {
		n := len(s.Files)
		sensitivity := 1 - 0.003*float64(n) + 0.008*rng.NormFloat64() // of the split, alike for all
		var components []Component
		for _, e := range esters {
			if contents[e.id] > 0 {
				shape := e.shape
				shape.RetentionMin += 0.002 * rng.NormFloat64()
				components = append(components, Component{e.id, shape, e.response * contents[e.id] * sensitivity * (1 + 0.003*rng.NormFloat64())})
			}
		}
		file := fmt.Sprintf("oil-%02d-%s.jdx", n+1, name)
		at := firstInjection.AddDate(0, 0, 3).Add(time.Duration(n) * 25 * time.Minute)
		written := instrument{"FID", "pA", 10}.writeJCAMP(file, flame(components, 16, 10, rng), header(entry, at, "Methyl esters FID", "FID"))
		s.Files, s.RunList = append(s.Files, written), append(s.RunList, entry)
		s.Truth = append(s.Truth, Truth{file, contents, components})
		return nil
	}
	level := func() map[string]float64 {
		m := map[string]float64{}
		for _, e := range esters {
			m[e.id] = oilLevel
		}
		return m
	}
	if err := inject("blank", blankEntry("Blank", "1"), nil); err != nil {
		return s, err
	}
	for r := range 3 {
		entry := batch.Entry{Name: fmt.Sprintf("Standard %g mg/L", oilLevel), Role: batch.Standard, Level: ptr(oilLevel), Vial: "2", Dilution: 1, Factor: 1}
		if err := inject(fmt.Sprintf("std-%d", r+1), entry, level()); err != nil {
			return s, err
		}
	}
	for k, o := range oils {
		s.SampleContents[o.name] = map[string]float64{}
		for r := range 2 {
			contents := map[string]float64{}
			for i, e := range esters {
				contents[e.id] = o.shares[i] / 100 * oilTotal
				s.SampleContents[o.name][e.id] = o.shares[i]
			}
			entry := batch.Entry{Name: o.name, Role: batch.Sample, Vial: fmt.Sprint(3 + 2*k + r), Dilution: 1, Factor: 1}
			if err := inject(fmt.Sprintf("%s-%d", o.file, r+1), entry, contents); err != nil {
				return s, err
			}
		}
	}
	entry := batch.Entry{Name: "Check, closing", Role: batch.Check, Level: ptr(oilLevel), Vial: "2", Dilution: 1, Factor: 1}
	return s, inject("check", entry, level())
}

func oilMethod() batch.Method {
	m := batch.NewMethod()
	m.Channels[0].Peaks = peaks.Settings{WidthMin: 0.09, Threshold: peaks.DefaultThreshold, LeastArea: 0.5, TimeRules: []peaks.TimeRule{{Kind: peaks.LeaveOut, FromMin: 0, ToMin: 4}}}
	for _, e := range esters {
		c := compounds.Compound{ID: e.id, Name: e.name, ExpectedMin: e.shape.RetentionMin, Window: compounds.Window{Kind: compounds.Absolute, Value: e.window}, Rule: compounds.Nearest, Role: compounds.Target}
		if e.id != "c16" && e.id != "c18" {
			c.Group = "Unsaturated"
		}
		m.Compounds = append(m.Compounds, c)
	}
	m.Curves = batch.Calibration{Response: batch.Area, Unit: "mg/L", Model: curves.OnePoint, Weight: curves.Unweighted}
	m.Amounts.PercentOfTotal = true
	m.Checks = checks.Limits{RecoveryLow: 90, RecoveryHigh: 110, ReplicateRSD: 5}
	return m
}
