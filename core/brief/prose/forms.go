package prose

import (
	"cmp"
	"slices"
	"strings"
)

var (
	formDenied = regexpOf(`\b{formdenied}\b(?:(?: as| in| an?| any| accept| send| upload| use| take| the| your|` +
		` submit| raw| open| me| files?| want|,)*)?\W*$`)
	deniedAfter = regexpOf(`^(?: (?:files?|documents?|format|versions?|of \w+|or (?:\w+|\.\w+)(?: files?)?))* (?:is|` +
		`are|will be|gets?|can|cannot|do|does)?\W*{deniedafter}\b`)
	madeFrom = regexpOf(
		`\b(?:convert|export|turn|change|print|save|transform)(?:ed|ing)?(?: (?:the|your|an?|it|them|all|any|from|` +
			`raw|original))* $`,
	)
	// What is denied behind a form may be another: "PNG (not HEIC)".
	notThat = regexpOf(`^(?: or \w+)*\W*(?:not|never|no) (?:as |an? |any |the |in |in an? )*\.?{aform}\b`)
	noNeed  = regexpOf(`\b(?:no need|need not|needn't|not necessary|not have to|n't have to|not need to|` +
		`n't need to)\b[^.;,:]{0,60}$`)
	// What work is written with or given as is no form to send: "write it in Word and export it as PDF".
	madeWith = regexpOf(`\b(?:writ\w+|wrote|made|created|designed|typ\w+|draft\w*|work|edit\w*|prepare\w*|fill|layout|` +
		`set)(?: \w+){0,3} (?:in|with|using)(?: the)? $`)
	givenIs = regexpOf(`^(?: file)? (?:of (?:chapter|the lecture)|template|code|is on the course|(?:file )?(?:on|` +
		`from) the course)\b|^\)? (?:is|are) online\b`)
	exported = rule(`\b(?:export|convert|save|print|hand in|submit|send|upload|turn)\w*\b[^.;]*\b{aform}\b`)
	givenAs  = regexpOf(`\b{givenas} $`)
	madeInto = regexpOf(`^(?: (?:files?|documents?|\w+))? (?:to|into|as) (?:an? )?`)
	wordUnit = regexpOf(`^[- ](?:count|limit|long|length|of|for|processor|order|choice|by)\b|^[- ]\d`)
	formGap  = regexpOf(`^{formgap}*$`)
	linkOK   = rule(`\b(?:links?|web address(?:es)?|urls?) (?:to|of)|\b(?:submit|send|paste|upload|enter|give|share|` +
		`provide|hand in|need|want|` +
		`post|as)\b[^.;]{0,45}\b(?:links?|web address(?:es)?|urls?)\b`,
	)
)

// form is a mention of a form.
type form struct {
	span
	form     string
	sentence span
	thing    string
}

// forms finds which forms are taken, one item per thing that has a rule of its own.
func (r *reader) forms() {
	var groups [][]form
	tokens := 0
	for _, s := range r.sentences {
		var last *form
		for _, f := range r.formsIn(s, &tokens) {
			if r.notForm(f) {
				continue
			}
			before := r.plain[s.start:f.start]
			after := r.plain[f.end:s.end]
			if refusedForm(f, before, after) || elsewhere.in(r.plain[s.start:s.end]) ||
				madeWith.MatchString(before) && (exported.in(after) || len(groups) > 0) {
				continue
			}
			f.thing = cmp.Or(r.formThing(f), r.partAt(f.start))
			switch {
			case last != nil && (!apart(*last, f) || orForm.MatchString(r.plain[last.end:f.start])) &&
				(formGap.MatchString(r.plain[last.end:f.start]) || r.joined(last.end, f.start)):
				groups[len(groups)-1] = append(groups[len(groups)-1], f)
			case len(groups) > 0 && r.sameThing(groups[len(groups)-1], f, last != nil):
				groups[len(groups)-1] = append(groups[len(groups)-1], f)
			default:
				placed := false
				for i := range groups {
					if f.thing != "" && groups[i][0].thing == f.thing {
						groups[i], placed = append(groups[i], f), true
						break
					}
				}
				if !placed {
					groups = append(groups, []form{f})
				}
			}
			last = &groups[len(groups)-1][len(groups[len(groups)-1])-1]
		}
	}
	var seen []string
	for _, g := range groups {
		var list []string
		for _, f := range g {
			if !slices.Contains(list, f.form) {
				list = append(list, f.form)
			}
		}
		key := strings.Join(list, " ")
		if slices.Contains(seen, key) && (g[0].thing == "" || len(groups) > 1) {
			continue
		}
		seen = append(seen, key)
		r.find("forms", list, span{g[0].start, g[len(g)-1].end}, 0.9)
		if g[0].sentence != g[len(g)-1].sentence {
			r.found[len(r.found)-1].End = g[0].end
		}
		r.found[len(r.found)-1].Thing = g[0].thing
	}
}

