package track

import (
	"fmt"
	"math"
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

// proof names the stretch in which there is too much to do.
func (p *plan) proof() string {
	o := p.overload
	if !o.End.After(o.Start) {
		return fmt.Sprintf("%s of work should have been done already.", wording.Work(o.Demand))
	}
	form := func(at time.Time) string { return at.In(p.zone).Format("Mon 2 Jan 15:04") }
	return fmt.Sprintf("Between %s and %s there are %s of work and %s to do it in: too much by %s.",
		form(o.Start), form(o.End), wording.Work(o.Demand), wording.Work(o.Capacity), wording.Work(o.Demand-o.Capacity))
}

func (p *plan) proposals(list []*tracked) []Proposal {
	make := func(kind, said string, ids []int64) Proposal {
		out := Proposal{Kind: kind, Tasks: []ProposalTask{}}
		sum, unknown := 0.0, 0
		for _, id := range ids {
			t := list[slices.IndexFunc(list, func(t *tracked) bool { return t.Assignment.ID == id })]
			cost := t.lateCost()
			sum += cost
			if t.Assignment.Weight == 0 {
				unknown++
			}
			out.Tasks = append(out.Tasks, ProposalTask{id, t.Course.Code, t.titled(), t.sayLateCost()})
		}
		out.Said = fmt.Sprintf(said, plural(len(ids), "assignment", "assignments"))
		out.Cost = percents(sum)
		if unknown > 0 {
			out.Cost += fmt.Sprintf(", without the %d whose weight is not known", unknown)
		}
		return out
	}
	best := func(exact, otherwise string) string { // a choice that was not searched through promises nothing
		if p.sacrifice.Exact {
			return exact
		}
		return otherwise
	}
	if slices.Equal(p.sacrifice.Fewest, p.sacrifice.Cheapest) {
		return []Proposal{make("cheapest", best("More time for %s makes the rest fit: no fewer would do, and none are cheaper.", "More time for %s makes the rest fit."), p.sacrifice.Cheapest)}
	}
	fewest := make("fewest", best("More time for %s makes the rest fit: no fewer would do.", "More time for %s makes the rest fit."), p.sacrifice.Fewest)
	cheapest := make("cheapest", best("Being late with %s costs least.", "Being late with %s costs less."), p.sacrifice.Cheapest)
	return []Proposal{fewest, cheapest}
}

// sayLateCost says what a day's lateness costs.
func (t *tracked) sayLateCost() string {
	if t.Assignment.Weight == 0 {
		return "its weight in the course is not known"
	}
	if cost := t.lateCost(); cost < t.Assignment.Weight || cost == 0 {
		return percents(cost) + " for a day late"
	}
	return "all of its " + percents(t.Assignment.Weight) + ": nothing is taken a day late"
}

func percents(p float64) string {
	return fmt.Sprintf("%g %% of a course's mark", math.Round(p*10)/10)
}

func plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}
