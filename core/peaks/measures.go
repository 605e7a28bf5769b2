package peaks

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"yugen/core/signal"
)

// Measures are what is derived from the shape of a peak, those that are looked at most; widths in minutes. Symmetry factor, plates, resolution and
// signal-to-noise are as the harmonised pharmacopoeial chapter on chromatographic separation techniques defines them (Ph. Eur. 2.2.46, USP <621>, JP 2.00).
//
// Their constants follow from a Gaussian peak of standard deviation s, whose width at half height is 2 sqrt(2 ln 2) s = 2.3548 s and whose width between the
// tangents is 4 s: plates (t/s)² = 2.3548² (t/W½)² = 5.545 (t/W½)², printed and computed as 5.54; 16 (t/W)² by tangents; resolution
// (t2 − t1)/(4 s) = (2.3548/2) (t2 − t1)/(W½1 + W½2) = 1.177 …, printed and computed as 1.18.
type Measures struct {
	WidthHalfMin  *float64 `json:"width_half_min"`
	Tailing       *float64 `json:"tailing"`         // symmetry factor, W5% / (2 f)
	Plates        *float64 `json:"plates"`          // 5.54 (t/W½)²
	Resolution    *float64 `json:"resolution"`      // to the previous peak, 1.18 (t2 − t1)/(W½1 + W½2)
	SignalToNoise *float64 `json:"signal_to_noise"` // 2 H / h, h from peak to peak in a quiet stretch
}

// MoreMeasures are the others: asymmetry b/a at a tenth of the height, retention factor and selectivity as IUPAC names them (Ettre, Pure Appl. Chem. 65
// (1993) 819), and the moments of the counted area (Grushka, Anal. Chem. 41 (1969) 889). Absent gives, by JSON name, why a measure of either could not be had.
type MoreMeasures struct {
	// AreaTerms is absent for fitted shapes, which have the standard error of their fit instead.
	AreaTerms  *AreaTerms `json:"area_terms_s,omitempty"`
	Width10Min *float64   `json:"width_10_min"` // at a tenth of the height
	Width5Min  *float64   `json:"width_5_min"`  // at a twentieth
	// TangentWidthMin lies between the tangents through the inflection points, where they meet the baseline.
	TangentWidthMin *float64 `json:"tangent_width_min"`
	Asymmetry       *float64 `json:"asymmetry"`      // b/a at a tenth of the height
	PlatesTangent   *float64 `json:"plates_tangent"` // 16 (t/W)² by tangents
	// RetentionFactor is (t − t0)/t0 and Selectivity the ratio to the previous peak's; both want the hold-up time.
	RetentionFactor *float64 `json:"retention_factor"`
	Selectivity     *float64 `json:"selectivity"`
	PeakToValley    *float64 `json:"peak_to_valley"` // height over that of the valley to the previous peak
	CentroidMin     *float64 `json:"centroid_min"`
	VarianceMin2    *float64 `json:"variance_min2"`
	Skew            *float64 `json:"skew"`
	// SignalToNoiseRMS is H / σ, with the standard deviation of the noise of single samples; it is another quantity than 2 H / h.
	SignalToNoiseRMS *float64          `json:"signal_to_noise_rms"`
	Absent           map[string]string `json:"absent,omitempty"`
}

func (m *MoreMeasures) absent(measure, why string) {
	if m.Absent == nil {
		m.Absent = map[string]string{}
	}
	m.Absent[measure] = why
}

// absentAll is for a peak whose shape is lost.
func (m *MoreMeasures) absentAll(why string) {
	for _, measure := range []string{"width_half_min", "width_10_min", "width_5_min", "tangent_width_min", "tailing", "asymmetry", "plates", "plates_tangent", "centroid_min", "variance_min2", "skew"} {
		m.absent(measure, why)
	}
}

