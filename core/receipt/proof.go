package receipt

import (
	"crypto/ed25519"
	"fmt"
	"strconv"
	"strings"
	"time"
)

// Sent is what a student knows about an attempt independently of the receipt. Empty and zero values
// are not compared.
type Sent struct {
	Course, Assignment, Student string
	Attempt                     int
	Files                       []File
	// The receipt's time of arrival must lie within, a minute's clock error allowed
	NotBefore, NotAfter time.Time
	Key                 ed25519.PublicKey
}

// A Proof is the comparison of a receipt with what was sent.
type Proof struct {
	Agrees bool        `json:"agrees"`
	Parts  []Part      `json:"parts"`
	Files  []FileCheck `json:"files"`
}

// A Part is one compared part of a receipt.
type Part struct {
	Part     string `json:"part"`
	Expected string `json:"expected"`
	Found    string `json:"found"`
	OK       bool   `json:"ok"`
}

// Disagreement says the first thing that does not agree, in a sentence; empty: all agrees.
func (p Proof) Disagreement() string {
	for _, f := range p.Files {
		if !f.OK {
			return f.File + ": " + f.Why
		}
	}
	for _, part := range p.Parts {
		if !part.OK {
			return fmt.Sprintf("its %s is %q and not %q.", part.Part, part.Found, part.Expected)
		}
	}
	return ""
}

// A FileCheck is one file of either side; Why says what disagrees and what that means.
type FileCheck struct {
	File string `json:"file"`
	OK   bool   `json:"ok"`
	Why  string `json:"why"`
}

// notChecked stands in a part that could not be compared, which alone does not make a proof disagree.
const notChecked = "not checked"

// clockError is how far the clocks of a site and of a student may differ.
const clockError = time.Minute

// Compare holds a receipt against what was sent.
func Compare(r Receipt, sent Sent) Proof {
	p := Proof{Agrees: true, Parts: []Part{}, Files: []FileCheck{}}
	part := func(name, expected, found string, ok bool) {
		p.Parts = append(p.Parts, Part{name, expected, found, ok})
		p.Agrees = p.Agrees && ok
	}
	text := func(name, expected, found string) {
		if expected != "" {
			part(name, expected, found, expected == found)
		}
	}
	text("course", sent.Course, r.Course)
	text("assignment", sent.Assignment, r.Assignment)
	text("student", sent.Student, r.Student)
	if sent.Attempt != 0 {
		text("attempt", strconv.Itoa(sent.Attempt), strconv.Itoa(r.Attempt))
	}
	part("count", strconv.Itoa(len(sent.Files)), strconv.Itoa(len(r.Files)), len(sent.Files) == len(r.Files))
	p.time(r, sent, part)
	if sent.Key == nil {
		p.Parts = append(p.Parts, Part{"signature", "", notChecked, true})
	} else if err := r.Check(sent.Key); err != nil {
		part("signature", "valid", err.Error(), false)
	} else {
		part("signature", "valid", "valid", true)
	}
	p.compareFiles(r.Files, sent.Files)
	return p
}

func (p *Proof) time(r Receipt, sent Sent, part func(name, expected, found string, ok bool)) {
	at, err := time.Parse(time.RFC3339, r.ReceivedAt)
	switch {
	case err != nil:
		part("time", "a time as RFC 3339 writes it", r.ReceivedAt, false)
	case sent.NotBefore.IsZero() && sent.NotAfter.IsZero():
		p.Parts = append(p.Parts, Part{"time", "", r.ReceivedAt, true})
	default:
		within := !at.Before(sent.NotBefore.Add(-clockError)) && !at.After(sent.NotAfter.Add(clockError))
		expected := fmt.Sprintf(
			"%s to %s",
			sent.NotBefore.UTC().Format(time.RFC3339),
			sent.NotAfter.UTC().Format(time.RFC3339),
		)
		part("time", expected, r.ReceivedAt, within)
	}
}

func (p *Proof) compareFiles(received, sent []File) {
	check := func(file, why string) {
		p.Files = append(p.Files, FileCheck{file, why == "", why})
		p.Agrees = p.Agrees && why == ""
	}
	left := append([]File(nil), received...)
	take := func(match func(File) bool) (File, bool) {
		for i, f := range left {
			if match(f) {
				left = append(left[:i], left[i+1:]...)
				return f, true
			}
		}
		return File{}, false
	}
	var unmatched []File
	for _, s := range sent {
		got, ok := take(func(f File) bool { return f.Name == s.Name })
		switch {
		case !ok:
			unmatched = append(unmatched, s)
		case !strings.EqualFold(got.SHA256, s.SHA256):
			check(s.Name, fmt.Sprintf("Its content differs: the site has %d bytes with digest %.12s…, you sent "+
				"%d bytes with %.12s…. Submit the file again.", got.Bytes, got.SHA256, s.Bytes, s.SHA256))
		case got.Bytes != s.Bytes:
			check(
				s.Name,
				fmt.Sprintf(
					"The receipt says %d bytes, the file has %d. Ask the instructor to confirm what arrived.",
					got.Bytes,
					s.Bytes,
				),
			)
		default:
			check(s.Name, "")
		}
	}
	for _, s := range unmatched {
		if got, ok := take(func(f File) bool { return strings.EqualFold(f.SHA256, s.SHA256) }); ok {
			check(
				s.Name,
				fmt.Sprintf("It arrived under another name, %q. Tell the instructor if the name counts.", got.Name),
			)
		} else {
			check(s.Name, "It is not on the receipt, so nothing shows that it arrived. Submit it again.")
		}
	}
	for _, f := range left {
		check(f.Name, "It is on the receipt but is not among the files compared.")
	}
}
