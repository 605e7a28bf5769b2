// Package batch is the whole way from raw traces to results: integrate, name, calibrate, quantify, check. It is a pure
// function of traces, method and edits.
package batch

import (
	"context"
	"fmt"
	"runtime"
	"slices"
	"sync"
	"sync/atomic"

	"yugen/core/amounts"
	"yugen/core/compounds"
	"yugen/core/peaks"
	"yugen/core/signal"
)

// Role says what an injection is for.
type Role string

// The roles; an injection that nobody has placed yet has none.
const (
	NoRole      Role = ""
	Blank       Role = "blank"
	Standard    Role = "standard"
	Check       Role = "check"
	Sample      Role = "sample"
	Suitability Role = "suitability"
)

// Roles lists them in the order in which they are offered.
var Roles = []Role{Blank, Standard, Check, Sample, Suitability}

// Entry is one line of the run list.
type Entry struct {
	ID    string   `json:"id"`
	Name  string   `json:"name"`
	Role  Role     `json:"role"`
	Level *float64 `json:"level"` // nominal content of a standard or check, in the unit of the levels
	Vial  string   `json:"vial"`
	// Preparation tells which injections were made from one weighing and extract; empty means the vial, and without one the sample.
	Preparation string   `json:"preparation,omitempty"`
	Dilution    float64  `json:"dilution"`
	Volume      *float64 `json:"volume"` // of the extract, in the method's unit
	Sample      *float64 `json:"sample"` // taken, in the method's unit
	Factor      float64  `json:"factor"`
	// Internal is the amount of internal standard in this injection, in the unit of the levels, where it is not the method's.
	Internal *float64 `json:"internal,omitempty"`
	// Internals are the same for several internal standards, by their names.
	Internals []InternalAmount `json:"internals,omitempty"`
	// Added is what was added to a sample for standard addition, in the unit of the levels.
	Added *float64 `json:"added,omitempty"`
	// Typed are responses that a person gave, by compound id, of an injection without a trace.
	Typed map[string]float64 `json:"typed,omitempty"`
	Mix   string             `json:"mix,omitempty"` // of a standard: the mixture it is; it then holds only the compounds of that mixture
}

// Injection is what processing needs of one injection.
type Injection struct {
	Entry
	Trace     signal.Trace
	TraceHash string // of the raw file and the trace's name in it
	Edits     []peaks.Edit
}

// Input is all that a result is made from.
type Input struct {
	Injections []Injection
	Method     Method
	Choices    Choices
	// Progress is told how many injections are done, of how many; nil tells nobody. The result does not depend on it.
	Progress func(done, total int)
}

// Process runs the whole pipeline. The same inputs give the same result, whatever the cache holds; integration, the one
// slow stage, is taken from the cache where its inputs are known. The context cancels between injections.
func Process(ctx context.Context, in Input, cache *Cache) (Result, error) {
	if err := in.Method.Validate(); err != nil {
		return Result{}, err
	}
	if err := in.Choices.Validate(); err != nil {
		return Result{}, err
	}
	integrated, expected, failed, err := integrate(ctx, in, cache)
	if err != nil {
		return Result{}, err
	}
	p := newProcess(in)
	p.result = Result{Injections: make([]Injected, len(in.Injections)), Expected: expected}
	for i, r := range integrated {
		p.result.Injections[i] = named(in.Injections[i], r, in.Method)
		if failed[i] != nil {
			p.result.Injections[i].Problem = failed[i].Error()
		}
	}
	p.calibrate(in.Method.Targets())
	p.quantify()
	p.judge()
	return p.result, nil
}

// process is one run of the pipeline.
type process struct {
	method     Method
	choices    Choices
	injections []Injection
	result     Result
	standards  map[string]compounds.Compound // the internal standard of each target, by its id
	internals  int                           // how many internal standards there are
	places     map[string]int                // of the injections in the run, by their ids
	tabled     map[float64]bool              // the levels in the table of contents
	blanks     map[string]blank              // what is taken off, by compound id
	pools      map[string]pooled             // repeatability by compound id
	students   map[float64]float64           // Student's factors by degrees of freedom, which thousands of readings share
	ordinals   []string                      // which replicate each injection is
	narrator   *narrator                     // listens to how one number comes about
}

func newProcess(in Input) *process {
	p := &process{method: in.Method, choices: in.Choices, injections: in.Injections, standards: in.Method.Against(), internals: len(in.Method.InternalStandards()), tabled: map[float64]bool{}, places: make(map[string]int, len(in.Injections))}
	for i := range in.Injections {
		p.places[in.Injections[i].ID] = i
	}
	if t := in.Method.Curves.Contents; t != nil {
		for _, row := range t.Compounds {
			for _, l := range row.Levels {
				p.tabled[l.Level] = true
			}
		}
	}
	return p
}

// student95 is amounts.StudentT95, remembered.
func (p *process) student95(freedom float64) float64 {
	t, ok := p.students[freedom]
	if !ok {
		t = amounts.StudentT95(freedom)
		if p.students == nil {
			p.students = map[float64]float64{}
		}
		p.students[freedom] = t
	}
	return t
}

