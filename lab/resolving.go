package lab

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"

	"yugen/core/batch"
	"yugen/core/channels"
	"yugen/core/compounds"
	"yugen/core/peaks"
	"yugen/core/resolving"
	"yugen/core/spectra"
	"yugen/jobs"
	"yugen/raw"
	"yugen/store"
)

// wholeBatches holds what was resolved of batches that were looked at last.
type wholeBatches struct {
	mu   sync.Mutex
	held []*wholeBatch
}

// wholeBatch is one of them: as long as its samples are the same.
type wholeBatch struct {
	batchID, inputs string
	kind            spectra.Kind
	ids             []string // of the injections that are resolved
	stretches       []resolving.Stretch
	traces          []resolving.Trace
	mu              sync.Mutex
	done            map[string]resolvedPiece // by stretch and number
	now             string                   // the stretch that is being resolved
}

type resolvedPiece struct {
	stack  resolving.Stack
	result resolving.Result
	err    string
}

const mostWholeBatches = 2

// resolvingAsked is what a person said of the resolving of a batch: which number of compounds a stretch holds.
type resolvingAsked struct {
	Numbers map[string]int `json:"numbers,omitempty"` // by stretch
}

// WholeBatch is a batch resolved, as far as it is.
type WholeBatch struct {
	Stretches []ResolvedStretch `json:"stretches"`
	Samples   []string          `json:"samples"` // names; their injections are averaged
	Rows      []ResolvedRow     `json:"rows"`    // compounds in order of time
	TimesMin  []float64         `json:"times_min"`
	Overlay   [][]float64       `json:"overlay"` // the total signal of each injection at these times
	Running   bool              `json:"running"`
	Unit      string            `json:"unit"` // of the amounts
}

// ResolvedStretch is where one stretch stands.
type ResolvedStretch struct {
	resolving.Stretch
	State     string  `json:"state"`     // waiting, running, done or failed
	Compounds int     `json:"compounds"` // found, without background
	Given     int     `json:"given"`     // how many a person said; 0 is found by itself
	Explained float64 `json:"explained"`
	Doubtful  bool    `json:"doubtful"`
	Message   string  `json:"message,omitempty"`
}

// ResolvedRow is one compound over all samples.
type ResolvedRow struct {
	Stretch   int        `json:"stretch"`   // its place in the list
	Component int        `json:"component"` // and that of the component in it
	ApexMin   float64    `json:"apex_min"`
	Index     *float64   `json:"index"`
	Name      string     `json:"name"` // proposed by a library, or that of a compound of the method
	Confirmed bool       `json:"confirmed"`
	Match     *float64   `json:"match"`
	Doubts    []string   `json:"doubts"`
	Amounts   []*float64 `json:"amounts"` // by sample
}

// ResolvedDetail is a stretch to be looked at.
type ResolvedDetail struct {
	resolving.Stretch
	Injections  []string            `json:"injections"` // names
	TimesMin    [][]float64         `json:"times_min"`  // of each injection's scans
	Measured    [][]float64         `json:"measured"`   // total signals
	Components  []ResolvedComponent `json:"components"`
	Explained   float64             `json:"explained"`
	ExplainedBy []float64           `json:"explained_by"` // by so many components, from 1
	ChosenBy    string              `json:"chosen_by"`
	Given       int                 `json:"given"`
	Doubts      []string            `json:"doubts"`
	Says        string              `json:"says"`
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
	Found      int           `json:"found"` // in how many injections it stands out of noise
}

