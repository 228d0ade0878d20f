package agenda

import (
	"fmt"
	"slices"
	"time"

	"orario/core/wording"
)

// A Proposal is a choice of what to give up so that the rest is in time.
type Proposal struct {
	Kind  string         `json:"kind"` // fewest or cheapest
	Said  string         `json:"said"`
	Cost  string         `json:"cost"`
	Tasks []ProposalTask `json:"tasks"`
}

// A ProposalTask is an assignment to ask more time for, and what its lateness costs otherwise.
type ProposalTask struct {
	AssignmentID int64  `json:"assignment_id"`
	Course       string `json:"course"`
	Title        string `json:"title"`
	Cost         string `json:"cost"`
}

// Proof names the stretch in which there is too much to do; empty where everything fits.
func (p *Plan) Proof() string {
	o := p.Overload
	if o == nil {
		return ""
	}
	if !o.End.After(o.Start) {
		return fmt.Sprintf("%s of work should have been done already.", wording.Work(o.Demand))
	}
	form := func(at time.Time) string { return at.In(p.Zone).Format(wording.TimeForm) }
	return fmt.Sprintf("Between %s and %s there are %s of work and %s to do it in: too much by %s.",
		form(o.Start), form(o.End), wording.Work(o.Demand), wording.Work(o.Capacity), wording.Work(o.Demand-o.Capacity))
}

// Proposals are the choices of what to give up; none where everything fits. A choice that was not searched through
// promises nothing.
func (p *Plan) Proposals() []Proposal {
	if p.Overload == nil {
		return []Proposal{}
	}
	give := p.sacrifice()
	best := func(exact, otherwise string) string {
		if give.Exact {
			return exact
		}
		return otherwise
	}
	const fits = "More time for %s makes the rest fit."
	if slices.Equal(give.Fewest, give.Cheapest) {
		return []Proposal{
			p.proposal(
				"cheapest",
				best("More time for %s makes the rest fit: no fewer would do, and none are cheaper.", fits),
				give.Cheapest,
			),
		}
	}
	return []Proposal{
		p.proposal("fewest", best("More time for %s makes the rest fit: no fewer would do.", fits), give.Fewest),
		p.proposal(
			"cheapest",
			best("Being late with %s costs least.", "Being late with %s costs less."),
			give.Cheapest,
		),
	}
}

func (p *Plan) proposal(kind, said string, ids []int64) Proposal {
	out := Proposal{Kind: kind, Tasks: []ProposalTask{}}
	sum, unknown := 0.0, 0
	for _, id := range ids {
		e := p.Of(id)
		sum += e.lateCost()
		if e.Weight == 0 {
			unknown++
		}
		out.Tasks = append(out.Tasks, ProposalTask{id, e.Course.Code, e.Titled(), e.sayLateCost()})
	}
	out.Said = fmt.Sprintf(said, wording.Count(len(ids), "assignment", "assignments"))
	out.Cost = wording.OfTheCourse(sum)
	if unknown > 0 {
		out.Cost += fmt.Sprintf(", without the %d whose weight is not known", unknown)
	}
	return out
}

// sayLateCost says what a day's lateness costs.
func (e *Entry) sayLateCost() string {
	if e.Weight == 0 {
		return "its weight in the course is not known"
	}
	if cost := e.lateCost(); cost < e.Weight || cost == 0 {
		return wording.OfTheCourse(cost) + " for a day late"
	}
	return "all of its " + wording.OfTheCourse(e.Weight) + ": nothing is taken a day late"
}
