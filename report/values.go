package report

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/quantities"
	"yugen/core/signal"
	"yugen/core/summary"
	"yugen/report/layouts"
)

// register is that of the batch, with the unit of its first signal.
func (in Input) register() quantities.Register {
	unit := ""
	for _, i := range in.Result.Injections {
		if unit == "" {
			unit = i.Unit
		}
	}
	return append(quantities.For(in.Method, in.OwnColumns, unit), in.Fields...)
}

// Recorded is what traces that were recorded of a run were, in numbers.
func Recorded(traces []signal.Trace) (list []quantities.Recorded) {
	for _, tr := range traces {
		if tr.Len() == 0 {
			continue
		}
		r := quantities.Recorded{Name: tr.Name, Unit: tr.Unit, Least: tr.Values[0], Most: tr.Values[0], First: tr.Values[0], Last: tr.Values[tr.Len()-1], MostAtMin: tr.TimeS(0) / 60}
		total := 0.0
		for k, v := range tr.Values {
			total += v
			r.Least = math.Min(r.Least, v)
			if v > r.Most {
				r.Most, r.MostAtMin = v, tr.TimeS(k)/60
			}
		}
		r.Mean = total / float64(tr.Len())
		list = append(list, r)
	}
	return list
}

// quantityRow is what the values of a line are taken from.
func (w *writer) quantityRow(line int) quantities.Row {
	if w.batch == nil {
		w.batch = w.in.Rows()
		w.quantities = w.in.register()
	}
	return w.batch.Injections[line]
}

// Rows are what the values of a batch are taken from.
func (in Input) Rows() *quantities.Batch {
	if in.Whole != nil && len(in.Whole.Injections) == len(in.Lines) {
		return in.Whole
	}
	if in.Whole != nil { // a part of it: its rows still stand in the whole batch
		part := &quantities.Batch{Name: in.Whole.Name, Method: in.Whole.Method, Result: in.Whole.Result}
		for _, r := range in.Whole.Injections {
			if slices.ContainsFunc(in.Lines, func(l Line) bool { return l.ID == r.Entry.ID }) {
				part.Injections = append(part.Injections, r)
			}
		}
		return part
	}
	b := &quantities.Batch{Name: in.Batch, Method: in.Method, Result: in.Result}
	replicates := in.replicates()
	for k, l := range in.Lines {
		r := quantities.Row{Batch: b, Number: k + 1, Entry: l.Entry, File: l.File, AcquiredAt: l.AcquiredAt, Replicate: replicates[k], Injected: &in.Result.Injections[k], Recorded: Recorded(l.Conditions)}
		for s := range in.Result.Samples {
			if slices.Contains(in.Result.Samples[s].InjectionIDs, l.ID) {
				r.Sample = &in.Result.Samples[s]
			}
		}
		b.Injections = append(b.Injections, r)
	}
	return b
}

// own are the words that a page knows besides the quantities of the batch.
func (w *writer) own(id string, s subject) (string, bool) {
	first, last := w.acquired(s)
	switch id {
	case "page":
		return strconv.Itoa(w.at + 1), true
	case "pages":
		return strconv.Itoa(len(w.pages)), true
	case "subject":
		return s.name, true
	case "source":
		return w.source(), true
	case "inputs":
		return w.foot(), true
	case "study":
		return w.in.Study, true
	case "method":
		return fmt.Sprintf("%s, version %d", w.in.MethodName, w.in.Version), true
	case "laboratory":
		return w.in.Laboratory, true
	case "address":
		return w.in.Address, true
	case "analyst":
		return w.in.MadeBy, true
	case "made_at":
		return w.in.onPaper(w.in.MadeAt, "2 January 2006, 15:04 MST"), true
	case "first_injection":
		return first, true
	case "last_injection":
		return last, true
	case "injection_count":
		return kinds(len(w.in.Lines), w.roles()), true
	case "replicates":
		return count(len(s.lines), "injection"), true
	}
	return "", false
}

// OwnWords are the names of what a page knows besides the quantities of the batch.
var OwnWords = []string{"page", "pages", "subject", "source", "inputs", "study", "method", "laboratory", "address", "analyst", "made_at", "first_injection", "last_injection", "injection_count", "replicates"}

var ownNames = map[string]string{"study": "Study", "method": "Method", "analyst": "Analysed by", "made_at": "Newest input", "first_injection": "First injection", "last_injection": "Last injection", "injection_count": "Injections", "replicates": "Injections", "laboratory": "Laboratory", "address": "Address"}

func (w *writer) roles() map[batch.Role]int {
	counts := map[batch.Role]int{}
	for _, l := range w.in.Lines {
		counts[l.Role]++
	}
	return counts
}

// acquired is when the first and the last injection of a subject began.
func (w *writer) acquired(s subject) (first, last string) {
	for _, k := range s.lines {
		if at := w.in.Lines[k].AcquiredAt; at != nil {
			last = at.Format("2 January 2006, 15:04")
			first = firstOf(first, last)
		}
	}
	return first, last
}

