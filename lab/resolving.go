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
	ids             []string // of the injections that are resolved: samples, and after them blanks
	samples         int      // so many of them are samples
	stretches       []resolving.Stretch
	traces          []resolving.Trace
	mu              sync.Mutex
	done            map[string]resolvedPiece // by stretch and number
	now             string                   // the stretch that is being resolved
}

type resolvedPiece struct {
	stack  resolving.Stack // without its values, which take much room: only their totals are kept
	totals [][]float64
	result resolving.Result
	err    string
}

const mostWholeBatches = 2

// WholeBatch is a batch resolved, as far as it is.
type WholeBatch struct {
	Stretches []ResolvedStretch `json:"stretches"`
	Samples   []string          `json:"samples"` // names; their injections are averaged
	Rows      []ResolvedRow     `json:"rows"`    // compounds in order of time
	TimesMin  []float64         `json:"times_min"`
	Overlay   [][]float64       `json:"overlay"` // the total signal of each injection at these times
	Running   bool              `json:"running"`
	ByHand    bool              `json:"by_hand"` // the stretches were set by a person
	Unit      string            `json:"unit"`    // of the amounts
}

// ResolvedStretch is where one stretch stands.
type ResolvedStretch struct {
	resolving.Stretch
	State     string  `json:"state"`     // waiting, running, done or failed
	Compounds int     `json:"compounds"` // found, without background
	Given     int     `json:"given"`     // how many a person said; 0 is found by itself
	Explained float64 `json:"explained"`
	Doubtful  bool    `json:"doubtful"`
	// Doubts are those about the stretch as a whole, as what stays unexplained.
	Doubts  []string `json:"doubts"`
	Message string   `json:"message,omitempty"`
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
	Hits      []Likeness `json:"hits"` // as many as were asked for, the best first
	Doubts    []string   `json:"doubts"`
	Amounts   []*float64 `json:"amounts"`   // by sample
	Uncertain []*float64 `json:"uncertain"` // relative standard uncertainty of each amount
	Aside     bool       `json:"aside"`     // left out by a person
}

// Likeness is a spectrum of a library that a component is like.
type Likeness struct {
	Name  string   `json:"name"`
	Match float64  `json:"match"`
	Off   *float64 `json:"off"` // by which its index differs
}

// whole is what is held of a batch; it is made where there is nothing yet.
func (l *Lab) whole(ctx context.Context, b store.Batch) (*wholeBatch, error) {
	var list []store.Injection
	for _, role := range []batch.Role{batch.Sample, batch.Blank} { // what is in a blank, too, did not come from the sample
		for _, in := range b.Injections {
			if in.Role == role && in.Typed == nil {
				list = append(list, in)
			}
		}
	}
	text := resolving.Edition
	for _, in := range list {
		text += fmt.Sprintf(" %s %s %s", in.ID, in.Role, strings.Join(in.Hashes(), "+"))
	}
	inputs := store.Hash([]byte(text))
	l.wholes.mu.Lock()
	defer l.wholes.mu.Unlock()
	if k := slices.IndexFunc(l.wholes.held, func(w *wholeBatch) bool { return w.batchID == b.ID && w.inputs == inputs }); k >= 0 {
		return l.wholes.held[k], nil
	}
	w := &wholeBatch{batchID: b.ID, inputs: inputs, done: map[string]resolvedPiece{}}
	for _, in := range list {
		run, err := l.anySpectra(ctx, in)
		if errors.Is(err, store.ErrNotFound) || err == nil && w.kind != "" && w.kind != run.Describe().Kind {
			continue
		}
		if err != nil {
			return nil, err
		}
		times := run.Times()
		if in.Role == batch.Blank && (w.samples == 0 || !covers(times, w.traces[0].TimesS)) {
			continue // a blank that ends before the samples do would leave stretches without it
		}
		w.kind = run.Describe().Kind
		w.ids = append(w.ids, in.ID)
		if in.Role == batch.Sample {
			w.samples++
			w.traces = append(w.traces, resolving.Trace{TimesS: times, Values: run.Total()})
		}
	}
	w.stretches = resolving.Stretches(w.traces)
	if err := l.keptPieces(ctx, w); err != nil {
		return nil, err
	}
	l.wholes.held = append(l.wholes.held, w)
	if len(l.wholes.held) > mostWholeBatches {
		l.wholes.held = l.wholes.held[1:]
	}
	return w, nil
}

