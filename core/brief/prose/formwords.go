package prose

import "slices"

// formWords are the words that name a form by themselves.
var formWords = map[string]string{
	"pdf":          "pdf",
	"pdfs":         "pdf",
	"doc":          "docx",
	"docx":         "docx",
	"word":         "docx",
	"odt":          "odt",
	"opendocument": "odt",
	"libreoffice":  "odt",
	"rtf":          "rtf",
	"txt":          "txt",
	"md":           "md",
	"markdown":     "md",
	"htm":          "html",
	"html":         "html",
	"ppt":          "pptx",
	"pptx":         "pptx",
	"powerpoint":   "pptx",
	"xls":          "xlsx",
	"xlsx":         "xlsx",
	"excel":        "xlsx",
	"csv":          "csv",
	"jpg":          "jpeg",
	"jpgs":         "jpeg",
	"jpeg":         "jpeg",
	"jpegs":        "jpeg",
	"png":          "png",
	"pngs":         "png",
	"heic":         "heic",
	"heif":         "heic",
	"zip":          "zip",
	"zips":         "zip",
	"zipped":       "zip",
	"wav":          "wav",
	"mov":          "mov",
	"quicktime":    "mov",
	"link":         "link",
	"links":        "link",
	"url":          "link",
	"urls":         "link",
}

// formAt reads a form at a token.
func (t *text) formAt(i int) (name string, next int) {
	word := t.word
	first := word(i)
	switch {
	case first == "mp" && (word(i+1) == "3" || word(i+1) == "4"):
		return "mp" + word(i+1), i + 2
	case first == "mpeg" && word(i+2) == "4":
		return "mp4", i + 3
	case first == "m" && word(i+1) == "4" && word(i+2) == "a":
		return "m4a", i + 3
	case has(first, "plain", "ascii") && (word(i+1) == "text" || word(i+2) == "text" && word(i+1) == "-"):
		return "txt", i + 2 + btoi(word(i+1) == "-")
	case first == "rich" && word(i+1) == "text":
		return "rtf", i + 2
	case first == "open" && word(i+1) == "document":
		return "odt", i + 2
	case first == "comma" && (word(i+1) == "separated" || word(i+2) == "separated"):
		return "csv", i + 2 + btoi(word(i+1) == "-")
	case first == "wave" && has(word(i+1), "file", "files"):
		return "wav", i + 2
	case first == "web" && has(word(i+1), "address", "addresses"):
		return "link", i + 2
	case first == "web" && has(word(i+1), "page", "pages"), has(first, "webpage", "webpages"):
		return "html", i + 1 + btoi(first == "web")
	case first == "markdown" && i > 0 && word(i-1) == "r":
		return "", i // R Markdown is a form of its own
	case first == "zipped" && !has(word(i+1), "archive", "folder", "file") && !(i > 0 &&
		has(word(i-1), ",", "(", "all", "everything")):
		return "", i
	}
	name = formWords[first]
	if next = i + 1; name == "pdf" && word(next) == "/" && word(next+1) == "a" {
		next += 2
	}
	return name, next
}

// typed is text that is entered into a page.
var typed = rule(`\b{typedtext}\b`)

// linkGoes leads to a box that takes an address: "the link to it goes into the text field".
var linkGoes = regexpOf(`\b(?:links?|urls?|address)\b[^.;:]{0,40} (?:goes|go|is|are|comes|belongs)\b[^.;:]*$`)

// addressOf is a page that is sent by its address.
var addressOf = rule(`\b(?:submit|send|hand in|give|upload|mail)(?: me| us)? (?:only )?the address of (?:your|` +
	`the) (?:\w+ )?(?:page|site|website|blog|repository)\b`)

// dotted is an extension as people write one: any of them is a form, also where it is none that has a name of its own.
var dotted = regexpOf("(?:^|[ (\"'`])(\\.(?:[a-z][a-z0-9]{0,4}|7z))(?:$|[^a-z0-9.])")

// formsIn are the forms named in a sentence; tokens is where its tokens begin.
func (r *reader) formsIn(s span, tokens *int) (out []form) {
	for ; *tokens < len(r.tokens) && r.tokens[*tokens].start < s.end; *tokens++ {
		i := *tokens
		name, next := r.formAt(i)
		if name == "" || r.tokens[next-1].end > s.end { // words of two sentences are no form
			continue
		}
		f := form{span: span{r.tokens[i].start, r.tokens[next-1].end}, form: name, sentence: s}
		if f.start > s.start && r.plain[f.start-1] == '.' {
			f.start--
		}
		out = append(out, f)
		*tokens = next - 1
	}
	for _, m := range dotted.FindAllStringSubmatchIndex(r.plain[s.start:s.end], -1) {
		f := form{span: span{s.start + m[2], s.start + m[3]}, form: r.plain[s.start+m[2]+1 : s.start+m[3]], sentence: s}
		if formWords[f.form] == "" && !slices.ContainsFunc(out, func(o form) bool { return o.overlaps(f.span) }) {
			out = append(out, f)
		}
	}
	for _, m := range addressOf.all(r.plain, s) {
		out = append(out, form{span: span{m[0], m[1]}, form: "link", sentence: s})
	}
	for _, m := range typed.all(r.plain, s) {
		box := form{span: span{m[0], m[1]}, form: "text", sentence: s}
		if linkGoes.MatchString(r.plain[s.start:box.end]) ||
			slices.ContainsFunc(out, func(f form) bool { return f.form == "link" && f.overlaps(box.span) }) {
			continue // "paste the link into the box"
		}
		out = slices.DeleteFunc(out, func(f form) bool { return f.overlaps(box.span) })
		out = append(out, box)
	}
	slices.SortFunc(out, func(a, b form) int { return a.start - b.start })
	return out
}