// shapeMeasures are those that are read off where the peak crosses a fraction of its height; crossing gives both times (s).
func (p *Peak) shapeMeasures(crossing func(fraction float64) (leftS, rightS float64, ok bool)) {
	apex := p.ApexMin * 60
	beyond := func(percent string) string {
		return "the peak does not come down to " + percent + " % of its height between its boundaries"
	}
	if l, r, ok := crossing(0.5); ok {
		w := (r - l) / 60
		n := 5.54 * (p.ApexMin / w) * (p.ApexMin / w)
		p.WidthHalfMin, p.Plates = &w, &n
	} else {
		p.absent("width_half_min", beyond("50"))
		p.absent("plates", beyond("50"))
	}
	if l, r, ok := crossing(0.1); ok && apex > l {
		w, a := (r-l)/60, (r-apex)/(apex-l)
		p.Width10Min, p.Asymmetry = &w, &a
	} else {
		p.absent("width_10_min", beyond("10"))
		p.absent("asymmetry", beyond("10"))
	}
	if l, r, ok := crossing(0.05); ok && apex > l {
		w, t := (r-l)/60, (r-l)/(2*(apex-l))
		p.Width5Min, p.Tailing = &w, &t
	} else {
		p.absent("width_5_min", beyond("5"))
		p.absent("tailing", beyond("5"))
	}
}

// tangentMeasures put tangents through the steepest places of both flanks, on the smoothed signal.
func (p *Peak) tangentMeasures(v *view, c candidate) {
	// A narrow window leaves the steepest place as steep as it is; noise wants a wider one.
	half := max(1, int(math.Round(c.on.width/10)))
	if p.Height < 50*v.noise {
		half = c.on.smooth.Half
	}
	first := max(0, int(c.start)-half)
	local := signal.Fit(v.clean[first:min(len(v.clean), int(c.end)+half+2)], half)
	steepest := func(from, to float64, sign float64) int {
		best := -1
		for i := max(0, int(math.Ceil(from))-first); i <= min(len(local.Slope)-1, int(to)-first); i++ {
			if best < 0 || sign*local.Slope[i] > sign*local.Slope[best] {
				best = i
			}
		}
		return best
	}
	meet := func(i int) (t float64, ok bool) { // where the tangent there meets the baseline
		at := v.timeS(float64(first + i))
		const step = 1e-3
		steep := local.Slope[i]/v.tr.StepS - (c.base.at(at+step)-c.base.at(at-step))/(2*step)
		return at - (local.Value[i]-c.base.at(at))/steep, steep != 0
	}
	left, right := steepest(c.start, c.apex, 1), steepest(c.apex, c.end, -1)
	why := "a flank has no inflection between the boundaries"
	if left < 0 || right < 0 || c.shoulder || float64(first+left) <= c.start+1 || float64(first+right) >= c.end-1 {
		p.absent("tangent_width_min", why)
		p.absent("plates_tangent", why)
		return
	}
	t0, ok0 := meet(left)
	t1, ok1 := meet(right)
	if !ok0 || !ok1 || t1 <= t0 {
		p.absent("tangent_width_min", why)
		p.absent("plates_tangent", why)
		return
	}
	w := (t1 - t0) / 60
	n := 16 * (p.ApexMin / w) * (p.ApexMin / w)
	p.TangentWidthMin, p.PlatesTangent = &w, &n
}

// moments are the centroid, the variance and the skew of the counted area.
func (p *Peak) moments(tr signal.Trace, c candidate, start, end float64) {
	var m0, m1 float64
	steps(tr, c.base, start, end, func(t0, y0, t1, y1 float64) {
		a := (t1 - t0) * (y1 + y0) / 2
		m0, m1 = m0+a, m1+a*(t0+t1)/2
	})
	const why = "the area does not allow it: much of it lies below the baseline"
	centre := m1 / m0
	var m2, m3 float64
	steps(tr, c.base, start, end, func(t0, y0, t1, y1 float64) {
		a, d := (t1-t0)*(y1+y0)/2, (t0+t1)/2-centre
		m2, m3 = m2+a*d*d, m3+a*d*d*d
	})
	if !(m0 > 0) || !(m2 > 0) || centre < start || centre > end {
		for _, measure := range []string{"centroid_min", "variance_min2", "skew"} {
			p.absent(measure, why)
		}
		return
	}
	centroid, variance := centre/60, m2/m0/3600
	skew := m3 / m0 / math.Pow(m2/m0, 1.5)
	p.CentroidMin, p.VarianceMin2, p.Skew = &centroid, &variance, &skew
}

// peakToValley is the height over that of the valley to the peak before, both above the baseline.
func peakToValley(v *view, before, c candidate) *float64 {
	valley := v.level(before.end) - c.base.at(v.timeS(before.end))
	if c.shape != nil || before.shape != nil || before.end != c.start || valley <= 0 {
		return nil
	}
	r := (v.apexLevel(c) - c.base.at(v.timeS(c.apex))) / valley
	return &r
}

