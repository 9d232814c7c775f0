package testdb

import (
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// OnlyItsTransaction reads the package of a test and requires that what runs inside a transaction is given nothing
// else. inside are the names of the types that stand for a transaction, outside the one with all connections: a function
// that is given one of the former has no outside as its receiver or argument and, when it is written inside a method of
// it, no word of that method's receiver.
func OnlyItsTransaction(t *testing.T, outside string, inside ...string) {
	t.Helper()
	files, err := os.ReadDir(".")
	require.NoError(t, err)
	looked := 0
	for _, f := range files {
		if !strings.HasSuffix(f.Name(), ".go") || strings.HasSuffix(f.Name(), "_test.go") {
			continue
		}
		set := token.NewFileSet()
		file, err := parser.ParseFile(set, f.Name(), nil, 0)
		require.NoError(t, err)
		for _, d := range file.Decls {
			fn, ok := d.(*ast.FuncDecl)
			if !ok || fn.Body == nil {
				continue
			}
			if takes(fn.Type.Params, inside...) || takes(fn.Recv, inside...) {
				looked++
				assert.False(
					t,
					takes(fn.Type.Params, outside) || takes(fn.Recv, outside),
					"%s is given a transaction and the %s",
					fn.Name,
					outside,
				)
			}
			if takes(fn.Recv, outside) {
				looked += closures(t, set, fn, inside)
			}
		}
	}
	assert.Greater(t, looked, 20)
}

// closures looks at the functions inside a method that are given a transaction, and returns how many there are.
func closures(t *testing.T, set *token.FileSet, fn *ast.FuncDecl, inside []string) (looked int) {
	t.Helper()
	receiver := fn.Recv.List[0].Names[0].Name
	ast.Inspect(fn.Body, func(n ast.Node) bool {
		closure, ok := n.(*ast.FuncLit)
		if !ok || !takes(closure.Type.Params, inside...) {
			return true
		}
		looked++
		ast.Inspect(closure.Body, func(n ast.Node) bool {
			if id, ok := n.(*ast.Ident); ok {
				assert.NotEqual(
					t,
					receiver,
					id.Name,
					"%s: what runs inside the transaction of %s uses what it was begun on",
					set.Position(id.Pos()),
					fn.Name,
				)
			}
			return true
		})
		return true
	})
	return looked
}

// takes reports whether one of a list of arguments, or a receiver, is a pointer to a type of one of the names.
func takes(list *ast.FieldList, names ...string) bool {
	return list != nil && slices.ContainsFunc(list.List, func(p *ast.Field) bool {
		star, ok := p.Type.(*ast.StarExpr)
		if !ok {
			return false
		}
		id, ok := star.X.(*ast.Ident)
		return ok && slices.Contains(names, id.Name)
	})
}
