package prose

import (
	"math"
	"strings"
)

var nan = math.NaN()

// manner finds how work is sent and set: attempts, declaration, report, text layer, style and route.
func (r *reader) manner() {
	r.attempts()
	for _, s := range r.sentences {
		text := r.plain[s.start:s.end]
		if !r.has("declaration") && !declarationNo.in(text) {
			if m := declaration.first(r.plain, s); m != nil {
				r.find("declaration", true, span{m[0], m[1]}, 0.9)
			}
		}
		if !r.has("text_layer") {
			if m := textLayer.first(r.plain, s); m != nil && !textLayerNo.in(text) {
				r.find("text_layer", true, span{m[0], m[1]}, 0.9)
			}
		}
	}
	r.report()
	r.style()
	r.routes()
}

var (
	declaration = rule(
		"sign|tick|confirm|stat|declar|certif|affirm|check|box|pledge|assert|assure|attest|promise|accept|agree|"+
			"own|integrity|honesty|authorship|honour&own|integrity|honesty|unaided|authorship|independ|honour|"+
			"alone|yourself|without help|wrote|made|done",
		`\b(?:sign(?:ed|ing)?|tick(?:ed|ing)?|confirm(?:ed|ing|s|ation)?|stat(?:e|es|ing|ement)|declar(?:e|es|ed|`+
			`ing|ation)|certif(?:y|ies|icate)|affirm\w*|check(?:box)?|box|pledge|assert|assure|attest|promise|`+
			`accept the|agree)\b[^.;]{0,90}\b(?:(?:your|their|my|his or her|the student's) own(?: unaided|`+
			` independent)?(?: work)?|own work|unaided|academic (?:integrity|honesty)|integrity|honesty|`+
			`authorship|(?:worked|written|done|made|wrote|produced)(?: \w+)? (?:alone|independently|without help|`+
			`by yourself|yourself)|independent work|honour)\b|\b(?:integrity|honesty|own[- ]work|authorship|`+
			`honour)[- ](?:declaration|statement|pledge|form|box|code (?:box|form|statement))\b|\b(?:declaration|`+
			`statement|confirmation) (?:of|on) (?:own work|authorship|academic|independent|honesty|integrity)\b`,
	)
	declarationNo = rule(
		"no ",
		`\bno (?:declaration|statement|signature|signed)\b|\b(?:not|\w+n't) (?:need|`+
			`require)[^.;]{0,30}(?:declaration|statement)\b`,
	)
	textLayer = rule(
		"search|select|machine|copi|copy|ocr|recogni|picture|image|photo|screenshot|scan|text layer|text recog|"+
			"character recog|real text|live text|as text|text can|text must|text should|text has|text in|words|it "+
			"can|it must&search|select|machine|copi|copy|ocr|recogni|text|words|print|mark",
		`\b(?:searchable|selectable|machine[- ]readable|copy-?able|copiable|ocr(?:'?e?d)?|text recognition|`+
			`character recognition|recogni[sz]ed text|text layer|(?:text|words|it|sentences|`+
			`passages)[^.;]{0,40}\b(?:can|must|should|has to|be able to)\b[^.;]{0,30}\b(?:be )?(?:searched|`+
			`selected|copied|marked and copied)|(?:able to|can|must be possible to|possible to) (?:search|select|`+
			`copy|mark)[^.;]{0,25}\b(?:text|words|it|in it|sentences|passages|from it)|(?:no|not|never|\w+n't|`+
			`without)(?: \w+){0,4} (?:pictures?|images?|photos?|photographs?|screenshots?|scans?) of (?:the |`+
			`your )?(?:text|words|pages of text|print)|real text|live text|`+
			`as text[, ]+not (?:as )?(?:an? )?(?:image|picture)s?|not (?:as )?(?:an? )?(?:image|picture|scan|`+
			`photo)s?(?: of)?,? but (?:as )?(?:real )?text|text recognised)\b`,
	)
	textLayerNo = rule(
		"need not|not need|n't need|not have to|n't have to|not necessar",
		`\b(?:need not|not need|n't need|not have to|n't have to|not necessar\w+)\b`,
	)

	reportYes = rule(
		"similar|plagiar|overlap|match|copied|compar|text-match|other people|borrowed|sources",
		`\b(?:similarity|plagiarism[- ](?:check|scan|software|detection|report|service|tool)\w*|(?:check|screen|`+
			`scan|examin|run|test|compar|search|inspect|go|put|pass|look)\w*\b[^.;]{0,60}\b(?:plagiarism|`+
			`overlap\w*|matching|matches|copied (?:text|passages)|borrowed (?:text|passages|sentences)|(?:other|`+
			`published|earlier|known|existing|online) (?:texts?|sources?|papers|essays|work|students'? work))|`+
			`text[- ]matching|overlap (?:check|report)|matching (?:software|service|report|check))\b`,
	)
	reportNo = rule(
		"no |not|n't|without|never|neither",
		`\b(?:no|not|\w+n't|without|never|neither|nothing)\b[^.;]{0,35}\b(?:similarity|plagiarism|checked|check|`+
			`screened|compared|matching|overlap)\b`,
	)
	drafts = rule(
		"draft|version|preview|trial|time|report",
		`\b(?:(`+num+`|a single|an?|once|twice) (?:earlier |free |trial |preliminary |test |rough )?(drafts?|`+
			`previews?|trial runs?|trial versions?|preliminary versions?|test runs?|report runs?)\b|(?:draft|`+
			`preview|trial)s?[^.;]{0,40}\b(once|twice|(`+num+`) times)\b|`+
			`\bcheck(?:ed)?[^.;]{0,30}drafts?[^.;]{0,20}\b(once|twice|(`+num+`) times))`,
	)
	draftOK = rule(
		"check|allow|may|can|report|run|permit|free|before|try|similar|see|upload|possible",
		`\b(?:check\w*|allowed|may|can|report|run|permitted|free|try|similarity|see|possible|ok)\b`,
	)
)