// covers tells whether a run begins and ends as another does, but for two scans.
func covers(times, others []float64) bool {
	if len(times) < 2 || len(others) == 0 {
		return false
	}
	slack := 2 * (times[1] - times[0])
	return times[0] <= others[0]+slack && times[len(times)-1] >= others[len(others)-1]-slack
}

// MostHits is how many spectra of libraries are told of a component at most.
const MostHits = 10

// Resolving says how far a batch is resolved, with the compounds that are found and so many spectra that each is like.
func (l *Lab) Resolving(ctx context.Context, batchID string, hits int) (WholeBatch, error) {
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
	out.Running, out.ByHand = w.now != "", len(asked.Stretches) > 0
	for k, s := range asked.cuts(w) {
		one := ResolvedStretch{Stretch: s, State: "waiting", Doubts: []string{}, Given: asked.Numbers[stretchKey(s)]}
		piece, done := w.done[pieceKey(s, one.Given)]
		switch {
		case done && piece.err != "":
			one.State, one.Message = "failed", piece.err
		case done:
			one.State, one.Explained = "done", piece.result.Explained
			rows, err := l.rowsOf(ctx, p, w, k, piece, max(2, min(hits, MostHits)))
			if err != nil {
				return out, err
			}
			one.Compounds = len(rows)
			for _, d := range piece.result.Doubts {
				if d != resolving.MinorsMissed && len(rows) > 0 { // that there is nothing is no doubt
					one.Doubts, one.Doubtful = append(one.Doubts, d), true
				}
			}
			for i := range rows {
				rows[i].Hits = rows[i].Hits[:min(len(rows[i].Hits), max(1, hits))]
				rows[i].Aside = slices.Contains(asked.Aside, asideKey(s, piece.result.Components[rows[i].Component]))
				one.Doubtful = one.Doubtful || len(rows[i].Doubts) > 0 && !rows[i].Aside
			}
			out.Rows = append(out.Rows, rows...)
		case w.now == stretchKey(s):
			one.State = "running"
		}
		out.Stretches = append(out.Stretches, one)
	}
	out.doubtTwins()
	return out, nil
}

