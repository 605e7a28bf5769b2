package formula

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"github.com/expr-lang/expr/ast"

	"yugen/core/compounds"
	"yugen/core/quantities"
)

// value is what a part of a formula is: a number, a text, a truth, a row, or a list; or absent, with why.
type value struct {
	number float64
	text   string
	truth  bool
	row    *quantities.Row
	trace  *quantities.Recorded
	list   []value
	absent string // why it is not there; empty where it is
	kind   what
	note   string // what is to be known of it
}

func num(v float64) value {
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return absent("it is not a finite number")
	}
	return value{number: v, kind: aNumber}
}

func words(t string) value { return value{text: t, kind: aText} }

func is(t bool) value { return value{truth: t, kind: aTruth} }

func absent(why string) value { return value{absent: why} }

// Bounds of the computing of one value, and of all values of a set of fields.
const (
	maxSteps    = 400_000
	maxAllSteps = 40_000_000
)

// evaluation computes one value of a field.
type evaluation struct {
	memory   *memory
	lives    quantities.Lives
	row      quantities.Row
	pointers []value
	vars     map[string]value
	steps    *int
}

// quantity is a compiled field as one of the register.
func (c *compiler) quantity(one *Compiled, m *memory) quantities.Quantity {
	f := one.Field
	u := f.Unit
	if u == "" {
		u = one.Unit
	}
	q := quantities.Quantity{ID: f.Short, Words: f.Name, Unit: u, Lives: quantities.Lives(f.Lives), Kind: one.Kind, How: f.Formula, Decimals: f.Decimals, Field: true}
	return quantities.New(q, func(r quantities.Row) quantities.Value {
		key := ""
		switch q.Lives {
		case quantities.OfBatch:
			key = f.Short
		case quantities.OfInjection, quantities.OfTrace:
			key = fmt.Sprintf("%s %d", f.Short, r.Number)
		}
		if key == "" || r.Batch == nil {
			return one.value(m, r)
		}
		return m.of(key, r.Batch, func() quantities.Value { return one.value(m, r) })
	})
}

// value is what a field is somewhere.
func (one *Compiled) value(m *memory, r quantities.Row) quantities.Value {
	if m.steps.Load() > maxAllSteps {
		return quantities.Value{Why: "the fields of this batch take too many steps together"}
	}
	steps := 0
	defer func() { m.steps.Add(int64(steps)) }()
	e := &evaluation{memory: m, lives: quantities.Lives(one.Field.Lives), row: r, vars: map[string]value{}, steps: &steps}
	got := e.of(one.node)
	switch {
	case got.absent != "":
		return quantities.Value{Why: got.absent}
	case got.kind == aNumber:
		return quantities.Value{Number: &got.number, Why: got.note}
	case got.kind == aTruth:
		return quantities.Value{Text: map[bool]string{true: "pass", false: "fail"}[got.truth]}
	}
	return quantities.Value{Text: got.text}
}

func (e *evaluation) of(n ast.Node) value {
	if *e.steps++; *e.steps > maxSteps {
		return absent("it takes too many steps")
	}
	switch n := n.(type) {
	case *ast.IntegerNode:
		return num(float64(n.Value))
	case *ast.FloatNode:
		return num(n.Value)
	case *ast.StringNode:
		return words(n.Value)
	case *ast.BoolNode:
		return is(n.Value)
	case *ast.IdentifierNode:
		return e.identifier(n.Value)
	case *ast.PointerNode:
		return e.pointers[len(e.pointers)-1]
	case *ast.UnaryNode:
		return e.unary(n)
	case *ast.BinaryNode:
		return e.binary(n)
	case *ast.MemberNode:
		return e.member(n)
	case *ast.ChainNode:
		return e.of(n.Node)
	case *ast.ConditionalNode:
		cond := e.of(n.Cond)
		switch {
		case cond.absent != "":
			return cond
		case cond.truth:
			return e.of(n.Exp1)
		}
		return e.of(n.Exp2)
	case *ast.CallNode:
		return e.call(n)
	case *ast.BuiltinNode:
		return functions[n.Name].eval(e, n.Arguments)
	case *ast.ArrayNode:
		out := value{kind: aList}
		for _, one := range n.Nodes {
			out.list = append(out.list, e.of(one))
		}
		return out
	case *ast.VariableDeclaratorNode:
		before, had := e.vars[n.Name]
		e.vars[n.Name] = e.of(n.Value)
		got := e.of(n.Expr)
		if delete(e.vars, n.Name); had {
			e.vars[n.Name] = before
		}
		return got
	}
	return absent("it cannot be computed")
}

