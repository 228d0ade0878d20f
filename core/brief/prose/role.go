package prose

import (
	"regexp"
	"strings"
)

// role is what a time of the text is for.
type role int

const (
	unknown role = iota
	due
	opens
	closes
	until // new versions are taken
	other // of something else than the work
)

// Cues before a time. Of several the nearest counts; what is weak counts only where nothing else does.
var (
	closesCue  = rule(`\b{closes}\b`)
	afterCue   = rule(`\b{after}\b[^.;]{0,60}\b(?:after|past|beyond|later than)(?: that| the)?(?: is)?\s*$`)
	afterPlain = rule(`\b(?:after|past|beyond|later than|from|as of)(?: the)?\s*$`)
	refusal    = rule(`\b(?:absent|unread|unopened|not|nothing|no|never|won't|cannot|can't|refused?|reject(?:ed|s)?|` +
		`zero|ignored|locks?|` +
		`locked|shuts?|` +
		`closed|closes|unmarked|discarded|gone|too late|isn't|don't|doesn't)\b`,
	)
	opensCue = rule(`\b{opens}\b`)
	dueCue   = rule(`\b{due}\b`)
	weakDue  = regexp.MustCompile(
		`(?:\b(?:by|until|till|before|no later than|not later than|latest|at the latest|up to|through|ends?|` +
			`on or before)|<)(?: on)?(?: the)?(?: end of| noon on| stroke of)?\W*$`,
	)
	weakOpens = regexp.MustCompile(`\b(?:from|since|as of)(?: the)?\W*$`)
	wrongCue  = rule(`\b{wrong}\W*$`)
	elseCue   = rule(`{else}\W*$`)
	eventCue  = rule(`\b(?:{event}|read|present(?:ed)?|away|out of office)(?: day)?(?: is| takes place| will be|` +
		` was| of| begins?|` +
		` starts?| comes)?(?: on| at| from|:)?(?: the)?\W*$`,
	)
	staysCue = rule(`\b{stays}\b[^.;:]{0,50}\b(?:by|until|till|before|from|on)(?: the)?\W*$`)
	againCue = rule(`\b{again}\b[^.;]{0,60}\b(?:until|till|up to|before|by|within|latest)(?: the)?\W*$`)
	movedCue = rule(`\b(?:correction|corrected|is now|now (?:due|is|on)|moved|chang(?:e|ed)|extended|postponed|` +
		`new (?:deadline|date|due)|updated?|erratum|instead|pushed|brought forward|shifted|` +
		`revised (?:deadline|date))\b`,
	)
	notAfter = rule(`^\W*(?:,|and|-|\()?\s*(?:not|instead of|rather than|was)\b`)
	dueAfter = rule(`^\W*(?:\w+ ){0,4}?(?:is|as|being|for|:|-|at the)?\W*(?:the |your |our |a |final |firm |my |` +
		`absolute )*{dueafter}\b`)
	closesPost = rule(`^[^.;]{0,50}\b{closespost}\b`)
	opensPost  = rule(`^[^.;]{0,45}\b(?:opens?|available|releas(?:e|ed)|live|unlocks?|appears?|upload starts?|starts?)\b`)
	elsePost   = rule(`^[^.;,]{0,30}\b(?:class|lecture|drafts?|feedback|marks (?:are|will|come)|results|tour|visit|` +
		`trip|exam|` +
		`seminar|session|quiz|office hours?|last year)\b`,
	)
)

// end is where the last match of a cue ends, or -1.
func (p pattern) end(s string) int {
	last := -1
	for _, m := range p.matches(s) {
		last = m[1]
	}
	return last
}

