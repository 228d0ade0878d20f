package prose

import (
	"math/rand/v2"
	"regexp/syntax"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// written writes something that an expression's tree matches, or nearly: what stands around is not looked at.
func written(r *rand.Rand, part *syntax.Regexp, b *strings.Builder) {
	times := func(n int) {
		for range n {
			written(r, part.Sub[0], b)
		}
	}
	switch part.Op {
	case syntax.OpLiteral:
		b.WriteString(string(part.Rune))
	case syntax.OpCharClass:
		pick := 2 * r.IntN(len(part.Rune)/2)
		if low, high := max(part.Rune[pick], ' '), min(part.Rune[pick+1], '~'); high >= low {
			b.WriteRune(low + r.Int32N(high-low+1))
		}
	case syntax.OpAnyChar, syntax.OpAnyCharNotNL:
		b.WriteByte("abc 1"[r.IntN(5)])
	case syntax.OpCapture:
		times(1)
	case syntax.OpQuest:
		times(r.IntN(2))
	case syntax.OpStar:
		times(r.IntN(3))
	case syntax.OpPlus:
		times(1 + r.IntN(2))
	case syntax.OpRepeat:
		most := part.Max
		if most < 0 {
			most = part.Min + 2
		}
		times(part.Min + r.IntN(most-part.Min+1))
	case syntax.OpConcat:
		for _, sub := range part.Sub {
			written(r, sub, b)
		}
	case syntax.OpAlternate:
		written(r, part.Sub[r.IntN(len(part.Sub))], b)
	}
}

// No rule passes over a text that its expression matches: texts are made up out of every expression's own tree.
func TestNoRulePassesOverWhatItMatches(t *testing.T) {
	require.Greater(t, len(rules), 140)
	r := rand.New(rand.NewPCG(3, 14))
	matched := 0
	for _, p := range rules {
		tree, err := syntax.Parse(p.regexp().String(), syntax.Perl)
		require.NoError(t, err)
		for range 300 {
			var b strings.Builder
			b.WriteString([]string{"", "we ", "(", "the "}[r.IntN(4)])
			written(r, tree, &b)
			b.WriteString([]string{"", " then", ".", ","}[r.IntN(4)])
			if text := strings.ToLower(b.String()); p.regexp().MatchString(text) {
				matched++
				require.True(t, p.may(text), "%s\nin %q", p, text)
			}
		}
	}
	assert.Greater(t, matched, 20_000)
}

func TestWhatExpressionsNeed(t *testing.T) {
	for expression, want := range map[string][][]string{
		`\b(?:due|deadline)\b`:      {{"\x00deadline", "\x00due"}},
		`\bat most \w+ pages?`:      {{"\x00at most "}, {" page", " pages"}},
		`\b[1-3] pages`:             {{"\x001 pages", "\x002 pages", "\x003 pages"}},
		`lat(?:e|ness)`:             {{"late", "latness"}},
		`(?:due|by)? \w+`:           nil,
		`\b(?:late|\w+ due)\b`:      {{" due", "late"}},
		`has to be (?:in )?(?:pdf)`: {{"has to be in pdf", "has to be pdf"}},
		`\b(?:late \w+|due by)\b`:   {{"\x00due by", "\x00late "}, {"due by", "late "}},
		`.*`:                        nil,
	} {
		assert.Equal(t, want, needs(expression), expression)
	}
}
