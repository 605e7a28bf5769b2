package formula

import (
	"fmt"
	"slices"
	"strings"

	"github.com/agext/levenshtein"
	"github.com/expr-lang/expr/ast"

	"yugen/core/quantities"
)

// what a part of a formula gives.
type what int

const (
	aNumber what = iota
	aText
	aTruth
	anObject // something that quantities are of
	aList
)

// kindOf is what a part of a formula gives, with its unit, or where it lives.
type kindOf struct {
	what  what
	unit  unit
	plain bool // a number that was written down takes the unit of what it stands beside
	lives quantities.Lives
	elem  *kindOf
	// shown is how the value is shown best, where its unit does not say so.
	shown quantities.Kind
}

func (k kindOf) value() bool { return k.what == aNumber || k.what == aText || k.what == aTruth }

func (k kindOf) words() string {
	switch k.what {
	case aNumber:
		if len(k.unit) == 0 {
			return "a number"
		}
		return "a number in " + k.unit.String()
	case aText:
		return "a text"
	case aTruth:
		return "true or false"
	case aList:
		return "a list"
	}
	return map[quantities.Lives]string{quantities.OfBatch: "a batch", quantities.OfInjection: "an injection", quantities.OfTrace: "a trace", quantities.OfPeak: "a peak", quantities.OfCompound: "a compound", quantities.OfSample: "a sample"}[k.lives]
}

// kind is how a field of this is shown.
func (k kindOf) kind() quantities.Kind {
	switch {
	case k.what != aNumber:
		return quantities.Text
	case k.shown != "":
		return k.shown
	case k.unit.String() == "%":
		return quantities.Percent
	case k.unit.String() == "min":
		return quantities.Time
	}
	return quantities.Amount
}

func number(u unit) kindOf { return kindOf{what: aNumber, unit: u} }

func object(l quantities.Lives) kindOf { return kindOf{what: anObject, lives: l} }

func listOf(elem kindOf) kindOf { return kindOf{what: aList, elem: &elem} }

// checker walks a formula and finds what its parts give.
type checker struct {
	compiler *compiler
	lives    quantities.Lives
	path     []string
	uses     []string
	traces   bool
	pointers []kindOf // what predicates look at, the innermost last
	vars     map[string]kindOf
}

// seen are where the quantities live that something of a place has, its own first.
var seen = map[quantities.Lives][]quantities.Lives{
	quantities.OfBatch:     {quantities.OfBatch},
	quantities.OfInjection: {quantities.OfInjection, quantities.OfTrace, quantities.OfBatch},
	quantities.OfTrace:     {quantities.OfTrace, quantities.OfInjection, quantities.OfBatch},
	quantities.OfPeak:      {quantities.OfPeak, quantities.OfCompound, quantities.OfInjection, quantities.OfTrace, quantities.OfBatch},
	quantities.OfCompound:  {quantities.OfCompound, quantities.OfPeak, quantities.OfSample, quantities.OfInjection, quantities.OfTrace, quantities.OfBatch},
	quantities.OfSample:    {quantities.OfSample, quantities.OfCompound, quantities.OfPeak, quantities.OfInjection, quantities.OfTrace, quantities.OfBatch},
}

// recorded are the quantities of a trace that was recorded of a run.
var recorded = []string{"name", "unit", "least", "most", "mean", "first", "last", "most_at_min"}

func at(n ast.Node, instead, says string, args ...any) *Misread {
	l := n.Location()
	return &Misread{From: l.From, To: max(l.To, l.From+1), Says: fmt.Sprintf(says, args...), Instead: instead}
}

func (c *checker) of(n ast.Node) (kindOf, *Misread) {
	switch n := n.(type) {
	case *ast.IntegerNode:
		return kindOf{what: aNumber, plain: true}, nil
	case *ast.FloatNode:
		return kindOf{what: aNumber, plain: true}, nil
	case *ast.StringNode:
		return kindOf{what: aText}, nil
	case *ast.BoolNode:
		return kindOf{what: aTruth}, nil
	case *ast.IdentifierNode:
		return c.identifier(n)
	case *ast.PointerNode:
		return c.pointer(n)
	case *ast.UnaryNode:
		return c.unary(n)
	case *ast.BinaryNode:
		return c.binary(n)
	case *ast.MemberNode:
		return c.member(n)
	case *ast.ChainNode:
		return c.of(n.Node)
	case *ast.ConditionalNode:
		return c.conditional(n)
	case *ast.CallNode:
		return c.call(n)
	case *ast.BuiltinNode:
		return c.builtin(n)
	case *ast.ArrayNode:
		return c.array(n)
	case *ast.VariableDeclaratorNode:
		value, problem := c.of(n.Value)
		if problem != nil {
			return value, problem
		}
		c.vars[n.Name] = value
		defer delete(c.vars, n.Name)
		return c.of(n.Expr)
	}
	return kindOf{}, at(n, "", "This part of the language has no use in fields.")
}

