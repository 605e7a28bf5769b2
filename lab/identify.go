package lab

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"math"
	"slices"

	"yugen/core/batch"
	"yugen/core/peaks"
	"yugen/core/spectra"
	"yugen/raw"
	"yugen/store"
)

// IdentifyAsked says which spectrum is taken, and how it is searched.
type IdentifyAsked struct {
	AtMin   float64 `json:"at_min"`            // the apex of a peak, or any moment
	Channel string  `json:"channel,omitempty"` // of the peak, by id; empty is the first
	// The stretch that the spectrum is the mean of, min; none is that of the peak above half its height.
	FromMin *float64 `json:"from_min,omitempty"`
	ToMin   *float64 `json:"to_min,omitempty"`
	// The stretches of background, min; none are those beside the peak.
	Background [][2]float64       `json:"background,omitempty"`
	Plain      bool               `json:"plain,omitempty"` // without a background
	Weights    *spectra.Weighting `json:"weights,omitempty"`
	Within     float64            `json:"within,omitempty"` // m/z within which lines pair
	Hits       int                `json:"hits,omitempty"`
}

// Identified is a spectrum with what it is like.
type Identified struct {
	Kind     spectra.Kind  `json:"kind"`
	Unit     string        `json:"unit"`
	AtMin    float64       `json:"at_min"`
	FromMin  float64       `json:"from_min"`
	ToMin    float64       `json:"to_min"`
	Scans    int           `json:"scans"`
	Stretch  [][2]float64  `json:"background"` // that was taken off, min
	Peaks    [][2]float64  `json:"peaks"`      // of 999 the largest
	TakenOff [][2]float64  `json:"taken_off"`  // the background on the same scale
	Largest  float64       `json:"largest"`    // in the unit
	Index    *float64      `json:"index"`      // of the apex; absent without a ladder and outside it
	Hits     []SpectrumHit `json:"hits"`
	Of       int           `json:"of"` // how many spectra were searched
	// Says is what can be said of the hits in a sentence.
	Says string `json:"says"`
}

// SpectrumHit is an entry of a library that is like a spectrum; matches of 0 to 100.
type SpectrumHit struct {
	LibraryEntry
	Forward float64  `json:"forward"`
	Reverse float64  `json:"reverse"`
	Matched int      `json:"matched"`
	Off     *float64 `json:"off"` // how far the index of the peak is from that of the entry
	// Combined is the forward match times exp(−½ (off ÷ 12)²): an index that is off by 12 takes two fifths of it; absent where there is no index.
	Combined *float64 `json:"combined"`
	// Strange is the share of the signal, in percent, in lines that the entry does not have.
	Strange float64 `json:"strange_percent"`
	// Rejected is why somebody said that the peak is not this; empty where nobody did.
	Rejected string `json:"rejected,omitempty"`
}

// Bounds and habits of identifying.
const (
	mostHits       = 50
	usualHits      = 8
	besideWidths   = 2.5 // how wide a stretch of background is, in half widths of the peak
	nearWidths     = 6   // how far from it at most, as near
	furthestWidths = 24  // and at all
	meetingWidth   = 0.4 // to each side of where it meets its neighbour
	mostMeanScans  = 4000
	likeIndex      = 6.0  // index units within which an index agrees
	alikeWithin    = 2.0  // points of match within which two hits are alike
	nothingLike    = 60.0 // below which nothing is like it
	usualHalfWidth = 0.03 // min, where there is no peak
)

// Identify takes the spectrum of a peak, less its background, and searches it in all libraries.
func (l *Lab) Identify(ctx context.Context, batchID, injectionID string, asked IdentifyAsked) (Identified, error) {
	out := Identified{Kind: spectra.Mass, Hits: []SpectrumHit{}, Stretch: [][2]float64{}, Peaks: [][2]float64{}, TakenOff: [][2]float64{}}
	if asked.Weights == nil {
		usual := spectra.Usual
		asked.Weights = &usual
	}
	if err := asked.Weights.Validate(); err != nil {
		return out, refuse("%s", err)
	}
	if asked.Within == 0 {
		asked.Within = spectra.UsualWithin
	}
	if !(asked.Within > 0 && asked.Within <= 5) || asked.Hits < 0 || asked.Hits > mostHits || math.IsNaN(asked.AtMin) {
		return out, refuse("a spectrum is searched for 1 to %d hits, within 0 to 5 m/z", mostHits)
	}
	if asked.Hits == 0 {
		asked.Hits = usualHits
	}
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return out, err
	}
	in, err := injection(p.Batch, injectionID)
	if err != nil {
		return out, err
	}
	run, err := l.anySpectra(ctx, in)
	if err != nil {
		return out, err
	}
	out.Kind = run.Describe().Kind
	peak := peakAt(p, injectionID, asked.Channel, asked.AtMin)
	if err := out.take(run, peak, allPeaks(p, injectionID), asked); err != nil {
		return out, err
	}
	out.Unit = run.Describe().Unit
	if ladder := p.Batch.Version.Method.Ladder; ladder != nil {
		if index, ok := ladder.Index(out.AtMin); ok {
			out.Index = &index
		}
	}
	if err := l.search(ctx, &out, asked); err != nil {
		return out, err
	}
	rejected, err := l.rejections(ctx, batchID)
	for k := range out.Hits {
		for _, r := range rejected {
			if r.holds(out.Hits[k].Name, out.AtMin) {
				out.Hits[k].Rejected = r.Why
			}
		}
	}
	out.Says = out.verdict()
	return out, err
}

