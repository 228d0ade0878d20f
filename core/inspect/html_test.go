package inspect

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What is shown of a page is told by the HTML standard, § 15 “Rendering” (elements with display: none) and § 4.12.
func TestThePageThatAReaderSees(t *testing.T) {
	for page, want := range map[string]string{
		"<p>One <b>t</b>wo</p><p>three</p>":                             "One two\n\nthree",
		"<html><head><title>T</title></head><body>a<script>b</script>c": "ac",
		"<head><title>T</title><body>unclosed head":                     "unclosed head",
		"<td>a</td><td>b</td>":                                          "a\tb",
		"a &amp; b&nbsp;c":                                              "a & b\u00a0c",
		"<!-- no --><noscript>no</noscript>yes":                         "yes",
		"<svg><text>no</text><svg></svg></svg>yes":                      "yes",
	} {
		got, err := htmlText(page)
		require.NoError(t, err)
		assert.Equal(t, want, got, page)
	}
	f := File("a.html", []byte("<!doctype html><title>x y z</title><body><p>Six words stand on this page"))
	require.NotNil(t, f.Words)
	assert.Equal(t, 6, *f.Words)
	deep, err := htmlText(strings.Repeat("<div>", 1_000_000) + "x")
	require.NoError(t, err)
	assert.Equal(t, "x", deep)
}
