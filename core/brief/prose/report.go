package prose

import (
	"cmp"
	"strings"
)

var (
	reportYes = rule(`\b{checked}\b`)
	reportNo  = rule(`\b(?:no|not|\w+n't|without|never|neither|nothing)\b[^.;]{0,35}\b(?:similarity|plagiarism|checked|` +
		`check|` +
		`screened|compared|matching|overlap)\b`,
	)
	notMade    = rule(`\b(?:similarity|plagiarism)\b[^.;]{0,25}\b(?:not|never|\w+n't) (?:made|done|run|used|checked)\b`)
	drafts     = rule(`\b{drafts}`)
	draftCount = rule(`\bdrafts?(?: allowed| permitted| possible)?{sep}({num})\b`)
	draftOK    = rule(`\b(?:check\w*|allowed|may|can|report|run|permitted|free|try|similarity|see|possible|ok)\b`)
)

func (r *reader) report() {
	index := -1
	for _, s := range r.sentences {
		text := r.plain[s.start:s.end]
		m := reportYes.first(r.plain, s)
		if m == nil || reportWrong.in(text) {
			continue
		}
		if reportNo.in(text) || notMade.in(text) {
			continue
		}
		if index < 0 {
			at := span{m[0], m[1]}
			if strings.HasPrefix(r.plain[m[1]:s.end], ":") {
				at.end = s.end // a label
			}
			r.find("report", Report{Checked: true}, at, 0.9)
			index = len(r.found) - 1
		}
	}
	for _, s := range r.sentences {
		text := r.plain[s.start:s.end]
		if m := draftCount.first(r.digits, s); m != nil && index >= 0 {
			if n := int(number(group(r.digits, m, 1))); n > 0 && n <= 50 {
				r.found[index].Value = Report{Checked: true, Drafts: &n}
				return
			}
		}
		for _, m := range drafts.all(r.digits, s) {
			if !draftOK.in(text) || m[0] > s.start && noDraft.MatchString(r.plain[s.start:m[0]]) {
				continue
			}
			if index < 0 &&
				!(strings.Contains(text, "check") || strings.Contains(text, "allowed") &&
					strings.Contains(r.plain[m[0]:m[1]], "draft")) {
				continue
			}
			n := 0
			switch g := cmp.Or(group(r.digits, m, 1), group(r.digits, m, 3), group(r.digits, m, 5)); g {
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
	reportWrong = rule(`\blast (?:year|term)\b|\b(?:discuss|describe|explain|show)\w* (?:the )?similarit|(?:^\W*|, |` +
		`\band )compare (?:your|the|both|two|them|these)\b`)
)