// massesOf are the full scans of an injection.
func (l *Lab) massesOf(ctx context.Context, in store.Injection) (*raw.Run, error) {
	return l.runOf(ctx, in, "mass spectra", func(a spectra.About) bool { return a.Kind == spectra.Mass && a.Level <= 1 })
}

// runOf is the first run of spectra of an injection that is of a kind; what was typed has none.
func (l *Lab) runOf(ctx context.Context, in store.Injection, what string, is func(spectra.About) bool) (*raw.Run, error) {
	for _, hash := range in.Hashes() {
		if in.Typed != nil {
			break
		}
		runs, err := l.spectraOf(ctx, hash)
		if err != nil {
			return nil, err
		}
		for _, r := range runs {
			if is(r.Describe()) {
				return r, nil
			}
		}
	}
	return nil, fmt.Errorf("%s of %s: %w", what, in.Name, store.ErrNotFound)
}

// peakAt is the peak of a channel that holds a moment; nil where none does.
func peakAt(p Processed, injectionID, channelID string, atMin float64) *peaks.Peak {
	var best *batch.NamedPeak
	list := peaksOf(p, injectionID, channelID)
	for k := range list {
		if q := &list[k]; q.StartMin <= atMin && atMin <= q.EndMin && (best == nil || math.Abs(q.ApexMin-atMin) < math.Abs(best.ApexMin-atMin)) {
			best = q
		}
	}
	if best != nil {
		return &best.Peak
	}
	return nil
}

// peaksOf are the peaks of a channel of an injection; of an empty name, or one that it does not have, those of the first.
func peaksOf(p Processed, injectionID, channelID string) []batch.NamedPeak {
	for k := range p.Result.Injections {
		in := &p.Result.Injections[k]
		if in.ID != injectionID {
			continue
		}
		for _, c := range in.EachChannel() {
			if c.Channel == channelID {
				return c.Peaks
			}
		}
		return in.Peaks
	}
	return nil
}

// allPeaks are the peaks of all channels of an injection: what elutes in any of them is no background.
func allPeaks(p Processed, injectionID string) (list []batch.NamedPeak) {
	for k := range p.Result.Injections {
		if in := &p.Result.Injections[k]; in.ID == injectionID {
			for _, c := range in.EachChannel() {
				list = append(list, c.Peaks...)
			}
		}
	}
	return list
}

// halfWidth is half the width of a peak at half its height, min; without a peak it is that of an ordinary one.
func halfWidth(peak *peaks.Peak) float64 {
	switch {
	case peak == nil:
		return usualHalfWidth
	case peak.WidthHalfMin != nil:
		return *peak.WidthHalfMin / 2
	}
	return (peak.EndMin - peak.StartMin) / 4
}

// take fills in the spectrum.
func (i *Identified) take(run *raw.Run, peak *peaks.Peak, others []batch.NamedPeak, asked IdentifyAsked) error {
	i.AtMin = asked.AtMin
	half := halfWidth(peak)
	if peak != nil {
		i.AtMin = peak.ApexMin
	}
	from, to := i.AtMin-half, i.AtMin+half
	if asked.FromMin != nil && asked.ToMin != nil {
		from, to = *asked.FromMin, *asked.ToMin
	}
	if !(from <= to) {
		return refuse("the stretch from %g to %g min is none", from, to)
	}
	s := stretches{i.AtMin, from, to, asked.Background}
	if len(asked.Background) == 0 && !asked.Plain {
		s.background = beside(i.AtMin, half, peak, others)
	}
	taken, err := s.mean(run)
	if err != nil {
		return err
	}
	i.Stretch = append(i.Stretch, taken.backgrounds...)
	i.FromMin, i.ToMin, i.Scans = taken.scans[0].TimeS/60, taken.scans[len(taken.scans)-1].TimeS/60, len(taken.scans)
	i.Largest = taken.lines.Largest()
	if i.Largest > 0 {
		i.Peaks = taken.lines.Normalised(999).Pairs()
		for _, l := range taken.off {
			i.TakenOff = append(i.TakenOff, [2]float64{l.At, l.Height / i.Largest * 999})
		}
	}
	return nil
}