// whole is what is held of a batch; it is made where there is nothing yet.
func (l *Lab) whole(ctx context.Context, b store.Batch) (*wholeBatch, error) {
	var list []store.Injection
	for _, in := range b.Injections {
		if in.Role == batch.Sample && in.Typed == nil {
			list = append(list, in)
		}
	}
	var ids, hashes []string
	for _, in := range list {
		ids, hashes = append(ids, in.ID), append(hashes, strings.Join(in.Hashes(), "+"))
	}
	inputs := store.Hash([]byte(strings.Join(hashes, " ")))
	l.wholes.mu.Lock()
	defer l.wholes.mu.Unlock()
	if k := slices.IndexFunc(l.wholes.held, func(w *wholeBatch) bool { return w.batchID == b.ID && w.inputs == inputs }); k >= 0 {
		return l.wholes.held[k], nil
	}
	w := &wholeBatch{batchID: b.ID, inputs: inputs, done: map[string]resolvedPiece{}}
	for k, in := range list {
		run, err := l.anySpectra(ctx, in)
		if errors.Is(err, store.ErrNotFound) || err == nil && w.kind != "" && w.kind != run.Describe().Kind {
			continue
		}
		if err != nil {
			return nil, err
		}
		w.kind = run.Describe().Kind
		w.ids = append(w.ids, ids[k])
		w.traces = append(w.traces, resolving.Trace{TimesS: run.Times(), Values: run.Total()})
	}
	w.stretches = resolving.Stretches(w.traces)
	l.wholes.held = append(l.wholes.held, w)
	if len(l.wholes.held) > mostWholeBatches {
		l.wholes.held = l.wholes.held[1:]
	}
	return w, nil
}

func stretchKey(s resolving.Stretch) string { return fmt.Sprintf("%.3f-%.3f", s.FromMin, s.ToMin) }

func (l *Lab) resolvingAsked(ctx context.Context, b store.Batch) (resolvingAsked, error) {
	list, hold, err := documents[resolvingAsked](ctx, l, b.ID, store.Resolving)
	for k := range list {
		if list[k].Name == b.ID {
			return hold[k], err
		}
	}
	return resolvingAsked{}, err
}

func pieceKey(s resolving.Stretch, given int) string {
	return fmt.Sprintf("%s %d", stretchKey(s), given)
}

// Resolving says how far a batch is resolved, with the compounds that are found.
func (l *Lab) Resolving(ctx context.Context, batchID string) (WholeBatch, error) {
	out := WholeBatch{Stretches: []ResolvedStretch{}, Samples: []string{}, Rows: []ResolvedRow{}, TimesMin: []float64{}, Overlay: [][]float64{}, Unit: "signal × s"}
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return out, err
	}
	w, err := l.whole(ctx, p.Batch)
	if err != nil {
		return out, err
	}
	asked, err := l.resolvingAsked(ctx, p.Batch)
	if err != nil {
		return out, err
	}
	out.overlay(w)
	for _, row := range p.Result.Samples {
		out.Samples = append(out.Samples, row.Name)
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	out.Running = w.now != ""
	for k, s := range w.stretches {
		one := ResolvedStretch{Stretch: s, State: "waiting", Given: asked.Numbers[stretchKey(s)]}
		piece, done := w.done[pieceKey(s, one.Given)]
		switch {
		case done && piece.err != "":
			one.State, one.Message = "failed", piece.err
		case done:
			one.State, one.Explained = "done", piece.result.Explained
			rows, err := l.rowsOf(ctx, p, w, k, piece)
			if err != nil {
				return out, err
			}
			one.Compounds = len(rows)
			for _, r := range rows {
				one.Doubtful = one.Doubtful || len(r.Doubts) > 0
			}
			out.Rows = append(out.Rows, rows...)
		case w.now == stretchKey(s):
			one.State = "running"
		}
		out.Stretches = append(out.Stretches, one)
	}
	return out, nil
}

// overlayPoints is how many points of each injection are drawn over the run.
const overlayPoints = 700

func (b *WholeBatch) overlay(w *wholeBatch) {
	if len(w.traces) == 0 || len(w.traces[0].TimesS) < 2 {
		return
	}
	times := w.traces[0].TimesS
	from, to := times[0], times[len(times)-1]
	for k := range overlayPoints {
		b.TimesMin = append(b.TimesMin, (from+(to-from)*float64(k)/(overlayPoints-1))/60)
	}
	for _, t := range w.traces {
		line, i := make([]float64, overlayPoints), 0
		for k := range line {
			until := 60 * b.TimesMin[k]
			for ; i < len(t.TimesS) && t.TimesS[i] <= until; i++ {
				line[k] = math.Max(line[k], t.Values[i])
			}
			if line[k] == 0 && k > 0 {
				line[k] = line[k-1]
			}
		}
		b.Overlay = append(b.Overlay, line)
	}
}