// value is a value as a page shows it, with its name; absent ones are noted as missing.
func (w *writer) value(v layouts.Value, s subject) (name, text string, there bool) {
	if text, own := w.own(v.Quantity, s); own {
		return firstOf(v.Head, ownNames[v.Quantity], v.Quantity), text, text != ""
	}
	if len(s.lines) == 0 {
		return firstOf(v.Head, v.Quantity), "", false
	}
	row := w.quantityRow(s.lines[0])
	q, known := w.quantities.Find(v.Quantity)
	if !known {
		return firstOf(v.Head, v.Quantity), fmt.Sprintf("[there is no %q]", v.Quantity), true
	}
	name = firstOf(v.Head, q.Words)
	if v.Compound != "" {
		c := compoundNamed(w.in, v.Compound)
		if c == nil {
			return name, fmt.Sprintf("[there is no %q]", v.Compound), true
		}
		row = row.Of(c)
		name = firstOf(v.Head, c.Name+", "+strings.ToLower(q.Words))
	}
	if said, held := w.undecidedQuantity(q, row); held {
		return name, said.text, true
	}
	got := q.Of(row)
	if got.Absent() {
		w.lacks(v, q, s)
		return name, "", false
	}
	got, ok := inUnit(v, q, got, row.Compound)
	if !ok {
		return name, notIn(v, q, row.Compound), true
	}
	return name, strings.TrimSpace(shownAs(v, q, got) + " " + unitOf(v, q)), true
}

func (w *writer) lacks(v layouts.Value, q quantities.Quantity, s subject) {
	one := Missing{Block: w.block, Quantity: v.Quantity, Words: q.Words}
	if q.Lives == quantities.OfInjection {
		one.InjectionID = w.in.Lines[s.lines[0]].ID
	}
	if w.block != "" && !slices.Contains(w.missing, one) {
		w.missing = append(w.missing, one)
	}
}

// shownAs is a value with the digits that a layout asks for, else those of its kind.
func shownAs(v layouts.Value, q quantities.Quantity, got quantities.Value) string {
	switch {
	case got.Number == nil:
		return q.Shown(got)
	case v.Decimals != nil:
		return strings.Replace(strconv.FormatFloat(*got.Number, 'f', *v.Decimals, 64), "-", "−", 1)
	case v.Digits > 0:
		return batch.Significant(*got.Number, v.Digits)
	}
	return q.Shown(got)
}

func compoundNamed(in Input, name string) *compounds.Compound {
	k := slices.IndexFunc(in.Method.Compounds, func(c compounds.Compound) bool { return strings.EqualFold(c.Name, name) })
	if k < 0 {
		return nil
	}
	return &in.Method.Compounds[k]
}

// compoundsNamed are those of the method that a block names; none named are all targets.
func (w *writer) compoundsNamed(names []string) []compounds.Compound {
	if len(names) == 0 {
		return w.in.targets()
	}
	var list []compounds.Compound
	for _, n := range names {
		if c := compoundNamed(w.in, n); c != nil {
			list = append(list, *c)
		}
	}
	return list
}

// unknownNames says which of the names that a block asks for the method does not have, or not all of.
func (w *writer) unknownNames(names []string) {
	var list []string
	for _, n := range names {
		if len(w.columnsNamed([]string{n})) == 0 {
			list = append(list, strings.TrimPrefix(strings.TrimPrefix(n, summary.SumPrefix), batch.GroupPrefix))
		}
	}
	if len(list) > 0 {
		w.paragraph("Not in "+w.in.MethodName+": "+strings.Join(list, ", ")+".", 8.5, kaki, 0)
		w.y += 2
	}
}

// columnsNamed are the columns of a summary that a block asks for in names, as they are asked for in ids: compounds, "largest", "group:name", and "sum:" with names
// and " + " between them. Those of which the method does not have everything are left out; unknownNames tells them.
func (w *writer) columnsNamed(names []string) []string {
	if len(names) == 0 {
		for _, c := range w.in.targets() {
			names = append(names, c.Name)
		}
	}
	var list []string
	for _, n := range names {
		if sum, is := strings.CutPrefix(n, summary.SumPrefix); is {
			var ids []string
			parts := strings.Split(sum, " + ")
			for _, one := range parts {
				if c := compoundNamed(w.in, one); c != nil {
					ids = append(ids, c.ID)
				}
			}
			if len(ids) == len(parts) { // a sum of what is left of it would be another number
				list = append(list, summary.SumPrefix+strings.Join(ids, "+"))
			}
			continue
		}
		group, isGroup := strings.CutPrefix(n, batch.GroupPrefix)
		if n == summary.LargestPeak || isGroup && slices.Contains(w.in.Method.Groups(), group) {
			list = append(list, n)
		} else if c := compoundNamed(w.in, n); c != nil {
			list = append(list, c.ID)
		}
	}
	return list
}

// unsaid is what stands where a value is missing and the block says nothing of it.
const unsaid = "–"

// phrase fills the values into a text of one line.
func (w *writer) phrase(text string, b layouts.Block, s subject) string {
	parts, err := layouts.Phrases(text)
	if err != nil { // it was checked when it was read
		return text
	}
	var out strings.Builder
	for _, p := range parts {
		if p.Value == nil {
			out.WriteString(p.Words)
			continue
		}
		_, shown, there := w.value(*p.Value, s)
		if !there {
			shown = firstOf(b.Missing, unsaid)
		}
		out.WriteString(shown)
	}
	return out.String()
}
