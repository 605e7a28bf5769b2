package lab

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"yugen/core/batch"
	"yugen/core/channels"
	"yugen/core/compounds"
	"yugen/core/peaks"
	"yugen/core/resolving"
	"yugen/core/spectra"
	"yugen/report"
	"yugen/store"
)

// ResolvedDetail is a stretch to be looked at.
type ResolvedDetail struct {
	resolving.Stretch
	Injections  []string            `json:"injections"` // names
	TimesMin    [][]float64         `json:"times_min"`  // of each injection's scans
	Measured    [][]float64         `json:"measured"`   // total signals
	Rest        [][]float64         `json:"rest"`       // what is left of them, in what noise would leave
	Components  []ResolvedComponent `json:"components"`
	Explained   float64             `json:"explained"`
	ExplainedBy []float64           `json:"explained_by"` // by so many components, from 1
	ChosenBy    string              `json:"chosen_by"`
	Given       int                 `json:"given"`
	Found       *FoundByItself      `json:"found"` // where another number was given, and it is known
	Doubts      []string            `json:"doubts"`
	Says        string              `json:"says"`
}

// FoundByItself is what a stretch holds where no number is given.
type FoundByItself struct {
	Compounds int     `json:"compounds"`
	Explained float64 `json:"explained"`
}

// ResolvedComponent is one component of a stretch.
type ResolvedComponent struct {
	Background bool          `json:"background"`
	ApexMin    float64       `json:"apex_min"`
	Index      *float64      `json:"index"`
	Explained  float64       `json:"explained"`
	Band       float64       `json:"band"`
	Spectrum   [][2]float64  `json:"spectrum"` // of 999 the largest
	Profiles   [][]float64   `json:"profiles"` // by injection
	Hits       []SpectrumHit `json:"hits"`
	Doubts     []string      `json:"doubts"`
	CutInTwo   bool          `json:"cut_in_two"` // perhaps one compound with another one here
	Found      int           `json:"found"`      // in how many injections it stands out of noise
}

// ResolvedStretchOf gives a stretch to be looked at; one that is not resolved yet is, now.
func (l *Lab) ResolvedStretchOf(ctx context.Context, batchID string, place int) (ResolvedDetail, error) {
	out := ResolvedDetail{Injections: []string{}, TimesMin: [][]float64{}, Measured: [][]float64{}, Rest: [][]float64{}, Components: []ResolvedComponent{}, ExplainedBy: []float64{}, Doubts: []string{}}
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return out, err
	}
	w, at, err := l.stretchAt(ctx, p.Batch, place)
	if err != nil {
		return out, err
	}
	piece, err := l.pieceAt(ctx, p.Batch, w, at)
	if err != nil {
		return out, err
	}
	out.Stretch, out.Given = at.Stretch, at.given
	if piece.err != "" {
		out.Says = piece.err
		return out, nil
	}
	for k, s := range piece.stack.Samples[:w.samples] {
		in, err := injection(p.Batch, w.ids[k])
		if err != nil {
			return out, err
		}
		times := make([]float64, len(s.TimesS))
		for i, at := range s.TimesS {
			times[i] = at / 60
		}
		out.Injections, out.TimesMin, out.Measured = append(out.Injections, in.Name), append(out.TimesMin, times), append(out.Measured, piece.totals[k])
		if k < len(piece.result.Rest) {
			out.Rest = append(out.Rest, piece.result.Rest[k])
		}
	}
	r := piece.result
	out.Explained, out.ExplainedBy, out.ChosenBy, out.Doubts = r.Explained, append(out.ExplainedBy, r.ExplainedBy...), r.ChosenBy, append(out.Doubts, r.Doubts...)
	for _, c := range r.Components {
		one := ResolvedComponent{Background: c.Background, ApexMin: c.ApexMin, Explained: c.Explained, Band: c.Band, Spectrum: componentLines(piece.stack, c), Doubts: c.Doubts, CutInTwo: c.CutInTwo, Hits: []SpectrumHit{}, Profiles: [][]float64{}}
		for _, s := range c.Samples[:w.samples] {
			one.Profiles = append(one.Profiles, s.Profile)
			if standsOut(s) {
				one.Found++
			}
		}
		if !c.Background {
			one.Index = indexAt(p, c.ApexMin)
			if one.Hits, err = l.likeComponent(ctx, piece.stack, c, one.Index, MostHits); err != nil {
				return out, err
			}
		}
		out.Components = append(out.Components, one)
	}
	out.Says = saysOfStretch(out)
	w.mu.Lock()
	itself, known := w.done[pieceKey(at.Stretch, 0)]
	w.mu.Unlock()
	if known && at.given > 0 && itself.err == "" {
		out.Found = &FoundByItself{Explained: itself.result.Explained}
		for _, c := range itself.result.Components {
			if !c.Background {
				out.Found.Compounds++
			}
		}
	}
	return out, nil
}

