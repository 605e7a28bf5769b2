// Package formula reads the formulas of fields in the syntax of expr-lang over the register of quantities: it checks them with their units, says in words and
// at its place what is wrong, and computes them within bounds. Nothing in a formula reaches a clock, a file or a network.
package formula

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"github.com/expr-lang/expr/ast"
	"github.com/expr-lang/expr/conf"
	"github.com/expr-lang/expr/file"
	"github.com/expr-lang/expr/parser"

	"yugen/core/batch"
	"yugen/core/quantities"
)

// Misread is what keeps a formula from being understood.
type Misread struct {
	// From and To are where, in letters from 0.
	From int `json:"from"`
	To   int `json:"to"`
	// Says is a sentence; Instead what may have been meant, empty where nothing is near.
	Says    string `json:"says"`
	Instead string `json:"instead,omitempty"`
}

func (p *Misread) Error() string { return p.Says }

// maxNodes bounds what a formula is made of.
const maxNodes = 500

// Compiled is a field with its formula, checked.
type Compiled struct {
	Field batch.LabField
	// Unit is that which the formula gives; the field may name another for people.
	Unit string
	Kind quantities.Kind
	// Uses are the quantities that it reads, by their ids, fields among them, in order.
	Uses []string
	// Traces tells that it reads what was recorded of the run.
	Traces bool

	node ast.Node
	at   int // its place among the fields
}

// Set are the fields of a method, compiled together. Problems has one place for each field; nil where it is understood.
type Set struct {
	Compiled []*Compiled // in the order of the fields; nil where there is a problem
	Problems []*Misread
	Register quantities.Register // that of the batch with the fields that are understood
}

// Compile compiles the fields of a method over a register.
func Compile(fields []batch.LabField, register quantities.Register, compounds []string) Set {
	c := &compiler{fields: fields, base: register, compounds: compounds, done: make([]*Compiled, len(fields)), problems: make([]*Misread, len(fields)), trees: make([]*parser.Tree, len(fields)), state: make([]int, len(fields))}
	for k := range fields {
		c.compile(k, nil)
	}
	set := Set{Compiled: c.done, Problems: c.problems, Register: slices.Clone(register)}
	m := newMemory()
	for _, one := range c.done {
		if one != nil {
			set.Register = append(set.Register, c.quantity(one, m))
		}
	}
	m.register = set.Register
	return set
}

type compiler struct {
	fields    []batch.LabField
	base      quantities.Register
	compounds []string
	done      []*Compiled
	problems  []*Misread
	trees     []*parser.Tree
	state     []int // 0 not begun, 1 under way, 2 done
}

// compile compiles a field after those that it uses. path are the fields on the way to it.
func (c *compiler) compile(k int, path []string) *Misread {
	f := c.fields[k]
	switch c.state[k] {
	case 2:
		return c.problems[k]
	case 1:
		return &Misread{Says: "This goes round in a circle: " + strings.Join(append(path[slices.Index(path, f.Name):], f.Name), " uses ") + "."}
	}
	c.state[k] = 1
	defer func() { c.state[k] = 2 }()
	tree, problem := parse(f.Formula)
	if problem == nil && c.clashes(f.Short) {
		problem = &Misread{Says: fmt.Sprintf("%s is the name of a quantity or of a word of formulas already; give the field another short name.", f.Short)}
	}
	if problem != nil {
		c.problems[k] = problem
		return problem
	}
	check := &checker{compiler: c, lives: quantities.Lives(f.Lives), path: append(slices.Clone(path), f.Name), vars: map[string]kindOf{}}
	got, problem := check.of(tree.Node)
	if problem == nil && !got.value() {
		problem = &Misread{To: len([]rune(f.Formula)), Says: fmt.Sprintf("This gives %s; a field is a number, a text, or true or false.", got.words())}
	}
	if problem != nil {
		c.problems[k] = problem
		return problem
	}
	shown := got
	if f.Unit != "" { // the field says what it is
		shown.unit = parseUnit(f.Unit)
	}
	c.done[k] = &Compiled{Field: f, Unit: got.unit.String(), Kind: shown.kind(), Uses: check.uses, Traces: check.traces, node: tree.Node, at: k}
	return nil
}

// clashes tells whether a short name is taken by something else than a field.
func (c *compiler) clashes(short string) bool {
	_, quantity := c.base.Find(short)
	return quantity || slices.Contains(reserved, short) || functions[short] != nil
}

// reserved are words of formulas that are no functions.
var reserved = []string{"batch", "injections", "injection", "traces", "trace", "peaks", "peak", "compounds", "compound", "replicates", "run", "true", "false", "nil", "not", "and", "or", "in", "let", "if", "else", "matches", "contains", "startsWith", "endsWith"}

// field is a field by its short name, and its place; -1 where there is none.
func (c *compiler) field(short string) int {
	return slices.IndexFunc(c.fields, func(f batch.LabField) bool { return f.Short == short })
}

// parse reads a formula.
func parse(text string) (*parser.Tree, *Misread) {
	if strings.TrimSpace(text) == "" {
		return nil, &Misread{Says: "Write a formula."}
	}
	config := conf.New(map[string]any{})
	config.MaxNodes = maxNodes
	tree, err := parser.ParseWithConfig(text, config)
	if err == nil {
		return tree, nil
	}
	var at *file.Error
	if errors.As(err, &at) {
		return nil, &Misread{From: at.From, To: max(at.To, at.From+1), Says: sentence(at.Message)}
	}
	return nil, &Misread{To: len([]rune(text)), Says: sentence(err.Error())}
}

var tokenWords = regexp.MustCompile(`unexpected token (EOF|\w+)(?:\("(.*?)"\))?`)

// sentence puts what a parser says into words.
func sentence(says string) string {
	if m := tokenWords.FindStringSubmatch(says); m != nil {
		if m[1] == "EOF" {
			return "The formula ends before it is complete."
		}
		return fmt.Sprintf("%q is not expected here.", m[2])
	}
	if strings.Contains(says, "max") && strings.Contains(says, "nodes") || strings.Contains(says, "exceeds maximum") {
		return fmt.Sprintf("The formula is too long: it may be made of %d parts.", maxNodes)
	}
	r := []rune(says)
	if len(r) == 0 {
		return "This cannot be read."
	}
	return strings.ToUpper(string(r[0])) + string(r[1:]) + "."
}
