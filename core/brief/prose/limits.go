package prose

import (
	"cmp"
	"slices"
	"time"

	"orario/core/timing"
)

// limitSaid are ways to say up to how late work is taken, by what happens then.
var limitSaid = []pattern{
	rule(`\bafter ` + duration + `,? {nothing} (?:will|is|gets|does|looks|reads|marks)\b`),
	rule(`\b(?:stays?|remains?|is|are|will be) (?:up|there|online|available|reachable) (?:for )?(?:another )?` + duration + ` (?:longer|more|for late)`),
	rule(`\b` + duration + ` (?:after|past) (?:the {deadline}|that|it){..} (?:comes? down|for good|over|gone|stops?)\b`),
	rule(`\b(?:maximum|longest|greatest|most) (?:delay|lateness)(?: \w+){0,2}(?: is|{sep}| of) ?` + duration),
	rule(`\b(?:delay|lateness|late)\b[^.;\d]{0,20}? (?:at most|max(?:imum)?\.?|no more than)(?: of)? ` + duration),
	rule(`\bafter ` + duration + `,? (?:a (?:mark|grade|score) of (?:zero|0)|(?:zero|0|no) (?:marks?|points?|` +
		`credit)|nothing)\b`),
	rule(`\b(?:stays?|remains?|is kept|will be) open (?:for )?(?:a further|another|an? additional|an? extra)? ?` + duration),
	rule(`\bafter ` + duration + `,? (?:we|i) (?:do not|don't|no longer|will not|won't) (?:take|mark|accept|read|` +
		`look at)\b`),
	rule(`\bafter ` + duration + `,? (?:we|i) (?:mark|count|grade) it (?:as )?(?:zero|0)\b`),
	rule(`\b(?:after|beyond) ` + duration + `,? (?:it is |they are )?not (?:accepted|taken|marked)\b`),
	rule(`\b(?:possible|accepted|taken|open|allowed) for (` + num + `) more (days?|hours?|weeks?)\b`),
	rule(`\b(?:for|within|in|during|up to) (?:the )?(?:first )?` + duration + `\b{..} (?:refuse|reject|nothing|none|not)\b{..} ` +
		`(?:after|beyond|later|then)\b`),
	rule(duration + `,? (?:at|with|for|costing) (?:-|minus )?` + num + `\W{0,3}(?:percent|per cent|{marks})?,? (?:and )?then ` +
		`(?:closed|shut|over|locked|{zero}|{refused})\b`),
	rule(`\bwindow of ` + duration),
	rule(duration + ` late is (?:the |our |my )?{mostword}\b`),
	rule(`(?:^|[,;(] ?)` + duration + `,? (?:at (?:the )?(?:very )?most|maximum|max\.?|tops)\b`),
	rule(`{mostword} of ` + duration + ` late\b`),
	rule(`({num}) more (days?|hours?|weeks?)\b{..} (?:penalty|deduction|off|less)\b`),
	rule(`> ?` + duration + `(?: late)?(?:{sep}| is | are )(?:{zero}|{refused}|{not})\b`),
	rule(`\b(?:accepted|taken|possible)(?: only)? within ` + duration + `(?: of the {deadline}|\W*$)`),
	rule(`\b(?:submitted|received|handed in|sent|arriv\w+|uploaded|delivered|comes?|accepted|` +
		`taken)(?: in)? (?:with)?in (?:the )?(?:following|next|first) ` + duration),
	rule(duration + ` (?:later|afterwards),? (?:i|we) (?:lock|close|shut|empty)\b`),
	rule(duration + ` (?:later|afterwards)\b{..} (?:locked|closed|shut|read-only|gone|emptied)\b`),
	rule(`\blatest is ` + duration + ` after\b`),
	rule(`\b(?:(?:becomes?|is|turns?|are) (?:then )?(?:read-only|locked|closed|sealed|emptied|shut|cleared)|locks|` +
		`closes|shuts) ` + duration + ` (?:later|afterwards|after (?:that|the {deadline}))`),
	rule(duration + `'?(?: of)? {leeway} (?:at|for|with) `),
	rule(`\bup to ` + duration + `,? (?:then|and then|thereafter|after that) (?:zero|0|nothing)\b`),
	rule(duration + `,? (?:and )?then (?:zero|0|nothing|it is over)\b`),
	rule(`\b(?:an? )?` + duration + ` is (?:the|our|my) {mostword}\b`),
}