// What is not the work's has hours and ends of its own, which the nearest word before them would take for the work's.
var (
	othersTime = rule(`{otherstime}`)
	othersTask = waysOf(
		`(?:bought|buy|order|look at|have a look|pay|vote|apply|register|enrol|sign up|attend|borrow|reserve|`+
			`form (?:groups?|teams?|pairs)|show (?:me|us)|covers?)\b[^.;]{0,60}$`,
		`\b(?:i|we|you)(?:'ll| will| shall)? (?:answer|confirm|acknowledge|get|receive|hear|reply|return|publish|post)\b[^.;]{0,50}$`,
		`deadline for (?:the |your )?(?:title|topic|outline|registration|choice|proposal)s?\b[^.;]{0,20}$`,
		`if you (?:can't|cannot|don't|do not|won't) make it\b[^.;,]{0,30}$`,
		`we(?:'ll| will| shall)? (?:discuss|meet|talk|read|visit|watch|present|play|look at|go|walk|rehearse)\b[^.;]{0,50}$`,
		`(?:should|ought to|was to|were to) have been\b[^.;]{0,40}$`,
		`would(?: \w+)? (?:be|have been) due\b[^.;]{0,20}$`,
		`to (?:be )?(?:read|watch(?:ed)?|stud(?:y|ied)|discuss(?:ed)?)\b[^.;]{0,30}$`,
		`(?:discuss\w*|agreed?|approved?|cleared?|talked over|registered)\b[^.;]{0,25} with (?:me|us|your \w+)\b[^.;]{0,60}$`,
		`(?:swapped|replaced|exchanged|changed|revised)\b[^.;]{0,20}\bafter(?: the)?\W*$`,
		`(?:whatever|anything|everything)\b[^.;]{0,40}\bfrom(?: the)?\W*$`,
		`\bif (?:your |the |an? |it |they )?(?:\w+ )?(?:arrives?|comes?|(?:is|are) (?:\w+ )?(?:handed in|submitted|sent|`+
			`uploaded|there))(?: in)?(?: only)?(?: on)?(?: the)?\W*$`,
		`(?:decision|decided|(?:be|get) (?:told|informed|notified)|hear (?:back|from))\b[^.;]{0,40}$`,
		`(?:sign|fill in|return)(?: \w+){0,2} (?:safety|consent|ethics|registration|application) form\b[^.;]{0,30}$`,
		`team lists?\b[^.;]{0,30}$`,
		`^\W*next (?:week|time|month)\W+(?:\w+ ){1,3}\((?:due)?\W*$`,
		`topics?(?: \w+){0,4} (?:by|until|before|till)\W*$`,
		`(?:groups?|teams?|pairs)(?: \w+){0,3} formed(?: by| until| before)?\W*$`,
		`i(?:'ll| will| shall)? (?:return|give|hand|bring) (?:it|them|these|everything)(?: back)? (?:by|on|until|before)\W*$`,
		`(?:drop|leave|quit|change) the (?:course|class|module)\b[^.;]{0,30}$`,
		`(?:tell|send|mail|give|let) (?:me|us)(?: know)? (?:your|the) (?:topic|title|choice|subject|group|partner|name|`+
			`team)\w*\b[^.;]{0,30}$`,
		`no(?: \w+)? (?:{event}|lectures|classes|teaching|lessons)(?: \w+)? (?:after|until|before|from)\W*$`,
		`(?:comes?|goes?|come|sent|send it) back\b[^.;]{0,30}$`,
		`bring (?:your |the |an? |some )?(?:scissors|glue|paper|pens?|pencils?|gloves|coats?|water|food|lunch|tools?|questions?|ideas?)\b[^.;]{0,30}$`,
		`(?:course|module|class|term|semester|unit) (?:started|began|starts|begins|ended)\b[^.;]{0,20}$`,
		`(?:return|returned) (?:to the library|(?:the|your|all)(?: \w+){0,2} (?:copy|copies|books?|keys?|equipment|kit|`+
			`devices?))\b[^.;]{0,60}$`,
		`(?:reviewers?|reviews?|topics?|partners?|films?|plays?)(?: \w+){0,3} (?:is|are|will be) (?:\w+ed|shown|drawn|`+
			`given)\b[^.;]{0,30}$`,
		`(?:will be (?:on|in|up|returned|announced|given back)|(?:is|are) (?:announced|returned|given back|assigned|`+
			`shown))\b[^.;]{0,60}$`,
		`(?:results?|marks|grades|feedback|appeals?)\b[^.;:]{0,30}\((?:expected|due|planned|by|on)?\W*$`,
		`(?:marking|grading|correct\w+|reviewing|repairs?)(?: will)? (?:takes?|lasts?|goes on|continues?)\b[^.;]{0,20}$`,
		`^\W*(?:questions?|peer \w+|feedback|consultations?|help|contact|extensions?|appeals?)\s*:.{0,90}$`,
		`bring (?:\w+ ){0,2}(?:laptops?|notes?|books?|calculators?|cop(?:y|ies)|headphones|boots|camera|id|`+
			`money)\b[^.;]{0,30}$`,
	)
	// A second verb behind another task is the work's: "vote and then upload your map by".
	thenSent = regexpOf(`\b(?:and|then|or) (?:then )?(?:submit|send|upload|hand|deliver|turn|write|complete|` +
		`finish)\b[^.;]*$`)
	isCollected = regexpOf(`\b(?:is|are|will be) (?:collected|picked up)(?: at the (?:end|` +
		`beginning) of(?: \w+){1,4})?(?: on| at)?(?: the)?\W*$`)
	boxEmptied = rule(`\b(?:box|tray|pigeonhole|folder|drawer|drop ?box|letter ?box)(?: is| are| will be|` +
		` gets)? (?:emptied|cleared|copied|collected)(?: on| at)?(?: the)?\W*$`)
	folderCopied = rule(`^(?: sharp)?,? (?:the|our|this|that) (?:\w+ )?(?:box|tray|folder|drive|drawer) (?:is|will be|` +
		`gets) (?:copied|emptied|collected|cleared)\b`)
	iCollect = regexpOf(`\b(?:i|we)(?:'ll| will| shall)? (?:collect|pick up|gather|empty)\b[^.;]{0,40}$`)
	// a quiz has a window of its own
	ownWindow = rule(`\b{graded}(?: \d+)? (?:is|will be|opens?)\b(?: open| available)?(?: from| on)?\W*$`)
	// What those get who miss it is no due time of the others: "whoever misses it hands in by 15 August".
	whoMisses = rule(`\b(?:whoever|anybody who|anyone who|students who|those who|if you) (?:miss|missed|misses|fail|` +
		`fails)\b[^.;]{0,60}$`)
	graceTill = rule(`\b{leeway}(?: \w+)?(?: until| till| to| up to)\W*$`)
	runsFrom  = regexpOf(`\b(?:runs?|lasts?|goes?|continues?) from(?: the)?\W*$`)
	ifWanted  = regexpOf(`^\W*if you (?:want|wish|like|prefer|need|would like)\b[^.;]*$`)
	whoIsIll  = regexpOf(`\bif you (?:are|were|get|got|fall|fell|have been) (?:ill|sick|absent|away|unwell|` +
		`unable)\b[^.;]{0,90}$`)
	staysOpen = rule(`\b(?:uploads?|submissions?|box|portal|page|link|form|window|it) (?:remains?|` +
		`stays?) (?:possible|open|available)\b[^.;]{0,20}$`)
	stillCue = rule(`\bstill (?:be )?(?:do (?:it|this|so)\b|hand\w*|submit\w*|send|sent|upload\w*|accept\w*|tak\w+|` +
		`turn\w*|deliver\w*|` +
		`come in)\b[^.;]{0,30}$`)
)

