package prose

import (
	"cmp"
	"strings"
)

// sendable are words for what students send.
var sendable = func() map[string]bool {
	out := map[string]bool{}
	for _, word := range strings.Fields(`report essay reflection summary abstract paper letter review diary log logbook journal worksheet map chart drawing sketch plan photo photograph picture image recording video audio film clip podcast talk slide poster data dataset table spreadsheet code script notebook bibliography caption answer introduction conclusion appendix cover form statement note profile portfolio piece translation commentary proposal outline calculation key legend transcript zip archive scan graph diagram figure presentation solution sheet model sample list glossary track tracing readme export measurement protocol evaluation card label itinerary dialogue story poem article memo post section paragraph derivation proof screenshot screencast animation song score design layout mockup prototype interview readme-file vid survey questionnaire herbarium specimen board declaration exercise extract plate reading file-list log-sheet inventory budget timetable schedule checklist critique analysis description annotation pitch storyboard rendering infographic collage painting sculpture costume solo blog wiki calculation brochure leaflet flyer banner map-sheet portrait composition essay-plan`) {
		out[word] = true
	}
	return out
}()

// generic words tell nothing apart.
var generic = map[string]bool{
	"work":       true,
	"file":       true,
	"document":   true,
	"paper":      true,
	"submission": true,
	"text":       true,
	"piece":      true,
	"answer":     true,
	"form":       true,
	"figure":     true,
	"key":        true,
	"label":      true,
	"section":    true,
	"list":       true,
	"page":       true,
	"card":       true,
	"score":      true,
	"post":       true,
}

// things are the words for what students send in a stretch of text, with their ends.
func things(s string) (words []string, ends []int) {
	for i := 0; i < len(s); {
		if !isLetter(s[i]) {
			i++
			continue
		}
		start := i
		for i < len(s) && isLetter(s[i]) {
			i++
		}
		if word := s[start:i]; len(word) > 2 && (sendable[word] || sendable[oneOf(word)]) {
			words, ends = append(words, word), append(ends, i)
		}
	}
	return words, ends
}

func isThing(s string) bool {
	words, _ := things(s)
	return len(words) > 0
}

// thing is what a stretch of a sentence is said of, the part that it lies in if nothing nearer is named, or "".
func (r *reader) thing(at, s span) string {
	return cmp.Or(r.thingSaid(at, s), r.partAt(at.start))
}

func (r *reader) thingSaid(at, s span) string {
	after := r.plain[at.end:min(s.end, at.end+34)]
	behind, ends := things(after)
	if len(behind) > 0 && adjective.MatchString(after[:ends[0]-len(behind[0])]) {
		return singularThing(behind[0])
	}
	if before, _ := things(r.plain[s.start:at.start]); len(before) > 0 {
		return singularThing(before[len(before)-1])
	}
	if len(behind) > 0 && ofThing.MatchString(after[:ends[0]-len(behind[0])]) {
		return singularThing(behind[0])
	}
	return ""
}

var (
	adjective = regexpOf(`^(?:-long| long|[- ]?limit for the| for the| for your| for each| per)?(?: \w+)? $`)
	ofThing   = regexpOf(`^[^.;,]{0,12}?\b(?:of|for|per) (?:the |your |each |an? |every )?(?:\w+ )?$`)
)

// oneOf is the singular of a noun.
func oneOf(word string) string {
	word = strings.TrimSuffix(word, "s")
	switch {
	case strings.HasSuffix(word, "ie"):
		return strings.TrimSuffix(word, "ie") + "y"
	case strings.HasSuffix(word, "che"), strings.HasSuffix(word, "she"):
		return strings.TrimSuffix(word, "e")
	}
	return word
}

func singularThing(word string) string {
	if word = oneOf(word); generic[word] {
		return ""
	}
	return word
}
