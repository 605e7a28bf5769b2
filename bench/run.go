package bench

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"time"

	"yugen/formats"
	"yugen/formats/mzml"
)

// The conditions of the tea assay: a gradient from 5 to 60 % B, whose mixture the pump feels as pressure, in a heated column.
const (
	pressureBar  = 168.0
	columnDegree = 35.0
	leakMin      = 6.1  // when a seal gave way in one injection
	leakBar      = 38.0 // and by how much the pressure fell
	leakDelay    = 0.012
)

// percentB is the programme of the gradient.
func percentB(tMin float64) float64 {
	switch {
	case tMin < 1:
		return 5
	case tMin < 14:
		return 5 + 55*(tMin-1)/13
	case tMin < 15.5:
		return 60
	case tMin < 16:
		return 60 - 55*(tMin-15.5)/0.5
	}
	return 5
}

// Viscosity is that of the mixture over that of its start: it rises to a fifth methanol or so, and falls again.
func Viscosity(b float64) float64 { return 1 + 0.012*b - 0.00016*b*b }

// delayed is where a peak elutes when the flow has been less since the leak.
func delayed(tMin float64) float64 {
	if tMin <= leakMin {
		return tMin
	}
	return leakMin + (tMin-leakMin)*(1+leakDelay)
}

// secondWavelength is the response at 254 nm over that at 278 nm, by compound.
var secondWavelength = map[string]float64{"ga": 0.72, "tb": 0.58, "egc": 0.31, "c": 0.24, "caf": 0.62, "egcg": 0.66, "ec": 0.25, "ecg": 0.69, "is": 0.81, "": 0.5}

// bestNm is where each absorbs most, nm.
var bestNm = map[string]float64{"ga": 271, "tb": 273, "egc": 270, "c": 279, "caf": 273, "egcg": 275, "ec": 279, "ecg": 277, "is": 276, "": 274}

// alongside simulates what the pump, the column oven and a second wavelength recorded of an injection, as the file that the instrument writes beside the first.
func alongside(name string, components []Component, leaking bool, at time.Time, sample string, rng *rand.Rand) (File, error) {
	const hz = 2.5
	second := make([]Component, len(components))
	for i, c := range components {
		second[i] = c
		second[i].AreaS *= secondWavelength[c.Compound]
	}
	light := formats.Channel{Name: "UV 254 nm", Unit: "mAU", Kind: formats.Detector, Values: quietDetector(second, runMin, hz, 0.03, rng)}
	for i := range light.Values {
		light.TimesS = append(light.TimesS, float64(i)/hz)
		light.Values[i] = math.Round(light.Values[i]*1e4) / 1e4
	}
	pump := formats.Channel{Name: "Pump pressure", Unit: "bar", Kind: formats.Condition}
	gradient := formats.Channel{Name: "Gradient", Unit: "% B", Kind: formats.Condition}
	oven := formats.Channel{Name: "Column temperature", Unit: "°C", Kind: formats.Condition}
	swing := 2 * math.Pi * rng.Float64()
	for i := range int(runMin*60) + 1 {
		t := float64(i) / 60
		b := percentB(t)
		bar := pressureBar*Viscosity(percentB(math.Max(0, t-0.6))) + 0.5*math.Sin(float64(i)*1.9) + 0.25*rng.NormFloat64()
		if leaking && t > leakMin {
			bar -= leakBar * (1 - math.Exp(-(t-leakMin)*60/1.5))
		}
		for c, v := range map[*formats.Channel]float64{&pump: math.Round(10*bar) / 10, &gradient: math.Round(100*b) / 100} {
			c.TimesS, c.Values = append(c.TimesS, float64(i)), append(c.Values, v)
		}
		oven.TimesS = append(oven.TimesS, float64(i))
		oven.Values = append(oven.Values, math.Round(100*(columnDegree+0.06*math.Sin(t/1.7+swing)+0.01*rng.NormFloat64()))/100)
	}
	h := formats.Header{SampleName: sample, AcquiredAt: &at}
	data, err := mzml.Write(formats.File{Header: h, Channels: []formats.Channel{light, pump, gradient, oven}})
	if err != nil {
		return File{}, fmt.Errorf("bench: %s: %w", name, err)
	}
	return File{strings.TrimSuffix(name, ".cdf") + ".mzML", data}, nil
}
