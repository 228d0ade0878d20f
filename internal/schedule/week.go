package schedule

import (
	"context"
	"fmt"
	"time"

	"orario/core/agenda"
	"orario/core/wording"
	"orario/internal/refusal"
)

// A WeekSheet is seven days as a person would pin them on a wall.
type WeekSheet struct {
	From  string        `json:"from"` // YYYY-MM-DD
	To    string        `json:"to"`
	Zone  string        `json:"zone"`
	Who   string        `json:"who"`
	Said  string        `json:"said"` // the week in a sentence
	Days  []agenda.Day  `json:"days"`
	After []agenda.Mark `json:"after"` // what is due in the week behind it
}

// farWeek is how far from now a week can be laid out.
const farWeek = 3 * 366 * 24 * time.Hour

// Week lays out seven days from a date (YYYY-MM-DD), today if empty.
func (s Service) Week(ctx context.Context, student int64, from string) (*WeekSheet, error) {
	r, err := s.roster(ctx, student)
	if err != nil {
		return nil, err
	}
	zone := r.Student.Zone
	begin := r.Now.In(zone)
	if from != "" {
		if begin, err = time.ParseInLocation(time.DateOnly, from, zone); err != nil {
			return nil, refusal.Say("That is no date. Write it like 2026-12-07.")
		}
		if away := begin.Sub(r.Now); away > farWeek || away < -farWeek {
			return nil, refusal.Say("That week is more than three years away. Choose a nearer one.")
		}
	}
	p := r.Plan()
	w := &WeekSheet{
		Zone:  zone.String(),
		Who:   r.Student.Given + " " + r.Student.Family,
		Days:  p.Days(begin, 7),
		After: []agenda.Mark{},
	}
	w.From, w.To = w.Days[0].Date, w.Days[6].Date
	var work time.Duration
	for _, d := range w.Days {
		for _, slab := range d.Slabs {
			work += slab.End.Sub(slab.Start)
		}
	}
	w.Said = fmt.Sprintf(
		"%s due, %s of work.",
		wording.Count(len(dues(w.Days)), "thing is", "things are"),
		wording.Work(work),
	)
	w.After = append(w.After, dues(p.Days(begin.AddDate(0, 0, 7), 7))...)
	return w, nil
}

func dues(days []agenda.Day) (out []agenda.Mark) {
	for _, d := range days {
		for _, m := range d.Dues {
			if m.What == "due" {
				out = append(out, m)
			}
		}
	}
	return out
}