// askedStretch is a stretch with the number of compounds that a person gave it; 0 is found.
type askedStretch struct {
	resolving.Stretch
	given int
}

// stretchAt is the stretch of a place in the list.
func (l *Lab) stretchAt(ctx context.Context, b store.Batch, place int) (*wholeBatch, askedStretch, error) {
	w, err := l.whole(ctx, b)
	if err != nil {
		return nil, askedStretch{}, err
	}
	asked, err := l.resolvingAsked(ctx, b)
	if err != nil {
		return w, askedStretch{}, err
	}
	cuts := asked.cuts(w)
	if place < 0 || place >= len(cuts) {
		return w, askedStretch{}, fmt.Errorf("stretch %d: %w", place+1, store.ErrNotFound)
	}
	return w, askedStretch{cuts[place], asked.Numbers[stretchKey(cuts[place])]}, nil
}

// pieceAt is a stretch resolved, now where it is not yet.
func (l *Lab) pieceAt(ctx context.Context, b store.Batch, w *wholeBatch, at askedStretch) (resolvedPiece, error) {
	key := pieceKey(at.Stretch, at.given)
	w.mu.Lock()
	piece, done := w.done[key]
	w.mu.Unlock()
	if done {
		return piece, nil
	}
	piece, err := l.piece(ctx, b, w, at.Stretch, at.given)
	if err != nil {
		return piece, err
	}
	return piece, l.keepPiece(ctx, w, key, piece)
}

func saysOfStretch(d ResolvedDetail) string {
	compounds := 0
	for _, c := range d.Components {
		if !c.Background {
			compounds++
		}
	}
	counted := map[bool]string{true: "One compound explains", false: fmt.Sprintf("%d compounds explain", compounds)}[compounds == 1]
	if compounds == 0 {
		return "Nothing stands out of the noise here."
	}
	if compounds < len(d.Components) {
		counted = map[bool]string{true: "One compound and background explain", false: fmt.Sprintf("%d compounds and background explain", compounds)}[compounds == 1]
	}
	if d.Explained > 0.9995 {
		return counted + " all that was measured, but for noise."
	}
	return fmt.Sprintf("%s %.1f %% of what was measured.", counted, 100*d.Explained)
}

// ComponentNamed says that a component is a compound.
type ComponentNamed struct {
	Stretch   int    `json:"stretch"`
	Component int    `json:"component"`
	Name      string `json:"name"`
}

