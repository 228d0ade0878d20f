package main

import (
	"errors"
	"fmt"
	"time"

	"orario/core/planner"
)

// A planScenario is work and the hours there are for it, as a document. Instants are RFC 3339.
type planScenario struct {
	Now          string        `json:"now"                   required:"true"`
	Capacity     []planStretch `json:"capacity"              required:"true"`
	Tasks        []planTask    `json:"tasks"                 required:"true"`
	MinimumBlock *int64        `json:"minimum_block_minutes"`
}

// A planStretch is an interval in a document.
type planStretch struct {
	Start string `json:"start" required:"true"`
	End   string `json:"end"   required:"true"`
}

// planTask is a task in a document.
type planTask struct {
	ID          string   `json:"id"           required:"true"`
	Release     string   `json:"release"`
	Deadline    string   `json:"deadline"     required:"true"`
	Minutes     int64    `json:"minutes"      required:"true"`
	DoneMinutes int64    `json:"done_minutes"`
	LateCost    *float64 `json:"late_cost"`
}

// A planAnswer is the plan that follows from a scenario.
type planAnswer struct {
	Feasible       bool            `json:"feasible"`
	Blocks         []blockAnswer   `json:"blocks"`
	Tasks          []taskAnswer    `json:"tasks"`
	MaxLateMinutes *float64        `json:"max_late_minutes"`
	Overloaded     *overloadAnswer `json:"overloaded"`
	FewestLate     []string        `json:"fewest_late"`
	CheapestLate   cheapestAnswer  `json:"cheapest_late"`
	Exact          bool            `json:"exact"`
}

// blockAnswer is a stretch of work on a task.
type blockAnswer struct {
	Task  string `json:"task"`
	Start string `json:"start"`
	End   string `json:"end"`
}

// taskAnswer is what the plan means for one task; what does not apply is nil.
type taskAnswer struct {
	ID           string   `json:"id"`
	Finish       *string  `json:"finish"`
	LateMinutes  *float64 `json:"late_minutes"`
	LatestStart  *string  `json:"latest_start"`
	SlackMinutes *float64 `json:"slack_minutes"`
}

// overloadAnswer is the stretch that proves that not everything can be done.
type overloadAnswer struct {
	Start           string  `json:"start"`
	End             string  `json:"end"`
	DemandMinutes   float64 `json:"demand_minutes"`
	CapacityMinutes float64 `json:"capacity_minutes"`
}

// cheapestAnswer is the cheapest tasks to give up and what that costs.
type cheapestAnswer struct {
	Tasks []string `json:"tasks"`
	Cost  float64  `json:"cost"`
}

// answer plans the scenario; an error names what cannot be used.
func (s planScenario) answer() (*planAnswer, error) {
	now, capacity, tasks, err := s.read()
	if err != nil {
		return nil, err
	}
	minimum := time.Minute
	if s.MinimumBlock != nil {
		if *s.MinimumBlock < 1 || *s.MinimumBlock > mostMinutes {
			return nil, errors.New("minimum_block_minutes must be 1 or more, and less than a hundred years")
		}
		minimum = time.Duration(*s.MinimumBlock) * time.Minute
	}
	if minimum == time.Minute {
		minimum = 0 // releases may lie within a minute
	}
	blocks, left := planner.Schedule(now, capacity, tasks, minimum)
	given := planner.GiveUp(now, capacity, tasks)
	a := &planAnswer{
		Blocks:       []blockAnswer{},
		Tasks:        []taskAnswer{},
		Exact:        given.Exact,
		FewestLate:   s.names(given.Fewest),
		CheapestLate: cheapestAnswer{s.names(given.Cheapest), given.Cost},
	}
	finish := map[int64]time.Time{}
	for _, b := range blocks {
		a.Blocks = append(a.Blocks, blockAnswer{s.Tasks[b.Task].ID, nano(b.Start), nano(b.End)})
		finish[b.Task] = b.End
	}
	if o := planner.FindOverload(now, capacity, tasks); o != nil {
		a.Overloaded = &overloadAnswer{nano(o.Start), nano(o.End), o.Demand.Minutes(), o.Capacity.Minutes()}
	}
	a.Feasible = a.Overloaded == nil
	starts := planner.LatestStarts(now, capacity, without(tasks, given.Fewest))
	most := 0.0
	for i, t := range tasks {
		answer := taskAnswer{ID: s.Tasks[i].ID}
		if t.Left == 0 {
			zero := 0.0
			answer.LateMinutes = &zero
		} else if left[t.ID] == 0 {
			late := max(0, finish[t.ID].Sub(t.Deadline).Minutes())
			most = max(most, late)
			at := nano(finish[t.ID])
			answer.Finish, answer.LateMinutes = &at, &late
		}
		if start, ok := starts[t.ID]; ok && t.Left > 0 {
			at, slack := nano(start), start.Sub(now).Minutes()
			answer.LatestStart, answer.SlackMinutes = &at, &slack
		}
		a.Tasks = append(a.Tasks, answer)
	}
	if len(left) == 0 {
		a.MaxLateMinutes = &most
	}
	return a, nil
}

