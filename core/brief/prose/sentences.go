package prose

import (
	"strings"
	"unicode"
)

// unfinished are words whose dot ends no sentence.
var unfinished = map[string]bool{
	"max":    true,
	"min":    true,
	"approx": true,
	"ca":     true,
	"e.g":    true,
	"i.e":    true,
	"eg":     true,
	"ie":     true,
	"no":     true,
	"nr":     true,
	"dr":     true,
	"prof":   true,
	"mr":     true,
	"ms":     true,
	"mrs":    true,
	"st":     true,
	"vs":     true,
	"incl":   true,
	"excl":   true,
	"fig":    true,
	"cf":     true,
	"a.m":    true,
	"p.m":    true,
	"pp":     true,
	"p":      true,
	"resp":   true,
	"etc":    true,
	"jan":    true,
	"feb":    true,
	"mar":    true,
	"apr":    true,
	"jun":    true,
	"jul":    true,
	"aug":    true,
	"sep":    true,
	"sept":   true,
	"oct":    true,
	"nov":    true,
	"dec":    true,
	"mon":    true,
	"tue":    true,
	"tues":   true,
	"wed":    true,
	"thu":    true,
	"thur":   true,
	"thurs":  true,
	"fri":    true,
	"sat":    true,
	"sun":    true,
}

// split cuts the text into sentences. A line break ends one only where the line seems complete: before a
// blank line, a bullet or a label, after a short line or one that ends like a sentence.
func split(original []rune, plain string) []span {
	var out []span
	from := 0
	cut := func(to int) {
		start, end := from, to
		for start < end && isSpace(plain[start]) {
			start++
		}
		for end > start && isSpace(plain[end-1]) {
			end--
		}
		if start < end {
			out = append(out, span{start, end})
		}
		from = to
	}
	small, full, lines := smallBegin(original, plain), fullLines(plain), smallLines(original, plain)
	for i := 0; i < len(plain); i++ {
		switch plain[i] {
		case '.', '!', '?':
			next := i + 1
			for next < len(plain) && strings.IndexByte(`)"'`, plain[next]) >= 0 {
				next++
			}
			if next < len(plain) && !isSpace(plain[next]) {
				continue
			}
			after := next
			for after < len(plain) && plain[after] == ' ' {
				after++
			}
			if after+1 < len(plain) && plain[after] == '\n' && unicode.IsLower(original[after+1]) {
				after++ // the line was only full
			}
			if plain[i] == '.' && after < len(plain) && plain[after] != '\n' {
				word := lastWord(plain[from:i])
				lower := unicode.IsLower(original[after]) && (!small || unfinished[word])
				short := unfinished[word] && !(word == "no" && lower) &&
					(lower || unicode.IsDigit(original[after]) || word != "p.m" && word != "a.m" && word != "etc")
				if lower || short || isNumber(word) && i > from && startsDate(plain[from:i], word) {
					continue
				}
			}
			cut(next)
		case ';':
			cut(i + 1)
		case '[': // a box of a checklist
			if i > 0 && strings.HasPrefix(plain[i:], "[ ] ") {
				cut(i)
			}
		case '\n':
			if endsLine(original, plain, i, full[i]) || lines && !full[i] && wholeLine(plain, i) {
				cut(i + 1)
			}
		}
	}
	cut(len(plain))
	return out
}

// smallBegin says that sentences of a text begin with small letters, as where nobody cares: more do than with capitals.
func smallBegin(original []rune, plain string) bool {
	begins := 0
	for i := 0; i+2 < len(plain); i++ {
		if plain[i] != '.' || plain[i+1] != ' ' || i > 0 && !isLetter(plain[i-1]) && !isDigit(plain[i-1]) {
			continue
		}
		switch next := original[i+2]; {
		case unicode.IsUpper(next):
			begins--
		case unicode.IsLower(next) && !unfinished[lastWord(plain[:i])]:
			begins++
		}
	}
	return begins > 0
}

// smallLines says that most lines of a text begin with small letters: each is one thing said then.
func smallLines(original []rune, plain string) bool {
	begun, small := 0, 0
	for _, block := range blocks(plain) {
		for _, line := range block {
			at := line.start
			for at < line.end && isSpace(plain[at]) {
				at++
			}
			begun++
			small += btoi(unicode.IsLower(original[at]) || unicode.IsDigit(original[at]))
		}
	}
	return begun >= leastLines && 10*small >= 7*begun && len(plain)/begun < longestSaid
}

// leastLines is how many lines tell how a text is set, longestSaid how long they are on average at the most.
const leastLines, longestSaid = 5, 60

// wholeLine says that a line does not end with a word that leads on.
func wholeLine(plain string, end int) bool {
	line := strings.TrimRight(plain[strings.LastIndexByte(plain[:end], '\n')+1:end], " \r\t")
	return line != "" && strings.IndexByte(",(&/-+", line[len(line)-1]) < 0 && !leadsOver.MatchString(line)
}

