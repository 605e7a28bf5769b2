package formula

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"sort"
	"strings"

	"github.com/expr-lang/expr/ast"
	"gonum.org/v1/gonum/stat"

	"yugen/core/quantities"
)

// function is one that formulas can use: how it is checked, and how it is computed.
type function struct {
	Shape string // as it is written
	Does  string
	check func(c *checker, n ast.Node, args []ast.Node) (kindOf, *Misread)
	eval  func(e *evaluation, args []ast.Node) value
}

// functions are those of the language that fields have a use for, and a few of our own.
var functions map[string]*function

func init() {
	functions = map[string]*function{
		"compound": {"compound(\"EGCG\")", "the compound of that name in this injection", objectNamed(quantities.OfCompound), compoundNamed},
		"peak":     {"peak(\"EGCG\")", "the peak of that name in this injection", objectNamed(quantities.OfPeak), compoundNamed},
		"trace":    {"trace(\"Pump pressure\")", "what was recorded under that name", objectNamed(quantities.OfTrace), traceNamed},
		"filter":   {"filter(peaks, .area_s > 5)", "those for which it is true", gone(func(of, _ kindOf) kindOf { return of }, true), filtered},
		"map":      {"map(peaks, .area_s)", "a value of each", gone(func(_, got kindOf) kindOf { return listOf(got) }, false), mapped},
		"find":     {"find(peaks, .area_s > 5)", "the first for which it is true", gone(func(of, _ kindOf) kindOf { return *of.elem }, true), found},
		"count":    {"count(injections, .role == \"sample\")", "for how many it is true", gone(func(_, _ kindOf) kindOf { return kindOf{what: aNumber, unit: unit{}, shown: quantities.Count} }, true), counted},
		"all":      {"all(injections, .noise < 1)", "whether it is true for all", gone(truth, true), allTrue},
		"any":      {"any(injections, .noise > 1)", "whether it is true for any", gone(truth, true), anyTrue},
		"none":     {"none(injections, .noise > 1)", "whether it is true for none", gone(truth, true), noneTrue},
		"sum":      {"sum(peaks, .area_s)", "of all that are there", summed, added},
		"mean":     {"mean(map(peaks, .area_s))", "of all that are there", statistic, averaged(func(l []float64) float64 { return stat.Mean(l, nil) }, 1)},
		"median":   {"median(map(peaks, .area_s))", "the middle one", statistic, averaged(median, 1)},
		"sd":       {"sd(map(replicates, .amount))", "the standard deviation, n − 1", statistic, averaged(func(l []float64) float64 { return stat.StdDev(l, nil) }, 2)},
		"rsd":      {"rsd(map(replicates, .amount))", "the standard deviation in % of the mean", inPercent, averaged(relative, 2)},
		"min":      {"min(map(peaks, .area_s))", "the least", statistic, averaged(slices.Min[[]float64], 1)},
		"max":      {"max(map(peaks, .area_s))", "the greatest", statistic, averaged(slices.Max[[]float64], 1)},
		"len":      {"len(peaks)", "how many", length, howMany},
		"first":    {"first(peaks)", "the first", element, edge(0)},
		"last":     {"last(peaks)", "the last", element, edge(-1)},
		"abs":      {"abs(x)", "without its sign", oneNumber, eachNumber(math.Abs)},
		"round":    {"round(x)", "to a whole number", oneNumber, eachNumber(math.Round)},
		"floor":    {"floor(x)", "the whole number below", oneNumber, eachNumber(math.Floor)},
		"ceil":     {"ceil(x)", "the whole number above", oneNumber, eachNumber(math.Ceil)},
		"upper":    {"upper(name)", "in capitals", oneText, eachText(strings.ToUpper)},
		"lower":    {"lower(name)", "in small letters", oneText, eachText(strings.ToLower)},
		"trim":     {"trim(name)", "without blanks around it", oneText, eachText(strings.TrimSpace)},
	}
}

func truth(_, _ kindOf) kindOf { return kindOf{what: aTruth} }

func (c *checker) call(n *ast.CallNode) (kindOf, *Misread) {
	switch callee := n.Callee.(type) {
	case *ast.IdentifierNode:
		return c.function(n, callee.Value, n.Arguments)
	case *ast.MemberNode: // compound("EGCG") of an injection that a list is gone through with
		of, problem := c.of(callee.Node)
		if problem != nil {
			return of, problem
		}
		word, is := callee.Property.(*ast.StringNode)
		if !is || of.what != anObject || of.lives == quantities.OfBatch || of.lives == quantities.OfTrace || !slices.Contains([]string{"compound", "peak", "trace"}, word.Value) {
			return of, at(n, "", "Only compound, peak and trace can be asked of %s.", of.words())
		}
		return functions[word.Value].check(c, n, n.Arguments)
	}
	return kindOf{}, at(n, "", "This cannot be called.")
}

func (c *checker) builtin(n *ast.BuiltinNode) (kindOf, *Misread) {
	return c.function(n, n.Name, n.Arguments)
}

func (c *checker) function(n ast.Node, name string, args []ast.Node) (kindOf, *Misread) {
	f := functions[name]
	if f == nil {
		near := nearest(name, slices.Sorted(maps.Keys(functions)))
		return kindOf{}, at(n, near, "Fields have no function %s.", name)
	}
	if slices.Contains([]string{"compound", "peak", "trace"}, name) && c.lives == quantities.OfBatch {
		return kindOf{}, at(n, "", "A field of the batch has no %s of its own: go through injections, as in map(injections, .%s(…).…).", name, name)
	}
	return f.check(c, n, args)
}

