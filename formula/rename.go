package formula

import (
	"slices"

	"github.com/expr-lang/expr/ast"

	"yugen/core/batch"
)

// Rename gives the fields with every use of one short name as another. Formulas that cannot be read stay as they are.
func Rename(fields []batch.LabField, from, to string) []batch.LabField {
	out := slices.Clone(fields)
	for k, f := range out {
		if f.Short == from {
			out[k].Short = to
		}
		tree, problem := parse(f.Formula)
		if problem != nil {
			continue
		}
		found := &uses{of: from}
		ast.Walk(&tree.Node, found)
		slices.Sort(found.at)
		text := []rune(f.Formula)
		for _, at := range slices.Backward(slices.Compact(found.at)) {
			if at+len([]rune(from)) <= len(text) && string(text[at:at+len([]rune(from))]) == from {
				text = slices.Replace(text, at, at+len([]rune(from)), []rune(to)...)
			}
		}
		out[k].Formula = string(text)
	}
	return out
}

// uses are the places at which a formula uses a name.
type uses struct {
	of string
	at []int
}

// Visit notes a use.
func (u *uses) Visit(node *ast.Node) {
	switch n := (*node).(type) {
	case *ast.IdentifierNode:
		if n.Value == u.of {
			u.at = append(u.at, n.Location().From)
		}
	case *ast.MemberNode:
		if word, is := n.Property.(*ast.StringNode); is && word.Value == u.of {
			u.at = append(u.at, word.Location().From)
		}
	}
}
