package prose

import (
	"embed"
	"regexp"
	"slices"
	"strings"
)

//go:embed vocabulary.txt ways.txt
var wordFiles embed.FS

// vocabulary is the files' entries, each as an expression for one of its words or ways.
var vocabulary = entries("vocabulary.txt", "ways.txt")

var (
	named  = regexp.MustCompile(`\{([a-z]+|\.\.)\}`)
	barred = regexp.MustCompile(`\s+\|\s+`)
)

func entries(files ...string) map[string]string {
	list := map[string]string{
		"..":       `[^.;]{0,45}?`, // whatever stands between, in the same clause
		"num":      num,
		"duration": duration,
	}
	var text strings.Builder
	for _, name := range files {
		data, err := wordFiles.ReadFile(name)
		if err != nil {
			panic(err)
		}
		text.Write(data)
	}
	var name string
	for line := range strings.Lines(text.String()) {
		line = strings.TrimRight(line, "\n")
		if line == "" || line[0] == '#' {
			continue
		}
		if line[0] != ' ' {
			head, words, _ := strings.Cut(line, "=")
			name, line = strings.TrimSpace(head), words
			list[name] = ""
		}
		list[name] += barred.ReplaceAllString(spelled(strings.TrimRight(line, " "), list), "|")
	}
	for name, words := range list {
		list[name] = strings.TrimSpace(words)
	}
	return list
}

// spelled is an expression with the words of the vocabulary in it.
func spelled(expression string, words map[string]string) string {
	return named.ReplaceAllStringFunc(expression, func(name string) string {
		list, ok := words[name[1:len(name)-1]]
		if !ok {
			panic("the vocabulary has no " + name)
		}
		return "(?:" + strings.TrimSpace(list) + ")"
	})
}

// ways are several ways of saying the same thing.
type ways []pattern

// waysOf makes a pattern of each line, from the beginning of a word to the end of one, or to the end of what is looked
// at.
func waysOf(lines ...string) (list ways) {
	for _, line := range lines {
		end := `)\b`
		if strings.HasSuffix(line, "$") {
			end = `)`
		}
		list = append(list, rule(`\b(?:`+line+end))
	}
	return list
}

func (w ways) in(s string) bool {
	return slices.ContainsFunc(w, func(p pattern) bool { return p.in(s) })
}

// first is the first match of the first that matches.
func (w ways) first(plain string, in span) []int {
	for _, p := range w {
		if m := p.first(plain, in); m != nil {
			return m
		}
	}
	return nil
}

// regexpOf is an expression with the words of the [vocabulary].
func regexpOf(expression string) *regexp.Regexp {
	return regexp.MustCompile(spelled(expression, vocabulary))
}