func (c *checker) pointer(n *ast.PointerNode) (kindOf, *Misread) {
	if n.Name != "" || len(c.pointers) == 0 {
		return kindOf{}, at(n, "", "# stands for what a list is gone through with; there is no list here.")
	}
	return c.pointers[len(c.pointers)-1], nil
}

// identifier is a word that stands alone: a quantity of the place, a list, or a variable.
func (c *checker) identifier(n *ast.IdentifierNode) (kindOf, *Misread) {
	if v, is := c.vars[n.Value]; is {
		return v, nil
	}
	within := c.lives != quantities.OfBatch
	switch n.Value {
	case "batch":
		return object(quantities.OfBatch), nil
	case "injections":
		return listOf(object(quantities.OfInjection)), nil
	case "injection", "peaks", "compounds", "traces", "replicates", "run":
		if !within {
			return kindOf{}, at(n, "injections", "A field of the batch looks at all injections: %s is of one of them.", n.Value)
		}
		c.traces = c.traces || n.Value == "traces"
		return map[string]kindOf{"injection": object(quantities.OfInjection), "peaks": listOf(object(quantities.OfPeak)), "compounds": listOf(object(quantities.OfCompound)), "traces": listOf(object(quantities.OfTrace)), "replicates": listOf(object(c.replicateLives())), "run": listOf(object(c.replicateLives()))}[n.Value], nil
	}
	return c.quantity(n, n.Value, c.lives)
}

// replicateLives is what the replicates of something are: of a compound the same compound in them.
func (c *checker) replicateLives() quantities.Lives {
	if c.lives == quantities.OfCompound || c.lives == quantities.OfSample || c.lives == quantities.OfPeak {
		return quantities.OfCompound
	}
	return quantities.OfInjection
}

// quantity is one by its id, of something that lives there.
func (c *checker) quantity(n ast.Node, id string, lives quantities.Lives) (kindOf, *Misread) {
	if q, known := c.compiler.base.Find(id); known {
		if !slices.Contains(seen[lives], q.Lives) {
			return kindOf{}, at(n, "", "%s is of %s, and this is %s.", id, living(q.Lives), object(lives).words())
		}
		c.use(id)
		return quantityKind(q.Kind, q.Unit), nil
	}
	if k := c.compiler.field(id); k >= 0 {
		f := c.compiler.fields[k]
		if problem := c.compiler.compile(k, c.path); problem != nil {
			if strings.HasPrefix(problem.Says, "This goes round") {
				return kindOf{}, at(n, "", "%s", problem.Says)
			}
			return kindOf{}, at(n, "", "%s is a field that is not understood itself.", f.Name)
		}
		if !slices.Contains(seen[lives], quantities.Lives(f.Lives)) {
			return kindOf{}, at(n, "", "%s is of %s, and this is %s.", id, living(quantities.Lives(f.Lives)), object(lives).words())
		}
		c.use(id)
		one := c.compiler.done[k]
		c.traces = c.traces || one.Traces
		u := one.Unit
		if f.Unit != "" {
			u = f.Unit
		}
		return quantityKind(one.Kind, u), nil
	}
	near := c.near(id, lives)
	says := fmt.Sprintf("There is no %s here.", id)
	if near != "" {
		says = fmt.Sprintf("There is no %s here; %s is near.", id, near)
	}
	return kindOf{}, at(n, near, "%s", says)
}

func living(l quantities.Lives) string {
	return strings.TrimPrefix(strings.TrimPrefix(object(l).words(), "a "), "an ")
}

func (c *checker) use(id string) {
	if !slices.Contains(c.uses, id) {
		c.uses = append(c.uses, id)
	}
}

func quantityKind(kind quantities.Kind, u string) kindOf {
	if kind == quantities.Text || kind == quantities.Moment {
		return kindOf{what: aText}
	}
	out := number(parseUnit(u))
	if kind == quantities.Count || kind == quantities.Times {
		out.unit, out.shown = unit{}, kind
	}
	return out
}

