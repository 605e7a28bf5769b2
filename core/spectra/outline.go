package spectra

import (
	"slices"
	"sort"
)

// About says what spectra of a run have in common.
type About struct {
	Kind      Kind     `json:"kind"`
	Level     int      `json:"level,omitempty"` // of mass scans: 1 for full scans, 2 for fragments; 0 for wavelengths
	Polarity  Polarity `json:"polarity,omitempty"`
	Profile   bool     `json:"profile,omitempty"`   // mass scans that are not centroided
	Precursor float64  `json:"precursor,omitempty"` // m/z that all scans of level 2 and above share; 0 where they do not
	Unit      string   `json:"unit,omitempty"`      // of the intensities
}

// Describe says what it is of.
func (a About) Describe() About { return a }

// Same tells whether spectra are of one run: levels and polarities are never mixed, as their ions are not the same signal; nor are points of a profile and
// centroids.
func (a About) Same(b About) bool {
	return a.Kind == b.Kind && a.Level == b.Level && a.Polarity == b.Polarity && a.Profile == b.Profile
}

// Joined is what is common to spectra of which one more is read.
func (a About) Joined(b About) About {
	if a.Precursor != b.Precursor {
		a.Precursor = 0
	}
	return a
}

// Source is spectra of one run from which signals are derived: in memory, or read from where they are kept. All values are in time order, one a scan.
type Source interface {
	Describe() About
	Times() []float64 // s
	Total() []float64
	BasePeak() []float64
	Ions(bands ...Band) ([]float64, error)
	At(b Band) ([]float64, error)
	Product(precursor, product Band) (timesS, values []float64, err error)
}

// Outline is a run without its scans: what is known of each at a glance.
type Outline struct {
	About
	TimesS     []float64
	Totals     []float64 // the sum of all intensities of each scan
	BasePeaks  []float64 // the largest
	Precursors []float64 // m/z, of fragments; empty where no scan has one
	Points     int
	Reach      Band // the least and greatest place on the second axis
}

// Add takes a scan into the outline.
func (o *Outline) Add(s Scan) {
	if s.Precursor != 0 && o.Precursors == nil {
		o.Precursors = make([]float64, len(o.TimesS))
	}
	if o.Precursors != nil {
		o.Precursors = append(o.Precursors, s.Precursor)
	}
	o.TimesS, o.Totals, o.BasePeaks = append(o.TimesS, s.TimeS), append(o.Totals, sum(s.Values)), append(o.BasePeaks, s.largest())
	if n := len(s.Axis); n > 0 {
		if o.Points == 0 || s.Axis[0] < o.Reach.Low {
			o.Reach.Low = s.Axis[0]
		}
		if o.Points == 0 || s.Axis[n-1] > o.Reach.High {
			o.Reach.High = s.Axis[n-1]
		}
		o.Points += n
	}
}

// Order is the order of scans by time where they did not come in it; nil where they did.
func (o Outline) Order() []int {
	if sort.Float64sAreSorted(o.TimesS) {
		return nil
	}
	order := make([]int, len(o.TimesS))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int {
		switch {
		case o.TimesS[a] < o.TimesS[b]:
			return -1
		case o.TimesS[a] > o.TimesS[b]:
			return 1
		}
		return 0
	})
	return order
}

// Sorted are values of the scans in the order of time.
func Sorted(values []float64, order []int) []float64 {
	if order == nil {
		return values
	}
	out := make([]float64, len(order))
	for i, k := range order {
		out[i] = values[k]
	}
	return out
}

// Outline is the run at a glance.
func (r Run) Outline() Outline {
	o := Outline{About: r.About}
	for _, s := range r.Scans {
		o.Add(s)
	}
	return o
}

// Taker takes the spectra of a file one by one, in the order of the file, so that a large one never lies in memory as a whole.
type Taker interface {
	Take(of About, s Scan) error
}

// Collected keeps all spectra that it takes in memory, by run.
type Collected struct{ Runs []Run }

// Take adds a scan to its run.
func (c *Collected) Take(of About, s Scan) error {
	for i := range c.Runs {
		if r := &c.Runs[i]; r.Same(of) {
			r.About = r.Joined(of)
			r.Scans = append(r.Scans, s)
			return nil
		}
	}
	c.Runs = append(c.Runs, Run{About: of, Scans: []Scan{s}})
	return nil
}

// Glanced keeps the outlines of the spectra that it takes, and hands them on where there is somebody who wants them.
type Glanced struct {
	Outlines []Outline
	To       Taker // nil for nobody
}

// Take adds a scan to the outline of its run. Its points are sorted.
func (g *Glanced) Take(of About, s Scan) error {
	s.sort()
	k := slices.IndexFunc(g.Outlines, func(o Outline) bool { return o.Same(of) })
	if k < 0 {
		k = len(g.Outlines)
		g.Outlines = append(g.Outlines, Outline{About: of})
	}
	g.Outlines[k].About = g.Outlines[k].Joined(of)
	g.Outlines[k].Add(s)
	if g.To == nil {
		return nil
	}
	return g.To.Take(of, s)
}