// rowsOf are the compounds of a stretch.
func (l *Lab) rowsOf(ctx context.Context, p Processed, w *wholeBatch, stretch int, piece resolvedPiece) ([]ResolvedRow, error) {
	var rows []ResolvedRow
	for k, c := range piece.result.Components {
		if c.Background {
			continue
		}
		row := ResolvedRow{Stretch: stretch, Component: k, ApexMin: c.ApexMin, Doubts: slices.Clone(c.Doubts), Index: indexAt(p, c.ApexMin)}
		hits, err := l.likeComponent(ctx, piece.stack, c, row.Index, 2)
		if err != nil {
			return nil, err
		}
		row.named(p, piece.stack.Kind, hits)
		row.Amounts = amountsOf(p, w, c)
		rows = append(rows, row)
	}
	return rows, nil
}

func indexAt(p Processed, atMin float64) *float64 {
	if ladder := p.Batch.Version.Method.Ladder; ladder != nil {
		if index, ok := ladder.Index(atMin); ok {
			return &index
		}
	}
	return nil
}

// named takes the name of a compound of the method that is expected there, or proposes that of the best hit; a doubt stays beside it.
func (r *ResolvedRow) named(p Processed, kind spectra.Kind, hits []SpectrumHit) {
	if len(hits) > 0 {
		r.Match = &hits[0].Forward
	}
	for _, c := range p.Batch.Version.Method.Compounds {
		if place := c.Place(); math.Abs(place.ExpectedMin-r.ApexMin) <= place.HalfMin && len(hits) > 0 && strings.EqualFold(hits[0].Name, c.Name) {
			r.Name, r.Confirmed = c.Name, true
			return
		}
	}
	if like := (Identified{Kind: kind}); len(hits) == 0 || hits[0].Forward < like.least() {
		return
	}
	r.Name = hits[0].Name
	switch best := hits[0]; {
	case best.Forward < doubtfulMatch:
		r.Doubts = append(r.Doubts, fmt.Sprintf("The match with %s is only %.0f.", best.Name, best.Forward))
	case best.Off != nil && math.Abs(*best.Off) > likeIndex:
		r.Doubts = append(r.Doubts, fmt.Sprintf("The index is off by %.0f from that of %s.", *best.Off, best.Name))
	case len(hits) > 1 && best.Forward-hits[1].Forward < (Identified{Kind: kind}).alike():
		r.Doubts = append(r.Doubts, fmt.Sprintf("%s fits as well as %s.", hits[1].Name, best.Name))
	}
}

// doubtfulMatch is the match below which a name is doubted.
const doubtfulMatch = 80.0

func (l *Lab) likeComponent(ctx context.Context, stack resolving.Stack, c resolving.Component, index *float64, most int) ([]SpectrumHit, error) {
	found := Identified{Kind: stack.Kind, Index: index, Hits: []SpectrumHit{}}
	found.Peaks = componentLines(stack, c)
	usual := spectra.Usual
	err := l.search(ctx, &found, IdentifyAsked{Weights: &usual, Within: spectra.UsualWithin, Hits: most})
	return found.Hits, err
}

// componentLines are the lines of a component, of 999 the largest; what is below a thousandth is left out.
func componentLines(stack resolving.Stack, c resolving.Component) [][2]float64 {
	largest := slices.Max(c.Spectrum)
	lines := [][2]float64{}
	for j, v := range c.Spectrum {
		if v > 0.001*largest {
			lines = append(lines, [2]float64{stack.Axis[j], 999 * v / largest})
		}
	}
	return lines
}

// amountsOf are the areas of a component, by sample: the mean of its injections; absent where it does not stand out of noise.
func amountsOf(p Processed, w *wholeBatch, c resolving.Component) []*float64 {
	out := make([]*float64, len(p.Result.Samples))
	for k, row := range p.Result.Samples {
		sum, n := 0.0, 0
		for _, id := range row.InjectionIDs {
			if at := slices.Index(w.ids, id); at >= 0 && standsOut(c.Samples[at]) {
				sum, n = sum+c.Samples[at].AreaS, n+1
			}
		}
		if n > 0 {
			mean := sum / float64(n)
			out[k] = &mean
		}
	}
	return out
}

// standsOut tells whether there is more of a component than noise would give.
func standsOut(s resolving.Portion) bool { return s.AreaS > 3*s.SE && s.AreaS > 0 }