var leadsOver = regexpOf(`\b(?:and|or|the|an?|of|to|in|on|at|by|for|with|from|is|are|be|that|which|your|my|our|not|` +
	`no|if|as|than|per|each|every|until|till|before|after)$`)

// startsDate says whether a number before a dot looks like the day or month of a date such as 6.11.
func startsDate(before, word string) bool {
	rest := strings.TrimSuffix(before, word)
	return len(word) <= 2 && (strings.HasSuffix(rest, ".") && len(rest) > 1 && isDigit(rest[len(rest)-2]))
}

// fullLines are the line breaks of hard-wrapped text: where the next word had no room in the line. Text is wrapped
// where a paragraph has three lines or more of which most end so; its width is that of the longest.
func fullLines(plain string) map[int]bool {
	width := 0
	for _, block := range blocks(plain) {
		longest, full := 0, 0
		for _, line := range block {
			longest = max(longest, line.end-line.start)
		}
		for k := 1; k < len(block); k++ {
			if noRoom(plain, block[k-1], block[k], longest) {
				full++
			}
		}
		if len(block) > 2 && longest >= leastWidth && 4*full >= 3*(len(block)-1) {
			width = max(width, longest)
		}
	}
	out := map[int]bool{}
	for _, block := range blocks(plain) {
		for k := 1; width > 0 && k < len(block); k++ {
			if noRoom(plain, block[k-1], block[k], width) {
				out[block[k].start-1] = true
			}
		}
	}
	return out
}

// leastWidth is that of hard-wrapped text, in characters.
const leastWidth = 35

// noRoom says that the first word of a line would have gone beyond the width in the line before.
func noRoom(plain string, line, next span, width int) bool {
	word := strings.IndexByte(plain[next.start:next.end]+" ", ' ')
	return line.end-line.start+1+word > width
}

// blocks are the runs of lines that are not empty.
func blocks(plain string) (out [][]span) {
	var block []span
	for at := 0; at <= len(plain); {
		end := at + strings.IndexByte(plain[at:]+"\n", '\n')
		if line := strings.TrimRight(plain[at:end], " \r\t"); strings.TrimSpace(line) != "" {
			block = append(block, span{at, at + len(line)})
		} else if len(block) > 0 {
			out, block = append(out, block), nil
		}
		at = end + 1
	}
	if len(block) > 0 {
		out = append(out, block)
	}
	return out
}

func endsLine(original []rune, plain string, i int, full bool) bool {
	next := i + 1
	for next < len(plain) && (plain[next] == ' ' || plain[next] == '\t') {
		next++
	}
	if next >= len(plain) || plain[next] == '\n' || plain[next] == '\r' {
		return true
	}
	line := strings.TrimRight(plain[strings.LastIndexByte(plain[:i], '\n')+1:i], " \r")
	if line == "" || strings.IndexByte(".:;!?", line[len(line)-1]) >= 0 ||
		strings.IndexByte("*-#>|", plain[next]) >= 0 && next+1 < len(plain) && plain[next+1] == ' ' {
		return true
	}
	if n := strings.IndexByte(plain[next:], ' '); !full && isDigit(plain[next]) && n > 0 &&
		strings.IndexByte(".)", plain[next+n-1]) >= 0 {
		return true // a numbered item
	}
	if start := strings.LastIndexByte(plain[:i], '\n'); !full && len(line) < 40 && isDigit(plain[next]) &&
		(start < 0 || strings.HasSuffix(strings.TrimRight(plain[:start], " \t\r"), "\n")) {
		return true // a heading above a line that begins with a number
	}
	if following := plain[next:]; strings.Contains(line, " | ") &&
		strings.Contains(following[:max(0, strings.IndexByte(following+"\n", '\n'))], " | ") {
		return true // a row of a table
	}
	following := plain[next:]
	if end := strings.IndexByte(following, '\n'); inColumns(line) && (end < 0 || inColumns(following[:end])) {
		return true // a row of a table
	}
	if end := strings.IndexByte(following, '\n'); end >= 0 {
		following = following[:end]
	}
	if colon := strings.IndexByte(following, ':'); colon > 0 && colon < 25 && !isDigit(following[colon-1]) &&
		(unicode.IsUpper(original[next]) || !full && labelled(line)) {
		return true // a label
	}
	return !full && (len(line) < 48 || labelled(line)) && unicode.IsUpper(original[next]) &&
		strings.IndexByte(",(&", line[len(line)-1]) < 0
}

// labelled says that a line begins with a label.
func labelled(line string) bool {
	colon := strings.IndexByte(strings.TrimSpace(line), ':')
	return colon > 0 && colon < 25
}

// inColumns says that a line has a label, and what belongs to it in a column of its own.
func inColumns(line string) bool {
	line = strings.TrimSpace(line)
	gap := strings.Index(line, "  ")
	tab := strings.IndexByte(line, '\t')
	return gap > 0 && gap < 40 || tab > 0 && tab < 40
}
