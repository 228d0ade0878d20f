package naming

import (
	"slices"
	"strings"
	"testing"

	"orario/core/finding"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/unicode/norm"
	"pgregory.net/rapid"
)

var nerea = Fields{"family": "Quintal", "given": "Nerea", "initials": "NQ", "number": "20418", "course": "HYD214",
	"title": "Tide tables", "attempt": "2", "date": "2026-11-26", "ext": "pdf", "slot": "report"}

func made(t *testing.T, pattern string, fields Fields, plain bool) (string, []string) {
	t.Helper()
	p, err := Parse(pattern)
	require.NoError(t, err)
	name, problems, err := Make(p, fields, plain)
	require.NoError(t, err)
	return name, codes(problems)
}

func codes(problems []Problem) []string {
	list := []string{}
	for _, p := range problems {
		list = append(list, p.Code)
	}
	return list
}

func with(key, value string) Fields {
	f := Fields{}
	for k, v := range nerea {
		f[k] = v
	}
	f[key] = value
	return f
}

func TestMake(t *testing.T) {
	for pattern, want := range map[string]string{
		"{family}_{course}_{title}":                "Quintal_HYD214_Tide tables.pdf",
		"{family:lower}_{course}_{title:dash}":     "quintal_HYD214_tide-tables.pdf",
		"{family:upper}{given}-{title:none}.{ext}": "QUINTALNerea-Tidetables.pdf",
		"{date:YYMMDD}_{title:underscore}":         "261126_tide_tables.pdf",
		"{date}_{initials}_Lab3_{attempt:00}":      "2026-11-26_NQ_Lab3_02.pdf",
		"{date:DD.MM.YYYY} {title:title}":          "26.11.2026 Tide Tables.pdf",
	} {
		name, problems := made(t, pattern, nerea, false)
		assert.Equal(t, want, name)
		assert.Empty(t, problems, pattern)
	}
}

func TestPatternsThatCannotBeUsed(t *testing.T) {
	for pattern, complaint := range map[string]string{
		"{family": "without its }", "family}": "without its {", "{{family}}": "without its }",
		"{surname}": "unknown field", "{title:kebab}": "unknown form", "{date:dd}": "unknown form",
	} {
		_, err := Parse(pattern)
		assert.ErrorContains(t, err, complaint, pattern)
	}
	p, err := Parse("{section}")
	require.NoError(t, err)
	_, _, err = Make(p, nerea, false)
	assert.ErrorContains(t, err, "{section}")
}

func TestValuesAreMadeSound(t *testing.T) {
	name, problems := made(t, "{family}_{title}", with("title", ` Tides: "why?" `), false)
	assert.Equal(t, "Quintal_Tides- -why--.pdf", name)
	assert.Equal(t, []string{"forbidden", "edge"}, problems)
	_, problems = made(t, "{family}_{title}", with("title", norm.NFD.String("maré")), false)
	assert.Equal(t, []string{"not_nfc"}, problems)
}

func TestTooLongShortensTheTitleAtAWholeCharacter(t *testing.T) {
	name, problems := made(t, "{family}_{title}", with("title", strings.Repeat("maré", 90)), false)
	assert.LessOrEqual(t, len(name), MaxBytes)
	assert.True(t, strings.HasSuffix(name, ".pdf"))
	assert.True(t, norm.NFC.IsNormalString(name))
	assert.Contains(t, problems, "too_long")
	// A letter whose mark has no composed form (UAX #15) is not parted from it.
	name, _ = made(t, "{family}_{title}", with("title", strings.Repeat("q\u0323\u0307", 90)), false)
	stem, _ := Split(name)
	assert.True(t, strings.HasSuffix(stem, "\u0307"), "%q", stem)
}

// Explicit directional characters are those of Unicode's UAX #9, table "Explicit Directional ..."; what is not seen is
// left out of what is made.
func TestWhatIsNotSeenIsLeftOut(t *testing.T) {
	name, problems := made(t, "{family}_{title}", with("title", "ti\u202ede\u2066s"), false)
	assert.Equal(t, "Quintal_tides.pdf", name)
	assert.Contains(t, problems, "forbidden")
}

// The reserved names and characters are those of Microsoft's "Naming Files, Paths, and Namespaces";
// 255 bytes is NAME_MAX as POSIX.1 and Linux's limits.h have it.
func TestLint(t *testing.T) {
	for name, want := range map[string]string{
		"CON.pdf": "reserved", "nul": "reserved", "LPT¹.txt": "reserved", "com7.tar.gz": "reserved",
		"quintal?.pdf": "forbidden", "quintal\t1.pdf": "forbidden", "quintal.pdf ": "edge", ".quintal": "edge", "quintal.": "edge",
		"quintal_\u202egnp.exe": "forbidden", "quin\u200btal.pdf": "forbidden", "\u2067quintal.pdf": "forbidden",
		strings.Repeat("quintal", 37) + ".pdf": "too_long", norm.NFD.String("quintalé.pdf"): "not_nfc",
		"QUINTAL_TIDE.PDF": "collides", " .pdf": "empty",
		"paper.docx": "anyone", "final2.pdf": "anyone", "scan0001.jpg": "anyone", "IMG_2041.heic": "anyone", "lab report (3) FINAL.docx": "anyone",
	} {
		assert.Contains(t, codes(Lint(name, []string{"quintal_tide.pdf"}, false)), want, name)
	}
	for _, name := range []string{"quintal_HYD214.pdf", "CONsole quintal.txt", "common tern.jpg", "marés.pdf", "a.b.quintal.pdf", "می\u200cخواهم.pdf"} {
		assert.Empty(t, Lint(name, nil, false), name)
	}
	assert.True(t, Same("STRASSE.pdf", "straße.pdf"), "full case folding (Unicode, CaseFolding.txt)")
}