// ResolveBatch resolves all stretches that are not yet, one after the other. It can be stopped; what is done stays.
func (l *Lab) ResolveBatch(ctx context.Context, batchID, who string) error {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return err
	}
	w, err := l.whole(ctx, b)
	if err != nil {
		return err
	}
	if len(w.ids) == 0 {
		return refuse("there is no sample with spectra in %s; give injections the role sample at the Batch station", b.Name)
	}
	l.Jobs.Start(ctx, resolveJob(b, who, ""), func(ctx context.Context, p *jobs.Progress) (any, error) { return nil, l.resolveAll(ctx, batchID, p) })
	return nil
}

func resolveJob(b store.Batch, who, id string) jobs.Asked {
	return jobs.Asked{ID: id, Kind: jobs.Resolve, Key: "resolve " + b.ID, BatchID: b.ID, Subject: b.Name, Who: who, Args: "{}"}
}

func (l *Lab) resolveAll(ctx context.Context, batchID string, progress *jobs.Progress) error {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return err
	}
	w, err := l.whole(ctx, b)
	if err != nil {
		return err
	}
	for k, s := range w.stretches {
		if err := ctx.Err(); err != nil {
			return err
		}
		asked, err := l.resolvingAsked(ctx, b)
		if err != nil {
			return err
		}
		if err := l.resolveOne(ctx, b, w, s, asked.Numbers[stretchKey(s)]); err != nil {
			return err
		}
		progress.Set(k+1, len(w.stretches))
		l.watch.tell(Event{BatchID: batchID, Revision: b.Revision})
	}
	return nil
}

func (l *Lab) resolveOne(ctx context.Context, b store.Batch, w *wholeBatch, s resolving.Stretch, given int) error {
	key := pieceKey(s, given)
	w.mu.Lock()
	_, done := w.done[key]
	if !done {
		w.now = stretchKey(s)
	}
	w.mu.Unlock()
	if done {
		return nil
	}
	piece, err := l.piece(ctx, b, w, s, given)
	w.mu.Lock()
	defer w.mu.Unlock()
	w.now = ""
	if err == nil {
		w.done[key] = piece
	}
	return err
}

// piece resolves one stretch; what cannot be resolved says why.
func (l *Lab) piece(ctx context.Context, b store.Batch, w *wholeBatch, s resolving.Stretch, given int) (resolvedPiece, error) {
	var out resolvedPiece
	runs := make([][]spectra.Scan, len(w.ids))
	for k, id := range w.ids {
		in, err := injection(b, id)
		if err != nil {
			return out, err
		}
		var run *raw.Run
		if run, err = l.anySpectra(ctx, in); err != nil {
			return out, err
		}
		if runs[k], err = scansOf(run, s.FromMin, s.ToMin); err != nil {
			return out, err
		}
	}
	stack, err := resolving.NewStack(w.kind, w.ids, runs)
	if err == nil {
		out.stack = stack
		out.result, err = resolving.Resolve(stack, resolving.Options{Compounds: given})
	}
	if err != nil {
		out.err = err.Error()
	}
	return out, nil
}

// ResolvedStretchOf gives a stretch to be looked at; one that is not resolved yet is, now.
func (l *Lab) ResolvedStretchOf(ctx context.Context, batchID string, place int) (ResolvedDetail, error) {
	out := ResolvedDetail{Injections: []string{}, TimesMin: [][]float64{}, Measured: [][]float64{}, Components: []ResolvedComponent{}, ExplainedBy: []float64{}, Doubts: []string{}}
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return out, err
	}
	w, piece, given, err := l.pieceAt(ctx, p.Batch, place)
	if err != nil {
		return out, err
	}
	out.Stretch, out.Given = w.stretches[place], given
	if piece.err != "" {
		out.Says = piece.err
		return out, nil
	}
	for k, s := range piece.stack.Samples {
		in, err := injection(p.Batch, w.ids[k])
		if err != nil {
			return out, err
		}
		times, total := make([]float64, len(s.TimesS)), make([]float64, len(s.TimesS))
		for i, row := range s.Values {
			times[i] = s.TimesS[i] / 60
			for _, v := range row {
				total[i] += v
			}
		}
		out.Injections, out.TimesMin, out.Measured = append(out.Injections, in.Name), append(out.TimesMin, times), append(out.Measured, total)
	}
	r := piece.result
	out.Explained, out.ExplainedBy, out.ChosenBy, out.Doubts = r.Explained, append(out.ExplainedBy, r.ExplainedBy...), r.ChosenBy, append(out.Doubts, r.Doubts...)
	for _, c := range r.Components {
		one := ResolvedComponent{Background: c.Background, ApexMin: c.ApexMin, Explained: c.Explained, Band: c.Band, Spectrum: componentLines(piece.stack, c), Doubts: c.Doubts, Hits: []SpectrumHit{}, Profiles: [][]float64{}}
		for _, s := range c.Samples {
			one.Profiles = append(one.Profiles, s.Profile)
			if standsOut(s) {
				one.Found++
			}
		}
		if !c.Background {
			one.Index = indexAt(p, c.ApexMin)
			if one.Hits, err = l.likeComponent(ctx, piece.stack, c, one.Index, 4); err != nil {
				return out, err
			}
		}
		out.Components = append(out.Components, one)
	}
	out.Says = saysOfStretch(out)
	return out, nil
}

