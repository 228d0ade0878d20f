package prose

// onlyRead are further ways to say which attempt counts, by what is done with it.
var onlyRead = []struct {
	counts string
	cue    pattern
}{
	{"latest", rule(`\b(?:watch|listen to|read|open|look at|mark|grade|see) (?:only )?the (?:last|latest|newest)\b`)},
	{"latest", rule(`\bthe (?:last|latest|newest)(?: ones?| versions?| files?)? (?:is|are|gets?) (?:taken|read|` +
		`marked|graded)\b`)},
	{"latest", rule(`\b(?:replaces|overwrites) the (?:previous|former|old|older|earlier|first|last)\b`)},
	{"latest", rule(`\b(?:the|that|one)(?: \w+)? (?:that|which) (?:came|comes|arrived|was (?:sent|uploaded)|` +
		`you (?:sent|send|uploaded)) last\b`)},
	{"latest", rule(`\bwhat(?:'s|ever is| is) (?:there|in|up)(?: \w+){1,3} is what\b|\breplaces what\b`)},
	{"latest", rule(`\b(?:runs|works|looks) on(?: only)? the (?:last|latest|newest)\b`)},
	{"best", rule(`\bthe (?:best|highest)(?: one| score)? (?:is|gets) (?:taken|kept|used)\b`)},
	{"latest", rule(`\b(?:i|we) (?:take|grade|mark|read) (?:what|whatever) (?:\w+ ){1,2}uploaded last\b`)},
	{"latest", rule(`\b{tries}, (?:the )?last one (?:graded|marked)\b`)},
	{"latest", rule(`\b(?:second|last|latest|newer|newest)(?: one)? replaces the (?:first|former|old|previous)\b`)},
	{"mean", rule(`\bwhat counts is the (?:mean|average)\b`)},
	{"latest", rule(`\bthe (?:last|latest|newest)(?: \w+)? is (?:the one|what) (?:i|we|that) \w+`)},
	{"latest", rule(`\b(?:most recent|newest|last|latest) (?:\w+ )?(?:replaces|overwrites)\b{..} (?:mark|read|grade|` +
		`count)\w*\b`)},
	{"best", rule(`\b{tries}, (?:the )?(?:best|highest) (?:mark|score|one|result)\b`)},
	{"best", rule(`\b{tries}\b{..}\((?:the )?(?:best|highest|better)\b`)},
	{"latest", rule(`\b{tries}\b{..}\((?:the )?(?:last|latest|newest)\b`)},
	{"latest", rule(`\bthe second(?: one| attempt| try)? counts\b`)},
	{"latest", rule(`\b(?:keeps?|stores?|holds?) only (?:the|your) (?:most recent|last|latest|newest)\b`)},
	{"best", rule(`\btop score (?:stands|counts|is kept)\b`)},
	{"mean", rule(`\b{tries}(?:, | are |: )averaged\b`)},
	{"mean", rule(`\b(?:average|mean)(?: \w+){0,3} is (?:the|your) (?:mark|grade|score|result)\b`)},
	{"latest", rule(`\b(?:look|looks) only at the (?:last|latest|newest)\b`)},
	{"best", rule(`\bwith the (?:best|highest)(?: \w+)? counting\b`)},
	{"best", rule(`\b(?:keeps?|kept) the (?:higher|better|best|highest)\b`)},
	{"best", rule(`\b(?:highest|best)(?: \w+){0,2} (?:recorded|kept|counted|taken)\b`)},
	{"latest", rule(`\bonly (?:the|your) (?:last|latest|newest|most recent)(?: \w+)? (?:is|are|gets?|will be) \w+`)},
	{"latest", rule(`\b(?:only |just )?(?:shows?|sees?|keeps?|opens?|gets?)(?: me| us)?(?: only)? (?:the|your) (?:final|last|latest|newest)\b`)},
	{"latest", rule(`\bnew (?:file|version|upload|one) (?:takes the place of|replaces|overwrites)\b`)},
	{"latest", rule(`\bit replaces (?:the first|your first|what)\b`)},
	{"mean", rule(`\b(?:average|mean) of (?:all|your|the|both)(?: \w+)? {tries} (?:is|counts|enters|makes)\b`)},
}

