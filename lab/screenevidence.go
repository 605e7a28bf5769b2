package lab

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"
	"unicode"
	"unicode/utf8"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/screening"
	"yugen/core/spectra"
	"yugen/store"
)

// ScreenEvidence is what speaks for and against a compound in an injection, to be looked at.
type ScreenEvidence struct {
	Sample      string             `json:"sample"`
	CompoundID  string             `json:"compound_id"`
	Compound    string             `json:"compound"`
	Evidence    screening.Evidence `json:"evidence"`
	Says        string             `json:"says"`
	Channel     string             `json:"channel"`  // in which it is looked for, as people read it
	Unit        string             `json:"unit"`     // of the traces
	Own         Piece              `json:"own"`      // around the peak, or around where it is expected
	Standard    Piece              `json:"standard"` // the same stretch of the standard, as high as the own peak
	StandardIn  string             `json:"standard_in,omitempty"`
	FromMin     float64            `json:"from_min"` // the stretch of all traces
	ToMin       float64            `json:"to_min"`
	Kind        spectra.Kind       `json:"kind,omitempty"` // of the spectra; empty where there are none
	Spectrum    [][2]float64       `json:"spectrum"`       // of 100 the largest
	Reference   [][2]float64       `json:"reference"`
	Ions        []ScreenIon        `json:"ions"` // of the qualifiers, in their order
	Limit       float64            `json:"limit"`
	LimitUnit   string             `json:"limit_unit"`
	ExpectedMin float64            `json:"expected_min"`
}

// Piece is a stretch of a trace, less its lowest value there.
type Piece struct {
	TimesMin []float64 `json:"times_min"`
	Values   []float64 `json:"values"`
}

// ScreenIon is the trace of a qualifier, and what it would be if the ratio were as expected.
type ScreenIon struct {
	Of       string `json:"of"`
	Trace    Piece  `json:"trace"`
	Expected Piece  `json:"expected"` // empty where the ratio is not known
}

// aroundPeak is how much of a trace is shown on each side of a peak, min.
const aroundPeak = 0.3

// maxPiece bounds the points of a piece; of more, every so-manieth is sent.
const maxPiece = 1200

// ScreenEvidenceOf gives the evidence of a compound in an injection.
func (l *Lab) ScreenEvidenceOf(ctx context.Context, batchID, injectionID, compoundID string) (ScreenEvidence, error) {
	out := ScreenEvidence{CompoundID: compoundID, Own: emptyPiece(), Standard: emptyPiece(), Spectrum: [][2]float64{}, Reference: [][2]float64{}, Ions: []ScreenIon{}}
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return out, err
	}
	in, err := injection(p.Batch, injectionID)
	if err != nil {
		return out, err
	}
	all, err := l.screen(ctx, p)
	if err != nil {
		return out, err
	}
	c, known := compoundOf(p.Batch.Version.Method, compoundID)
	if !known {
		return out, fmt.Errorf("compound %s: %w", compoundID, store.ErrNotFound)
	}
	out.Sample, out.Compound = in.Name, c.Name
	cell, screened := out.in(all, injectionID)
	if !screened { // a standard, say, which shows how it looks where it is known to be
		w := l.screenWork(p)
		out.Evidence = batch.ScreenOne(p.Batch.Version.Method, entriesOf(p.Batch), p.Result, injectionID, c, w.asked(ctx))
		if w.err != nil {
			return out, w.err
		}
	}
	out.Says = saysOfCell(cell, out.Evidence)
	out.Limit, out.LimitUnit = all.Rules.Limits[compoundID], p.Batch.Version.Method.ReportedUnit()
	if in.Typed != nil {
		return out, nil
	}
	if err := out.traces(ctx, l, p, in, c); err != nil {
		return out, err
	}
	return out, out.spectra(ctx, l, p, c)
}

func emptyPiece() Piece { return Piece{[]float64{}, []float64{}} }

func compoundOf(m batch.Method, id string) (compounds.Compound, bool) {
	for _, c := range m.Compounds {
		if c.ID == id {
			return c, true
		}
	}
	return compounds.Compound{}, false
}

// in finds the cell of the injection.
func (e *ScreenEvidence) in(all batch.Screened, injectionID string) (batch.ScreenedCell, bool) {
	for k, c := range all.Compounds {
		if c.ID != e.CompoundID {
			continue
		}
		for _, s := range all.Samples {
			for _, one := range s.Cells[k].Evidence {
				if one.InjectionID == injectionID {
					e.Sample, e.Evidence = s.Name, one
					return s.Cells[k], true
				}
			}
		}
	}
	return batch.ScreenedCell{}, false
}

// traces reads the stretch around the peak in all channels that speak of it.
func (e *ScreenEvidence) traces(ctx context.Context, l *Lab, p Processed, in store.Injection, c compounds.Compound) error {
	m := p.Batch.Version.Method
	channel, _ := m.Channel(c.Channel)
	e.ExpectedMin = c.ExpectedMin
	if own := peakOf(p, in.ID, c.ID); own != nil {
		e.ExpectedMin = own.ApexMin
	}
	e.FromMin, e.ToMin = math.Max(0, e.ExpectedMin-aroundPeak), e.ExpectedMin+aroundPeak
	signal, err := l.signalOf(ctx, in, channel.Signal)
	if err != nil {
		return err
	}
	if e.Channel = channel.Signal.Title(); e.Channel == "" {
		e.Channel = signal.Trace.Name
	}
	e.Unit = signal.Trace.Unit
	e.Own = pieceOf(signal, e.FromMin, e.ToMin)
	if e.Evidence.Standard != "" {
		if err := e.standard(ctx, l, p, channel, c); err != nil {
			return err
		}
	}
	for _, q := range c.Qualifiers {
		further, _ := m.Channel(q.Channel)
		s, err := l.signalOf(ctx, in, further.Signal)
		if errors.Is(err, errNoSignal) { // which its missing mark says
			continue
		}
		if err != nil {
			return err
		}
		ion := ScreenIon{Of: m.ChannelTitle(q.Channel), Trace: pieceOf(s, e.FromMin, e.ToMin), Expected: emptyPiece()}
		for _, mark := range e.Evidence.Marks {
			if mark.Kind == screening.Ratio && mark.Of == ion.Of && mark.Expected != nil {
				ion.Expected = scaled(e.Own, *mark.Expected)
			}
		}
		e.Ions = append(e.Ions, ion)
	}
	return nil
}

