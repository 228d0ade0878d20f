package prose

var routes = []struct {
	name string
	cue  pattern
}{
	{
		"site",
		rule(`\b{site}\b`),
	},
	{
		"folder",
		rule(`\b{folder}\b`),
	},
	{
		"mail",
		rule(`{mailed}`),
	},
	{
		"by_hand",
		rule(`\b{byhand}\b`),
	},
}

var (
	routeVerb = rule(`\b{routeverb}\b`)
	routeElse = rule(`\b{routeelse}\b`)
	routeNo   = regexpOf(
		`\b(?:no|nothing|not|never|\w+n't|nor|neither|instead of|rather than|without|don't|do not)\b[^.;,:]{0,30}$`,
	)
)

var (
	routeNotAfter = regexpOf(
		`^[^.;,:(-]{0,25}\b(?:is|are|will be|won't be|isn't|aren't)? ?(?:not|never|\w+n't|ignored|refused|deleted|` +
			`broken|down|offline|out of order|closed|unavailable)\b`,
	)
	routeLabel = regexpOf(`^\W*(?:to|where|how|place|route|via|method|channel|hand-?in|submission|` +
		`delivery)\b(?: \w+){0,3} ?(?:[:\t]|  )`)
	aboutHelp   = regexpOf(`^\W*(?:questions?|help|contact|consultation|q&a)\b`)
	whither     = rule(`\b(?:where|how) (?:does|do|should|must|can|shall|is|are)\b[^?]*\?$`)
	routeStrong = rule(`\b(?:submit|upload|send|hand|deliver|put|drop|place|mail|email|e-mail)\b`)
)