// dueSaid and opensSaid are what decides at once, right before a time or in the label of its line.
var (
	dueSaid = ways{
		rule(`\b(?:due at|before|by|until|till) (?:the )?(?:start|beginning|end) of (?:the |your |` +
			`our )?(?:\w+ )?{event}(?: on)?(?: the)?\W*$`),
		rule(`\b(?:hand\w*[ -]in|due|submi\w+|deliver\w*|collected)\b[^.;]{0,20} (?:at|in|before|` +
			`by) the (?:\w+ )?{event} (?:of|on)(?: the)?\W*$`),
		rule(`\btime is up(?: on| at)?(?: the)?\W*$`),
		rule(`\byou (?:then )?have (?:exactly |just |only )?$`),
		rule(`\b(?:due|submit\w*|hand\w* in|turn\w* in)\b{..} (?:at|by|before) the (?:start|beginning) of (?:the )?\w+(?: on)?(?: the)?\W*$`),
		rule(`\b(?:before|by)(?: the| our| your| that| this)?(?: \w+)? {event} (?:starts?|begins?)(?: at| on)?\W*$`),
		rule(`^\W*(?:day and (?:hour|time)|date and (?:hour|time))\s*[:=|]\W*$`),
		rule(`\b(?:wanted|due|expected|needed|returned|back) (?:\w+ )?(?:by|before) (?:the |our |` +
			`your )?(?:\w+ )?{event} (?:on|of)(?: the)?\W*$`),
		rule(`\bdue (?:an?|0*1|\d+) (?:weeks?|days?) (?:before|earlier),\W*$`),
		rule(`\b(?:it|and) is now(?: due)?(?: on)?(?: the)?\W*$`),
		rule(`\b(?:no|not) later than(?: at| on)?(?: the)?\W*$`),
		rule(`^\W*(?:returns?|return by|in|back|ends?|finish|handed back by students|until)(?: on| by)?\s*[:=|]\W*$`),
		rule(`\bto be (?:returned|handed back|given back|returned in)(?: to \w+)?(?: by| on| until| before)?(?: the)?\W*$`),
		rule(`\b(?:due|deadline)\b[^.;]{0,40}\b(?:when|as soon as) (?:the|our) (?:\w+ )?\w+ (?:ends|starts|begins|closes|` +
			`is over)\W*$`),
		rule(`\bbefore(?: the| our| your)?(?: \w+)? {event}(?: starts| begins)? at\W*$`),
		// The event is dated behind it: "before the last class, which is on Thursday".
		rule(`\b(?:before|by|until)(?: the| our| your| my)?(?: \w+){0,2} {event}(?: \w+){0,3},? (?:which|that) ` +
			`(?:is|takes place|falls|starts|begins)(?: on| at)?(?: the)?\W*$`),
	}
	opensSaid = ways{
		rule(`^\W*(?:set|issued?|out|posted|released|given out)(?: on)?\W*$`),
		rule(`\b(?:takes?|accepts?|open|opens|available|possible|reachable)(?: \w+){0,2} (?:from|as of)(?: the)?\W*$`),
		rule(`\b(?:not|no|never) (?:before|earlier than|sooner than)(?: the)?\W*$`),
		rule(`\b(?:start|begin) (?:uploading|submitting|sending|handing in)(?: on| from)?(?: the)?\W*$`),
		rule(`^\W*(?:issued?|out|set|release[ds]?|posted|starts?|begins?|given|hand(?:ed)?[ -]?out|given out)(?: on)?(?:\s*[:=|]\W*|  +)$`),
		rule(`\b(?:questions?|tasks?|topics?|papers?|exam|assignment|sheet|brief) (?:is|are|will be) ` +
			`(?:online|posted|available|released|published|visible)(?: on the(?: \w+){1,3})?(?: from| on| at)*(?: the)?\W*$`),
	}
)

