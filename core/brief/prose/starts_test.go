package prose

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Trying only beginnings of words finds what the expression finds, to the last group.
func TestWordwiseFindsTheSame(t *testing.T) {
	tried := map[string]pattern{
		"text layer":   textLayer,
		"sending":      sendCue,
		"which counts": countsCue,
		"drafts":       drafts,
		"closes":       closesCue,
		"due":          dueCue,
		"opens":        opensCue,
		"page":         pageAmount,
		"word":         wordAmount,
		"time":         timeAmount,
		"size":         byteAmount,
	}
	for _, p := range rules { // and all that are tried in parts
		if len(p.expression) > longExpression && p.make().wordwise != nil {
			p.wordwise.tries.Store(manyTries)
			tried[p.expression] = p
		}
	}
	wordwise, found := 0, 0
	for _, s := range append(samples(t, "written.txt"), samples(t, "held.txt")...) {
		text := prepare(s.text)
		for name, p := range tried {
			if p.make().wordwise == nil {
				continue
			}
			wordwise++
			for _, in := range text.sentences {
				for _, plain := range []string{text.plain[in.start:in.end], text.digits[in.start:in.end]} {
					if !p.may(plain) {
						continue
					}
					want := p.regexp().FindAllStringSubmatchIndex(plain, -1)
					found += len(want)
					assert.Equal(t, want, p.matches(plain), "%s in %q", name, plain)
				}
			}
		}
	}
	assert.NotZero(t, wordwise)
	assert.Greater(t, found, 100)
}

func TestWhereExpressionsCanBegin(t *testing.T) {
	for expression, want := range map[string]string{
		`\b(?:late|due)\b`: "dl", `\b(?:(?:very )?late|x?y)`: "lvxy", `\b\d+ pages`: "0123456789", `\bup ?to\b|\bat most\b`: "au", `\b(?:a{0,2}b)`: "ab", `\b[c-e]+`: "cde",
	} {
		set, ok := startsOf(expression)
		assert.True(t, ok, expression)
		got := ""
		for c, in := range set {
			if in {
				got += string(rune(c))
			}
		}
		assert.Equal(t, want, got, expression)
	}
	for _, expression := range []string{`late`, `\b(?:late)?`, `\b\W*late`, `\b(?:^late)`, `\b.late`, `\blate|due`, `\b(?i:late)`, `\b[^a]b`} {
		_, ok := startsOf(expression)
		assert.False(t, ok, expression)
	}
}

// A time that nothing in its own clause says to be the due one is asked about, however likely it is.
func TestTimesThatNothingLeadsToAreAskedAbout(t *testing.T) {
	for text, asked := range map[string]bool{
		"Whoever was ill on 28 April writes the essay, too: 5 May, 18:00.": true,
		"Your essay is due on 5 May, 18:00.":                               false,
		"I want to have your essay by 5 May, 18:00.":                       false,
		"Essay: 5 May, 18:00":                                              false,
	} {
		read := Read(text, monday(t))
		dues := 0
		for _, item := range read.Found {
			if item.Kind == "due" {
				dues++
			}
		}
		if asked {
			assert.NotEmpty(t, read.Unsettled, text)
		} else {
			assert.Equal(t, 1, dues, text)
			assert.Empty(t, read.Unsettled, text)
		}
	}
}
