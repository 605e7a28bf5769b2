// Package batch is the whole way from raw traces to results: integrate, name, calibrate, quantify, check. It is a pure
// function of traces, method and edits.
package batch

import (
	"context"

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
	// Own are the values of the laboratory's own columns, by their ids.
	Own map[string]string `json:"own,omitempty"`
	// Doubts are stretches of the run in which something went wrong with the instrument.
	Doubts []Doubt `json:"doubts,omitempty"`
	Mix    string  `json:"mix,omitempty"` // of a standard: the mixture it is; it then holds only the compounds of that mixture
}

// Injection is what processing needs of one injection.
type Injection struct {
	Entry
	Trace     signal.Trace // of the first channel
	TraceHash string       // of the raw file and the trace's place in it
	// Further are the signals of the method's other channels, by the channel's id; one that the injection does not have is absent.
	Further map[string]Signal
	// Conditions are those of the run on which the method has limits, by channels.Key; one that was not recorded is absent.
	Conditions map[string]signal.Trace
	Edits      []peaks.Edit
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
	integrated, expected, err := integrate(ctx, in, cache)
	if err != nil {
		return Result{}, err
	}
	p := newProcess(in)
	p.result = Result{Injections: make([]Injected, len(in.Injections)), Expected: expected}
	for i := range in.Injections {
		p.result.Injections[i] = injected(in.Injections[i], integrated[i], in.Method)
	}
	p.calibrate(in.Method.Targets())
	p.quantify()
	p.qualify()
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
