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
	"yugen/formats/text"
)

// Days of the study of limits, and its low levels in mg/L, each three times a day.
const fiveDays = 5

var lowLevels = []float64{0.2, 0.5, 1, 2, 5, 10}

const (
	dayBlanks     = 4
	dayReplicates = 3
	// background is what every blank holds of caffeine and theobromine, mg/L: enough to be measured, so that blanks have a spread.
	background = 0.12
)

// DayFiles is the number of injections of one day.
var DayFiles = dayBlanks + len(lowLevels)*dayReplicates

// dayProfile is how the old detector's text is read.
func dayProfile() *text.Profile {
	return &text.Profile{
		Name: "Old detector, one channel", Delimiter: ";", Decimal: ",", Heading: 8, Units: 9, Data: 10, TimeUnit: text.Seconds, DateOrder: text.DayFirst, Shape: "t;UV 278 nm",
		Columns: []text.Column{{Column: 1, Role: text.TimeColumn}, {Column: 2, Role: text.SignalColumn}},
		Values:  []text.Value{{Line: 2, Says: text.SaysSample}, {Line: 3, Says: text.SaysAcquired}, {Line: 4, Says: text.SaysVial}, {Line: 5, Says: text.SaysOperator}, {Line: 6, Says: text.SaysCondition}},
	}
}

// FiveDays simulates one day, from 0, of a calibration repeated on five days to find detection and quantitation limits: caffeine and
// theobromine at low levels, with blanks. Sensitivity and scatter differ from day to day; the fourth day is the noisiest.
func FiveDays(seed uint64, day int) (Study, error) {
	rng := rand.New(rand.NewPCG(seed, 0xda75+uint64(day)))
	s := Study{Name: "Five days", Batch: fmt.Sprintf("Day %d", day+1), Method: daysMethod(), Profile: dayProfile(), SampleContents: map[string]map[string]float64{}}
	sensitivity := 1 + 0.03*rng.NormFloat64()
	noise := []float64{1, 1.2, 0.9, 1.8, 1.1}[day]
	inject := func(name string, entry batch.Entry, content float64) error {
		var components []Component
		contents := map[string]float64{}
		for _, a := range []analyte{analytes[1], analytes[4]} {
			held := background + content*(1+0.01*rng.NormFloat64())
			contents[a.id] = held
			shape := a.shape
			shape.RetentionMin += -2.2 + 0.003*rng.NormFloat64() // a shorter column than that of the assay
			components = append(components, Component{a.id, shape, a.response * held * sensitivity})
		}
		file := fmt.Sprintf("day%d-%02d-%s.txt", day+1, len(s.Files)+1, name)
		at := firstInjection.AddDate(0, 0, 14+day).Add(time.Duration(len(s.Files)) * 10 * time.Minute)
		written := instrument{"UV 278 nm", "mAU", 5}.writeText(file, quietDetector(components, 9, 5, noise, rng), header(entry, at, "Tea limits 278", "UV"))
		s.Files, s.RunList = append(s.Files, written), append(s.RunList, entry)
		s.Truth = append(s.Truth, Truth{file, contents, components})
		return nil
	}
	for b := range dayBlanks {
		if err := inject("blank", blankEntry(fmt.Sprintf("Blank %d", b+1), "A1"), 0); err != nil {
			return s, err
		}
	}
	for l, level := range lowLevels {
		for range dayReplicates {
			entry := batch.Entry{Name: fmt.Sprintf("Standard %g mg/L", level), Role: batch.Standard, Level: ptr(level), Vial: fmt.Sprintf("A%d", l+2), Dilution: 1, Factor: 1}
			if err := inject(fmt.Sprintf("std-%g", level), entry, level); err != nil {
				return s, err
			}
		}
	}
	return s, nil
}

func daysMethod() batch.Method {
	m := batch.NewMethod()
	m.Channels[0].Peaks = peaks.Settings{WidthMin: 0.13, Threshold: peaks.DefaultThreshold}
	for _, a := range []analyte{analytes[1], analytes[4]} {
		m.Compounds = append(m.Compounds, compounds.Compound{ID: a.id, Name: a.name, ExpectedMin: a.shape.RetentionMin - 2.2, Window: compounds.Window{Kind: compounds.Absolute, Value: 0.15}, Rule: compounds.Nearest, Role: compounds.Target})
	}
	m.Curves = batch.Calibration{Response: batch.Area, Unit: "mg/L", Model: curves.Linear, Weight: curves.PerX}
	m.Checks = checks.Limits{Deviation: 20}
	return m
}