// NameComponent makes a component a compound of the method, looked for by the ion that is most its own, so that the next batch finds it without resolving.
func (l *Lab) NameComponent(ctx context.Context, batchID string, revision int, n ComponentNamed, who string) (store.Batch, error) {
	n.Name = strings.TrimSpace(n.Name)
	if n.Name == "" || len([]rune(n.Name)) > maxDocumentName {
		return store.Batch{}, refuseAt("/name", "a compound needs a name of at most %d letters", maxDocumentName)
	}
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return store.Batch{}, err
	}
	w, where, err := l.stretchAt(ctx, b, n.Stretch)
	if err != nil {
		return store.Batch{}, err
	}
	piece, err := l.pieceAt(ctx, b, w, where)
	if err != nil {
		return store.Batch{}, err
	}
	if piece.err != "" || n.Component < 0 || n.Component >= len(piece.result.Components) {
		return store.Batch{}, fmt.Errorf("component %d: %w", n.Component+1, store.ErrNotFound)
	}
	c := piece.result.Components[n.Component]
	if c.Background {
		return store.Batch{}, refuse("background is no compound")
	}
	at := mostItsOwn(piece, n.Component)
	signal := channels.Signal{Kind: channels.Ions, Places: []channels.Place{{At: at, Tolerance: 0.3}}}
	if piece.stack.Kind == spectra.Wavelength {
		signal = channels.Signal{Kind: channels.Wavelength, Places: []channels.Place{{At: at, Tolerance: 2}}}
	}
	why := fmt.Sprintf("%s at %.2f min, resolved from its neighbours, by %s", n.Name, c.ApexMin, signal.Title())
	return l.changeMethod(ctx, batchID, revision, why, who, func(_ *store.Tx, _ store.Batch, m *batch.Method) error {
		if slices.ContainsFunc(m.Compounds, func(o compounds.Compound) bool { return strings.EqualFold(o.Name, n.Name) }) {
			return refuseAt("/name", "the method has a compound called %s already", n.Name)
		}
		channel := ""
		for _, ch := range m.Channels {
			if ch.Signal.Key() == signal.Key() {
				channel = ch.ID
			}
		}
		if channel == "" {
			channel = freshChannelID(signal, m.Channels)
			m.Channels = append(slices.Clone(m.Channels), batch.Channel{ID: channel, Signal: signal, Peaks: peaks.Settings{Threshold: peaks.DefaultThreshold}})
		}
		m.Compounds = append(slices.Clone(m.Compounds), compounds.Compound{ID: compounds.FreshID(n.Name, m.Compounds), Name: n.Name, ExpectedMin: math.Round(1000*c.ApexMin) / 1000,
			Window: compounds.Window{Kind: compounds.Absolute, Value: resolvedWindow}, Rule: compounds.Nearest, Role: compounds.Target, Channel: channel})
		return nil
	})
}

// resolvedWindow is how far from its time a compound that was resolved is looked for, min.
const resolvedWindow = 0.06

// mostItsOwn is the mass by which a component is best told from the others: large in its spectrum, and little of theirs.
func mostItsOwn(piece resolvedPiece, component int) float64 {
	list := piece.result.Components
	total := func(c resolving.Component) (sum float64) {
		for _, s := range c.Samples {
			sum += s.AreaS
		}
		return sum
	}
	own := list[component]
	best, most := 0, -1.0
	for j := range piece.stack.Axis {
		all := 0.0
		for _, c := range list {
			all += c.Spectrum[j] * total(c)
		}
		if all <= 0 {
			continue
		}
		share := own.Spectrum[j] * total(own) / all
		if score := own.Spectrum[j] * share * share; score > most {
			best, most = j, score
		}
	}
	return piece.stack.Axis[best]
}

// resolvedTable is a resolved batch as it goes out, without what was left out.
func (l *Lab) resolvedTable(ctx context.Context, batchID string) (*report.Resolved, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return nil, err
	}
	w, err := l.Resolving(ctx, batchID, 1)
	if err != nil {
		return nil, err
	}
	out := report.Resolved{Samples: w.Samples, Standard: -1}
	for _, s := range w.Stretches {
		if s.State == "waiting" || s.State == "running" {
			out.Left++
		}
	}
	if len(w.Overlay) == 0 {
		out.Samples = nil
	}
	for _, r := range w.Rows {
		if r.Aside {
			continue
		}
		if slices.ContainsFunc(b.Version.Method.Compounds, func(c compounds.Compound) bool {
			return c.Role == compounds.InternalStandard && strings.EqualFold(c.Name, r.Name)
		}) {
			out.Standard = len(out.Rows)
		}
		out.Rows = append(out.Rows, report.ResolvedRow{ApexMin: r.ApexMin, Index: r.Index, Name: r.Name, Confirmed: r.Confirmed, Match: r.Match, Doubts: strings.Join(r.Doubts, " "), Areas: r.Amounts, Uncertain: r.Uncertain})
	}
	return &out, nil
}

// ResolvedFile is the table of a resolved batch as csv or xlsx.
func (l *Lab) ResolvedFile(ctx context.Context, batchID, as string) ([]byte, error) {
	out, err := l.resolvedTable(ctx, batchID)
	if err != nil {
		return nil, err
	}
	if as == "xlsx" {
		return out.XLSX()
	}
	return out.CSV()
}