func (r *reader) report() {
	index := -1
	for _, s := range r.sentences {
		text := r.plain[s.start:s.end]
		m := reportYes.first(r.plain, s)
		if m == nil || reportWrong.in(text) {
			continue
		}
		if reportNo.in(text) {
			continue
		}
		if index < 0 {
			r.find("report", Report{Checked: true}, span{m[0], m[1]}, 0.9)
			index = len(r.found) - 1
		}
	}
	for _, s := range r.sentences {
		text := r.plain[s.start:s.end]
		for _, m := range drafts.all(r.digits, s) {
			if !draftOK.in(text) || m[0] > s.start && noDraft.MatchString(r.plain[s.start:m[0]]) {
				continue
			}
			if index < 0 &&
				!(strings.Contains(text, "check") || strings.Contains(text, "allowed") && strings.Contains(r.plain[m[0]:m[1]], "draft")) {
				continue
			}
			n := 0
			switch g := cmpOr(cmpOr(group(r.digits, m, 1), group(r.digits, m, 3)), group(r.digits, m, 5)); g {
			case "a", "an", "a single", "once":
				n = 1
			case "twice":
				n = 2
			default:
				n = int(number(strings.TrimSuffix(g, " times")))
			}
			if n < 1 || n > 50 {
				continue
			}
			if index < 0 {
				r.find("report", Report{Checked: true}, span{m[0], m[1]}, 0.75)
				index = len(r.found) - 1
			}
			whole := span{r.found[index].Start, r.found[index].End}.and(span{m[0], m[1]})
			r.found[index].Value, r.found[index].Start, r.found[index].End = Report{
				Checked: true,
				Drafts:  &n,
			}, whole.start, whole.end
			return
		}
	}
}

var (
	noDraft     = regexpOf(`\bno(?:t)? (?:\w+ )?$`)
	reportWrong = rule("last year|last term", `\blast (?:year|term)\b`)
)

