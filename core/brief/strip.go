package brief

import "fmt"

// State says how far one place of the punch strip is.
type State string

// The states of a place: nothing done, begun, done and shown to be done.
const (
	Blank   State = "blank"
	Begun   State = "begun"
	Punched State = "punched"
)

// A Place is one of the six of a punch strip.
type Place struct {
	Place string `json:"place"` // brief bundle checks sent proof return
	State State  `json:"state"`
	Note  string `json:"note"`
}

// Progress is what is known about one attempt; the strip follows from nothing else.
type Progress struct {
	Requirements  []Requirement
	Sheet         Sheet
	Filled        map[string]int // files by slot
	Findings      []Finding
	Sending       bool
	Sent          bool
	Noted         bool // as sent, by the student, elsewhere
	ProofKnown    bool
	ProofAgrees   bool
	ReportWaiting bool
	ReportShare   *float64
	Mark          *float64
	Points        float64
	OpenRemarks   int
	Enough        bool // the student says so
	MayGoOn       bool // another attempt is possible
}

// Strip computes the six places.
func Strip(p Progress) []Place {
	return []Place{p.brief(), p.bundle(), p.checks(), p.sent(), p.proof(), p.back()}
}

func (p Progress) brief() Place {
	settled := 0
	for _, r := range p.Requirements {
		if r.Settled {
			settled++
		}
	}
	note := fmt.Sprintf("%d of %d settled", settled, len(p.Requirements))
	if settled == len(p.Requirements) && settled > 0 {
		return Place{"brief", Punched, note}
	}
	return Place{"brief", Begun, note}
}

func (p Progress) bundle() Place {
	required, have, files := 0, 0, 0
	for _, s := range p.Sheet.Slots {
		files += p.Filled[s.Name]
		if s.Required {
			required++
			if p.Filled[s.Name] > 0 {
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

func (p Progress) checks() Place {
	if p.Sent {
		return Place{"checks", Punched, "passed when sent"}
	}
	if len(p.Filled) == 0 {
		return Place{"checks", Blank, ""}
	}
	must := MustFix(p.Findings)
	if must > 0 {
		return Place{"checks", Begun, fmt.Sprintf("%d must fix, %d more", must, len(p.Findings)-must)}
	}
	return Place{"checks", Punched, fmt.Sprintf("nothing must be fixed, %d to look at", len(p.Findings))}
}

func (p Progress) sent() Place {
	switch {
	case p.Sent:
		return Place{"sent", Punched, "accepted by the site"}
	case p.Sending:
		return Place{"sent", Begun, "on its way"}
	case p.Noted:
		return Place{"sent", Begun, "you say so; nothing shows it"}
	}
	return Place{"sent", Blank, ""}
}

func (p Progress) proof() Place {
	switch {
	case p.ProofAgrees:
		return Place{"proof", Punched, "what arrived is what you sent"}
	case p.ProofKnown:
		return Place{"proof", Begun, "the receipt disagrees"}
	}
	return Place{"proof", Blank, ""}
}

func (p Progress) back() Place {
	note := ""
	if p.ReportWaiting {
		note = "waiting for the report"
	}
	if p.ReportShare != nil {
		note = fmt.Sprintf("report: %.0f %%", 100**p.ReportShare)
	}
	if p.Mark == nil {
		if note != "" {
			return Place{"return", Begun, note}
		}
		return Place{"return", Blank, ""}
	}
	note = fmt.Sprintf("%g of %g", *p.Mark, p.Points)
	if p.Enough || !p.MayGoOn || *p.Mark >= p.Points {
		return Place{"return", Punched, note}
	}
	return Place{"return", Begun, note + ", more could be gained"}
}