func (e *evaluation) identifier(word string) value {
	if v, is := e.vars[word]; is {
		return v
	}
	switch word {
	case "batch":
		return rowValue(quantities.Row{Batch: e.row.Batch})
	case "injection":
		return rowValue(injectionOf(e.row))
	case "injections":
		return e.injections(nil, nil)
	case "replicates", "run":
		c := e.row.Compound
		if e.lives == quantities.OfInjection || e.lives == quantities.OfTrace {
			c = nil
		}
		if word == "run" {
			return e.injections(nil, c)
		}
		return e.injections(func(o quantities.Row) bool {
			return o.Entry.Name == e.row.Entry.Name && o.Entry.Role == e.row.Entry.Role
		}, c)
	case "peaks":
		return peaksOf(e.row)
	case "compounds":
		return compoundsOf(e.row)
	case "traces":
		out := value{kind: aList}
		for k := range e.row.Recorded {
			out.list = append(out.list, value{trace: &e.row.Recorded[k], kind: anObject})
		}
		return out
	}
	return e.quantity(word, e.row)
}

func rowValue(r quantities.Row) value { return value{row: &r, kind: anObject} }

// injectionOf is a row without what is of one compound.
func injectionOf(r quantities.Row) quantities.Row {
	r.Compound, r.Peak = nil, nil
	return r
}

func (e *evaluation) injections(wanted func(quantities.Row) bool, c *compounds.Compound) value {
	out := value{kind: aList}
	if e.row.Batch == nil {
		return out
	}
	all := e.memory.all(e.row.Batch, c)
	if wanted == nil {
		out.list = all
		return out
	}
	for _, one := range all {
		if wanted(*one.row) {
			out.list = append(out.list, one)
		}
	}
	return out
}

func peaksOf(r quantities.Row) value {
	out := value{kind: aList}
	if r.Injected == nil {
		return out
	}
	for k := range r.Injected.Peaks {
		one := r
		one.Peak, one.Compound = &r.Injected.Peaks[k], nil
		if r.Batch != nil {
			for c := range r.Batch.Method.Compounds {
				if r.Batch.Method.Compounds[c].ID == one.Peak.CompoundID {
					one.Compound = &r.Batch.Method.Compounds[c]
				}
			}
		}
		out.list = append(out.list, rowValue(one))
	}
	return out
}

func compoundsOf(r quantities.Row) value {
	out := value{kind: aList}
	if r.Batch == nil {
		return out
	}
	for c := range r.Batch.Method.Compounds {
		out.list = append(out.list, rowValue(r.Of(&r.Batch.Method.Compounds[c])))
	}
	return out
}

// quantity is one of a row; absent ones say what is not there.
func (e *evaluation) quantity(id string, r quantities.Row) value {
	q, known := e.memory.find(id)
	if !known {
		return absent("there is no " + id)
	}
	if r.Batch == nil && q.Lives == quantities.OfBatch {
		return absent("there is no batch")
	}
	v := q.Of(r)
	switch {
	case v.Number != nil:
		out := num(*v.Number)
		out.note = v.Why
		return out
	case v.At != nil:
		return words(q.Shown(v))
	case q.Kind == quantities.Text && !q.Field:
		return words(v.Text)
	case v.Text != "":
		if v.Text == "pass" || v.Text == "fail" {
			return value{kind: aTruth, truth: v.Text == "pass", text: v.Text}
		}
		return words(v.Text)
	case v.Why != "":
		return absent(v.Why)
	}
	who := strings.TrimSpace(r.Entry.Name + " " + r.Replicate)
	what := strings.ToLower(q.Words)
	if r.Compound != nil {
		what += " of " + r.Compound.Name
	}
	if who == "" {
		return absent("there is no " + what)
	}
	return absent("there is no " + what + " in " + who)
}