// number counts peaks in their order and gives each its share of all.
func number(peaks []Peak) {
	areas, heights := 0.0, 0.0
	for _, p := range peaks {
		areas, heights = areas+math.Abs(p.AreaS), heights+math.Abs(p.Height)
	}
	for i := range peaks {
		p := &peaks[i]
		p.Number = i + 1
		p.AreaPercent, p.HeightPercent = 100*math.Abs(p.AreaS)/areas, 100*math.Abs(p.Height)/heights
	}
}

// summarise fills in what depends on the other peaks of the trace: numbers, percentages, resolution, signal-to-noise.
func summarise(tr signal.Trace, peaks []Peak, occupied []detected, s Settings, noise float64) {
	for _, p := range peaks {
		occupied = append(occupied, detected{p.StartMin, p.EndMin})
	}
	slices.SortFunc(occupied, func(a, b detected) int { return cmp.Compare(a.fromMin, b.fromMin) })
	number(peaks)
	for i := range peaks {
		p := &peaks[i]
		if i > 0 {
			p.parting(peaks[i-1])
		}
		if s.HoldUpMin > 0 {
			k := (p.ApexMin - s.HoldUpMin) / s.HoldUpMin
			p.RetentionFactor = &k
			if i > 0 && *peaks[i-1].RetentionFactor > 0 {
				alpha := k / *peaks[i-1].RetentionFactor
				p.Selectivity = &alpha
			}
		} else {
			p.absent("retention_factor", "the method has no hold-up time")
			p.absent("selectivity", "the method has no hold-up time")
		}
		if noise > 0 {
			rms := math.Abs(p.Height) / noise
			p.SignalToNoiseRMS = &rms
		}
		if h, ok := quietNear(tr, *p, occupied, s.NoiseWidths); ok && h > 0 {
			sn := 2 * math.Abs(p.Height) / h
			p.SignalToNoise = &sn
		} else {
			p.absent("signal_to_noise", fmt.Sprintf("no stretch of %g widths is free of peaks", s.NoiseWidths))
		}
	}
}

// parting is the resolution to the previous peak.
func (p *Peak) parting(previous Peak) {
	if r := resolution(previous, *p); r != nil {
		p.Resolution = r
		return
	}
	p.absent("resolution", "it or the previous peak has no width at half height")
}

// resolution is 1.18 (t2 - t1) / (W1 + W2) with widths at half height (see Measures); absent where a width is.
func resolution(a, b Peak) *float64 {
	if a.WidthHalfMin == nil || b.WidthHalfMin == nil {
		return nil
	}
	r := 1.18 * (b.ApexMin - a.ApexMin) / (*a.WidthHalfMin + *b.WidthHalfMin)
	return &r
}

// Resolution is that between any two peaks, as a method may ask for it; nil where one of them has no width at half height.
func Resolution(a, b Peak) *float64 {
	if b.ApexMin < a.ApexMin {
		a, b = b, a
	}
	return resolution(a, b)
}

// detected is a stretch of the run in which something was detected, whether it counts as a peak or was removed or left out.
type detected struct{ fromMin, toMin float64 }

// quietNear is the peak-to-peak noise in a stretch of so many widths in which nothing was detected, as near to the peak as
// there is one. Spans are ordered by where they begin.
func quietNear(tr signal.Trace, p Peak, occupied []detected, widths float64) (h float64, ok bool) {
	if p.WidthHalfMin == nil {
		return 0, false
	}
	need := widths * *p.WidthHalfMin
	best, at := math.Inf(1), 0.0
	consider := func(from, to float64) {
		if to-from < need {
			return
		}
		if from < p.ApexMin {
			from = to - need
		}
		if d := math.Abs(from + need/2 - p.ApexMin); d < best {
			best, at = d, from
		}
	}
	left := tr.StartS / 60
	for _, q := range occupied {
		consider(left, q.fromMin)
		left = max(left, q.toMin)
		if left-p.ApexMin > best { // what follows is further away
			break
		}
	}
	consider(left, tr.EndS()/60)
	if math.IsInf(best, 1) {
		return 0, false
	}
	return signal.PeakToPeak(tr, at*60, (at+need)*60)
}
