package signal

import (
	"math"
	"slices"
)

// madToSD turns a median absolute deviation of normal noise into its standard deviation.
const madToSD = 1.4826022185056018

// WhiteNoise is a robust standard deviation of the sample-to-sample noise: the median absolute second difference,
// which neither drift nor peaks of more than a few samples inflate. For a signal rounded to a grid, where most second
// differences are zero, the middle nine tenths of them are taken by root mean square instead.
func WhiteNoise(y []float64) float64 {
	if len(y) < 3 {
		return 0
	}
	// A few thousand of them tell the median to a percent.
	stride := 1 + len(y)/8192
	d := make([]float64, (len(y)-3)/stride+1)
	for k := range d {
		i := k * stride
		d[k] = math.Abs((y[i] - y[i+1]) - (y[i+1] - y[i+2]))
	}
	return fromSecondDifferences(d)
}

// WhiteNoise is the same of a trace's own samples, whatever their times: each is held against the straight line between its neighbours,
// and what white noise does to that difference is known for every spacing. An interpolated grid would show far too little.
func (t Trace) WhiteNoise() float64 {
	if t.TimesS == nil || t.Len() < 3 {
		return WhiteNoise(t.Values)
	}
	stride := 1 + t.Len()/8192
	d := make([]float64, (t.Len()-3)/stride+1)
	for k := range d {
		i := k*stride + 1
		f := (t.TimesS[i] - t.TimesS[i-1]) / (t.TimesS[i+1] - t.TimesS[i-1])
		off := t.Values[i] - (1-f)*t.Values[i-1] - f*t.Values[i+1]
		d[k] = math.Abs(off) * math.Sqrt(6/(1+f*f+(1-f)*(1-f)))
	}
	return fromSecondDifferences(d)
}

// fromSecondDifferences is the noise behind absolute second differences; it puts them in another order.
func fromSecondDifferences(d []float64) float64 {
	distinct := 0
	for _, v := range d {
		if v > 0 {
			distinct++
		}
	}
	rootSix := math.Sqrt(6)
	if distinct > len(d)*9/10 {
		return nth(d, len(d)/2) * madToSD / rootSix
	}
	slices.Sort(d)
	kept := d[:len(d)*9/10]
	sum := 0.0
	for _, v := range kept {
		sum += v * v
	}
	// The inner nine tenths of a normal distribution have 0.7906 of its standard deviation.
	return math.Sqrt(sum/float64(len(kept))) / 0.7906 / rootSix
}

// QuietLevel is the noise of a filtered signal whose mean is zero where nothing happens: the signal is cut into blocks,
// each block gives a robust standard deviation, and a low quantile of those is taken, so that it holds while peaks fill
// up to three quarters of the trace, and also for noise that is not white.
func QuietLevel(filtered []float64, block int) float64 {
	block = max(block, 16)
	blocks := len(filtered) / block
	if blocks < 4 {
		return spread(filtered, nil)
	}
	// Some dozens of blocks tell the quantile.
	stride := 1 + blocks/64
	levels := make([]float64, 0, blocks/stride+1)
	var held [33]float64
	for b := 0; b < blocks; b += stride {
		levels = append(levels, spread(filtered[b*block:(b+1)*block], held[:0]))
	}
	slices.Sort(levels)
	return levels[len(levels)/4]
}

// nth is the value that would stand at k if the values were in order; it moves them about (Hoare's selection).
func nth(v []float64, k int) float64 {
	low, high := 0, len(v)-1
	for low < high {
		pivot := v[(low+high)/2]
		i, j := low, high
		for i <= j {
			for v[i] < pivot {
				i++
			}
			for v[j] > pivot {
				j--
			}
			if i <= j {
				v[i], v[j] = v[j], v[i]
				i, j = i+1, j-1
			}
		}
		switch {
		case k <= j:
			high = j
		case k >= i:
			low = i
		default:
			return v[k]
		}
	}
	return v[k]
}

// spread is a robust standard deviation of some thirty of the values, in the room that is given.
func spread(v, a []float64) float64 {
	stride := 1 + len(v)/32
	for i := 0; i < len(v); i += stride {
		a = append(a, math.Abs(v[i]))
	}
	return nth(a, len(a)/2) * madToSD
}

// PeakToPeak is the greatest less the least value of the trace between two times (s), less the straight drift through
// the stretch. ok is false with fewer than MinPoints samples there.
func PeakToPeak(t Trace, fromS, toS float64) (h float64, ok bool) {
	first, last := t.Index(fromS), t.Index(toS)
	n := last - first + 1
	if n < MinPoints {
		return 0, false
	}
	var sx, sy, sxx, sxy float64
	for i := first; i <= last; i++ {
		x, y := t.TimeS(i)-fromS, t.Values[i]
		sx, sy, sxx, sxy = sx+x, sy+y, sxx+x*x, sxy+x*y
	}
	slope := (float64(n)*sxy - sx*sy) / (float64(n)*sxx - sx*sx)
	low, high := math.Inf(1), math.Inf(-1)
	for i := first; i <= last; i++ {
		r := t.Values[i] - slope*(t.TimeS(i)-fromS)
		low, high = math.Min(low, r), math.Max(high, r)
	}
	return high - low, true
}
