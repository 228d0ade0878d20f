package convert

import (
	"encoding/base64"
	"net/http"
	"net/url"
	"path"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	nethtml "golang.org/x/net/html"

	"orario/core/inspect"
)

// picturesInMarkdown are those that Markdown refers to: ![words](path "title"), ![words](<path>), [words]: path.
var picturesInMarkdown = regexp.MustCompile(`\]\(\s*(?:<([^>\n]+)>|([^)\s]+))|(?m)^\s{0,3}\[[^\]\n]+\]:\s*<?([^\s>]+)`)

// Bounds of what a text refers to.
const (
	mostBeside      = 200      // pictures
	mostBesideBytes = 64 << 20 // in all
)

// picturesBeside are the pictures that a Markdown or HTML file refers to by a path below its own folder, named by that
// path, and as far as whoever asks for the conversion has them. Nothing else is ever read.
func (w Wishes) picturesBeside(f inspect.Named, kind, text string) (list []inspect.Named) {
	if w.Beside == nil {
		return nil
	}
	left := mostBesideBytes
	for _, path := range referred(kind, text) {
		data, err := w.Beside(f, path)
		if err != nil || sorts[inspect.Kind(path, data)] != Picture || len(data) > left || len(list) == mostBeside {
			continue
		}
		left -= len(data)
		list = append(list, inspect.Named{Name: path, Data: data})
	}
	return list
}

// referred are the paths below its own folder that a text refers to, without escapes.
func referred(kind, text string) (list []string) {
	add := func(ref string) {
		if local, ok := below(ref); ok && !slices.Contains(list, local) {
			list = append(list, local)
		}
	}
	switch kind {
	case "md":
		for _, m := range picturesInMarkdown.FindAllStringSubmatch(text, -1) {
			add(m[1] + m[2] + m[3])
		}
	case "html":
		z := nethtml.NewTokenizer(strings.NewReader(text))
		for kind := z.Next(); kind != nethtml.ErrorToken; kind = z.Next() {
			if kind != nethtml.StartTagToken && kind != nethtml.SelfClosingTagToken {
				continue
			}
			if token := z.Token(); token.Data == "img" {
				for _, a := range token.Attr {
					if a.Key == "src" {
						add(a.Val)
					}
				}
			}
		}
	}
	return list
}

// below is a reference as a path below the folder of what refers, if it is one.
func below(ref string) (string, bool) {
	at, err := url.Parse(strings.TrimSpace(strings.ReplaceAll(ref, `\`, "/")))
	if err != nil || at.Scheme != "" || at.Host != "" || at.Path == "" {
		return "", false
	}
	local := path.Clean(at.Path)
	return local, filepath.IsLocal(filepath.FromSlash(local)) && local != "."
}

// carried is a picture as an address that holds it (RFC 2397).
func carried(data []byte) string {
	return "data:" + http.DetectContentType(data) + ";base64," + base64.StdEncoding.EncodeToString(data)
}
