package prose

import (
	"math"
	"regexp"
	"strconv"
	"strings"
)

var units = map[string]float64{
	"zero":      0,
	"one":       1,
	"two":       2,
	"three":     3,
	"four":      4,
	"five":      5,
	"six":       6,
	"seven":     7,
	"eight":     8,
	"nine":      9,
	"ten":       10,
	"eleven":    11,
	"twelve":    12,
	"thirteen":  13,
	"fourteen":  14,
	"fifteen":   15,
	"sixteen":   16,
	"seventeen": 17,
	"eighteen":  18,
	"nineteen":  19,
	"twenty":    20,
	"thirty":    30,
	"forty":     40,
	"fifty":     50,
	"sixty":     60,
	"seventy":   70,
	"eighty":    80,
	"ninety":    90,
	"hundred":   100,
	"thousand":  1000,
	"a":         1,
	"an":        1,
	"single":    1,
	"couple":    2,
	"dozen":     12,
	"half":      0.5,
	"once":      1,
	"twice":     2,
	"thrice":    3,
	"both":      2,
}

var ordinals = map[string]int{
	"first":          1,
	"second":         2,
	"third":          3,
	"fourth":         4,
	"fifth":          5,
	"sixth":          6,
	"seventh":        7,
	"eighth":         8,
	"ninth":          9,
	"tenth":          10,
	"eleventh":       11,
	"twelfth":        12,
	"thirteenth":     13,
	"fourteenth":     14,
	"fifteenth":      15,
	"sixteenth":      16,
	"seventeenth":    17,
	"eighteenth":     18,
	"nineteenth":     19,
	"twentieth":      20,
	"twenty-first":   21,
	"twenty-second":  22,
	"twenty-third":   23,
	"twenty-fourth":  24,
	"twenty-fifth":   25,
	"twenty-sixth":   26,
	"twenty-seventh": 27,
	"twenty-eighth":  28,
	"twenty-ninth":   29,
	"thirtieth":      30,
	"thirty-first":   31,
}

// num is an amount in digits, in a pattern over [text.digits]. Number words inside of a pattern would make it
// too large for the fast engines of package regexp.
const num = `(?:\d{1,3}(?:[, ]\d{3})+\b|\d+(?:\.\d+)?\^?(?:k\b)?)`

// number reads an amount that [num] matches, or one in words.
func number(s string) float64 {
	s = strings.TrimSpace(s)
	if s == "" {
		return 0
	}
	if isDigit(s[0]) {
		half, times := 0.0, 1.0
		if strings.HasSuffix(s, "k") {
			s, times = strings.TrimSuffix(s, "k"), 1000
		}
		if strings.HasSuffix(s, "^") {
			s, half = strings.TrimSuffix(s, "^"), 0.5
		}
		v, err := strconv.ParseFloat(strings.NewReplacer(",", "", " ", "").Replace(s), 64)
		if err != nil {
			return 0
		}
		return (v + half) * times
	}
	total, part := 0.0, 0.0
	for _, word := range strings.FieldsFunc(s, func(r rune) bool { return r == ' ' || r == '-' }) {
		switch v := units[word]; {
		case word == "half":
			total, part = total+part+0.5, 0
		case word == "quarter":
			total, part = total+part+0.25, 0
		case word == "a" && part > 0, word == "and":
		case v == 100 || v == 1000 || word == "dozen":
			total, part = total+math.Max(1, part)*v, 0
		default:
			part += v
		}
	}
	return total + part
}

func atoi(s string) int {
	n, err := strconv.Atoi(s)
	if err != nil {
		return math.MaxInt32
	}
	return n
}

// small whole numbers in words, and ordinals, read from a token.
func (k token) count() (int, bool) {
	if k.number && !k.ordinal && len(k.s) < 6 {
		return atoi(k.s), true
	}
	if v, ok := units[k.s]; ok && v == math.Trunc(v) && v < 100 && k.s != "hundred" {
		return int(v), true
	}
	return 0, false
}

