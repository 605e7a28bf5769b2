// Package quantities is the register of what a batch can show: every quantity with its words, its unit, where it lives, how it is got and how it is rounded.
// Tables, files and reports read it; adding a quantity is one entry.
package quantities

import (
	"math"
	"strconv"
	"strings"
	"time"

	"yugen/core/batch"
	"yugen/core/compounds"
)

// Lives says of what there is one value.
type Lives string

// Where quantities live.
const (
	OfBatch     Lives = "batch"
	OfInjection Lives = "injection"
	OfTrace     Lives = "trace"    // of one channel in one injection
	OfPeak      Lives = "peak"     // of any peak
	OfCompound  Lives = "compound" // of one compound in one injection
	OfSample    Lives = "sample"   // of one compound over the injections of a sample
)

// Kind says what values are, and so how they are rounded where no uncertainty decides.
type Kind string

// The kinds.
const (
	Text    Kind = "text"
	Count   Kind = "count"
	Time    Kind = "time"    // minutes, to the thousandth
	Ratio   Kind = "ratio"   // three significant digits, or two decimals
	Percent Kind = "percent" // to the hundredth
	Amount  Kind = "amount"  // of the digits that its uncertainty allows, else of four
	Given   Kind = "given"   // as a person gave it
	Times   Kind = "times"   // a factor that a person gave, with its sign
	Signal  Kind = "signal"  // of five significant digits
	Moment  Kind = "moment"
)

// Quantity is one entry.
type Quantity struct {
	ID    string `json:"id"`
	Words string `json:"words"`
	Unit  string `json:"unit"`
	Lives Lives  `json:"lives"`
	Kind  Kind   `json:"kind"`
	// How says in a sentence how it is got.
	How string `json:"how"`
	// Decimals are those of a field that asks for them, instead of what its kind says.
	Decimals *int `json:"decimals,omitempty"`
	Field    bool `json:"field,omitempty"` // it is the laboratory's own, by a formula
	Adds     bool `json:"adds,omitempty"`  // values of several peaks or compounds of an injection can be summed

	of func(Row) Value
}

// New is a quantity whose values come from elsewhere, as those of fields do from their formulas.
func New(q Quantity, of func(Row) Value) Quantity {
	q.of = of
	return q
}

// Value is what a quantity is somewhere: a number with its standard uncertainty where there is one, or text. Neither is no value.
type Value struct {
	Number      *float64   `json:"number"`
	Uncertainty *float64   `json:"uncertainty,omitempty"`
	Text        string     `json:"text,omitempty"`
	At          *time.Time `json:"at,omitempty"`
	// Why says why there is no value, or what is to be known of one.
	Why string `json:"why,omitempty"`
}

// Absent tells whether there is no value.
func (v Value) Absent() bool { return v.Number == nil && v.Text == "" && v.At == nil }

// Row is what a value is taken from; what it does not need may be left out.
type Row struct {
	Batch      *Batch
	Number     int // of the injection in the run, from 1
	Entry      batch.Entry
	File       string
	AcquiredAt *time.Time
	Replicate  string
	Injected   *batch.Injected
	Compound   *compounds.Compound
	Peak       *batch.NamedPeak
	Sample     *batch.SampleRow
	Recorded   []Recorded // what was recorded of the run, as pump pressure
}

// Recorded is what a condition of a run was.
type Recorded struct {
	Name, Unit             string
	Least, Most, Mean      float64
	First, Last, MostAtMin float64
}

// Batch is what all rows of a batch have in common.
type Batch struct {
	Name   string
	Method batch.Method
	Result batch.Result
	// Injections are one row each, in run order, for quantities that look at others.
	Injections []Row
}

// Of is the value of the quantity in a row.
func (q Quantity) Of(r Row) Value { return q.of(r) }

// Shown is a value as people read it: an amount to the digits that its uncertainty allows, the others to those that are significant for their kind.
func (q Quantity) Shown(v Value) string {
	switch {
	case v.At != nil:
		return v.At.Format("2006-01-02 15:04")
	case v.Number == nil:
		return v.Text
	}
	n := *v.Number
	if q.Decimals != nil {
		return fixed(n, *q.Decimals)
	}
	switch q.Kind {
	case Count:
		return strconv.FormatFloat(n, 'f', -1, 64)
	case Given:
		return strings.Replace(strconv.FormatFloat(n, 'f', -1, 64), "-", "−", 1)
	case Times:
		return "×" + strconv.FormatFloat(n, 'f', -1, 64)
	case Time:
		return fixed(n, 3)
	case Percent:
		return fixed(n, 2)
	case Ratio:
		if math.Abs(n) >= 100 {
			return fixed(n, 0)
		}
		return fixed(n, 2)
	case Amount:
		if v.Uncertainty != nil && *v.Uncertainty > 0 && n != 0 {
			return batch.Significant(n, digitsFor(n, *v.Uncertainty))
		}
		return batch.Significant(n, 4)
	}
	return batch.Significant(n, 5)
}

// digitsFor are as many significant digits as bring the last one to the second of the uncertainty.
func digitsFor(n, uncertainty float64) int {
	digits := int(math.Floor(math.Log10(math.Abs(n)))) - int(math.Floor(math.Log10(uncertainty))) + 2
	return max(1, min(digits, 9))
}

func fixed(v float64, decimals int) string {
	return strings.Replace(strconv.FormatFloat(v, 'f', decimals, 64), "-", "−", 1)
}

// Register are the quantities of batches with a method and own columns, in the order in which they are offered.
type Register []Quantity

// Find is the quantity of an id.
func (r Register) Find(id string) (Quantity, bool) {
	for _, q := range r {
		if q.ID == id {
			return q, true
		}
	}
	return Quantity{}, false
}

// Living are those that live in one of some places.
func (r Register) Living(in ...Lives) Register {
	var list Register
	for _, q := range r {
		for _, l := range in {
			if q.Lives == l {
				list = append(list, q)
			}
		}
	}
	return list
}

// Of is the row for one compound, with its peak where it was found.
func (r Row) Of(c *compounds.Compound) Row {
	r.Compound, r.Peak = c, nil
	if r.Injected != nil {
		r.Peak = r.Injected.PeakOf(c.ID)
	}
	return r
}

// Rows are one row for each compound in each injection, the compounds in the order of the method.
func (b *Batch) Rows(injections []Row) []Row {
	var rows []Row
	for _, r := range injections {
		for k := range b.Method.Compounds {
			row := r.Of(&b.Method.Compounds[k])
			if row.Batch == nil {
				row.Batch = b
			}
			rows = append(rows, row)
		}
	}
	return rows
}