var (
	attemptCount = rule(
		"1|2|3|4|5|6|7|8|9|single|once|twice|as often|as many|any number|repeat|without limit&attempt|tries|submi|"+
			"upload|send|sent|goes|try|shot|chance|hand|only|just|times",
		`\b(?:(`+num+`|single|0*1 single) (?:attempts?|tries|goes|shots?|submissions?|uploads?|chances?|`+
			`submission attempts?)\b|(?:submit|submitted|send|sent|upload|uploaded|try|tried|hand (?:it )?in|`+
			`attempt(?:ed)?)\b[^.;,]{0,40}?\b(?:(only once|just once|once only|once|twice|(`+num+`) times)\b|`+
			`as often as|as many times as|any number of times|repeatedly|without limit)|\b(?:only|just) (0*1|`+
			`once)\b(?: (?:attempt|submission|try|upload|go))?|(?:attempts|tries|submissions|`+
			`uploads)\W+(?:allowed\W+|possible\W+)?(`+num+`)\b)`,
	)
	resubmit = rule(
		"resubmi|re-submi|revis|again|correct|replac|redo|second version|new version",
		`\b(?:resubmi\w*|re-submi\w*|(?:send|sent|submit|submitted|upload|uploaded|`+
			`hand(?:ed)?)(?: \w+){0,3} again|revis\w+|corrected version|replac\w+|redo|`+
			`redone)\b[^.;]{0,40}?\b(once|0*1 time|twice|(`+num+`) times)\b|\b(a single|an?|`+num+`) (?:resubmissions?|`+
			`re-submissions?|revisions?|revised versions?|corrected versions?)\b|\b(once|0*1 time|twice|(`+num+`) times)\b[^.;]{0,30}\b(?:resubmi\w*|`+
			`revis\w*|again)\b`,
	)
	unlimited = rule(
		"unlimit|as often|as many|any number|without limit|no limit",
		`\b(?:unlimited|as often as|as many (?:times|attempts|tries)|any number of|without limit|no limit (?:on|`+
			`to) (?:the number of )?(?:attempts|tries|submissions))\b`,
	)
	countsCue = rule(
		"best|highest|better|top|strongest|latest|last|most recent|newest|first|earliest|average|mean|final&count|"+
			"kept|keep|use|grade|mark|read|take|what|will|stand|goes|enter|win|matter|decide|record|average|score|"+
			"look|is",
		`\b(?:(best|highest|better|top|strongest)|(latest|last|most recent|newest|final)|(first|earliest)|`+
			`(average|mean))\b(?: (?:attempt|one|try|score|mark|result|version|submission|upload|grade|of (?:them|`+
			`these|all|the (?:\w+ )?(?:attempts|tries|marks|scores)))){0,3}[^.;,]{0,45}?\b(?:counts?|is kept|`+
			`is used|is (?:graded|marked|read|taken|what counts|the one)|will (?:be (?:graded|marked|counted|`+
			`taken|read|kept)|count)|stands|goes (?:into|in)|enters|wins|matters|decides|is recorded|`+
			`are averaged)\b|\b(?:i|we)(?:'ll| will| only| always| shall)* (?:count|keep|take|mark|grade|read|`+
			`record|use|look at)(?: only)?(?: the| your)? (?:(best|highest|better)|(latest|last|most recent|`+
			`newest|final)|(first)|(average|mean))\b|\b(?:keep|count)(?:ing|s)? (?:the |your )(?:(best|highest|`+
			`better)|(latest|last|most recent|newest)|(first)|(average|mean))\b|\b(?:all )?(?:attempts|tries|`+
			`scores|marks) are (averaged)\b|\b(?:mark|grade|score) is (?:the |that of (?:the|your) )?(?:(best|`+
			`highest|better)|(latest|last|most recent)|(first)|(average|mean))\b`,
	)
	notAttempt = rule("draft|report|last year|late|quiz", `\b(?:last year|drafts? may)\b`)
	untilDue   = rule(
		"until|till|up to|before",
		`\b(?:until|till|up to|before|right up to)(?: the)? (?:deadline|due (?:date|time)|closing time|time is up|`+
			`it is due|then)\b`,
	)
	againWords = rule(
		"resubmi|re-submi|replac|again|new version|as often|overwrit|swap|exchang|revis|change|update|repeat|"+
			"improve|attempt|tries",
		`\b(?:resubmi\w*|re-submi\w*|replac\w*|again|new versions?|as often|overwrit\w*|swap\w*|exchang\w*|`+
			`revis\w*|chang(?:e|ed)|updat(?:e|ed)|repeatedly|improve\w*|attempts?|tries)\b`,
	)
)