// near is the known word that is most like an unknown one; empty where none is near.
func (c *checker) near(id string, lives quantities.Lives) string {
	return nearest(id, c.compiler.words(lives))
}

// nearest is the known word that takes the fewest changes; of equals the one that begins more alike.
func nearest(id string, known []string) string {
	id = strings.ToLower(id)
	best, least, alike := "", max(2, len(id)/3)+1, -1
	for _, word := range known {
		lower := strings.ToLower(word)
		same := 0
		for same < min(len(id), len(lower)) && id[same] == lower[same] {
			same++
		}
		if d := levenshtein.Distance(id, lower, nil); d < least || d == least && best != "" && same > alike {
			best, least, alike = word, d, same
		}
	}
	return best
}

// words are all that can stand alone at a place.
func (c *compiler) words(lives quantities.Lives) (list []string) {
	for _, q := range c.base {
		if slices.Contains(seen[lives], q.Lives) {
			list = append(list, q.ID)
		}
	}
	for _, f := range c.fields {
		if slices.Contains(seen[lives], quantities.Lives(f.Lives)) {
			list = append(list, f.Short)
		}
	}
	list = append(list, "batch", "injections")
	if lives != quantities.OfBatch {
		list = append(list, "injection", "peaks", "compounds", "traces", "replicates", "run", "compound", "peak", "trace")
	}
	for name := range functions {
		list = append(list, name)
	}
	slices.Sort(list)
	return list
}

func (c *checker) unary(n *ast.UnaryNode) (kindOf, *Misread) {
	got, problem := c.of(n.Node)
	if problem != nil {
		return got, problem
	}
	if n.Operator == "!" || n.Operator == "not" {
		if got.what != aTruth {
			return got, at(n, "", "not stands before what is true or false, and this is %s.", got.words())
		}
		return got, nil
	}
	if got.what != aNumber {
		return got, at(n, "", "%s stands before a number, and this is %s.", n.Operator, got.words())
	}
	return got, nil
}

func (c *checker) binary(n *ast.BinaryNode) (kindOf, *Misread) {
	a, problem := c.of(n.Left)
	if problem != nil {
		return a, problem
	}
	b, problem := c.of(n.Right)
	if problem != nil {
		return b, problem
	}
	switch n.Operator {
	case "and", "&&", "or", "||":
		if a.what != aTruth || b.what != aTruth {
			return a, at(n, "", "%s joins what is true or false; here stand %s and %s.", n.Operator, a.words(), b.words())
		}
		return a, nil
	case "contains", "startsWith", "endsWith":
		if a.what != aText || b.what != aText {
			return a, at(n, "", "%s asks of texts; here stand %s and %s.", n.Operator, a.words(), b.words())
		}
		return kindOf{what: aTruth}, nil
	case "in":
		if b.what != aList || !b.elem.value() || b.elem.what != a.what {
			return a, at(n, "", "in asks whether a list holds something of its kind.")
		}
		return kindOf{what: aTruth}, nil
	case "==", "!=", "<", ">", "<=", ">=":
		return c.compared(n, a, b)
	case "??":
		if a.what != b.what || !a.value() {
			return a, at(n, "", "?? gives one value where there is no other; here stand %s and %s.", a.words(), b.words())
		}
		return c.together(n, a, b, "stand for")
	case "+", "-":
		if n.Operator == "+" && a.what == aText && b.what == aText {
			return a, nil
		}
		return c.together(n, a, b, map[string]string{"+": "be added to", "-": "be taken from"}[n.Operator])
	case "*", "/":
		return c.scaled(n, a, b)
	case "%":
		return c.together(n, a, b, "be divided into")
	case "^", "**":
		return c.power(n, a, b)
	}
	return a, at(n, "", "%s has no use in fields.", n.Operator)
}

func (c *checker) numbers(n *ast.BinaryNode, a, b kindOf) *Misread {
	if a.what != aNumber || b.what != aNumber {
		return at(n, "", "%s needs two numbers; here stand %s and %s.", n.Operator, a.words(), b.words())
	}
	return nil
}

// together is of what must have one unit: unlike ones refuse.
func (c *checker) together(n *ast.BinaryNode, a, b kindOf, how string) (kindOf, *Misread) {
	if a.what != b.what || !a.value() {
		return a, at(n, "", "%s needs two numbers; here stand %s and %s.", n.Operator, a.words(), b.words())
	}
	if a.what != aNumber {
		if n.Operator != "??" {
			return a, at(n, "", "%s needs two numbers; here stand %s and %s.", n.Operator, a.words(), b.words())
		}
		return a, nil
	}
	switch {
	case a.plain && b.plain, b.plain:
		return a, nil
	case a.plain:
		return b, nil
	case !a.unit.same(b.unit):
		return a, at(n, "", "%s cannot %s %s: these are unlike units.", b.unit.words(), how, a.unit.words())
	}
	a.shown = ""
	return a, nil
}

