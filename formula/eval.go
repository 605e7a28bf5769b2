package formula

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"
	"sync/atomic"

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

// memory keeps what was computed of a batch, so that a field which looks at all of it is computed once.
type memory struct {
	register quantities.Register
	mu       sync.Mutex
	steps    atomic.Int64 // of all values
	batch    *quantities.Batch
	kept     map[string]quantities.Value
	lists    map[string][]value // of injections, by the compound that they are looked at for
	index    map[string]int     // of the register
}

func newMemory() *memory {
	return &memory{kept: map[string]quantities.Value{}, lists: map[string][]value{}}
}

// find is a quantity of the register, which is looked at for every value.
func (m *memory) find(id string) (quantities.Quantity, bool) {
	m.mu.Lock()
	if len(m.index) != len(m.register) {
		m.index = make(map[string]int, len(m.register))
		for k, q := range m.register {
			m.index[q.ID] = k
		}
	}
	k, known := m.index[id]
	m.mu.Unlock()
	if !known {
		return quantities.Quantity{}, false
	}
	return m.register[k], true
}

// all are the injections of a batch as a list, each with what it has of a compound.
func (m *memory) all(b *quantities.Batch, c *compounds.Compound) []value {
	key := ""
	if c != nil {
		key = c.ID
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.batch != b {
		m.batch, m.kept, m.lists = b, map[string]quantities.Value{}, map[string][]value{}
	}
	list, have := m.lists[key]
	if !have {
		for _, r := range b.Injections {
			if c != nil {
				r = ofCompound(r, c)
			}
			list = append(list, rowValue(r))
		}
		m.lists[key] = list
	}
	return list
}

func (m *memory) of(key string, b *quantities.Batch, compute func() quantities.Value) quantities.Value {
	m.mu.Lock()
	if m.batch != b {
		m.batch, m.kept, m.lists = b, map[string]quantities.Value{}, map[string][]value{}
	}
	v, have := m.kept[key]
	m.mu.Unlock()
	if have {
		return v
	}
	v = compute()
	m.mu.Lock()
	if m.batch == b {
		m.kept[key] = v
	}
	m.mu.Unlock()
	return v
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

func ofCompound(r quantities.Row, c *compounds.Compound) quantities.Row {
	r.Compound, r.Peak = c, nil
	if r.Injected != nil {
		r.Peak = r.Injected.PeakOf(c.ID)
	}
	return r
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
		out.list = append(out.list, rowValue(ofCompound(r, &r.Batch.Method.Compounds[c])))
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

func compoundNamed(e *evaluation, args []ast.Node) value {
	name := args[0].(*ast.StringNode).Value
	if e.row.Batch != nil {
		for k := range e.row.Batch.Method.Compounds {
			if c := &e.row.Batch.Method.Compounds[k]; strings.EqualFold(c.Name, name) {
				return rowValue(ofCompound(e.row, c))
			}
		}
	}
	return absent("the method has no " + name)
}

func traceNamed(e *evaluation, args []ast.Node) value {
	name := args[0].(*ast.StringNode).Value
	for k := range e.row.Recorded {
		if strings.EqualFold(e.row.Recorded[k].Name, name) {
			return value{trace: &e.row.Recorded[k], kind: anObject}
		}
	}
	return absent(strings.TrimSpace("no " + name + " was recorded in " + e.row.Entry.Name))
}

// each goes through a list with a predicate; see is told each element with what was found, until it says that is enough.
func (e *evaluation) each(args []ast.Node, see func(one, got value) bool) value {
	of := e.of(args[0])
	if of.absent != "" {
		return of
	}
	predicate := args[1].(*ast.PredicateNode)
	e.pointers = append(e.pointers, value{})
	defer func() { e.pointers = e.pointers[:len(e.pointers)-1] }()
	for _, one := range of.list {
		if *e.steps > maxSteps {
			return absent("it takes too many steps")
		}
		e.pointers[len(e.pointers)-1] = one
		if !see(one, e.of(predicate.Node)) {
			break
		}
	}
	return value{kind: aList}
}

func holds(got value) bool { return got.absent == "" && got.truth }

func filtered(e *evaluation, args []ast.Node) value {
	var list []value
	out := e.each(args, func(one, got value) bool {
		if holds(got) {
			list = append(list, one)
		}
		return true
	})
	out.list = list
	return out
}

func mapped(e *evaluation, args []ast.Node) value {
	var list []value
	out := e.each(args, func(_, got value) bool {
		list = append(list, got)
		return true
	})
	out.list = list
	return out
}

func found(e *evaluation, args []ast.Node) value {
	first := absent("the list has none of which it is true")
	out := e.each(args, func(one, got value) bool {
		if holds(got) {
			first = one
		}
		return !holds(got)
	})
	if out.absent != "" {
		return out
	}
	return first
}

func counted(e *evaluation, args []ast.Node) value {
	n := 0
	out := e.each(args, func(_, got value) bool {
		if holds(got) {
			n++
		}
		return true
	})
	if out.absent != "" {
		return out
	}
	return num(float64(n))
}

func allTrue(e *evaluation, args []ast.Node) value {
	all, why := true, ""
	out := e.each(args, func(_, got value) bool {
		if why == "" {
			why = got.absent
		}
		all = all && (got.absent != "" || got.truth)
		return all
	})
	switch {
	case out.absent != "":
		return out
	case all && why != "": // nobody knows of those that are not there
		return absent(why)
	}
	return is(all)
}

func anyTrue(e *evaluation, args []ast.Node) value {
	one := false
	out := e.each(args, func(_, got value) bool {
		one = one || holds(got)
		return !one
	})
	if out.absent != "" {
		return out
	}
	return is(one)
}

func noneTrue(e *evaluation, args []ast.Node) value {
	got := anyTrue(e, args)
	got.truth = !got.truth
	return got
}

func added(e *evaluation, args []ast.Node) value {
	list := value{kind: aList}
	if len(args) == 2 {
		if list = mapped(e, args); list.absent != "" {
			return list
		}
	} else if list = e.of(args[0]); list.absent != "" {
		return list
	}
	total, n, why := 0.0, 0, ""
	for _, v := range list.list {
		if v.absent != "" {
			why = v.absent
			continue
		}
		total += v.number
		n++
	}
	if n == 0 && len(list.list) > 0 {
		return absent(why)
	}
	out := num(total)
	out.note = of(n, len(list.list))
	return out
}

// of says of how many a statistic is, where some are missing.
func of(n, all int) string {
	if n == all {
		return ""
	}
	return fmt.Sprintf("%d of %d have a value", n, all)
}

// averaged is a statistic of the numbers that are there; it needs so many.
func averaged(f func([]float64) float64, least int) func(*evaluation, []ast.Node) value {
	return func(e *evaluation, args []ast.Node) value {
		var list []value
		for _, arg := range args {
			v := e.of(arg)
			if v.kind == aList && v.absent == "" && len(args) == 1 {
				list = v.list
			} else {
				list = append(list, v)
			}
		}
		var there []float64
		why := "the list is empty"
		for _, v := range list {
			if v.absent != "" {
				why = v.absent
				continue
			}
			there = append(there, v.number)
		}
		if len(there) < least {
			if len(there) > 0 {
				why = fmt.Sprintf("%d value is too few", len(there))
			}
			return absent(why)
		}
		n := len(there)
		out := num(f(there))
		if out.absent == "" {
			out.note = of(n, len(list))
		}
		return out
	}
}

func howMany(e *evaluation, args []ast.Node) value {
	v := e.of(args[0])
	if v.absent != "" {
		return v
	}
	return num(float64(len(v.list)))
}

func edge(k int) func(*evaluation, []ast.Node) value {
	return func(e *evaluation, args []ast.Node) value {
		v := e.of(args[0])
		switch {
		case v.absent != "":
			return v
		case len(v.list) == 0:
			return absent("the list is empty")
		case k < 0:
			return v.list[len(v.list)-1]
		}
		return v.list[0]
	}
}

func eachNumber(f func(float64) float64) func(*evaluation, []ast.Node) value {
	return func(e *evaluation, args []ast.Node) value {
		v := e.of(args[0])
		if v.absent != "" {
			return v
		}
		return num(f(v.number))
	}
}

func eachText(f func(string) string) func(*evaluation, []ast.Node) value {
	return func(e *evaluation, args []ast.Node) value {
		v := e.of(args[0])
		if v.absent != "" {
			return v
		}
		return words(f(v.text))
	}
}
