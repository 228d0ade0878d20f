package httpapi

import (
	"context"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io"
	"io/fs"
	"net/http"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/internal/httpapi/api"
	"orario/internal/worldtest"
)

// What a page sends and no room reads is lost without a word. Every field of every body that api/orario.yaml names is
// looked for on its way: it is decoded into a field of that name, and that field is either read by the handler or goes on
// as part of the whole, whose fields a room reads.
func TestEveryFieldOfEveryBodyReachesItsRoom(t *testing.T) {
	document, err := api.GetSwagger()
	require.NoError(t, err)
	read, mentioned := handlersRead(t), fieldsMentioned(t)
	bodies := 0
	for path, item := range document.Paths.Map() {
		for method, operation := range item.Operations() {
			if operation.RequestBody == nil {
				continue
			}
			schema := operation.RequestBody.Value.Content["application/json"].Schema.Value
			name := strings.ToUpper(operation.OperationID[:1]) + operation.OperationID[1:]
			t.Run(method+" "+path, func(t *testing.T) {
				bodies++
				handler, ok := reflect.TypeFor[handlers]().MethodByName(name)
				require.True(t, ok, "nobody handles %s", name)
				body, ok := handler.Type.In(2).FieldByName("Body")
				require.True(t, ok)
				way := read[name]
				each(t, schema, body.Type, "", func(t *testing.T, where string, field reflect.StructField, top bool) {
					if top && !way.whole {
						assert.True(t, way.fields[field.Name], "%s is read by no line of the handler %s", where, name)
						return
					}
					assert.True(t, mentioned[field.Name] || field.Name == ofThePage, "%s is read by no line of any room", where)
				})
			})
		}
	}
	assert.Greater(t, bodies, 40)
}

// ofThePage is a setting that is kept for the page, which alone goes by it.
const ofThePage = "NoKeys"

// each calls found for every property of a schema with the field that it is decoded into.
func each(
	t *testing.T, s *openapi3.Schema, into reflect.Type, where string, found func(*testing.T, string, reflect.StructField, bool),
) {
	for into.Kind() == reflect.Pointer || into.Kind() == reflect.Slice {
		if into = into.Elem(); s.Items != nil {
			s = s.Items.Value
		}
	}
	if into.Kind() != reflect.Struct {
		return
	}
	for key, property := range s.Properties {
		field, ok := decoded(into, key)
		if !assert.True(t, ok, "%s.%s is decoded into nothing of %s", where, key, into) {
			continue
		}
		found(t, where+"."+key, field, where == "")
		each(t, property.Value, field.Type, where+"."+key, found)
	}
}

// decoded finds the field of a struct that a key of JSON is decoded into.
func decoded(into reflect.Type, key string) (reflect.StructField, bool) {
	for _, f := range reflect.VisibleFields(into) {
		if name, _, _ := strings.Cut(f.Tag.Get("json"), ","); name == key {
			return f, true
		}
	}
	return reflect.StructField{}, false
}

// A way is what a handler does with its body: the fields that it reads, or that it hands on all of it.
type way struct {
	fields map[string]bool
	whole  bool
}

func handlersRead(t *testing.T) map[string]way {
	found := map[string]way{}
	files, err := filepath.Glob("*.go")
	require.NoError(t, err)
	for _, file := range files {
		if strings.HasSuffix(file, "_test.go") {
			continue
		}
		tree, err := parser.ParseFile(token.NewFileSet(), file, nil, 0)
		require.NoError(t, err)
		for _, d := range tree.Decls {
			if f, ok := d.(*ast.FuncDecl); ok && f.Recv != nil && f.Body != nil {
				found[f.Name.Name] = readBy(f)
			}
		}
	}
	return found
}

func readBy(f *ast.FuncDecl) way {
	w := way{fields: map[string]bool{}}
	names := map[string]bool{} // of variables that hold the body
	isBody := func(e ast.Expr) bool {
		if star, ok := e.(*ast.StarExpr); ok {
			e = star.X
		}
		if id, ok := e.(*ast.Ident); ok {
			return names[id.Name]
		}
		s, ok := e.(*ast.SelectorExpr)
		return ok && s.Sel.Name == "Body"
	}
	ast.Inspect(f.Body, func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.AssignStmt:
			for i, right := range n.Rhs {
				if id, ok := n.Lhs[i].(*ast.Ident); ok && isBody(right) {
					names[id.Name] = true
				}
			}
		case *ast.SelectorExpr:
			if isBody(n.X) {
				w.fields[n.Sel.Name] = true
			}
		case *ast.CallExpr:
			for _, a := range n.Args {
				w.whole = w.whole || isBody(a)
			}
		}
		return true
	})
	return w
}

// fieldsMentioned are the names behind a dot anywhere in the code of the rooms and the core.
func fieldsMentioned(t *testing.T) map[string]bool {
	found := map[string]bool{}
	for _, root := range []string{"..", "../../core"} {
		err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
			generated := strings.HasSuffix(path, ".gen.go") || strings.HasSuffix(path, ".sql.go")
			if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") || generated {
				return err
			}
			tree, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
			if err != nil {
				return err
			}
			ast.Inspect(tree, func(n ast.Node) bool {
				if s, ok := n.(*ast.SelectorExpr); ok {
					found[s.Sel.Name] = true
				}
				return true
			})
			return nil
		})
		require.NoError(t, err)
	}
	return found
}

// The mark goes the whole way: what was shown by the one request is what the other may send.
func TestABundleThatChangedInAnotherTabIsNotSent(t *testing.T) {
	s := open(t)
	ctx := context.Background()
	essay := worldtest.Essay()
	essay.Key, essay.Title = "second", "A second essay"
	id := s.Publish(essay)
	item := s.Add(id, "Quintal_HYD214_essay.txt", []byte("Words of a second essay."))
	client := s.signIn(t, "nerea@alvarim.example")
	mark := func() string {
		shown, err := s.Desk.Desk(ctx, s.Student, id, 0)
		require.NoError(t, err)
		return shown.Submit.Mark
	}
	old := mark()
	require.NoError(t, s.Prepare.Change(ctx, s.Student, item, "Quintal_HYD214_a-second-essay.txt", "essay")) // in another tab
	for _, c := range []struct {
		seen, says string
		code       int
	}{
		{old, "The bundle has changed since you looked at it.", http.StatusUnprocessableEntity},
		{"nonsense", "The bundle has changed since you looked at it.", http.StatusUnprocessableEntity},
		{mark(), "", http.StatusNoContent},
	} {
		answer, err := client.Post(fmt.Sprintf("%s/api/assignments/%d/submissions", s.server.URL, id), "application/json",
			strings.NewReader(fmt.Sprintf(`{"declared":true,"comment":"","part":0,"seen":%q}`, c.seen)))
		require.NoError(t, err)
		said, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		answer.Body.Close()
		assert.Equal(t, c.code, answer.StatusCode, "%s: %s", c.seen, said)
		assert.Contains(t, string(said), c.says)
	}
}
