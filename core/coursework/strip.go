package coursework

import (
	"fmt"

	"orario/core/brief"
)

// Punch says how far one place of the punch strip is.
type Punch string

// The states of a place: nothing done, begun, done and shown to be done.
const (
	Blank   Punch = "blank"
	Begun   Punch = "begun"
	Punched Punch = "punched"
)

// A Place is one of the six of a punch strip.
type Place struct {
	Place string `json:"place"` // brief bundle checks sent proof return
	State Punch  `json:"state"`
	Note  string `json:"note"`
}

// progress is what is known about one attempt; the strip follows from nothing else.
type progress struct {
	requirements  []brief.Requirement
	sheet         brief.Sheet
	filled        map[string]int // files by slot
	findings      []brief.Finding
	sending       bool
	accepted      bool
	noted         bool // as sent, by the student, elsewhere
	proofKnown    bool
	proofAgrees   bool
	reportWaiting bool
	reportShare   *float64
	mark          *float64
	points        float64
	enough        bool // the student says so
	mayGoOn       bool // another attempt is possible
}

// strip computes the six places.
func (p progress) strip() []Place {
	return []Place{p.brief(), p.bundle(), p.checks(), p.sent(), p.proof(), p.back()}
}

func (p progress) brief() Place {
	settled := 0
	for _, r := range p.requirements {
		if r.Settled {
			settled++
		}
	}
	note := fmt.Sprintf("%d of %d settled", settled, len(p.requirements))
	if settled == len(p.requirements) && settled > 0 {
		return Place{"brief", Punched, note}
	}
	return Place{"brief", Begun, note}
}

func (p progress) bundle() Place {
	required, have, files := 0, 0, 0
	for _, s := range p.sheet.Slots {
		files += p.filled[s.Name]
		if s.Required {
			required++
			if p.filled[s.Name] > 0 {
				have++
			}
		}
	}
	note := fmt.Sprintf("%d of %d slots", have, required)
	switch {
	case have == required && files > 0:
		return Place{"bundle", Punched, note}
	case files > 0:
		return Place{"bundle", Begun, note}
	}
	return Place{"bundle", Blank, note}
}

func (p progress) checks() Place {
	if p.accepted {
		return Place{"checks", Punched, "passed when sent"}
	}
	if len(p.filled) == 0 {
		return Place{"checks", Blank, ""}
	}
	must := brief.MustFix(p.findings)
	if must > 0 {
		return Place{"checks", Begun, fmt.Sprintf("%d must fix, %d more", must, len(p.findings)-must)}
	}
	return Place{"checks", Punched, fmt.Sprintf("nothing must be fixed, %d to look at", len(p.findings))}
}

func (p progress) sent() Place {
	switch {
	case p.accepted:
		return Place{"sent", Punched, "accepted by the site"}
	case p.sending:
		return Place{"sent", Begun, "on its way"}
	case p.noted:
		return Place{"sent", Begun, "you say so; nothing shows it"}
	}
	return Place{"sent", Blank, ""}
}

func (p progress) proof() Place {
	switch {
	case p.proofAgrees:
		return Place{"proof", Punched, "what arrived is what you sent"}
	case p.proofKnown:
		return Place{"proof", Begun, "the receipt disagrees"}
	}
	return Place{"proof", Blank, ""}
}

func (p progress) back() Place {
	note := ""
	if p.reportWaiting {
		note = "waiting for the report"
	}
	if p.reportShare != nil {
		note = fmt.Sprintf("report: %.0f %%", 100**p.reportShare)
	}
	if p.mark == nil {
		if note != "" {
			return Place{"return", Begun, note}
		}
		return Place{"return", Blank, ""}
	}
	note = fmt.Sprintf("%g of %g", *p.mark, p.points)
	if p.enough || !p.mayGoOn || *p.mark >= p.points {
		return Place{"return", Punched, note}
	}
	return Place{"return", Begun, note + ", more could be gained"}
}

// Strip is the punch strip of the attempt that matters now, and its number: the one being prepared if anything is in
// its bundle that is not just the files of the attempt before, else the last that was sent.
func (s *Standing) Strip() ([]Place, int) {
	last, sent := s.Part.Last()
	if s.Preparing() || !sent {
		return s.progress(nil).strip(), s.Number
	}
	return s.StripOf(last), last.Attempt
}

// Preparing says whether work has begun on the bundle of the next attempt.
func (s *Standing) Preparing() bool {
	for _, i := range s.Items {
		if !i.Inherited {
			return true
		}
	}
	return false
}

// StripOf is the punch strip of a submission.
func (s *Standing) StripOf(sub *Submission) []Place { return s.progress(sub).strip() }

// progress is what is known about an attempt: a submission, or with none the one being prepared.
func (s *Standing) progress(sub *Submission) progress {
	p := progress{
		requirements: s.Requirements,
		sheet:        s.Sheet,
		filled:       s.Filled(),
		findings:     s.Findings,
		points:       s.Points,
		enough:       s.Enough,
		sending:      s.Sending,
		noted:        s.Part.Noted != nil,
	}
	if sub == nil || sub.State != Accepted {
		return p
	}
	p.accepted, p.sending, p.findings = true, false, nil
	p.filled = map[string]int{}
	for _, slot := range s.Sheet.Slots {
		p.filled[slot.Name] = 1 // the site accepted it only so
	}
	if sub.Proved != nil {
		p.proofKnown, p.proofAgrees = true, *sub.Proved
	}
	if r := sub.Report; r != nil && r.Ready {
		p.reportShare = &r.Share
	} else if r != nil {
		p.reportWaiting = true
	}
	if sub.Return != nil {
		p.mark = sub.Return.Mark
	}
	last, _ := s.Part.Last()
	may, _ := s.MayGoOn()
	p.mayGoOn = may && last.ID == sub.ID
	return p
}