func (l *Lab) pieceAt(ctx context.Context, b store.Batch, place int) (*wholeBatch, resolvedPiece, int, error) {
	w, err := l.whole(ctx, b)
	if err != nil {
		return nil, resolvedPiece{}, 0, err
	}
	if place < 0 || place >= len(w.stretches) {
		return w, resolvedPiece{}, 0, fmt.Errorf("stretch %d: %w", place+1, store.ErrNotFound)
	}
	asked, err := l.resolvingAsked(ctx, b)
	if err != nil {
		return w, resolvedPiece{}, 0, err
	}
	s := w.stretches[place]
	given := asked.Numbers[stretchKey(s)]
	w.mu.Lock()
	piece, done := w.done[pieceKey(s, given)]
	w.mu.Unlock()
	if done {
		return w, piece, given, nil
	}
	if piece, err = l.piece(ctx, b, w, s, given); err != nil {
		return w, piece, given, err
	}
	w.mu.Lock()
	w.done[pieceKey(s, given)] = piece
	w.mu.Unlock()
	return w, piece, given, nil
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

// GiveNumber says how many compounds a stretch holds; 0 lets it be found. The study keeps it.
func (l *Lab) GiveNumber(ctx context.Context, batchID string, place, number int, who string) (ResolvedDetail, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return ResolvedDetail{}, err
	}
	w, err := l.whole(ctx, b)
	if err != nil {
		return ResolvedDetail{}, err
	}
	if place < 0 || place >= len(w.stretches) {
		return ResolvedDetail{}, fmt.Errorf("stretch %d: %w", place+1, store.ErrNotFound)
	}
	if number < 0 || number > resolving.Most {
		return ResolvedDetail{}, refuse("between 1 and %d compounds are resolved in a stretch, not %d", resolving.Most, number)
	}
	key := stretchKey(w.stretches[place])
	var now resolvingAsked
	what := fmt.Sprintf("%d compounds from %s min", number, key)
	if number == 0 {
		what = fmt.Sprintf("the number of compounds from %s min is found again", key)
	}
	err = changeDocument(ctx, l, batchID, store.Document{Kind: store.Resolving, Name: batchID, Author: who}, what, &now, func(a *resolvingAsked) error {
		if a.Numbers == nil {
			a.Numbers = map[string]int{}
		}
		a.Numbers[key] = number
		if number == 0 {
			delete(a.Numbers, key)
		}
		return nil
	})
	if err != nil {
		return ResolvedDetail{}, err
	}
	return l.ResolvedStretchOf(ctx, batchID, place)
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
	_, piece, _, err := l.pieceAt(ctx, b, n.Stretch)
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

// resolvedAgain goes on with a job that was stopped with the program.
func (l *Lab) resolvedAgain(ctx context.Context, j store.KeptJob) error {
	b, err := l.Batch(ctx, j.BatchID)
	if err != nil {
		return err
	}
	_, err = l.Jobs.Do(ctx, resolveJob(b, j.Who, j.ID), func(ctx context.Context, p *jobs.Progress) (any, error) {
		return nil, l.resolveAll(ctx, j.BatchID, p)
	})
	return err
}
