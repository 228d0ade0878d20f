package similarity

// foreseenRun is the number of words that have to follow each other for a wording to be recognised again.
const foreseenRun = 4

// Foreseen says of every passage of a report, in their order, whether an earlier check of the same work had listed its
// words too: half of its runs of four words stand in passages of that check. The two texts may differ, since work
// changes and others take the text out of a file in their own way.
func Foreseen(report Report, text string, earlier Report, earlierText string) []bool {
	known := map[[foreseenRun]uint32]bool{}
	each := func(words []word, p Passage, found func([foreseenRun]uint32)) {
		for i := 0; i+foreseenRun <= len(words); i++ {
			if int(words[i].start) < p.Start || int(words[i+foreseenRun-1].end) > p.End {
				continue
			}
			var run [foreseenRun]uint32
			for k := range run {
				run[k] = words[i+k].hash
			}
			found(run)
		}
	}
	before := normalise(earlierText).words
	for _, p := range earlier.Passages {
		each(within(before, p), p, func(run [foreseenRun]uint32) { known[run] = true })
	}
	words := normalise(text).words
	out := make([]bool, len(report.Passages))
	for i, p := range report.Passages {
		all, had := 0, 0
		each(within(words, p), p, func(run [foreseenRun]uint32) {
			all++
			if known[run] {
				had++
			}
		})
		out[i] = all > 0 && 2*had >= all
	}
	return out
}

// within are the words that begin in a passage.
func within(words []word, p Passage) []word {
	return words[wordAt(words, p.Start):wordAt(words, p.End)]
}
