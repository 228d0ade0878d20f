package prose

var routes = []struct {
	name string
	cue  pattern
}{
	{
		"site",
		rule(`\b(?:course(?:'s)? (?:web)?(?:site|page)|course web ?page|(?:web)?site|(?:web|course|assignment|` +
			`submission|class|module|upload|unit|subject|department) ?page|portal|platform|learning (?:platform|system|environment)|` +
			`virtual campus|online campus|submission system|e-?learning)\b`,
		),
	},
	{
		"folder",
		rule(`\b(?:(?:shared|class|course|group|team|common|studio|network|cloud|my|the|our|submission|project|` +
			`lab)(?: \w+){0,2} (?:folder|drive)|folder (?:on|in) (?:the|our)|shared (?:folder|drive)|` +
			`drop it in the folder)\b`,
		),
	},
	{
		"mail",
		rule(`\b(?:by|via|through|as an?|in an?|per) (?:ordinary |plain )?e-?mail(?: attachment)?\b|` +
			`\bmail me\b|\be-?mail(?:ed)? (?:it|them|me|us|this|the|your|everything|both|all|to|files)\b|\b(?:mail(?:ed)?|` +
			`send|sent|submit|submitted|post|write|` +
			`forward)\b[^.;]{0,70}(?:\bto\b[^.;]{0,40})?[a-z0-9._-]+@[a-z0-9.-]+|\b(?:to|at) (?:my|the|our|` +
			`this|their|the instructor's) (?:\w+ )?(?:e-?mail|mail) address\b|\bmail (?:it|them|the \w+|` +
			`your \w+|everything) to\b|\bto (?:my|the (?:instructor|tutor)'s) (?:inbox|mailbox)\b|` +
			`[a-z0-9._-]+@[a-z0-9.-]+\b`,
		),
	},
	{
		"by_hand",
		rule(`\b(?:on paper|(?:printed|paper|hard|bound|stapled)[- ]?(?:copy|copies|version|out)|hardcopy|` +
			`pigeonhole|pigeon[- ]hole|letter ?box|drop ?box|(?:the|a|my|our) (?:letter |wooden |metal |grey |red |blue |white |black |green )?(?:box|` +
			`tray)(?: outside| in front| by| at| next| on (?:my|the (?:door|wall|desk|table))| in (?:my|the (?:hall|corridor|office|foyer)))|(?:to|in|at|outside|under the door of) (?:my |` +
			`the )?(?:room|office)(?: [a-z]?\d[\w.]*)?|in person|(?:deliver\w*|submit\w*|br(?:ing|ought)|given?|handed?|return\w*|receiv\w*|accept\w*|leave)\b` +
			`[^.;]{0,30}\bby hand|on my desk|(?:at|to) the (?:\w+ )?(?:desk|` +
			`counter|reception))\b`,
		),
	},
}

var (
	routeVerb = rule(`\b(?:due|deadline|submi\w+|send|sent|upload\w*|hand(?:ed)?|deliver\w*|put|drop\w*|(?:e-?)?mail\w*|` +
		`post\w*|bring|leave|left|plac\w+|go(?:es)?|saved?|copy|copied|via|give|given|turn|route|return(?:ed)?|` +
		`receiv\w*|accept\w*|take|stuff|share|lodged?|pop|reach(?:es)?|use|typed?|enter(?:ed)?)\b`,
	)
	routeElse = rule(`\b(?:questions?|ask|find|download|announce\w*|available|contact|help|office hours|trouble|problems?|` +
		`extensions?|templates?|rubric|repl(?:y|ies)|confirmation|published?|appears?|results?|fails|is down|` +
		`slow|feedback|grades|see the|instructions|details|described|read)\b`,
	)
	routeNo = regexpOf(
		`\b(?:no|nothing|not|never|\w+n't|nor|neither|instead of|rather than|without|don't|do not)\b[^.;,]{0,30}$`,
	)
)

var (
	routeNotAfter = regexpOf(
		`^[^.;,]{0,25}\b(?:is|are|will be|won't be|isn't|aren't)? ?(?:not|never|\w+n't|ignored|refused|deleted)\b`,
	)
	routeLabel  = regexpOf(`^\W*(?:to|where|place|route|via|hand-?in|submission|delivery)\b ?(?:[:\t]|  )`)
	aboutHelp   = regexpOf(`^\W*(?:questions?|help|contact|consultation|q&a)\b`)
	whither     = rule(`\b(?:where|how) (?:does|do|should|must|can|shall|is|are)\b[^?]*\?$`)
	routeStrong = rule(`\b(?:submit|upload|send|hand|deliver|put|drop|place|mail|email|e-mail)\b`)
)
