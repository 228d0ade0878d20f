package prose_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// source is an expression as it is written, with other constants by their names.
func source(e ast.Expr) string {
	switch e := e.(type) {
	case *ast.BasicLit:
		text, _ := strconv.Unquote(e.Value)
		return text
	case *ast.BinaryExpr:
		return source(e.X) + source(e.Y)
	case *ast.Ident:
		return "{" + e.Name + "}"
	case *ast.SelectorExpr:
		return source(e.X) + "." + e.Sel.Name
	}
	return ""
}

// A rule is a line that a person can read: no expression has more than 200 characters, nor has a way or a word.
func TestEveryRuleIsALine(t *testing.T) {
	files, err := filepath.Glob("*.go")
	require.NoError(t, err)
	seen, within := 0, 0
	for _, name := range files {
		file, err := parser.ParseFile(token.NewFileSet(), name, nil, 0)
		require.NoError(t, err)
		for _, d := range file.Decls {
			f, ok := d.(*ast.FuncDecl)
			if !ok || slices.Contains([]string{"regexpOf", "rule", "waysOf", "init"}, f.Name.Name) {
				continue
			}
			ast.Inspect(f, func(n ast.Node) bool {
				if call, ok := n.(*ast.CallExpr); ok && slices.Contains([]string{"{rule}", "{regexpOf}", "{waysOf}"}, source(call.Fun)) {
					within++
					t.Logf("%s: %s", name, f.Name.Name)
				}
				return true
			})
		}
		ast.Inspect(file, func(n ast.Node) bool {
			call, ok := n.(*ast.CallExpr)
			if !ok || !slices.Contains([]string{"{rule}", "{regexpOf}", "{waysOf}", "{regexp}.MustCompile"}, source(call.Fun)) {
				return true
			}
			for _, e := range call.Args {
				seen++
				assert.LessOrEqual(t, len(source(e)), 200, "%s: %s", name, source(e))
			}
			return true
		})
	}
	assert.Greater(t, seen, 250)
	assert.Zero(t, within, "an expression is made once, and not while somebody waits for a reading")
	for _, name := range []string{"vocabulary.txt", "ways.txt"} {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		for line := range strings.Lines(string(text)) {
			assert.LessOrEqual(t, len(line), 201, "%s: %s", name, line)
		}
	}
}