// refusedForm says that a form is denied, made into another, or that of something given.
func refusedForm(f form, before, after string) bool {
	switch {
	case madeFrom.MatchString(before) && madeInto.MatchString(after),
		formDenied.MatchString(before), noNeed.MatchString(before), givenAs.MatchString(before),
		deniedAfter.MatchString(after) && !notThat.MatchString(after):
		return true
	}
	return f.form != "text" && f.form != "link" && givenIs.MatchString(after)
}

// notForm weeds out words that look like a form and are none.
func (r *reader) notForm(f form) bool {
	word := r.plain[f.start:f.end]
	text := r.plain[f.sentence.start:f.sentence.end]
	before, after := r.plain[f.sentence.start:f.start], r.plain[f.end:f.sentence.end]
	switch {
	case r.isTaken(f.span), besideTool.MatchString(before), toolBeside.MatchString(after):
		return true
	case word == "word":
		return !r.capital(f.start) || r.oneCase && !smallWord.MatchString(after) || wordUnit.MatchString(after) ||
			f.start == f.sentence.start && !strings.HasPrefix(after, " or ") && !moreForms.MatchString(after) &&
				!strings.HasPrefix(after, " documents") &&
				!strings.HasPrefix(after, " is")
	case f.form == "link" && strings.Contains(word, " "):
		return false
	case f.form == "link":
		return !linkOK.in(text) || theLink.MatchString(before)
	case word == "md" || word == "mov" || word == "wave files":
		return word == "md" && !strings.HasSuffix(before, ".") && r.original[f.start] != 'M' && !orNext.MatchString(before) &&
			!(strings.HasSuffix(before, "| ") && strings.HasPrefix(after, " |"))
	case f.form == "html" && strings.HasPrefix(word, "web"):
		return !asksFor.MatchString(before) ||
			strings.Contains(before, "course") ||
			strings.Contains(before, "read")
	case word == ".doc" || word == "doc":
		return false
	case strings.HasPrefix(after, ".") && len(after) > 1 && isLetter(after[1]):
		return true
	}
	// a file name's extension: essay.pdf
	if strings.HasPrefix(word, ".") && f.start > 0 &&
		(isLetter(r.plain[f.start-1]) || isDigit(r.plain[f.start-1]) ||
			strings.IndexByte("_-)}]>", r.plain[f.start-1]) >= 0) {
		return true
	}
	if handout.in(before) {
		return true
	}
	return false
}

// orNext leads to another form: "txt or md".
var (
	asksFor = regexpOf(`\b(?:submit|as|upload|build|send)\b`)
	asThing = regexpOf(`\b(?:the|your|a|an) \w+ (?:as|in|is|must)\b`)
)

var orNext = regexpOf(`\b{aform}(?: or |/)$`)

// besideTool and toolBeside say that a word names the program that something is written with: "LaTeX or Word".
var (
	besideTool = regexpOf(`\b(?:latex|google docs|by hand|handwritten)(?: or |, |/)$`)
	toolBeside = regexpOf(`^(?: or |, |/)(?:latex|google docs|by hand|handwritten)\b`)
)

var handout = rule(`(?:^|[^.\w])(?:handout|template|reader|example|instructions|rubric|sample|you(?:'ll| will)? find|` +
	`download)\b[^.;,]{0,40}$`)