func (r *reader) attempts() {
	var a Attempts
	var at span
	said := false
	take := func(s span) {
		at, said = at.and(s), true
	}
	for _, s := range r.sentences {
		text := r.plain[s.start:s.end]
		if notAttempt.in(text) {
			continue
		}
		if m := resubmit.first(r.digits, s); m != nil && a.Max == 0 && !resubmitNo.in(text) {
			n := 0
			for _, g := range []int{1, 3, 4, 2, 5} {
				if word := group(r.digits, m, g); word != "" && n == 0 {
					n = int(timesOf(word))
				}
			}
			if n > 0 && n < 100 {
				a.Max = n + 1
				take(span{m[0], m[1]})
			}
		}
		if m := unlimited.first(r.plain, s); m != nil &&
			(againWords.in(text) || strings.Contains(text, "submi") || strings.Contains(text, "upload") || strings.Contains(text, "send")) {
			take(span{m[0], m[1]})
		} else if m := attemptCount.first(r.digits, s); m != nil && a.Max == 0 &&
			!strings.Contains(r.plain[m[0]:m[1]], "penal") {
			n := 0
			for _, g := range []int{1, 2, 4, 5, 3} {
				if word := group(r.digits, m, g); word != "" && n == 0 {
					n = int(timesOf(word))
				}
			}
			clause := clauseAround(r.plain, s, m[0], m[1])
			if n > 0 && n < 1000 && !strings.Contains(clause, "per ") && !strings.Contains(clause, "draft") &&
				!strings.Contains(clause, "check") &&
				!(n == 1 && !onlyOne.in(text)) {
				a.Max = n
				take(span{m[0], m[1]})
			}
		}
		if m := countsCue.first(r.plain, s); m != nil && a.Counts == "" {
			for g := 1; 2*g+1 < len(m); g++ {
				switch word := group(r.plain, m, g); {
				case word == "":
				case has(word, "best", "highest", "better", "top", "strongest"):
					a.Counts = "best"
				case has(word, "latest", "last", "most recent", "newest", "final"):
					a.Counts = "latest"
				case has(word, "first", "earliest"):
					a.Counts = "first"
				default:
					a.Counts = "mean"
				}
			}
			if a.Counts != "" {
				take(span{m[0], m[1]})
			}
		}
		if m := untilDue.first(r.plain, s); m != nil && a.Until == "" && againWords.in(text) {
			if len(r.dues) > 0 {
				a.Until = r.dues[len(r.dues)-1].Value.(string)
				take(span{m[0], m[1]})
			}
		}
	}
	for _, m := range r.mentions {
		if m.role == until && a.Until == "" && (m.day != nil || m.relative != nil) {
			today := midnight(r.now)
			var before []settled
			for _, d := range r.dues {
				if t, err := parseWall(d.Value.(string)); err == nil {
					before = append(before, settled{mention: mention{span: span{d.Start, d.End}}, at: t, full: true})
				}
			}
			if s, ok := r.settle(m, almanac{today: today, from: today, order: r.slashOrder(today)}, nil, before); ok {
				a.Until = s.at.Format(wallForm)
				take(m.span)
			}
		}
	}
	if said {
		r.find("attempts", a, at, 0.85)
	}
}

var (
	resubmitNo = rule(
		"no |not|n't|cannot",
		`\b(?:no|not|\w+n't|cannot|never)\b[^.;]{0,20}\b(?:resubmi\w*|again|replac\w*)\b`,
	)
	onlyOne = rule(
		"only|single|just|one attempt|one submission|one try|once|exactly",
		`\b(?:only|single|just|exactly|one (?:attempt|submission|try|go|shot|chance|upload)|once)\b`,
	)
)

func timesOf(word string) float64 {
	word = strings.TrimSuffix(strings.TrimSuffix(word, " times"), " time")
	switch {
	case strings.Contains(word, "once"), word == "a", word == "an", word == "one", strings.Contains(word, "single"):
		return 1
	case word == "twice":
		return 2
	}
	return number(word)
}

var (
	spacing = rule(
		"spac|lines",
		`\b(?:(double|single|one and a half|1\.5|1,5|1\^|2|1|one-and-a-half|two)[- ]?(?:line[- ])?spac(?:ed|ing)|`+
			`(?:line )?spac(?:ed|ing)(?: of| is|:| at)? ?(double|single|one and a half|1\.5|1,5|1\^|2(?:\.0)?|`+
			`1(?:\.0)?|two|one)|(1\.5|double|1\^) lines?)\b`,
	)
	fontSize  = rule("pt|point", `\b(`+num+`)[- ]?(?:pt\.?|points?)\b`)
	fontNames = rule(
		"times|arial|calibri|helvetica|garamond|cambria|georgia|verdana|palatino|courier|liberation|tahoma|book "+
			"antiqua|century|computer modern|libertine|gill sans|futura|noto|roboto|open sans|lato|baskerville|"+
			"bodoni|candara|constantia|trebuchet|aptos|charter|dejavu|source sans|source serif|plex",
		`\b(times new roman|times|arial|calibri|helvetica(?: neue)?|(?:eb )?garamond|cambria|georgia|verdana|`+
			`palatino(?: linotype)?|courier(?: new)?|liberation (?:serif|sans|mono)|tahoma|book antiqua|`+
			`century schoolbook|computer modern|linux libertine|gill sans|futura|noto (?:sans|serif)|roboto|`+
			`open sans|lato|baskerville|bodoni|candara|constantia|trebuchet(?: ms)?|aptos|charter|dejavu (?:sans|`+
			`serif)|source (?:sans|serif)(?: pro)?|ibm plex (?:sans|serif|mono))\b`,
	)
	citations = rule(
		"apa|mla|chicago|harvard|ieee|vancouver|turabian|ama|acs|oscola|cse|bluebook|mhra|iso 690|author-date|"+
			"author-year",
		`\b(apa|mla|chicago|harvard|ieee|vancouver|turabian|ama|acs|oscola|cse|bluebook|mhra|iso 690)\b`,
	)
	citeNear = rule(
		"cit|refer|style|format|source|bibliog|guideline|edition|author|manual|apa|mla|ieee|oscola|mhra",
		`\b(?:cit\w*|refer\w*|style|format\w*|sources?|bibliograph\w*|guidelines|edition|manual|footnotes?|`+
			`quot\w*|apa|mla|ieee|oscola|mhra)\b`,
	)
)