// Values from ICU 72's transform Latin-ASCII (CLDR 42).
func TestPlain(t *testing.T) {
	for text, want := range map[string]string{
		"Gonçalves": "Goncalves", "Łódź": "Lodz", "Øre": "Ore", "Straße": "Strasse", "Æther": "AEther", "Þór": "THor", "İıſ": "Iis", "“q”": "\"q\"", "ﬁ": "fi",
	} {
		plain, ok := Plain(text)
		assert.True(t, ok, text)
		assert.Equal(t, want, plain)
	}
	plain, ok := Plain("Ωmega")
	assert.False(t, ok)
	assert.Equal(t, "Ωmega", plain)
	_, problems := made(t, "{family}", with("family", "Жук"), true)
	assert.Contains(t, problems, "not_plain")
}

func TestRead(t *testing.T) {
	p, err := Parse("{family}_{course}_Lab3_{title:dash}")
	require.NoError(t, err)
	read := func(name string, fields Fields) (bool, map[string]string) {
		agrees, parts, err := Read(p, fields, false, name)
		require.NoError(t, err)
		wrong := map[string]string{}
		for _, part := range parts {
			if !part.OK {
				wrong[part.Field] = part.Found
			}
		}
		return agrees, wrong
	}
	agrees, wrong := read("Quintal_HYD214_Lab3_tide-tables.pdf", nerea)
	assert.True(t, agrees)
	assert.Empty(t, wrong)

	for name, want := range map[string]map[string]string{
		"Quintal_HYD215_Lab3_tide-tables.pdf":  {"course": "HYD215"},
		"quintal_HYD214_Lab3_tide-tables.docx": {"family": "quintal", "ext": "docx"},
		"Quintal_HYD214_Lab3_.pdf":             {"title": ""},
		"Quintal_HYD214_Lab4_tide-tables.pdf":  {"literal": "_Lab4_"},
	} {
		agrees, wrong = read(name, nerea)
		assert.False(t, agrees, name)
		assert.Equal(t, want, wrong, name)
	}
	agrees, _ = read("de_la_Cruz_HYD214_Lab3_tide-tables.pdf", with("family", "de_la_Cruz"))
	assert.True(t, agrees, "a value may hold the separator")
}

func TestAMadeNameReadsBack(t *testing.T) {
	p, err := Parse("{family:upper}_{given}_{title:dash}_{attempt:00}")
	require.NoError(t, err)
	text := rapid.StringMatching(`[\pL ._\-/]{1,12}`)
	rapid.Check(t, func(t *rapid.T) {
		fields := Fields{
			"family":  text.Draw(t, "family"),
			"given":   text.Draw(t, "given"),
			"title":   text.Draw(t, "title"),
			"attempt": "3",
			"ext":     "pdf",
		}
		name, problems, err := Make(p, fields, false)
		if err != nil {
			t.Fatal(err)
		}
		for _, problem := range problems {
			if problem.Code == "forbidden" && problem.Weight == finding.Must {
				t.Fatalf("%q holds forbidden characters", name)
			}
		}
		if agrees, parts, _ := Read(p, fields, false, name); !agrees {
			t.Fatalf("%q does not read back: %+v", name, parts)
		}
	})
}

// What no reader sees in a name: the byte order mark, and what turns the direction of writing.
func TestSignsThatNobodySees(t *testing.T) {
	for r, forbidden := range map[rune]bool{0xFEFF: true, 0x2066: true, 0x2069: true, 0x206A: false, 0x2065: false, 'a': false} {
		problems := codes(Lint("quintal"+string(r)+"report.pdf", nil, false))
		assert.Equal(t, forbidden, slices.Contains(problems, "forbidden"), "%U", r)
	}
}

// A title that is shortened ends in no sign that a name must not end in, and at a whole letter.
func TestATitleThatIsShortened(t *testing.T) {
	p, err := Parse("{title}")
	require.NoError(t, err)
	for _, sign := range []string{" ", ".", "-", "_", " - "} {
		title := strings.Repeat("a", MaxBytes-4-len(sign)) + sign + strings.Repeat("b", 20)
		name, problems, err := Make(p, Fields{"title": title, "ext": "pdf"}, false)
		require.NoError(t, err)
		assert.Equal(t, strings.Repeat("a", MaxBytes-4-len(sign))+".pdf", name, "%q", sign)
		assert.Contains(t, codes(problems), "too_long")
	}
	for n, shortened := range map[int]bool{MaxBytes - 5: false, MaxBytes - 4: false, MaxBytes - 3: true} {
		name, problems, err := Make(p, Fields{"title": strings.Repeat("a", n), "ext": "pdf"}, false)
		require.NoError(t, err)
		assert.LessOrEqual(t, len(name), MaxBytes)
		assert.Equal(t, shortened, slices.Contains(codes(problems), "too_long"), "%d", n)
	}
}
