package formula

import (
	"fmt"
	"strings"

	"github.com/expr-lang/expr/ast"
)

func compoundNamed(e *evaluation, args []ast.Node) value {
	name := args[0].(*ast.StringNode).Value
	if e.row.Batch != nil {
		for k := range e.row.Batch.Method.Compounds {
			if c := &e.row.Batch.Method.Compounds[k]; strings.EqualFold(c.Name, name) {
				return rowValue(e.row.Of(c))
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
	if steady(args) {
		return e.memory.shared(args[1], e.row, func() value { return filter(e, args) })
	}
	return filter(e, args)
}

// steady tells whether what a filter finds is the same from every row, but for the compound: it goes over the injections of the batch, and its predicate looks
// at each of them alone.
func steady(args []ast.Node) bool {
	of, is := args[0].(*ast.IdentifierNode)
	if !is || of.Value != "run" && of.Value != "injections" {
		return false
	}
	alone := true
	ast.Walk(&args[1], visited(func(n ast.Node) {
		switch n.(type) {
		case *ast.IdentifierNode, *ast.VariableDeclaratorNode, *ast.BuiltinNode, *ast.CallNode:
			alone = false
		}
	}))
	return alone
}

type visited func(ast.Node)

func (v visited) Visit(n *ast.Node) { v(*n) }

func filter(e *evaluation, args []ast.Node) value {
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
	n, known, all := 0, 0, 0
	out := e.each(args, func(_, got value) bool {
		all++
		if got.absent == "" {
			known++
		}
		if holds(got) {
			n++
		}
		return true
	})
	if out.absent != "" {
		return out
	}
	count := num(float64(n))
	count.note = of(known, all)
	return count
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
	one, why := false, ""
	out := e.each(args, func(_, got value) bool {
		if why == "" {
			why = got.absent
		}
		one = one || holds(got)
		return !one
	})
	switch {
	case out.absent != "":
		return out
	case !one && why != "": // it may be true of those that are not there
		return absent(why)
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