func (e *ScreenEvidence) standard(ctx context.Context, l *Lab, p Processed, channel batch.Channel, c compounds.Compound) error {
	standard, err := injection(p.Batch, e.Evidence.Standard)
	if err != nil {
		return err
	}
	e.StandardIn = standard.Name
	s, err := l.signalOf(ctx, standard, channel.Signal)
	if err != nil {
		return err
	}
	own, theirs := peakOf(p, e.Evidence.InjectionID, c.ID), peakOf(p, standard.ID, c.ID)
	e.Standard = pieceOf(s, e.FromMin, e.ToMin)
	if own != nil && theirs != nil && theirs.Height > 0 {
		e.Standard = scaled(e.Standard, own.Height/theirs.Height)
	}
	return nil
}

func peakOf(p Processed, injectionID, compoundID string) *batch.NamedPeak {
	for k := range p.Result.Injections {
		if p.Result.Injections[k].ID == injectionID {
			return p.Result.Injections[k].PeakOf(compoundID)
		}
	}
	return nil
}

func pieceOf(s batch.Signal, fromMin, toMin float64) Piece {
	out := emptyPiece()
	lowest := math.Inf(1)
	var at []int
	for k, v := range s.Trace.Values {
		if t := s.Trace.TimeS(k) / 60; fromMin <= t && t <= toMin {
			at = append(at, k)
			lowest = math.Min(lowest, v)
		}
	}
	step := max(1, (len(at)+maxPiece-1)/maxPiece)
	for k := 0; k < len(at); k += step {
		out.TimesMin, out.Values = append(out.TimesMin, s.Trace.TimeS(at[k])/60), append(out.Values, s.Trace.Values[at[k]]-lowest)
	}
	return out
}

func scaled(p Piece, by float64) Piece {
	out := Piece{p.TimesMin, make([]float64, len(p.Values))}
	for k, v := range p.Values {
		out.Values[k] = v * by
	}
	return out
}

// spectra puts the spectrum of the peak over what it is held against.
func (e *ScreenEvidence) spectra(ctx context.Context, l *Lab, p Processed, c compounds.Compound) error {
	w := l.screenWork(p)
	own, err := w.spectrum(ctx, e.Evidence.InjectionID, c)
	if err != nil || len(own.lines) == 0 {
		return err
	}
	reference, _, err := w.reference(ctx, e.Evidence.Standard, c, own)
	e.Kind = own.kind
	e.Spectrum, e.Reference = own.lines.Normalised(100).Pairs(), reference.Normalised(100).Pairs()
	return err
}

// saysOfCell says in a sentence what speaks for the compound, and what does not.
func saysOfCell(cell batch.ScreenedCell, e screening.Evidence) string {
	names := map[screening.Kind]string{screening.Retention: "retention", screening.Spectrum: "spectrum", screening.Ratio: "ratio", screening.SignalToNoise: "signal"}
	var with, against []string
	missing := ""
	for _, m := range e.Marks {
		name := names[m.Kind]
		switch {
		case m.Inside && m.Kind != screening.SignalToNoise:
			with = appendOnce(with, name)
		case m.Inside:
		case m.Kind == screening.Ratio && m.Value == nil:
			missing = m.Of
		default:
			against = appendOnce(against, name)
		}
	}
	var say string
	switch {
	case !e.Found:
		say = "Nothing elutes at its time."
	case e.Word == screening.BelowLimit:
		say = "There is something at its time, but less than is told."
	case len(against) == 0 && missing == "" && len(with) > 0:
		say = upperFirst(listed(with)) + agree(len(with)) + "; nobody has looked yet."
	case len(against) == 0 && missing == "":
		say = "It was found, and no evidence is asked for."
	default:
		if len(with) > 0 {
			say = upperFirst(listed(with)) + agree(len(with)) + "; "
		}
		switch {
		case len(against) > 0:
			say += listed(against) + map[bool]string{true: " does not", false: " do not"}[len(against) == 1]
		default:
			say += missing + " shows no peak"
		}
		say = upperFirst(say) + "."
	}
	if d := cell.Decision; d != nil && !cell.Stale && e.Word == screening.Proposed {
		say = strings.TrimSuffix(say, "; nobody has looked yet.") + "."
	}
	if cell.Others > 0 {
		say += fmt.Sprintf(" %d of %d injections say otherwise.", cell.Others, len(cell.Evidence))
	}
	return say
}

func agree(n int) string {
	if n == 1 {
		return " agrees"
	}
	return " agree"
}

func appendOnce(list []string, word string) []string {
	for _, w := range list {
		if w == word {
			return list
		}
	}
	return append(list, word)
}

// listed joins words as a sentence does.
func listed(words []string) string {
	if len(words) < 2 {
		return strings.Join(words, "")
	}
	return strings.Join(words[:len(words)-1], ", ") + " and " + words[len(words)-1]
}

func upperFirst(s string) string {
	first, size := utf8.DecodeRuneInString(s)
	if size == 0 {
		return s
	}
	return string(unicode.ToUpper(first)) + s[size:]
}