// formThing is what a form is said of: the noun before "as PDF" or "must be a PDF", or the one behind.
func (r *reader) formThing(f form) string {
	if f.form == "zip" {
		return "" // of all that is in it
	}
	from := f.sentence.start
	before := r.plain[from:f.start]
	if m := namedIn.FindStringSubmatch(before); m != nil && !generic[oneOf(m[1])] {
		return singularThing(m[1])
	}
	if k := strings.LastIndexAny(before, ",;:"); k >= 0 && isThing(before[k:]) {
		before = before[k:]
	}
	if k := strings.LastIndexByte(before, ')'); k >= 0 && hasLetter(before[k:]) {
		before = before[k:] // what stands before the bracket has its form in it
	}
	words, _ := things(before)
	if len(words) > 0 && !generic[oneOf(words[len(words)-1])] {
		return singularThing(words[len(words)-1])
	}
	after := r.plain[f.end:min(f.sentence.end, f.end+40)]
	if words, ends := things(after); len(words) > 0 && formOf.MatchString(after[:ends[0]-len(words[0])]) {
		return singularThing(words[0])
	}
	return ""
}

// namedIn is what stands right before its form: "a discussion in PDF".
var namedIn = regexpOf(`\b(?:and|plus|,) (?:an?|the|your|its) (?:\w+ )?([a-z]{4,}) (?:in|as)(?: an?)? \.?$`)

var formOf = regexpOf(`^(?: files?| documents?)?(?: of| for)(?: the| your| all| each)? (?:\w+ )?$`)

// joined says that what lies between two forms names nothing else that is sent.
func (r *reader) joined(from, to int) bool {
	gap := r.plain[from:to]
	if _, behind, ok := strings.Cut(gap, ")"); ok && hasLetter(behind) {
		return false // "a sheet (XLSX), a write-up in PDF"
	}
	return len(gap) < 40 && !strings.HasPrefix(gap, " for ") && !isThing(gap) && strings.IndexByte(gap, ':') < 0 &&
		!asThing.MatchString(gap)
}

// apart says that two forms are hardly ones to choose from: an archive and what is in it, a file and what is typed.
func apart(a, b form) bool {
	lone := func(f form) bool { return f.form == "zip" || f.form == "text" || f.form == "link" }
	return a.form != b.form && (lone(a) || lone(b))
}

var orForm = regexpOf(`^(?: files?| archives?)?,?(?:\)|\W)*(?:or|/|,|and)(?: (?:as|in|an?|the|one|zipped|single|` +
	`else|otherwise|also))* ?\.?$|\bor\b`)

// sameThing says whether a form in another sentence is one more for the thing before.
func (r *reader) sameThing(g []form, f form, here bool) bool {
	if here || apart(g[len(g)-1], f) || marked.MatchString(r.plain[f.sentence.start:f.sentence.end]) {
		return false
	}
	if f.thing == "" || g[0].thing == "" {
		text := r.plain[f.sentence.start:f.sentence.end]
		if f.thing != "" && forThe.MatchString(text) {
			return false // "for the readings we take CSV"
		}
		return alsoForm.in(text) && (f.thing == "" || !asNamed.MatchString(r.plain[f.sentence.start:f.start])) ||
			f.thing == "" && g[0].thing == "" ||
			slices.ContainsFunc(g, func(o form) bool { return o.form == f.form })
	}
	return f.thing == g[0].thing
}

// asNamed is a thing that gets a form of its own: "also turn in the script as a PDF".
var asNamed = regexpOf(`\b(?:turn in|hand in|submit|upload|send|deliver|need|drop|add|put|attach|include) (?:the|your|` +
	`an?) (?:\w+ )?\w+(?: as (?:an? )?|[^.;,(]{0,25} \()$`)

var theLink = regexpOf(`\b(?:get|receive|find|use|click|click on|follow|have) (?:the|a|your) $`)

// smallWord stands behind "word" where it is the form though it is written small.
var smallWord = regexpOf(`^(?: (?:or|and|documents?|files?|doc|format)\b|[,/.)]|$)`)

var moreForms = regexpOf(`^,? (?:and )?\.?{aform}\b`)

// marked begins another of several things.
var marked = regexpOf(`^\W*(?:and )?\(?(?:i{1,3}|iv|v|\d|[a-d])\)`)

var forThe = regexpOf(`^\W*(?:and )?for (?:the|your|all) `)

var alsoForm = rule(`\b(?:also|too|accept\w*|fine|as well|prefer\w*|either|ok|okay|if you|if that|alternatively|` +
	`possible|take|` +
	`welcome|if need)\b`,
)