// doubtTwins says where two compounds bear one name.
func (b *WholeBatch) doubtTwins() {
	first := map[string]int{}
	for k, r := range b.Rows {
		key := strings.ToLower(r.Name)
		if r.Name == "" || r.Aside {
			continue
		}
		other, twice := first[key]
		if !twice {
			first[key] = k
			continue
		}
		for _, pair := range [][2]int{{k, other}, {other, k}} {
			one := &b.Rows[pair[0]]
			one.Doubts = append(one.Doubts, fmt.Sprintf("%s stands at %.2f min, too: two compounds of one name.", r.Name, b.Rows[pair[1]].ApexMin))
			b.Stretches[one.Stretch].Doubtful = true
		}
	}
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
func (l *Lab) rowsOf(ctx context.Context, p Processed, w *wholeBatch, stretch int, piece resolvedPiece, most int) ([]ResolvedRow, error) {
	var rows []ResolvedRow
	for k, c := range piece.result.Components {
		if c.Background {
			continue
		}
		row := ResolvedRow{Stretch: stretch, Component: k, ApexMin: c.ApexMin, Doubts: slices.Clone(c.Doubts), Index: indexAt(p, c.ApexMin), Hits: []Likeness{}}
		hits, err := l.likeComponent(ctx, piece.stack, c, row.Index, most)
		if err != nil {
			return nil, err
		}
		row.named(p, piece.stack.Kind, hits)
		for _, h := range hits {
			row.Hits = append(row.Hits, Likeness{h.Name, h.Forward, h.Off})
		}
		row.amounts(p, w, c)
		if says := inBlanks(p.Batch, w, piece.stack, c); says != "" {
			row.Doubts = append(row.Doubts, says)
		}
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

// componentLines are the lines of a component, of 999 the largest. Of masses what is below a thousandth is left out; where light is not absorbed is part of a spectrum.
func componentLines(stack resolving.Stack, c resolving.Component) [][2]float64 {
	largest := slices.Max(c.Spectrum)
	lines := [][2]float64{}
	for j, v := range c.Spectrum {
		if stack.Kind == spectra.Wavelength || v > 0.001*largest {
			lines = append(lines, [2]float64{stack.Axis[j], 999 * v / largest})
		}
	}
	return lines
}

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
	if w.samples == 0 {
		return refuse("there is no sample with spectra in %s; give injections the role sample at the Batch station", b.Name)
	}
	l.Jobs.Start(ctx, resolveJob(b, who, ""), func(ctx context.Context, p *jobs.Progress) (any, error) { return l.resolveAll(ctx, batchID, p) })
	return nil
}

func resolveJob(b store.Batch, who, id string) jobs.Asked {
	return jobs.Asked{ID: id, Kind: jobs.Resolve, Key: "resolve " + b.ID, BatchID: b.ID, Subject: b.Name, Who: who, Args: "{}", Patient: true}
}

// stretchesResolved is how many stretches of a batch are resolved.
type stretchesResolved int

// Tell says it.
func (n stretchesResolved) Tell() string {
	if n == 1 {
		return "1 stretch resolved"
	}
	return fmt.Sprintf("%d stretches resolved", int(n))
}

func (l *Lab) resolveAll(ctx context.Context, batchID string, progress *jobs.Progress) (any, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return nil, err
	}
	w, err := l.whole(ctx, b)
	if err != nil {
		return nil, err
	}
	for k := 0; ; k++ {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		asked, err := l.resolvingAsked(ctx, b) // anew: stretches are moved while others are resolved
		if err != nil {
			return nil, err
		}
		cuts := asked.cuts(w)
		if k >= len(cuts) {
			return stretchesResolved(len(cuts)), nil
		}
		s := cuts[k]
		if err := l.resolveOne(ctx, b, w, s, asked.Numbers[stretchKey(s)]); err != nil {
			return nil, err
		}
		progress.Set(k+1, len(cuts))
		l.watch.tell(Event{BatchID: batchID, Revision: b.Revision})
	}
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
	if err == nil {
		err = l.keepPiece(ctx, w, key, piece)
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	w.now = ""
	return err
}

// stack reads the scans of a stretch of all injections.
func (l *Lab) stack(ctx context.Context, b store.Batch, w *wholeBatch, s resolving.Stretch) (stack resolving.Stack, refused, err error) {
	runs := make([][]spectra.Scan, len(w.ids))
	for k, id := range w.ids {
		in, err := injection(b, id)
		if err != nil {
			return stack, nil, err
		}
		var run *raw.Run
		if run, err = l.anySpectra(ctx, in); err != nil {
			return stack, nil, err
		}
		if runs[k], err = scansOf(run, s.FromMin, s.ToMin); err != nil {
			return stack, nil, err
		}
	}
	stack, refused = resolving.NewStack(w.kind, w.ids, runs)
	return stack, refused, nil
}

// piece resolves one stretch; what cannot be resolved says why.
func (l *Lab) piece(ctx context.Context, b store.Batch, w *wholeBatch, s resolving.Stretch, given int) (resolvedPiece, error) {
	var out resolvedPiece
	stack, refused, err := l.stack(ctx, b, w, s)
	if err != nil {
		return out, err
	}
	if refused == nil {
		out.stack = stack
		out.result, refused = resolving.Resolve(stack, resolving.Options{Compounds: given})
	}
	if refused != nil {
		out.err = refused.Error()
	}
	for k := range out.stack.Samples {
		s := &out.stack.Samples[k]
		totals := make([]float64, len(s.Values))
		for i, row := range s.Values {
			for _, v := range row {
				totals[i] += v
			}
		}
		out.totals, s.Values = append(out.totals, totals), nil
	}
	return out, nil
}

// resolvedAgain goes on with a job that was stopped with the program.
func (l *Lab) resolvedAgain(ctx context.Context, j store.KeptJob) error {
	b, err := l.Batch(ctx, j.BatchID)
	if err != nil {
		return err
	}
	_, err = l.Jobs.Do(ctx, resolveJob(b, j.Who, j.ID), func(ctx context.Context, p *jobs.Progress) (any, error) {
		return l.resolveAll(ctx, j.BatchID, p)
	})
	return err
}