func (r *reader) style() {
	var st Style
	var at span
	take := func(m []int) { at = at.and(span{m[0], m[1]}) }
	for _, s := range r.sentences {
		text := r.plain[s.start:s.end]
		if m := spacing.first(r.plain, s); m != nil && st.Spacing == 0 && !styleNo(text, m[0]-s.start) {
			switch word := cmpOr(cmpOr(group(r.plain, m, 1), group(r.plain, m, 2)), group(r.plain, m, 3)); {
			case has(word, "double", "2", "two", "2.0"):
				st.Spacing = 2
			case has(word, "single", "1", "one", "1.0"):
				st.Spacing = 1
			default:
				st.Spacing = 1.5
			}
			take(m)
		}
		font := fontNames.first(r.plain, s)
		if font != nil && st.Font == "" &&
			!(group(r.plain, font, 1) == "times" && (r.original[font[0]] != 'T' || font[0] == s.start || strings.HasPrefix(r.plain[font[1]:], " are") || strings.HasPrefix(r.plain[font[1]:], " in"))) &&
			!styleNo(text, font[0]-s.start) &&
			unicodeUpper(r.original[font[0]]) {
			st.Font = r.written(span{font[2], font[3]})
			take(font)
		}
		if m := fontSize.first(r.digits, s); m != nil && st.Size == 0 &&
			(font != nil || styleWord.in(text) || spacing.in(text) || sizeNear.in(text) || strings.Contains(r.plain[m[0]:m[1]], "pt") && !strings.Contains(r.plain[m[0]:m[1]], "pts") && number(group(r.digits, m, 1)) <= 16 && !strings.Contains(text, "worth")) {
			if v := number(group(r.digits, m, 1)); v >= 6 && v <= 40 {
				st.Size = v
				take(m)
			}
		}
		if m := citations.first(r.plain, s); m != nil && st.Citations == "" && citeNear.in(text) &&
			unicodeUpper(r.original[m[0]]) {
			st.Citations = r.written(span{m[2], m[3]})
			take(m)
		}
	}
	if at.end > 0 {
		r.find("style", st, at, 0.9)
	}
}

var sizeNear = rule("size|letters|print|text|body", `\b(?:size|lettering|type)\b`)

func unicodeUpper(c rune) bool { return c >= 'A' && c <= 'Z' }

func styleNo(text string, at int) bool {
	return styleDenied.MatchString(text[:at])
}

var styleDenied = regexpOf(`\b(?:no|not|\w+n't|never)\b[ \w]{0,12}$`)