func without(tasks []planner.Task, given []int64) (out []planner.Task) {
	gone := map[int64]bool{}
	for _, id := range given {
		gone[id] = true
	}
	for _, t := range tasks {
		if !gone[t.ID] {
			out = append(out, t)
		}
	}
	return out
}

func (s planScenario) names(ids []int64) []string {
	out := []string{}
	for _, id := range ids {
		out = append(out, s.Tasks[id].ID)
	}
	return out
}

// read turns the document into tasks whose ids are their places in the list.
func (s planScenario) read() (now time.Time, capacity []planner.Interval, tasks []planner.Task, err error) {
	if now, err = instant("now", s.Now); err != nil {
		return now, nil, nil, err
	}
	for i, c := range s.Capacity {
		start, err := instant(fmt.Sprintf("capacity %d: start", i+1), c.Start)
		if err != nil {
			return now, nil, nil, err
		}
		end, err := instant(fmt.Sprintf("capacity %d: end", i+1), c.End)
		if err != nil {
			return now, nil, nil, err
		}
		if end.Before(start) {
			return now, nil, nil, fmt.Errorf("capacity %d ends before it starts", i+1)
		}
		capacity = append(capacity, planner.Interval{Start: start, End: end})
	}
	known := map[string]bool{}
	for i, d := range s.Tasks {
		if d.ID == "" || known[d.ID] {
			return now, nil, nil, fmt.Errorf("task %d: the id %q is empty or there twice", i+1, d.ID)
		}
		known[d.ID] = true
		t := planner.Task{ID: int64(i), Release: now, LateCost: 1}
		if d.Release != "" {
			if t.Release, err = instant("release of "+d.ID, d.Release); err != nil {
				return now, nil, nil, err
			}
			if t.Release.Before(now) {
				t.Release = now
			}
		}
		if t.Deadline, err = instant("deadline of "+d.ID, d.Deadline); err != nil {
			return now, nil, nil, err
		}
		if d.LateCost != nil {
			t.LateCost = *d.LateCost
		}
		if d.Minutes < 0 || d.DoneMinutes < 0 || t.LateCost < 0 {
			return now, nil, nil, fmt.Errorf("task %s: minutes, done_minutes and late_cost must not be negative", d.ID)
		}
		if d.Minutes > mostMinutes {
			return now, nil, nil, fmt.Errorf("task %s: minutes must not be over %d, a hundred years", d.ID, mostMinutes)
		}
		t.Left = time.Duration(max(0, d.Minutes-d.DoneMinutes)) * time.Minute
		tasks = append(tasks, t)
	}
	return now, capacity, tasks, nil
}

func instant(what, text string) (time.Time, error) {
	t, err := time.Parse(time.RFC3339, text)
	if err != nil {
		return t, fmt.Errorf("%s: %q is not an instant with an offset, such as 2026-11-02T08:00:00Z", what, text)
	}
	return t.UTC(), nil
}

// nano writes an instant to the nanosecond, as releases and capacity may lie within a second.
func nano(t time.Time) string { return t.UTC().Format(time.RFC3339Nano) }