func named(in Injection, r peaks.Result, m Method) Injected {
	if in.Typed != nil {
		return typed(in, m)
	}
	out := Injected{ID: in.ID, Trace: in.Trace.Name, NoiseSD: r.NoiseSD, WidthMin: r.WidthMin, EndWidthMin: r.EndWidthMin, Unmatched: r.Unmatched, Dropped: r.Dropped, Peaks: make([]NamedPeak, len(r.Peaks)), Readings: map[string]Reading{}}
	for i, p := range r.Peaks {
		out.Peaks[i].Peak = p
		if m.Ladder != nil {
			if index, ok := m.Ladder.Index(p.ApexMin); ok {
				out.Peaks[i].RetentionIndex = &index
			}
		}
	}
	names := compounds.Name(r.Peaks, m.Compounds, m.Ladder)
	for compound, peak := range names.Peak {
		out.Peaks[peak].CompoundID = compound
	}
	for id, rivals := range names.Contenders {
		if out.Contenders == nil {
			out.Contenders = map[string][]Contender{}
		}
		for _, r := range rivals {
			out.Contenders[id] = append(out.Contenders[id], Contender{out.Peaks[r.Peak].Number, r.Wins})
		}
	}
	for _, c := range m.Compounds {
		if c.Reference {
			out.relative(names.Peak, c)
		}
		// A place that is where the method says needs no telling.
		if p, ok := names.Place[c.ID]; ok && (p.ExpectedMin != c.ExpectedMin || c.Window.Kind == compounds.ByIndex) {
			if out.Places == nil {
				out.Places = map[string]compounds.Place{}
			}
			out.Places[c.ID] = p
		}
	}
	return out
}

// typed stands a peak for each response that a person gave: nothing but a name and a size.
func typed(in Injection, m Method) Injected {
	out := Injected{ID: in.ID, Peaks: []NamedPeak{}, Readings: map[string]Reading{}}
	list := slices.Clone(m.Compounds)
	byRetention(list)
	for _, c := range list {
		if response, ok := in.Typed[c.ID]; ok {
			out.Peaks = append(out.Peaks, NamedPeak{CompoundID: c.ID, Peak: peaks.Peak{Number: len(out.Peaks) + 1, ApexMin: c.ExpectedMin, AreaS: response, Height: response, Flags: []peaks.Flag{}}})
		}
	}
	return out
}

// relative gives each peak its retention relative to the reference before it, or the first one.
func (in *Injected) relative(named map[string]int, reference compounds.Compound) {
	at, ok := named[reference.ID]
	if !ok {
		return
	}
	for i := range in.Peaks {
		p := &in.Peaks[i]
		if p.RelativeRetention == nil || in.Peaks[at].ApexMin <= p.ApexMin {
			r := p.ApexMin / in.Peaks[at].ApexMin
			p.RelativeRetention = &r
		}
	}
}

// peak is the peak of a compound, or nil.
func (in *Injected) peak(compoundID string) *NamedPeak {
	for i := range in.Peaks {
		if in.Peaks[i].CompoundID == compoundID {
			return &in.Peaks[i]
		}
	}
	return nil
}

// integrate estimates widths and noise over all injections with the same trace, and integrates each with what is common, so that one does not differ from
// the next by the estimate alone. An injection that fails is told as such, and the others go on without it.
func integrate(ctx context.Context, in Input, cache *Cache) (results []peaks.Result, expected []Expected, failed []error, err error) {
	injections, s := in.Injections, in.Method.Peaks
	// Each injection is looked at twice: what to expect of all together, then its peaks.
	told := func(already int) func(int) {
		return func(n int) {
			if in.Progress != nil {
				in.Progress((already+n)/2, len(injections))
			}
		}
	}
	estimates, failed, err := forEach(ctx, injections, told(0), func(in Injection) (peaks.Estimate, error) {
		if in.Typed != nil {
			return peaks.Estimate{}, nil
		}
		return cache.estimate(in)
	})
	if err != nil {
		return nil, nil, nil, err
	}
	expected = []Expected{}
	of := map[string]int{} // index into expected, by the injection's id
	byTrace := map[string]int{}
	var together [][]peaks.Estimate
	for i, in := range injections {
		if in.Typed != nil || failed[i] != nil {
			continue
		}
		k, known := byTrace[in.Trace.Name]
		if !known {
			k = len(expected)
			byTrace[in.Trace.Name], expected, together = k, append(expected, Expected{Trace: in.Trace.Name}), append(together, nil)
		}
		of[in.ID], together[k] = k, append(together[k], estimates[i])
	}
	for k := range expected {
		expected[k].Estimate, expected[k].Injections = peaks.Together(together[k]), len(together[k])
	}
	results, later, err := forEach(ctx, injections, told(len(injections)), func(in Injection) (peaks.Result, error) {
		k, known := of[in.ID]
		if !known {
			return peaks.Result{}, nil
		}
		return cache.integrate(in, s, expected[k].Estimate)
	})
	for i, err := range later {
		if failed[i] == nil {
			failed[i] = err
		}
	}
	return results, expected, failed, err
}

// forEach does one thing with every injection, on all processors, tells how many are done, and gives what came of each. It fails only when the context ends. What panics is an
// error of its injection: one odd trace must not take the others with it.
func forEach[T any](ctx context.Context, injections []Injection, told func(int), do func(Injection) (T, error)) (results []T, errs []error, err error) {
	results, errs = make([]T, len(injections)), make([]error, len(injections))
	next := make(chan int)
	var workers sync.WaitGroup
	var done atomic.Int64
	for range min(runtime.GOMAXPROCS(0), max(1, len(injections))) {
		workers.Go(func() {
			for i := range next {
				results[i], errs[i] = safely(injections[i], do)
				told(int(done.Add(1)))
			}
		})
	}
	for i := range injections {
		if err = ctx.Err(); err != nil {
			break
		}
		next <- i
	}
	close(next)
	workers.Wait()
	return results, errs, err
}

func safely[T any](in Injection, do func(Injection) (T, error)) (v T, err error) {
	defer func() {
		if r := recover(); r != nil {
			var none T
			v, err = none, fmt.Errorf("its integration failed inside Yugen: %v", r)
		}
	}()
	return do(in)
}