var routes = []struct {
	name string
	cue  pattern
}{
	{
		"site",
		rule(
			"site|page|portal|platform|system|campus",
			`\b(?:course(?:'s)? (?:web)?(?:site|page)|course web ?page|(?:web)?site|(?:web|course|assignment|`+
				`submission|class|module|upload) ?page|portal|platform|learning (?:platform|system|environment)|`+
				`virtual campus|online campus|submission system|e-?learning)\b`,
		),
	},
	{
		"folder",
		rule(
			"folder|drive",
			`\b(?:(?:shared|class|course|group|team|common|network|cloud|my|the|our|submission|project|`+
				`lab)(?: \w+){0,2} (?:folder|drive)|folder (?:on|in) (?:the|our)|shared (?:folder|drive)|`+
				`drop it in the folder)\b`,
		),
	},
	{
		"mail",
		rule(
			"mail|email|e-mail|inbox|mailbox|@",
			`\b(?:by|via|through|as an?|in an?|per) (?:ordinary |plain )?e-?mail(?: attachment)?\b|`+
				`\be-?mail(?:ed)? (?:it|them|me|us|this|the|your|everything|both|all|to|files)\b|\b(?:mail(?:ed)?|`+
				`send|sent|submit|submitted|post|write|`+
				`forward)\b[^.;]{0,70}(?:\bto\b[^.;]{0,40})?[a-z0-9._-]+@[a-z0-9.-]+|\b(?:to|at) (?:my|the|our|`+
				`this|their|the instructor's) (?:\w+ )?(?:e-?mail|mail) address\b|\bmail (?:it|them|the \w+|`+
				`your \w+|everything) to\b|\bto (?:my|the (?:instructor|tutor)'s) (?:inbox|mailbox)\b|`+
				`[a-z0-9._-]+@[a-z0-9.-]+\b`,
		),
	},
	{
		"by_hand",
		rule(
			"paper|print|pigeon|box|room|desk|person|hand|hard|office|letter|tray|counter",
			`\b(?:on paper|(?:printed|paper|hard|bound|stapled)[- ]?(?:copy|copies|version|out)|hardcopy|`+
				`pigeonhole|pigeon[- ]hole|letter ?box|drop ?box|(?:the|a|my|our) (?:\w+ )?(?:box|`+
				`tray)(?: outside| in front| by| at| next| on| in)|(?:to|in|at|outside|under the door of) (?:my |`+
				`the )?(?:room|office)(?: [a-z]?\d[\w.]*)?|in person|by hand|on my desk|at the (?:\w+ )?(?:desk|`+
				`counter|reception))\b`,
		),
	},
}

var (
	routeVerb = rule(
		"due|deadline|submi|send|sent|upload|hand|deliver|put|drop|mail|post|bring|leave|place|goes|go |save|copy|"+
			"via|through|on |to |in |by |give",
		`\b(?:due|deadline|submi\w+|send|sent|upload\w*|hand(?:ed)?|deliver\w*|put|drop\w*|(?:e-?)?mail\w*|`+
			`post\w*|bring|leave|left|plac\w+|goes?|saved?|copy|copied|via|give|given|turn|route|return(?:ed)?|`+
			`receiv\w*|accept\w*|take|stuff|share)\b`,
	)
	routeElse = rule(
		"question|ask|find|read|download|post|announce|available|write to me if|contact|help|office hours|trouble|"+
			"problem|see |extension|template|handout|rubric|reply|confirm|publish|mark|appear|result|locks|closes|"+
			"opens|shuts|feedback|fails|down|slow|grades",
		`\b(?:questions?|ask|find|download|announce\w*|available|contact|help|office hours|trouble|problems?|`+
			`extensions?|templates?|rubric|repl(?:y|ies)|confirmation|published?|appears?|results?|fails|is down|`+
			`slow|feedback|grades|see the|instructions|details|described|read)\b`,
	)
	routeNo = regexpOf(
		`\b(?:no|not|never|\w+n't|nor|neither|instead of|rather than|without|don't|do not)\b[^.;,]{0,30}$`,
	)
)

func (r *reader) routes() {
	for _, route := range routes {
		for _, s := range r.sentences {
			text := r.plain[s.start:s.end]
			m := route.cue.first(r.plain, s)
			if m == nil {
				continue
			}
			clause := clauseAround(r.plain, s, m[0], m[1])
			before := r.plain[s.start:m[0]]
			if routeNo.MatchString(before) || routeNotAfter.MatchString(r.plain[m[1]:s.end]) || !routeVerb.in(text) ||
				routeElse.in(clause) && !routeStrong.in(clause) ||
				elsewhere.in(text) {
				continue
			}
			r.find("route", route.name, span{m[0], m[1]}, 0.85)
			break
		}
	}
}

var (
	routeNotAfter = regexpOf(
		`^[^.;,]{0,25}\b(?:is|are|will be|won't be|isn't|aren't)? ?(?:not|never|\w+n't|ignored|refused|deleted)\b`,
	)
	routeStrong = rule(
		"submi|upload|send|hand|deliver|put|drop",
		`\b(?:submit|upload|send|hand|deliver|put|drop|place|mail|email|e-mail)\b`,
	)
)