func (c *checker) compared(n *ast.BinaryNode, a, b kindOf) (kindOf, *Misread) {
	truth := kindOf{what: aTruth}
	switch {
	case a.what != b.what || !a.value():
		return truth, at(n, "", "%s and %s cannot be compared.", a.words(), b.words())
	case a.what != aNumber && n.Operator != "==" && n.Operator != "!=":
		return truth, at(n, "", "Only numbers are greater or smaller.")
	case a.what == aNumber && !a.plain && !b.plain && !a.unit.same(b.unit):
		return truth, at(n, "", "%s cannot be compared with %s: these are unlike units.", a.unit.words(), b.unit.words())
	}
	return truth, nil
}

func (c *checker) scaled(n *ast.BinaryNode, a, b kindOf) (kindOf, *Misread) {
	if problem := c.numbers(n, a, b); problem != nil {
		return a, problem
	}
	power := 1
	if n.Operator == "/" {
		power = -1
	}
	out := number(a.unit.times(b.unit, power))
	out.plain = a.plain && b.plain
	return out, nil
}

func (c *checker) power(n *ast.BinaryNode, a, b kindOf) (kindOf, *Misread) {
	if problem := c.numbers(n, a, b); problem != nil {
		return a, problem
	}
	whole, is := n.Right.(*ast.IntegerNode)
	if len(a.unit) == 0 {
		return number(unit{}), nil
	}
	if !is || whole.Value < 0 || whole.Value > 6 {
		return a, at(n, "", "What has a unit is raised only to a whole number from 0 to 6.")
	}
	out := unit{}
	for range whole.Value {
		out = out.times(a.unit, 1)
	}
	return number(out), nil
}

func (c *checker) conditional(n *ast.ConditionalNode) (kindOf, *Misread) {
	cond, problem := c.of(n.Cond)
	if problem != nil {
		return cond, problem
	}
	if cond.what != aTruth {
		return cond, at(n.Cond, "", "A condition is true or false, and this is %s.", cond.words())
	}
	a, problem := c.of(n.Exp1)
	if problem != nil {
		return a, problem
	}
	b, problem := c.of(n.Exp2)
	if problem != nil {
		return b, problem
	}
	if a.what != b.what || a.what == aNumber && !a.plain && !b.plain && !a.unit.same(b.unit) {
		return a, at(n, "", "Both ways must give the same: one gives %s, the other %s.", a.words(), b.words())
	}
	if a.plain {
		return b, nil
	}
	return a, nil
}

// member is something of something: a quantity of an object, or a place of a list.
func (c *checker) member(n *ast.MemberNode) (kindOf, *Misread) {
	of, problem := c.of(n.Node)
	if problem != nil {
		return of, problem
	}
	if of.what == aList {
		place, problem := c.of(n.Property)
		if problem != nil {
			return place, problem
		}
		if place.what != aNumber {
			return place, at(n, "", "A list has its places by number; go through it with map, filter, count or sum.")
		}
		return *of.elem, nil
	}
	word, is := n.Property.(*ast.StringNode)
	if !is || of.what != anObject {
		return of, at(n, "", "%s has nothing of that name.", strings.ToUpper(of.words()[:1])+of.words()[1:])
	}
	if of.lives == quantities.OfTrace {
		switch {
		case word.Value == "name" || word.Value == "unit":
			return kindOf{what: aText}, nil
		case word.Value == "most_at_min":
			return number(parseUnit("min")), nil
		case slices.Contains(recorded, word.Value):
			return kindOf{what: aNumber, plain: true}, nil // of whatever unit the trace has
		}
		return of, at(n.Property, "", "A trace has %s.", strings.Join(recorded, ", "))
	}
	return c.quantity(n.Property, word.Value, of.lives)
}

func (c *checker) array(n *ast.ArrayNode) (kindOf, *Misread) {
	elem := kindOf{what: aText}
	for k, one := range n.Nodes {
		got, problem := c.of(one)
		if problem != nil {
			return got, problem
		}
		if k > 0 && got.what != elem.what || !got.value() {
			return got, at(one, "", "A list that is written down holds values of one kind.")
		}
		elem = got
	}
	return listOf(elem), nil
}