func (k token) nth() (int, bool) {
	if k.ordinal {
		return atoi(k.s), true
	}
	n, ok := ordinals[k.s]
	return n, ok
}

// inDigits is the plain text with numbers in words written in digits of the same length, so that offsets
// stay: "three pages" becomes "00003 pages".
func inDigits(plain string, tokens []token) string {
	out := []byte(plain)
	for i := 0; i < len(tokens); i++ {
		if !countable(tokens, i) {
			continue
		}
		end := i + 1
		for end < len(tokens) && continues(plain, tokens, end) {
			end++
		}
		for end > i+1 && (tokens[end-1].s == "and" || tokens[end-1].s == "-" || tokens[end-1].s == "a") {
			end--
		}
		from, to := tokens[i].start, tokens[end-1].end
		digits := strconv.FormatFloat(number(plain[from:to]), 'f', -1, 64)
		if pad := to - from - len(digits); pad >= 0 {
			copy(out[from:], strings.Repeat("0", pad)+digits)
		}
		i = end - 1
	}
	return string(out)
}

// partsOfHour are stretches of time in words, by their minutes.
var partsOfHour = []struct {
	minutes string
	said    *regexp.Regexp
}{
	{"45", regexp.MustCompile(`\b0*3 quarters of an hour\b`)},
	{"15", regexp.MustCompile(`\b(?:a )?quarter of an hour\b`)},
	{"30", regexp.MustCompile(`\bhalf (?:an )?hour\b`)},
}

// inMinutes writes parts of an hour in minutes of the same length: "a quarter of an hour" becomes "a 0000000015
// minutes".
func inMinutes(digits string) string {
	if !strings.Contains(digits, "hour") {
		return digits
	}
	for _, part := range partsOfHour {
		digits = part.said.ReplaceAllStringFunc(digits, func(said string) string {
			end := part.minutes + " minutes"
			if len(end) > len(said) {
				end = part.minutes + " minute"
			}
			return strings.Repeat("0", len(said)-len(end)) + end
		})
	}
	return digits
}

// countable says that a number in words begins at a token.
func countable(tokens []token, i int) bool {
	switch word := tokens[i].s; word {
	case "zero", "half", "once", "twice", "thrice", "both", "couple", "single", "hundred", "thousand", "dozen":
		return false
	case "a", "an":
		return i+1 < len(tokens) && has(tokens[i+1].s, "hundred", "thousand", "dozen")
	default:
		return units[word] > 0
	}
}

func continues(plain string, tokens []token, i int) bool {
	if plain[tokens[i-1].end:tokens[i].start] != "" && plain[tokens[i-1].end:tokens[i].start] != " " {
		return false
	}
	word, last := tokens[i].s, tokens[i-1].s
	switch {
	case has(word, "hundred", "thousand", "dozen"):
		return true
	case word == "-":
		return units[last] >= 20 && units[last] < 100 && i+1 < len(tokens) && units[tokens[i+1].s] > 0 &&
			units[tokens[i+1].s] < 10
	case last == "-",
		units[last] >= 20 && units[last] < 100 && units[word] > 0 && units[word] < 10 && word != "a" && word != "half":
		return true
	case word == "and":
		return i+2 < len(tokens) && tokens[i+1].s == "a" && has(tokens[i+2].s, "half", "quarter") ||
			has(last, "hundred", "thousand") && i+1 < len(tokens) && units[tokens[i+1].s] > 1 && tokens[i+1].s != "both"
	case last == "and":
		return word == "a" || units[word] > 1
	case word == "half", word == "quarter":
		return last == "a"
	case has(last, "hundred", "thousand"):
		return units[word] > 1 && units[word] < 100
	}
	return false
}

// numbersNoTime says that a word leads to a number that is no time and no date: "room 4.11", "section 4.2".
func numbersNoTime(word string) bool {
	return has(word, "room", "rooms", "rm", "hall", "office", "building", "lab", "house", "studio", "section", "chapter", "exercise", "problem", "figure",
		"fig", "table", "page", "ext", "version")
}