// oneOfThem is one of several attempts, where these are spoken of: it is the one that counts, whatever is done with it.
var oneOfThem = rule(`{oneofthem}(?: {countsway})?(?: before the {deadline})?(?:\W*$|[.,;:)]| (?:is|are|wins|counts|gets|will|stands)\b)`)

var severalTries = rule(`\b(?:uploads|versions|attempts|tries|submissions)\b`)

// onceMore are ways to say that there is no attempt but the first, and that there is one more.
var onceMore = []ways{
	waysOf(
		`no (?:resubmissions?|re-submissions?|resubmitting|(?:second|further|other) {tries}|replacements?|retakes?|repeats?)`,
		`resubmi\w+ (?:is|are) (?:not (?:possible|allowed|permitted)|impossible|excluded)`,
		`not (?:possible|allowed|permitted) to resubmit`,
		`(?:resubmissions?|re-submissions?|second attempts?){sep}(?:not|no|none|never)`,
		`(?:cannot|can't|can not|may not) (?:submit|upload|hand it in|send it|try)(?: \w+)? twice`,
		`(?:after|following) submission,? nothing can be (?:changed|replaced)`,
		`resubmi\w+(?: is| are)? impossible`,
		`(?:cannot|can't|can not) (?:change it afterwards|take it back)`,
		`nothing can be (?:changed|replaced|exchanged)`,
		`what you (?:send|submit|upload|hand in)(?: first)? (?:is|counts as) final`,
		`(?:(?:all|your|every|the first) )?submissions? (?:is|are) final`,
		`(?:cannot|can't|may not|can not) (?:be )?(?:resubmit(?:ted)?|submit(?:ted)? again|send again|redo|repeat)`,
		`once (?:it is |you have )?(?:submitted|sent|uploaded)(?: it)?,? (?:it|you|(?:the|a) (?:file|work)|`+
			`nothing)(?: \w+)? ?(?:cannot|can't|can) (?:not )?be (?:changed|replaced|exchanged|taken back)`,
		`(?:cannot|can't|can not) be (?:changed|replaced|exchanged) (?:once|after)`,
		`one file,? (?:only )?once`,
		`second {tries} (?:is|are) (?:not|impossible)`,
		`(?:can't|cannot|can not) be (?:taken back|withdrawn|replaced|changed)(?: (?:or|nor) \w+(?: back)?)?`,
		`no (?:do-?overs|second go|going back)`,
		`(?:can't|cannot|can not|may not|{not} be) (?:hand|submit|send|upload|turn)\w*(?: \w+){0,2} (?:a second time|twice|again)`,
		`(?:file|work|version|answer|text|solution) once (?:sent|submitted|uploaded|handed in),? {not}`,
		`(?:the|your) first (?:upload|version|file|attempt|one) is (?:final|the only one|binding)`,
		`(?:gets?|has|have) (?:only |just )?one (?:try|go)`,
		`(?:a|the|your) (?:submitted|sent|uploaded) (?:file|work|version) is final`,
		`(?:attempts|tries|goes|submissions|uploads|chances)\b[^.;?]{0,30}\?\s*(?:a(?:nswer)?: ?)?(?:just|only|`+
			`exactly)? ?(?:the )?(?:one|0*1)\b`,
	),
	waysOf(
		`(?:hand in|submit|send|upload|deliver) (?:in )?a (?:second|further|corrected|revised|better) {tries}`,
		`(?:a|one) (?:second|further|more) {tries}(?: is| will be)? (?:allowed|possible|granted|given|permitted)`,
		`(?:a|one) chance to (?:resubmit|revise|correct|improve)`,
		`(?:a|one|0*1) retry`,
		`sends? it back(?: to you)? once`,
		`(?:be|is|are) sent back(?: to you)? once`,
		`(?:hand(?:ed)? in|submit(?:ted)?|sen[dt]|upload(?:ed)?)(?: it)?(?: again)? (?:a second time|once more|one more time)`,
		`(?:swap|replace|exchange|change)(?: \w+){0,2} one single time`,
		`second {tries} (?:is|are|will be) (?:possible|allowed|permitted|accepted|taken)`,
		`(?:get|have|gets|has) (?:a second|one second|one more|one further|another) {tries}`,
	),
}