// afterDay is the last day that is taken; its noun may stand before: "each day costs 5 %, after the fourth nothing".
var afterDay = rule(`\bafter (?:the )?(second|third|fourth|fifth|sixth|seventh|tenth)(?: day)?,? (?:you|it|there|` +
	`we|i|no|nothing|zero|the \w+ is|day)\b`)

var (
	spanLate = regexpOf(`\b` + duration + `(?: late)?(?: ?[=:,]| is| are| costs?| gets?| means)`)
	notSpan  = regexpOf(`\b(?:up to|for|after|within|of|per|each|every) $`)
)

// dayNone is the first stretch of lateness that gets nothing, behind one that costs something: "one day late = half,
// two days = none".
var dayNone = rule(`\b{duration}(?: late)?(?: ?[=:] ?| is | are | means |, )(?:none|{zero}|{refused})\b`)

var moreDays = rule(`\b({num}) (?:or|and) (?:more|later|longer)\W*(?:is |are |means )?(?:{zero}|{refused}|{not})\b`)

// limit is up to how late work is taken.
type limit struct {
	span
	after   time.Duration
	sameDay bool
}

func (r *reader) limitIn(s span, l *Late) (limit, bool) {
	text := r.digits[s.start:s.end]
	if m := dayNone.first(r.digits, s); m != nil {
		if before := spanLate.FindAllStringSubmatchIndex(r.digits[s.start:m[0]], -1); before != nil && !notSpan.MatchString(r.digits[s.start:m[0]]) {
			last := shift(before[len(before)-1], s.start)
			if minutes := minutesOf(r.digits, last, 1); minutes > 0 && minutes < minutesOf(r.digits, m, 1) {
				return limit{span{last[0], m[1]}, time.Duration(minutes) * time.Minute, false}, true
			}
		}
	}
	if m := moreDays.first(r.digits, s); m != nil {
		if unit := lastUnit.FindStringSubmatch(r.digits[s.start:m[0]]); unit != nil { // "2 days 25 %, 3 or more 0"
			hours := (number(group(r.digits, m, 1)) - 1) * hoursIn(unit[1])
			return limit{span{m[0], m[1]}, time.Duration(hours * float64(time.Hour)), false}, true
		}
	}
	if m := sameDay.first(r.digits, s); m != nil {
		return limit{span{m[0], m[1]}, 0, true}, true
	}
	if m := afterDay.first(r.digits, s); m != nil && refusedLate.in(text) {
		if n := ordinals[group(r.digits, m, 1)]; n > 0 {
			return limit{span{m[0], m[1]}, time.Duration(n) * 24 * time.Hour, false}, true
		}
	}
	if m := fromDay.first(r.digits, s); m != nil && refusedLate.in(text) {
		if n := max(ordinals[group(r.digits, m, 1)], atoi(cmp.Or(group(r.digits, m, 2), "0"))); n > 1 {
			return limit{span{m[0], m[1]}, time.Duration(n-1) * 24 * time.Hour, false}, true
		}
	}
	for _, m := range limitRefusal.all(r.digits, s) {
		if minutes := minutesOf(r.digits, m, 1); minutes >= 30 &&
			refusedLate.in(r.digits[m[1]:s.end]+" "+r.digits[s.start:m[0]]) {
			return limit{span{m[0], m[1]}, time.Duration(minutes) * time.Minute, false}, true
		}
	}
	for _, cue := range limitSaid {
		for _, m := range cue.all(r.digits, s) {
			if minutes := minutesOf(r.digits, m, 1); minutes >= 5 {
				return limit{span{m[0], m[1]}, time.Duration(minutes) * time.Minute, false}, true
			}
		}
	}
	for i, cue := range limitCues {
		for _, m := range cue.all(r.digits, s) {
			minutes := minutesOf(r.digits, m, 1)
			if minutes < 30 || ofOther.MatchString(r.digits[m[0]:s.end]) || l.Kind == timing.Steps && i != 1 && i != 2 ||
				slices.ContainsFunc(
					r.found,
					func(f Item) bool { return f.Kind == "grace" && (span{f.Start, f.End}).overlaps(span{m[0], m[1]}) },
				) ||
				reportCue.in(text) {
				continue
			}
			if i == 3 && (l.Kind == "" || l.Kind == timing.Fixed) && !acceptLate.in(text) {
				continue
			}
			return limit{span{m[0], m[1]}, time.Duration(minutes) * time.Minute, false}, true
		}
	}
	return limit{}, false
}

