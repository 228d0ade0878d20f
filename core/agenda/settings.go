package agenda

import (
	"errors"

	"orario/core/planner"
)

// Settings are what a student wants Orario to go by. Times of day are minutes from local midnight.
type Settings struct {
	Week      planner.Week `json:"week"`       // when she can work
	MostADay  int          `json:"most_a_day"` // minutes of planned work
	Block     int          `json:"block"`      // the shortest useful stretch, minutes
	Margin    int          `json:"margin"`     // ahead of due, minutes
	QuietFrom int          `json:"quiet_from"` // nothing is said from here
	QuietTo   int          `json:"quiet_to"`   // to here; equal: never quiet
	Mail      bool         `json:"mail"`       // reminders also by mail
	NoKeys    bool         `json:"no_keys"`    // single keys do nothing
}

// Usual are the settings of a student who has said nothing. A day's margin is common practice.
var Usual = Settings{
	Week:      planner.UsualWeek,
	MostADay:  5 * 60,
	Block:     30,
	Margin:    24 * 60,
	QuietFrom: 22 * 60,
	QuietTo:   8 * 60,
}

const aDay = 24 * 60 // minutes

// Sound says what is wrong with settings, if anything is.
func (s Settings) Sound() error {
	for _, day := range s.Week {
		last := 0
		for _, h := range day {
			if h.From < last || h.To <= h.From || h.To > aDay {
				return errors.New(
					"hours of a day follow each other between 0:00 and 24:00; write them like 17:00 to 21:00",
				)
			}
			last = h.To
		}
	}
	switch {
	case s.MostADay < 15 || s.MostADay > aDay:
		return errors.New("the most work of a day lies between a quarter of an hour and 24 hours")
	case s.Block < 0 || s.Block > 8*60:
		return errors.New("the shortest stretch of work lies between 0 and 8 hours")
	case s.Margin < 0 || s.Margin > 14*aDay:
		return errors.New("the margin lies between 0 and 14 days")
	case s.QuietFrom < 0 || s.QuietFrom >= aDay || s.QuietTo < 0 || s.QuietTo >= aDay:
		return errors.New("quiet hours are times of day between 0:00 and 23:59")
	}
	return nil
}