var (
	lossNext = rule(`^,? (?:with|for|at) (?:a |an |only )?(?:{loss}|minus|half|reduced|fewer|less|\d+ ?(?:%|percent|` +
		`{marks}))`)
	acceptUntil = rule(`\blets? you (?:submit|upload|hand (?:it )?in|send)\b[^.;]{0,20}(?:until|till|up to)(?: the)?\W*$|\b(?:i|we)(?:'ll| will)? (?:accept|take) (?:it|them)\b[^.;]{0,20}(?:until|till|` +
		`up to)(?: the)?\W*$`)
	lateColon = regexpOf(`(?:^|[(;,])\W*(?:if )?late: ?$`)
	whenShuts = regexpOf(`^,? when (?:the|it)(?: \w+)? (?:shuts|closes|locks)\b`)
)

func roleOf(before, after string) role {
	switch {
	case aside(before) || mistaken.in(after) || weBegin.in(after) && !closesPost.in(after) || lastDayElse.in(after):
		return other
	case graceTill.in(before):
		return other // its end is read with the grace
	case dueSaid.in(before):
		return due
	case stopTaking.in(before):
		return closes
	case opensSaid.in(before):
		if othersOpen.in(before) && !workSent.MatchString(before) {
			return other
		}
		return opens
	case runsFrom.MatchString(before) && !dueCue.in(before) && !opensCue.in(before) &&
		!ownWord.in(before), wrongCue.in(before) || whoMisses.in(before) || ifWanted.MatchString(before) ||
		whoIsIll.MatchString(before):
		return other
	case othersTime.in(before) && !ownWindow.in(before) || othersTask.in(before) && !thenSent.MatchString(before) && !afterCue.in(before):
		return other
	case iCollect.MatchString(before) || boxEmptied.in(before) || folderCopied.in(after) ||
		isCollected.MatchString(before) && isThing(before):
		return due
	case againCue.in(before) || rewriteDue.in(before):
		return until
	case acceptUntil.in(before) || lateColon.MatchString(before) || weakDue.MatchString(before) &&
		(whenShuts.MatchString(after) || lossNext.in(after)):
		return closes
	case stillCue.in(before) || staysOpen.in(before) || weakDue.MatchString(before) && lateTaken.in(after):
		return closes
	case afterCue.in(before), noneOnce.in(before), onceOver.MatchString(before) && noMoreThen.MatchString(after):
		return closes
	}
	dueAt, opensAt, closesAt := dueCue.end(before), opensCue.end(before), closesCue.end(before)
	weakly := weakDue.MatchString(before)
	if elseCue.in(before) && elseCue.end(before) > dueAt-7 {
		return other
	}
	if afterPlain.in(before) && closesAt < 0 && refusal.in(after) {
		return closes
	}
	if eventCue.in(before) && !weakly || staysCue.in(before) {
		return other
	}
	if closesAt >= 0 && closesAt >= opensAt && (closesAt >= dueAt || weakly && closesAt > dueAt-12) {
		return closes
	}
	if opensAt >= 0 && opensAt > dueAt && !weakly || weakOpens.MatchString(before) && closesAt < 0 {
		if othersOpen.in(before) && !workSent.MatchString(before) || movedFrom.MatchString(before) {
			return other
		}
		return opens
	}
	if weakly {
		return due
	}
	if notAfter.in(after) {
		return due
	}
	if dueAt >= 0 {
		return due
	}
	switch {
	case closesPost.in(after) && (!dueAfter.in(after) || itShuts.MatchString(after)):
		return closes
	case dueAfter.in(after) && !andThen.MatchString(after):
		return due
	case opensPost.in(after):
		return opens
	case elsePost.in(after):
		return other
	}
	return unknown
}

