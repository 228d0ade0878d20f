package prepare

import (
	"slices"
	"time"

	"orario/core/brief"
	"orario/core/timing"
)

// A Part of an assignment with its window.
type Part struct {
	Name   string // empty where there is only one
	Window timing.Window
	Noted  bool // the student says that it was sent
}

// An Extension is more time that the student asked for or was given. Due and Closes are wall times in the
// course's zone that replace the assignment's own; Closes may be empty.
type Extension struct {
	Asked   *time.Time `json:"asked,omitempty"`
	Granted *time.Time `json:"granted,omitempty"`
	Due     string     `json:"due,omitempty"`
	Closes  string     `json:"closes,omitempty"`
	Part    string     `json:"part,omitempty"` // that it is for, where there are several
	Note    string     `json:"note,omitempty"`
	Proof   int64      `json:"proof,omitempty"` // a version in the library
}

// Noted is what the student says was sent outside of Orario: when, and of several parts which.
type Noted struct {
	At    *time.Time `json:"at,omitempty"`
	Parts []string   `json:"parts,omitempty"`
	Note  string     `json:"note,omitempty"`
}

// window reads the parts and chooses the one that comes next: the first that is not noted as sent, or the
// last. A granted extension moves the due and closes of its part, unless the part has been given more time since.
func (s *State) window(parts []brief.Part) error {
	a := s.Assignment
	for _, p := range parts {
		w, err := timing.ParseWindow(s.Course.Zone, p.Opens, p.Due, p.Closes, int(a.GraceMinutes))
		if err != nil {
			return err
		}
		noted := s.Noted.At != nil && (len(parts) == 1 || slices.Contains(s.Noted.Parts, p.Name))
		if s.Extension.Granted != nil && s.Extension.Part == p.Name {
			if extended, err := Extended(s.Course.Zone, p, s.Extension, int(a.GraceMinutes)); err == nil && extended.Due.At().After(w.Due.At()) {
				w = extended
			}
		}
		s.Parts = append(s.Parts, Part{p.Name, w, noted})
	}
	s.Window = s.Parts[s.next()].Window
	return nil
}

// Extended is the window of a part with an extension. An extension that leaves closes alone moves it
// along when due would pass it.
func Extended(zone string, p brief.Part, e Extension, graceMinutes int) (timing.Window, error) {
	closes := e.Closes
	if closes == "" && p.Closes >= e.Due {
		closes = p.Closes
	}
	return timing.ParseWindow(zone, p.Opens, e.Due, closes, graceMinutes)
}

func (s *State) next() int {
	for i, p := range s.Parts {
		if !p.Noted {
			return i
		}
	}
	return len(s.Parts) - 1
}

// Part is the name of the part that comes next; empty where there is only one.
func (s *State) Part() string { return s.Parts[s.next()].Name }

// NotedSent says whether the student notes everything as sent.
func (s *State) NotedSent() bool {
	return !slices.ContainsFunc(s.Parts, func(p Part) bool { return !p.Noted })
}
