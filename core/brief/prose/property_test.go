package prose

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"orario/core/timing"
)

// What is found is in the text, in order, and can be used.
func TestWhatIsFoundCanBeUsed(t *testing.T) {
	kinds := map[string]int{}
	for _, s := range append(samples(t, "written.txt"), samples(t, "held.txt")...) {
		letters := []rune(s.text)
		r := Read(s.text, s.now)
		last := 0
		for _, i := range r.Found {
			kinds[i.Kind]++
			require.True(
				t,
				last <= i.Start && i.Start < i.End && i.End <= len(letters),
				"%s: %s at %d to %d",
				s.id,
				i.Kind,
				i.Start,
				i.End,
			)
			last = i.Start
			assert.True(t, i.Sure > 0 && i.Sure <= 1, "%s: sure %g", s.id, i.Sure)
			switch v := i.Value.(type) {
			case string:
				assert.NotEmpty(t, v)
				if i.Kind == "due" || i.Kind == "opens" || i.Kind == "closes" {
					_, err := timing.ParseWall(v, time.UTC)
					assert.NoError(t, err, s.id)
				}
			case []string:
				assert.NotEmpty(t, v, s.id)
			case Bounds:
				require.True(t, v.Min != nil || v.Max != nil, s.id)
				if v.Min != nil && v.Max != nil {
					assert.LessOrEqual(t, *v.Min, *v.Max, s.id)
				}
			case Late:
				assert.Contains(
					t,
					[]timing.Kind{timing.NoLateWork, timing.Fixed, timing.PerDay, timing.PerHours, timing.Steps},
					v.Kind,
					s.id,
				)
			}
			if i.Zone != "" {
				_, err := timing.Zone(i.Zone)
				assert.NoError(t, err, s.id)
			}
		}
		for _, q := range r.Unsettled {
			require.True(t, 0 <= q.Start && q.Start < q.End && q.End <= len(letters), s.id)
			assert.True(t, strings.HasSuffix(q.Question, "?"), "%s: %q asks nothing", s.id, q.Question)
		}
	}
	for _, kind := range []string{"due", "opens", "closes", "forms", "slots", "files", "pages", "words", "max_bytes", "name", "late", "attempts", "points", "report", "declaration", "route", "grace", "style", "text_layer"} {
		assert.NotZero(t, kinds[kind], "no text asks for %s", kind)
	}
}

// How a text is laid out changes where things stand, not what they are.
func TestLayoutDoesNotMatter(t *testing.T) {
	said := func(text string, now time.Time) (out []string) {
		for _, i := range Read(text, now).Found {
			out = append(out, i.Kind+" "+asJSON(t, i.Value)+" "+i.Zone)
		}
		return out
	}
	for _, s := range samples(t, "written.txt") {
		want := said(s.text, s.now)
		assert.Equal(t, want, said(strings.ReplaceAll(s.text, "\n", "\r\n"), s.now), "%s with CRLF", s.id)
		assert.Equal(t, want, said("\n\n"+s.text+"\n\n", s.now), "%s with blank lines around", s.id)
		assert.Equal(t, want, said(strings.ReplaceAll(s.text, " ", "\u00a0"), s.now), "%s with hard spaces", s.id)
	}
}

func asJSON(t testing.TB, v any) string {
	text, err := json.Marshal(v)
	require.NoError(t, err)
	return string(text)
}

// The pieces of a line are understood in whatever order they are typed.
func TestALineInAnyOrder(t *testing.T) {
	now := time.Date(2026, 4, 27, 9, 0, 0, 0, time.UTC) // a Monday
	rapid.Check(t, func(t *rapid.T) {
		pieces := rapid.Permutation([]string{"Tide readings", "HYD", "Fri 23:59", "20p", "pdf", "~3h"}).Draw(t, "order")
		l := Quick(strings.Join(pieces, " "), now, []Known{{Code: "WOD 130"}, {Code: "HYD 214"}})
		require.Equal(t, 1, l.Course)
		require.Equal(t, "2026-05-01T23:59", l.Due)
		require.Equal(t, 20.0, l.Points)
		require.Equal(t, []string{"pdf"}, l.Forms)
		require.Equal(t, 3.0, l.Hours)
		require.Equal(t, "Tide readings", l.Title)
	})
}

func TestSentences(t *testing.T) {
	of := Sentences("Send one PDF, max. 10 MB. Due Fri. 8 May at 18:00!\n\n– Late work loses a point")
	assert.Equal(t, "Send one PDF, max. 10 MB.", of(3))
	assert.Equal(t, "Due Fri. 8 May at 18:00!", of(30))
	assert.Contains(t, of(60), "Late work")
	assert.Empty(t, of(-1))
	assert.Empty(t, of(1000))
}

// Texts cut, joined and strewn with signs are read to their end, and nothing is found outside of them.
func TestMangledTextsAreRead(t *testing.T) {
	list := append(samples(t, "written.txt"), samples(t, "held.txt")...)
	rapid.Check(t, func(t *rapid.T) {
		a, b := []rune(rapid.SampledFrom(list).Draw(t, "first").text), []rune(
			rapid.SampledFrom(list).Draw(t, "second").text,
		)
		text := append(a[:rapid.IntRange(0, len(a)).Draw(t, "cut")], b[rapid.IntRange(0, len(b)).Draw(t, "from"):]...)
		for range rapid.IntRange(0, 8).Draw(t, "signs") {
			at := rapid.IntRange(0, len(text)).Draw(t, "at")
			text = append(
				text[:at:at],
				append(
					[]rune{rapid.SampledFrom([]rune("0123456789 .:-/<[{(\n,%~½–")).Draw(t, "sign")},
					text[at:]...)...)
		}
		r := Read(string(text), list[0].now)
		for _, i := range r.Found {
			require.True(
				t,
				0 <= i.Start && i.Start < i.End && i.End <= len(text),
				"%s at %d to %d of %d",
				i.Kind,
				i.Start,
				i.End,
				len(text),
			)
		}
		for _, q := range r.Unsettled {
			require.True(t, 0 <= q.Start && q.Start < q.End && q.End <= len(text))
		}
	})
}

// A sentence without end is read in about as many times longer as it has more words: four times the text takes well
// under sixteen times as long.
func BenchmarkSentenceWithoutEnd(b *testing.B) {
	now := time.Date(2026, 4, 27, 9, 0, 0, 0, time.UTC)
	for _, said := range []string{"late 5 % on Friday, 10 on Saturday, ", "name the file _ and your number, "} {
		for _, times := range []int{100, 400} {
			b.Run(fmt.Sprintf("%.8s %d", said, times), func(b *testing.B) {
				text := strings.Repeat(said, times)
				for b.Loop() {
					Read(text, now)
				}
			})
		}
	}
}
