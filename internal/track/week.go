package track

import (
	"context"
	"fmt"
	"time"

	"orario/core/wording"
	"orario/internal/prepare"
)

// A WeekSheet is seven days as a person would pin them on a wall.
type WeekSheet struct {
	From  string    `json:"from"` // YYYY-MM-DD
	To    string    `json:"to"`
	Zone  string    `json:"zone"`
	Who   string    `json:"who"`
	Said  string    `json:"said"` // the week in a sentence
	Days  []PlanDay `json:"days"`
	After []DayMark `json:"after"` // what is due in the week behind it
}

// Week lays out seven days from a date (YYYY-MM-DD), today if empty.
func (s Service) Week(ctx context.Context, student int64, from string) (*WeekSheet, error) {
	list, p, err := s.load(ctx, student)
	if err != nil {
		return nil, err
	}
	begin := s.Now().In(p.zone)
	if from != "" {
		if begin, err = time.ParseInLocation(time.DateOnly, from, p.zone); err != nil {
			return nil, prepare.Complaint{Message: "That is no date. Write it like 2026-12-07."}
		}
	}
	w := &WeekSheet{Zone: p.who.Zone, Who: p.who.Given + " " + p.who.Family, Days: days(list, p, begin, 7), After: []DayMark{}}
	w.From, w.To = w.Days[0].Date, w.Days[6].Date
	var work time.Duration
	dues := 0
	for _, d := range w.Days {
		for _, slab := range d.Slabs {
			work += slab.End.Sub(slab.Start)
		}
		for _, m := range d.Dues {
			if m.What == "due" {
				dues++
			}
		}
	}
	w.Said = fmt.Sprintf("%s due, %s of work.", plural(dues, "thing is", "things are"), wording.Work(work))
	for _, d := range days(list, p, begin.AddDate(0, 0, 7), 7) {
		for _, m := range d.Dues {
			if m.What == "due" {
				w.After = append(w.After, m)
			}
		}
	}
	return w, nil
}