func ignoredAs(err error) error {
	if errors.Is(err, raw.ErrAbsent) {
		return fmt.Errorf("a spectrum there: %w", store.ErrNotFound)
	}
	return err
}

// beside are the stretches at both sides of a peak where nothing elutes: near it as wide as there is room, else a narrow one where it meets its neighbour if both
// are down there, else one further off. A side that has none is left out; without any the stretches next to the peak are taken.
func beside(atMin, half float64, peak *peaks.Peak, others []batch.NamedPeak) [][2]float64 {
	b := besides{half: half, start: atMin - 3*half, end: atMin + 3*half}
	if peak != nil {
		b.start, b.end = math.Min(b.start, peak.StartMin), math.Max(b.end, peak.EndMin)
	}
	for k := range others { // what has its apex there is the same compound in another channel
		if peak == nil || math.Abs(others[k].ApexMin-peak.ApexMin) > half {
			b.others = append(b.others, others[k].Peak)
		}
	}
	var list [][2]float64
	for _, side := range []float64{-1, 1} {
		if s, found := b.on(side, peak); found {
			list = append(list, s)
		}
	}
	if len(list) == 0 {
		wide := besideWidths * half
		return [][2]float64{{b.start - wide, b.start}, {b.end, b.end + wide}}
	}
	return list
}

// besides looks for background beside a peak, from start to end.
type besides struct {
	half, start, end float64
	others           []peaks.Peak
}

func (b besides) on(side float64, peak *peaks.Peak) ([2]float64, bool) {
	for _, wide := range []float64{besideWidths, besideWidths / 2, besideWidths / 4} {
		if s, found := b.free(side, wide, nearWidths); found {
			return s, true
		}
	}
	if s, found := b.meeting(side, peak); found {
		return s, true
	}
	return b.free(side, besideWidths, furthestWidths)
}

// free is the nearest stretch that no peak touches; widths are in half widths of the peak.
func (b besides) free(side, wide, furthest float64) ([2]float64, bool) {
	for step := 0.0; step <= furthest; step += 0.25 {
		from, to := b.start-(step+wide)*b.half, b.start-step*b.half
		if side > 0 {
			from, to = b.end+step*b.half, b.end+(step+wide)*b.half
		}
		touched := false
		for k := range b.others {
			touched = touched || b.others[k].StartMin < to && from < b.others[k].EndMin
		}
		if from >= 0 && !touched {
			return [2]float64{from, to}, true
		}
	}
	return [2]float64{}, false
}

// meeting is where the peak meets its neighbour, if both are so far down there that what they leave is less than noise: three half widths from either apex, which of
// a Gaussian are 3.5 standard deviations.
func (b besides) meeting(side float64, peak *peaks.Peak) ([2]float64, bool) {
	if peak == nil {
		return [2]float64{}, false
	}
	at := peak.StartMin
	if side > 0 {
		at = peak.EndMin
	}
	if math.Abs(at-peak.ApexMin) < 3*b.half {
		return [2]float64{}, false
	}
	for k := range b.others {
		if o := &b.others[k]; o.StartMin <= at+meetingWidth*b.half && at-meetingWidth*b.half <= o.EndMin && math.Abs(at-o.ApexMin) < 3*halfWidth(o) {
			return [2]float64{}, false
		}
	}
	return [2]float64{at - meetingWidth*b.half, at + meetingWidth*b.half}, true
}

func scansOf(run *raw.Run, fromMin, toMin float64) ([]spectra.Scan, error) {
	var list []spectra.Scan
	err := run.Scans(60*fromMin, 60*toMin, func(_ int, s spectra.Scan) error {
		if len(list) >= mostMeanScans {
			return refuse("a spectrum is the mean of at most %d scans", mostMeanScans)
		}
		list = append(list, s)
		return nil
	})
	return list, err
}

// search looks for the spectrum in all libraries.
func (l *Lab) search(ctx context.Context, out *Identified, asked IdentifyAsked) error {
	if out.Kind == spectra.Wavelength {
		return l.searchWavelengths(ctx, out, asked)
	}
	library, entries, err := l.searched(ctx, *asked.Weights)
	if err != nil {
		return err
	}
	out.Of = len(entries)
	query, err := spectra.LinesOf(out.Peaks)
	if err != nil {
		return err
	}
	if len(query) == 0 {
		return nil
	}
	for _, h := range library.Search(query, asked.Within, asked.Hits) {
		e := entries[h.Place]
		hit := SpectrumHit{LibraryEntry: e, Forward: 100 * h.Forward, Reverse: 100 * h.Reverse, Matched: h.Matched, Strange: strange(query, library.Entries[h.Place].Lines, asked.Within)}
		out.add(hit)
	}
	return nil
}