var (
	itShuts  = regexpOf(`^\W*(?:the|our|this) \w+ (?:is (?:shut|closed|locked)|shuts|closes|locks)\b`)
	workSent = regexpOf(`\b(?:upload|submi|hand|send|sent|deliver)\w*`)
	// What is taken no more once something is done: "nothing is accepted once the solutions are out on".
	noneOnce   = rule(`\b(?:{nothing}|no {work})\b{..} {taken}{..} (?:once|after|when|as soon as)\b[^.;]{0,60}\b(?:on|at)(?: the)?\W*$`)
	onceOver   = regexpOf(`^\W*(?:after|once|as soon as|following)\b[^.;]{0,80}$`)
	noMoreThen = regexpOf(`^\)?,? (?:no |nothing |neither |it (?:is|will) (?:not|no) |(?:the )?\w+ (?:is|` +
		`are) (?:closed|shut|locked|refused))`)
	weBegin     = rule(`^\W*(?:we|i) (?:will )?(?:start|begin|continue|discuss|talk|look|meet|visit)\b`)
	lastDayElse = rule(`^\W*(?:is )?(?:the )?last (?:day|date|chance) (?:to|for) (?:drop|withdraw|enrol|regist|` +
		`chang|sign|join|leav|add|pay)`)
	rewriteDue = rule(`\b(?:rewrites?|rewriting|resubmissions?|resits?|second attempts?|` +
		`(?:revised|corrected) versions?)\b[^.;:]{0,30}$`)
	mistaken = rule(`^[^.;]{0,20}\bbut (?:the|it is) (?:right|correct|real|actual|true)\b|^[^.;]{0,70}\b(?:is|` +
		`was|are) (?:wrong|an? (?:error|mistake|misprint)|superseded|out of date|void|no longer)\b`)
	// What is not the work opens and begins, too.
	othersOpen = rule(`\b{othersopen}\b[^.;:]*$`)
	askedCue   = regexp.MustCompile(`^\W*(?:q:? ?)?(?:is|are|was|may|can|could|does|do|will|should|why|what|when|where|` +
		`which)\b[^?]*\?\W*$`)
	movedFrom = regexpOf(`\b(?:mov\w+|postpon\w+|extend\w+|shift\w+|chang\w+|push\w+|` +
		`brought) (?:forward )?from(?: the)?\W*$`)
	asideIs = rule(`\b(?:is|are) (?:\w+ ){0,2}(?:there|in|open|here)\b`)
)

// aside says whether a time stands in brackets with a sentence of their own: "(room 3, she is there Tuesday)".
func aside(before string) bool {
	open := strings.LastIndexByte(before, '(')
	return open > strings.LastIndexByte(before, ')') && asideIs.in(before[open:])
}