// ofOther says that a stretch of time counts from something else than the due time.
var ofOther = regexpOf(`^[^.;]*?` + duration + ` after (?:the |your |its )?(?:end|start|beginning|completion|return)\b`)

// closings turns limits of lateness into closing times, counted from each due time.
func (r *reader) closings(limits []limit) {
	if len(limits) == 0 || r.has("closes") {
		return
	}
	for _, d := range r.dues {
		at, err := parseWall(d.Value.(string))
		if err != nil {
			continue
		}
		end := at.Add(limits[0].after)
		if limits[0].sameDay {
			end = midnight(at).Add(23*time.Hour + 59*time.Minute)
		}
		if midnight(end).Equal(end) && limits[0].after > 0 && !midnight(at).Equal(at) {
			end = end.Add(-time.Minute) // the end of a day
		}
		if end.After(at) {
			r.find("closes", end.Format(wallForm), limits[0].span, 0.8)
			r.found[len(r.found)-1].Zone = d.Zone
		}
	}
}

// noneCues are ways to say that late work gets nothing, by who or what comes late.
var noneCues = waysOf(
	`no {belated} {work}|no late days|late (?:\w+ )?(?:policy|rule|work): ?(?:none|no|never)`,
	`(?:no|neither|none)(?: \w+){0,3}(?: is| are| can| will| be| may| get){0,3} {taken}(?: in)? {afterwards}`,
	`{latework}{..} {not}(?: \w+){0,3}? {taken}`,
	`{latework}{..} (?:{zero}|{refused}|not)`,
	`(?:{latework}|{belated}|late \w+){sep}(?:{not}|{zero}|{refused}|no|none)\b`,
	`(?:once|when|as soon as) (?:it|the \w+) (?:(?:is|has) (?:closed|over|passed|shut|locked|gone)|closes|`+
		`shuts){..} (?:{nothing}|{not}|no (?:{work}|way))`,
	`{belated},? (?:it(?:'s| is)|that is|you (?:get|have|receive|score)|means|this means) (?:a )?(?:{zero}|`+
		`{refused}|not (?:\w+ )?{taken})`,
	`(?:{belated}|lateness) ?(?:is|means|equals|gets|earns|counts as|=|:) ?(?:a )?(?:mark of )?(?:{zero}|{refused})`,
	`(?:{belated})(?: \w+){1,3} (?:gets?|receives?|scores?|earns?|are|is|go|goes) (?:given )?(?:a )?(?:{zero}|{refused})`,
	`(?:who|whoever|that|which|what) comes? (?:in )?late(?:r)?{..} (?:{zero}|{refused})`,
	`{not}(?: to)?(?: be)?(?: ever)? (?:{taken}|mark)(?: any| your| anything| {work})*(?: {come})* {belated}`,
	`{afterwards},? (?:{nothing}|no (?:work|submissions?|files?|one|more|further|paper)|{not})(?: \w+){0,4}`,
	`(?:{nothing}|no (?:more )?{work}){..} {afterwards}`,
	`{not}{..} (?:after|past|beyond)(?: that| the| this)? (?:{deadline}|{clock}|that|this|it|then|due)`,
	`{afterwards}{..} (?:door|box|portal|window|site) (?:is|stays|will be|gets) (?:shut|closed|locked)`,
	`{belated}{..}\?\s*(?:a(?:nswer)?: ?)?(?:unfortunately |sorry,? |i'm afraid |afraid )?(?:no|nope|{not}|`+
		`you can(?:no|')t|{nothing}|sorry)`,
	`{belated}{..}\?\s*(?:a(?:nswer)?: ?)?(?:then )?{..}(?:{zero}|{refused}|{not} (?:\w+ ){0,2}{taken})`,
	`(?:hard|strict|firm|absolute|final) (?:{deadline}|date)|{deadline} is (?:hard|absolute|final|strict|firm)`,
	`(?:not|\w+n't) (?:be )?(?:there|here|in|uploaded|submitted)(?: \w+)? (?:by|at|before|in time)\b{..} `+
		`(?:{zero}|{refused}|out|{not} (?:exist|count)|{not}(?: \w+)? {taken})`,
	`(?:what|whatever|who|whoever)(?:'?s not| is not| isn't| isnt) (?:there|in|here)(?: then|`+
		` by then)?,? (?:\w+ ){0,2}(?:{zero}|`+
		`{refused}|{not} \w+)`,
	`(?:{latework}|{belated}|{afterwards}){..} (?:graded|marked|counts?|counted|treated|regarded|`+
		`considered)(?: as)? (?:a )?["']?(?:fail|failed|not (?:passed|done|submitted|handed in))`,
	`{work}(?: that| which)? (?:aren't|isn't|are not|is not) (?:there|here|in)\b{..} {not} (?:\w+ )?(?:{taken}|shown)`,
	`{work} (?:after|past) \w+ (?:do not|don't|won't|will not|are not) (?:\w+ )?{taken}`,
	`(?:don't|do not|won't|will not|never) (?:do|want|like|read) {latework}`,
	`{zero} for (?:anything|everything|whatever|work)(?: \w+){0,2} (?:not|\w+n't)(?: \w+){0,3} (?:on|in) time`,
	`(?:{work}|what|whatever|anything|everything|who|whoever){..} not (?:in|on|at|with|there|here)\b{..} (?:{zero}|{refused})`,
	`(?:an? |the )?{deadline} (?:means|is) an? {deadline}`,
	`(?:delay|lateness|late work)\W{1,3}(?:none|not|no) (?:tolerated|accepted|allowed|permitted)`,
	`no (?:second|further|other) (?:date|chance|deadline|term)`,
	`miss it,? you (?:have )?miss(?:ed)? it`,
	`(?:an?|the|any|every|each) \w+ (?:that|which) (?:is |are )?{not} (?:in|there|here|on time)\b[^.;]{0,80}? {zero}`,
	`{belated}{..} (?:send|sent|give|given|hand|handed) (?:it )?back (?:unread|unmarked)`,
	`{belated}{..} treated as (?:{refused}|{zero}|missing)`,
	`(?:forfeit|lose)s? (?:all|every|any)(?: \w+){0,3} (?:{marks}|credit){..} {belated}`,
	`{nothing} (?:after|beyond|past) (?:that|this|then)`,
	`(?:can(?:no|')t|{not}(?: be)?) (?:print|show|use|play|mark)\w*(?: any)? (?:what|anything|`+
		`whatever)(?: {come})* {afterwards}`,
	`no way (?:of|to) (?:tak|accept|mark)\w* {belated}`,
	`(?:no {work}|{nothing})(?: is| are| will be| can be)? {taken} (?:once|after|when)`,
	`no such thing as (?:{latework}|{belated})`,
	`(?:{not}|impossible)(?: be)?(?: possible| allowed)?(?: to)? (?:submit|hand|turn|send|upload|deliver)(?: \w+){0,3} `+
		`{belated}`,
	`(?:submitting|handing|sending|uploading|turning|delivering)(?: \w+){0,3} (?:{belated}|{afterwards}){..} (?:{not}|`+
		`{refused}|{zero})`,
	`{belated},? (?:it|they|you) (?:gets?|receives?|scores?|earns?) (?:a )?{zero}`,
	`(?:{latework}|{belated}){..} (?:forfeit|lose)s? (?:all|every|any) (?:\w+ )?(?:{marks}|credit)`,
	`all (?:\w+ )?(?:{marks}|credit) (?:is|are|will be) (?:lost|forfeited|gone){..} {belated}`,
	`fail(?:ure|ing|s)? to (?:submit|meet|hand|send|upload|deliver|turn){..} (?:{zero}|{refused}|fail\w*)`,
	`{work} not (?:received|submitted|uploaded|delivered|sent|handed in){..} (?:{zero}|{refused})`,
	`nothing (?:is|has been|was) (?:uploaded|submitted|sent|received|handed in){..} {zero}`,
	`(?:{zero}|no tolerance|no mercy)(?: {marks})? (?:for|after) (?:{latework}|{belated}|the {deadline})`,
	`late [\w-]+ (?:counts?|gets?|receives?|scores?|earns?|is|are)(?: as)? {zero}`,
	`late [\w-]+ {not} (?:\w+ )?{taken}`,
	`late is not an option`,
	`(?:delay|lateness)\W{1,3}(?:\w+ ){0,4}{not}(?: \w+)? {taken}`,
	`no (?:allowance|tolerance|mercy|exceptions?)(?: is| are| will be)?(?: made)? for (?:any )?{belated}`,
	`(?:after|past) (?:the )?{deadline},? no\W*$`,
	`{afterwards}{..} lets? {nothing} in`,
	`no extra time`,
	`{not} wait for (?:any )?{latework}`,
	`no \w+, no (?:marks?|credit|points|grade)`,
	`(?:being late|lateness) means (?:fail\w*|{zero})`,
	`(?:missing|exceeding) (?:it|(?:the |this )?{deadline}){..} (?:all|every) (?:\w+ )?(?:{marks}|credit)`,
	`no lateness`,
	`{belated} is too late`,
	`no {belated} (?:quizzes|tests?|box|date|slot|hand-?in|deliver\w+|entr\w+)`,
	`(?:rejects?|refuses?|blocks?) (?:all |any )?{latework}`,
	`{not}(?: be)? (?:let|able|possible|allowed|permitted)(?: \w+){0,3} (?:submit|hand|turn|send|upload|`+
		`deliver)(?: \w+){0,3} {belated}`,
	`{afterwards},? no (?:uploads?|entr(?:y|ies)|delivery|hand-in)`,
	`(?:{work}|uploading|submission) (?:is|are) (?:impossible|{not} possible) {afterwards}`,
	`(?:exceeding|missing) (?:it|(?:the |this )?{deadline}){..} (?:fail\w*|{zero})`,
	`{belated} is (?:{not} (?:possible|allowed|accepted)|impossible)`,
	`if (?:it|yours|your \w+) (?:is not|isn't) (?:uploaded|submitted|there|in|here)(?: by then| in time)?,? (?:you|`+
		`it) (?:gets?|receives?) {zero}`,
	`{afterwards}{..} (?:mark|grade|score|result) (?:is|will be|becomes|of|:) {zero}`,
	`{not}(?: \w+){1,3} (?:on|in) time{..} (?:{zero}|{refused}|{not} {taken})`,
	`{deadline} (?:has|is) (?:passed|over|gone){..} (?:{nothing}|no (?:\w+ )?{work}|{not})`,
	`missing (?:it|this|that|the {deadline}|the date) means (?:missing|losing|forfeiting)`,
	`0*1 (?:second|minute) (?:after|late|later|past|over)\b{..} (?:{zero}|{refused}|{not})`,
	`{not} (?:reopen|open it again)`,
	`no (?:{marks}|credit) (?:is|are|will be) (?:awarded|given|granted) (?:for|to) (?:any )?(?:{latework}|late \w+)`,
	`(?:and|:) (?:that's|that is|this is|it is|it's) final`,
	`(?:after|past|beyond)(?: the)? {deadline},? (?:no|{nothing}) (?:\w+,? )*(?:or \w+ )?(?:is|are|will be) (?:possible|{taken})`,
	`(?:closed|shut|locked) (?:it|they) (?:stays?|remains?) (?:closed|shut|locked|so|that way)`,
	`miss (?:it|this|that|the {deadline}),? {..}next (?:chance|date|round|occasion)`,
	`{latework} (?:cannot|can't|can not|won't|will not|could not) be \w+`,
	`0*\d{1,2}[:.]\d\d,? (?:it is|it's|that is|that's|you get|is|means|gets) (?:a )?(?:{zero}|{refused}|too late)`,
	`miss(?:es|ed|ing)? (?:it|this|that|the {deadline}|this {deadline}|{deadline}){..} (?:{zero}|{refused}|fail\w*|`+
		`gone|lost)`,
	`(?:{zero}) (?:for|is given for|goes to|if)(?: \w+){0,2} (?:{latework}|{belated})`,
)

var (
	lateQuestion = rule(`\b(?:{latework}|{belated}|{afterwards}|miss(?: the| my| it)?(?: {deadline})?|forget|not ready|` +
		`not finished)\b`)
	// notLate says that what is refused late is not work, or that nothing is.
	notLate = rule(`\b{notlate}\b`)
)