func (e *evaluation) unary(n *ast.UnaryNode) value {
	v := e.of(n.Node)
	switch {
	case v.absent != "":
		return v
	case n.Operator == "-":
		return num(-v.number)
	case n.Operator == "!" || n.Operator == "not":
		return is(!v.truth)
	}
	return v
}

func (e *evaluation) binary(n *ast.BinaryNode) value {
	a := e.of(n.Left)
	switch n.Operator {
	case "??":
		if a.absent != "" {
			return e.of(n.Right)
		}
		return a
	case "and", "&&":
		if a.absent != "" || !a.truth {
			return a
		}
		return e.of(n.Right)
	case "or", "||":
		if a.absent == "" && a.truth {
			return a
		}
		if b := e.of(n.Right); b.absent != "" || b.truth || a.absent == "" {
			return b
		}
		return a
	}
	b := e.of(n.Right)
	switch {
	case a.absent != "":
		return a
	case b.absent != "":
		return b
	}
	switch n.Operator {
	case "contains":
		return is(strings.Contains(a.text, b.text))
	case "startsWith":
		return is(strings.HasPrefix(a.text, b.text))
	case "endsWith":
		return is(strings.HasSuffix(a.text, b.text))
	case "in":
		return is(slices.ContainsFunc(b.list, func(o value) bool { return o.absent == "" && equal(a, o) }))
	case "==":
		return is(equal(a, b))
	case "!=":
		return is(!equal(a, b))
	case "+":
		if a.kind == aText {
			return words(a.text + b.text)
		}
	}
	return arithmetic(n.Operator, a.number, b.number)
}

func equal(a, b value) bool { return a.number == b.number && a.text == b.text && a.truth == b.truth }

func arithmetic(operator string, a, b float64) value {
	switch operator {
	case "+":
		return num(a + b)
	case "-":
		return num(a - b)
	case "*":
		return num(a * b)
	case "/":
		if b == 0 {
			return absent("it would be divided by zero")
		}
		return num(a / b)
	case "%":
		if b == 0 {
			return absent("it would be divided by zero")
		}
		return num(math.Mod(a, b))
	case "^", "**":
		return num(math.Pow(a, b))
	case "<":
		return is(a < b)
	case ">":
		return is(a > b)
	case "<=":
		return is(a <= b)
	case ">=":
		return is(a >= b)
	}
	return absent("it cannot be computed")
}

func (e *evaluation) member(n *ast.MemberNode) value {
	of := e.of(n.Node)
	if of.absent != "" {
		return of
	}
	if of.kind == aList {
		place := e.of(n.Property)
		if place.absent != "" {
			return place
		}
		k := int(place.number)
		if k < 0 {
			k += len(of.list)
		}
		if k < 0 || k >= len(of.list) {
			return absent(fmt.Sprintf("the list has no place %g", place.number))
		}
		return of.list[k]
	}
	word := n.Property.(*ast.StringNode).Value // the checker saw to it
	if of.trace != nil {
		t := of.trace
		switch word {
		case "name":
			return words(t.Name)
		case "unit":
			return words(t.Unit)
		}
		return num(map[string]float64{"least": t.Least, "most": t.Most, "mean": t.Mean, "first": t.First, "last": t.Last, "most_at_min": t.MostAtMin}[word])
	}
	return e.quantity(word, *of.row)
}

func (e *evaluation) call(n *ast.CallNode) value {
	if callee, is := n.Callee.(*ast.MemberNode); is {
		of := e.of(callee.Node)
		if of.absent != "" {
			return of
		}
		own := *e
		own.row = *of.row
		return functions[callee.Property.(*ast.StringNode).Value].eval(&own, n.Arguments)
	}
	return functions[n.Callee.(*ast.IdentifierNode).Value].eval(e, n.Arguments)
}
