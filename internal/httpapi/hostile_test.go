package httpapi

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"regexp"
	"sort"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// values are what no page would ever send.
var values = map[string]string{
	"null":             `null`,
	"true":             `true`,
	"minus one":        `-1`,
	"a huge number":    `9223372036854775807`,
	"beyond a float":   `1e300`,
	"a fraction":       `0.5`,
	"empty":            `""`,
	"300 letters":      `"` + strings.Repeat("ã", 300) + `"`,
	"a novel":          `"` + strings.Repeat("tide ", 60_000) + `"`,
	"no UTF-8":         "\"a\xff\xfe\x80b\"",
	"a zero byte":      `"a\u0000b"`,
	"right to left":    `"a\u202egpj.exe"`,
	"the year 9999":    `"9999-12-31T23:59"`,
	"an instant there": `"9999-12-31T23:59:59Z"`,
	"the year 1":       `"0001-01-01T00:00:00Z"`,
	"braces":           `"{family}{"`,
	"a list":           `[1,"a",null,{}]`,
	"an object":        `{"a":{"b":[]}}`,
}

// spoiled are a JSON text with one value at a time replaced.
func spoiled(t *testing.T, text string) map[string]string {
	var whole any
	require.NoError(t, json.Unmarshal([]byte(text), &whole))
	out := map[string]string{}
	var visit func(path string, at any, put func(string) string)
	visit = func(path string, at any, put func(string) string) {
		for name, value := range values {
			out[path+" is "+name] = put(value)
		}
		encode := func(v any) string {
			b, err := json.Marshal(v)
			require.NoError(t, err)
			return string(b)
		}
		switch v := at.(type) {
		case map[string]any:
			for key := range v {
				visit(path+"."+key, v[key], func(value string) string {
					parts := []string{}
					for k, old := range v {
						if k == key {
							parts = append(parts, encode(k)+":"+value)
						} else {
							parts = append(parts, encode(k)+":"+encode(old))
						}
					}
					return put("{" + strings.Join(parts, ",") + "}")
				})
			}
		case []any:
			for n := range min(1, len(v)) {
				visit(fmt.Sprint(path, n), v[n], func(value string) string {
					parts := []string{}
					for m, old := range v {
						if m == n {
							parts = append(parts, value)
						} else {
							parts = append(parts, encode(old))
						}
					}
					return put("[" + strings.Join(parts, ",") + "]")
				})
			}
		}
	}
	visit("", whole, func(value string) string { return value })
	return out
}

var numbers = regexp.MustCompile(`\d+`)

// Whatever is sent to whichever route, the answer is a sentence and never a failure of ours; and afterwards every page
// is still there.
func TestNothingThatIsSentIsAFailureOfOurs(t *testing.T) {
	s := open(t)
	client := s.signIn(t, "nerea@alvarim.example")
	try := func(method, path, body string) (int, string, time.Duration) {
		r, err := http.NewRequest(method, s.server.URL+path, strings.NewReader(body))
		if err != nil {
			return 0, "", 0 // no request at all
		}
		r.Header.Set("Content-Type", "application/json")
		began := time.Now()
		answer, err := client.Do(r)
		require.NoError(t, err)
		defer answer.Body.Close()
		said, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		return answer.StatusCode, string(said), time.Since(began)
	}
	calls := s.calls()
	var routes []string
	for route := range calls {
		if route != "DELETE /api/session" {
			routes = append(routes, route)
		}
	}
	sort.Strings(routes)
	tried := 0
	for _, route := range routes {
		method, _, _ := strings.Cut(route, " ")
		c := calls[route]
		check := func(what, path, body string) {
			tried++
			code, said, took := try(method, path, body)
			assert.Less(t, code, 500, "%s, %s: %s", route, what, said)
			assert.Less(t, took, 5*time.Second, "%s, %s", route, what)
		}
		if c.body != "" && strings.HasPrefix(c.body, "{") {
			for what, body := range spoiled(t, c.body) {
				check(what, c.path, body)
			}
			check("10 MB", c.path, `{"x":"`+strings.Repeat("y", 10<<20)+`"}`)
			check("half a body", c.path, c.body[:len(c.body)/2])
		}
		for _, n := range []string{"0", "-1", "9223372036854775807", "99999999999999999999", "x", "%FF", "1.5"} {
			check("number "+n, numbers.ReplaceAllString(c.path, n), c.body)
		}
		if before, query, ok := strings.Cut(c.path, "?"); ok {
			key, _, _ := strings.Cut(query, "=")
			for _, value := range []string{"", strings.Repeat("a", 4000), "%00", "%FF%FE", "9999-12-31", "-1", "9999-W53"} {
				check("query "+value[:min(9, len(value))], before+"?"+key+"="+value, c.body)
			}
		}
	}
	assert.Greater(t, tried, 1500)
	for _, page := range []string{"horizon", "plan", "week?from=", "courses", "table", "ledger", "library", "settings", "feeds", "search?q=a"} {
		code, said, took := try("GET", "/api/"+page, "")
		assert.Equal(t, http.StatusOK, code, "%s: %s", page, said)
		assert.Less(t, took, 3*time.Second, page)
	}
}
