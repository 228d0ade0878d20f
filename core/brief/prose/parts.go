package prose

import (
	"regexp"
	"slices"
	"strings"
)

// A part is a stretch of the instructions that is about one of several things with a due time of their own.
type part struct {
	span
	name string
}

// partLabel begins a line that a part begins with: “Part A: Derivation”, “2) Task two”.
var partLabel = regexp.MustCompile(`^[\s#*>\-\d.)]*\b((?:part|task|stage|phase|step|milestone|deliverable|component|` +
	`piece|exercise|section|instalment) (?:[a-h]|\d{1,2}|[ivx]{1,4}|one|two|three|four|five))\b`)

// dividing are the kinds of requirements that can be said of one part alone. The others hold for all of the work.
var dividing = []string{
	"due", "opens", "closes", "forms", "files", "pages", "words", "seconds", "max_bytes", "name", "slots",
}

// divide finds the parts, where there are several due times. A part begins at the label of its due time's line, or at
// the nearest one above, and ends at the next one or where a paragraph ends; without labels it is the line that names
// the time, and bears the name of what is due there.
func (r *reader) divide(dues []settled) {
	if len(dues) < 2 {
		return
	}
	var parts []part
	above := 0 // where the part before ended
	for _, d := range dues {
		line := r.line(d.start)
		p := part{span: line}
		for at := line; ; at = r.line(at.start - 1) {
			if m := partLabel.FindStringSubmatchIndex(r.plain[at.start:at.end]); m != nil {
				p.start = at.start
				p.name = string(r.original[at.start+m[2] : at.start+m[3]])
				p.end = r.paragraphEnd(d.end)
				break
			}
			if at.start <= above {
				break
			}
		}
		if p.name == "" {
			p.name = r.dueThing(d)
		}
		if len(parts) > 0 {
			last := &parts[len(parts)-1]
			last.end = min(last.end, p.start)
		}
		parts, above = append(parts, p), line.end
	}
	names := map[string]int{}
	for _, p := range parts {
		names[p.name]++
	}
	for _, p := range parts {
		if p.name != "" && names[p.name] == 1 {
			r.parts = append(r.parts, p)
		}
	}
}

// line is the one that an offset lies in.
func (r *reader) line(at int) span {
	at = max(0, min(at, len(r.plain)))
	start := strings.LastIndexByte(r.broken[:at], '\n') + 1
	end := strings.IndexByte(r.broken[at:], '\n')
	if end < 0 {
		return span{start, len(r.plain)}
	}
	return span{start, at + end}
}

// paragraphEnd is where the first empty line behind an offset begins.
func (r *reader) paragraphEnd(at int) int {
	if n := strings.Index(r.broken[at:], "\n\n"); n >= 0 {
		return at + n
	}
	return len(r.plain)
}

// dueThing is what a due time is said of: the thing that is nearest before it in its sentence.
func (r *reader) dueThing(d settled) string {
	s := r.sentence(d.start)
	words, _ := things(r.plain[s.start:d.start])
	if len(words) == 0 {
		return ""
	}
	return singularThing(words[len(words)-1])
}

// partAt is the name of the part that an offset lies in, or "".
func (r *reader) partAt(at int) string {
	i := slices.IndexFunc(r.parts, func(p part) bool { return p.start <= at && at < p.end })
	if i < 0 {
		return ""
	}
	return r.parts[i].name
}