// searchWavelengths looks for spectra of wavelengths, by the cosine of the contrast angle; there are never so many that an index were worth while.
func (l *Lab) searchWavelengths(ctx context.Context, out *Identified, asked IdentifyAsked) error {
	entries, err := l.ofKind(ctx, spectra.Wavelength)
	if err != nil {
		return err
	}
	out.Of = len(entries)
	query, err := spectra.SpectrumOf(spectra.Wavelength, out.Peaks)
	if err != nil || len(query) == 0 {
		return err
	}
	for _, hit := range likeWavelengths(query, entries, asked.Hits) {
		out.add(hit)
	}
	return nil
}

// likeWavelengths are the entries most like a spectrum of wavelengths.
func likeWavelengths(query spectra.Lines, entries []LibraryEntry, most int) []SpectrumHit {
	list := make([]SpectrumHit, len(entries))
	for k, e := range entries {
		like := 100 * spectra.Likeness(spectra.Wavelength, query, e.entry().Lines, spectra.Usual, spectra.UsualWithin)
		list[k] = SpectrumHit{LibraryEntry: e, Forward: like, Reverse: like, Matched: len(query)}
	}
	slices.SortStableFunc(list, func(a, b SpectrumHit) int { return cmp.Compare(b.Forward, a.Forward) })
	return list[:min(most, len(list))]
}

// add puts a hit to the others, with how far off its index is.
func (i *Identified) add(hit SpectrumHit) {
	if i.Index != nil && hit.Index != nil {
		off := *i.Index - *hit.Index
		combined := hit.Forward * math.Exp(-off*off/(8*likeIndex*likeIndex))
		hit.Off, hit.Combined = &off, &combined
	}
	i.Hits = append(i.Hits, hit)
}

// strange is the share of the heights in lines without a partner, in percent.
func strange(query, entry spectra.Lines, within float64) float64 {
	total, alone := 0.0, 0.0
	for _, q := range query {
		total += q.Height
		near := false
		for _, e := range entry {
			near = near || math.Abs(q.At-e.At) <= within
		}
		if !near {
			alone += q.Height
		}
	}
	if total == 0 {
		return 0
	}
	return 100 * alone / total
}

// Broad bands of wavelengths are much more alike than lines of masses: they differ in the last points of a match.
const (
	nothingLikeWavelengths = 95.0 // 18 degrees
	alikeWavelengths       = 0.2
)

// least is the match below which nothing is like the spectrum.
func (i Identified) least() float64 {
	if i.Kind == spectra.Wavelength {
		return nothingLikeWavelengths
	}
	return nothingLike
}

// alike is how near two matches are that tell nothing apart.
func (i Identified) alike() float64 {
	if i.Kind == spectra.Wavelength {
		return alikeWavelengths
	}
	return alikeWithin
}

// verdict says what spectra and index say together, and what they do not.
func (i Identified) verdict() string {
	var hits []SpectrumHit
	for _, h := range i.Hits {
		if h.Rejected == "" {
			hits = append(hits, h)
		}
	}
	switch {
	case len(i.Peaks) == 0:
		return "There is no signal here that a spectrum could be taken of."
	case i.Of == 0:
		return "There is no library yet to look in."
	case len(hits) == 0 || hits[0].Forward < i.least():
		return "Nothing like it is in these libraries."
	}
	best := hits[0]
	agrees := func(h SpectrumHit) bool { return h.Off != nil && math.Abs(*h.Off) <= likeIndex }
	if len(hits) > 1 && best.Forward-hits[1].Forward < i.alike() {
		second := hits[1]
		switch {
		case agrees(best) && !agrees(second) && second.Off != nil:
			return fmt.Sprintf("%s fits the spectrum as well; the index, %.0f, tells them apart: %s %.0f, %s %.0f.", second.Name, *i.Index, best.Name, *best.LibraryEntry.Index, second.Name, *second.LibraryEntry.Index)
		case agrees(second) && !agrees(best) && best.Off != nil:
			return fmt.Sprintf("%s and %s fit the spectrum alike; the index, %.0f, speaks for %s.", best.Name, second.Name, *i.Index, second.Name)
		}
		return fmt.Sprintf("%s and %s fit the spectrum alike, and nothing here tells them apart.", best.Name, second.Name)
	}
	switch {
	case best.Off == nil && i.Index == nil:
		return fmt.Sprintf("%s fits best. There is no index here to bear it out.", best.Name)
	case best.Off == nil:
		return fmt.Sprintf("%s fits best. The library does not say its index.", best.Name)
	case agrees(best):
		return fmt.Sprintf("%s fits best, and its index agrees: %.0f here, %.0f in the library.", best.Name, *i.Index, *best.LibraryEntry.Index)
	}
	return fmt.Sprintf("%s fits best, but its index does not: %.0f here, %.0f in the library.", best.Name, *i.Index, *best.LibraryEntry.Index)
}