// objectNamed checks compound("EGCG") and its like: compounds must be of the method.
func objectNamed(l quantities.Lives) func(*checker, ast.Node, []ast.Node) (kindOf, *Misread) {
	return func(c *checker, n ast.Node, args []ast.Node) (kindOf, *Misread) {
		name, is := ast.Node(nil), false
		if len(args) == 1 {
			name = args[0]
			_, is = name.(*ast.StringNode)
		}
		if !is {
			return kindOf{}, at(n, "", "This takes one name between quotation marks.")
		}
		text := name.(*ast.StringNode).Value
		if l == quantities.OfTrace {
			c.traces = true
			return object(l), nil
		}
		for _, known := range c.compiler.compounds {
			if strings.EqualFold(known, text) {
				return object(l), nil
			}
		}
		near := nearest(text, c.compiler.compounds)
		says := fmt.Sprintf("The method has no compound %s.", text)
		if near != "" {
			says += " " + near + " is near."
		}
		return kindOf{}, at(name, near, "%s", says)
	}
}

// gone checks a function that goes through a list with a predicate.
func gone(gives func(of, got kindOf) kindOf, wantsTruth bool) func(*checker, ast.Node, []ast.Node) (kindOf, *Misread) {
	return func(c *checker, n ast.Node, args []ast.Node) (kindOf, *Misread) {
		of, got, problem := c.through(n, args)
		if problem != nil {
			return of, problem
		}
		if wantsTruth && got.what != aTruth {
			return of, at(args[1], "", "This is asked of each and must be true or false; it is %s.", got.words())
		}
		return gives(of, got), nil
	}
}

func (c *checker) through(n ast.Node, args []ast.Node) (of, got kindOf, problem *Misread) {
	if len(args) != 2 {
		return of, got, at(n, "", "This takes a list, and what is asked of each.")
	}
	if of, problem = c.list(args[0]); problem != nil {
		return of, got, problem
	}
	predicate, is := args[1].(*ast.PredicateNode)
	if !is {
		return of, got, at(args[1], "", "What is asked of each is written as .area_s > 5.")
	}
	c.pointers = append(c.pointers, *of.elem)
	got, problem = c.of(predicate.Node)
	c.pointers = c.pointers[:len(c.pointers)-1]
	return of, got, problem
}

func (c *checker) list(n ast.Node) (kindOf, *Misread) {
	of, problem := c.of(n)
	if problem == nil && of.what != aList {
		problem = at(n, "", "A list is needed, and this is %s.", of.words())
	}
	return of, problem
}

func summed(c *checker, n ast.Node, args []ast.Node) (kindOf, *Misread) {
	if len(args) == 1 {
		return statistic(c, n, args)
	}
	_, got, problem := c.through(n, args)
	if problem == nil && got.what != aNumber {
		problem = at(args[1], "", "A sum is of numbers, and this is %s.", got.words())
	}
	got.plain = false
	return got, problem
}

// statistic checks a function of a list of numbers, or of several numbers.
func statistic(c *checker, n ast.Node, args []ast.Node) (kindOf, *Misread) {
	if len(args) == 0 {
		return kindOf{}, at(n, "", "This takes numbers, or a list of them.")
	}
	var out kindOf
	for k, arg := range args {
		got, problem := c.of(arg)
		if problem != nil {
			return got, problem
		}
		if got.what == aList && len(args) == 1 {
			got = *got.elem
		}
		if got.what != aNumber {
			return got, at(arg, "", "Numbers are needed, and this is %s.", got.words())
		}
		if k > 0 && !out.plain && !got.plain && !out.unit.same(got.unit) {
			return got, at(arg, "", "%s does not go with %s: these are unlike units.", got.unit.words(), out.unit.words())
		}
		if k == 0 || out.plain {
			out = got
		}
	}
	return out, nil
}

func inPercent(c *checker, n ast.Node, args []ast.Node) (kindOf, *Misread) {
	_, problem := statistic(c, n, args)
	return number(parseUnit("%")), problem
}

func length(c *checker, n ast.Node, args []ast.Node) (kindOf, *Misread) {
	if len(args) != 1 {
		return kindOf{}, at(n, "", "This takes one list.")
	}
	_, problem := c.list(args[0])
	return kindOf{what: aNumber, unit: unit{}, shown: quantities.Count}, problem
}

func element(c *checker, n ast.Node, args []ast.Node) (kindOf, *Misread) {
	if len(args) != 1 {
		return kindOf{}, at(n, "", "This takes one list.")
	}
	of, problem := c.list(args[0])
	if problem != nil {
		return of, problem
	}
	return *of.elem, nil
}

func oneNumber(c *checker, n ast.Node, args []ast.Node) (kindOf, *Misread) {
	if len(args) != 1 {
		return kindOf{}, at(n, "", "This takes one number.")
	}
	got, problem := c.of(args[0])
	if problem == nil && got.what != aNumber {
		problem = at(args[0], "", "A number is needed, and this is %s.", got.words())
	}
	return got, problem
}

func oneText(c *checker, n ast.Node, args []ast.Node) (kindOf, *Misread) {
	if len(args) != 1 {
		return kindOf{}, at(n, "", "This takes one text.")
	}
	got, problem := c.of(args[0])
	if problem == nil && got.what != aText {
		problem = at(args[0], "", "A text is needed, and this is %s.", got.words())
	}
	return got, problem
}

func median(l []float64) float64 {
	sort.Float64s(l)
	if n := len(l); n%2 == 0 {
		return (l[n/2-1] + l[n/2]) / 2
	}
	return l[len(l)/2]
}

func relative(l []float64) float64 {
	return 100 * stat.StdDev(l, nil) / math.Abs(stat.Mean(l, nil))
}
