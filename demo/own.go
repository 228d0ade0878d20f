package demo

import (
	"context"
	"fmt"
	"strings"
	"time"

	"orario/core/coursework"
	"orario/core/timing"
	"orario/internal/contents"
	"orario/internal/courses"
	"orario/internal/intake"
	"orario/internal/schedule"
)

// own: what Nerea keeps herself, beside what the campus publishes.
func (p *player) own(ctx context.Context) error {
	for _, step := range []func(context.Context) error{p.courses, p.worked, p.pasted, p.parts, p.calendar} {
		if err := step(ctx); err != nil {
			return err
		}
	}
	return p.Agenda.SaveView(ctx, p.student, "this week, to do", "state=to+do&week=0")
}

func (p *player) courses(ctx context.Context) error {
	rows, err := p.DB.Courses(ctx, p.student)
	if err != nil {
		return err
	}
	contacts := map[string]string{
		"HYD 214": "farrobo",
		"WOD 130": "wood",
		"ITA 202": "lettere",
		"PRB 201": "probability",
		"FEL 118": "field",
		"NAV 310": "navigation",
	}
	for _, c := range rows {
		sheet := courses.Sheet{Contact: contacts[c.Code] + "@alvarim.example", Term: "Autumn", Habit: c.NameHabit}
		if c.Code == "NAV 310" {
			sheet.Usual = coursework.Usual{Forms: []string{"pdf"}, Late: "no late work", Minutes: 120}
		}
		if err := p.Courses.Set(ctx, p.student, c.ID, sheet); err != nil {
			return err
		}
	}
	return nil
}

// worked: the sheets in probability take longer than she thinks.
func (p *player) worked(ctx context.Context) error {
	return p.Agenda.SetWork(ctx, p.student, p.items["prb-sheet-5"].ID, schedule.Work{Minutes: 150, Done: 195})
}

func (p *player) course(ctx context.Context, code string) (id int64, zone *time.Location, err error) {
	rows, err := p.DB.Courses(ctx, p.student)
	for _, c := range rows {
		if c.Code == code {
			zone, err = timing.Zone(c.Zone)
			return c.ID, zone, err
		}
	}
	return 0, nil, fmt.Errorf("there is no course %s: %w", code, err)
}

// pasted: instructions out of a mail, read and not confirmed yet.
func (p *player) pasted(ctx context.Context) error {
	id, zone, err := p.course(ctx, "NAV 310")
	if err != nil {
		return err
	}
	due := p.Clock.Present().In(zone).AddDate(0, 0, 10)
	draft, err := p.Intake.ReadText(ctx, p.student, id, fmt.Sprintf(`Log of lights

Keep a log of every light you can see from the breakwater on two nights. Send it by e-mail as one PDF, no more than 4 pages and below 5 MB, by %s at 5 pm. The log is worth 15 points. Name the file Lastname_NAV310_Lights. Late logs are not accepted. Sign the statement that the observations are your own.`, due.Format("Monday 2 January")))
	if err != nil {
		return err
	}
	draft.Weight, draft.Minutes = 10, 90
	for i := range draft.Asks {
		draft.Asks[i].Settled = draft.Asks[i].Item.Kind == "due" || draft.Asks[i].Item.Kind == "points"
	}
	_, err = p.Intake.Add(ctx, p.student, *draft)
	return err
}

// parts: a portfolio in pieces, the first of which was given to the instructor on paper.
func (p *player) parts(ctx context.Context) error {
	id, zone, err := p.course(ctx, "FEL 118")
	if err != nil {
		return err
	}
	d := intake.Draft{Title: "Field portfolio", CourseID: id, Weight: 12, Minutes: 240, Asks: []intake.AskView{}}
	for _, part := range []struct {
		name string
		days int
	}{{"site sketch", -4}, {"species list", 7}, {"commentary", 13}} {
		at := p.Clock.Present().In(zone).AddDate(0, 0, part.days)
		ask, err := p.Intake.Correct(ctx, p.student, id, "due", at.Format("2006-01-02")+"T17:00")
		if err != nil {
			return err
		}
		ask.Thing = part.name
		d.Asks = append(d.Asks, *ask)
	}
	for _, more := range [][2]string{{"points", "20 points"}, {"late", "5% per day, at most 25%"}} {
		ask, err := p.Intake.Correct(ctx, p.student, id, more[0], more[1])
		if err != nil {
			return err
		}
		d.Asks = append(d.Asks, *ask)
	}
	portfolio, err := p.Intake.Add(ctx, p.student, d)
	if err != nil {
		return err
	}
	sent := p.Clock.Present().AddDate(0, 0, -5)
	return p.Submit.Note(ctx, p.student, portfolio, 0, &sent, "on paper, after the excursion")
}

// calendar: the times at which she sings and serves.
func (p *player) calendar(ctx context.Context) error {
	now := p.Clock.Present()
	monday := now.AddDate(0, 0, -int(now.Weekday()+6)%7)
	text := strings.NewReplacer("\n", "\r\n", "TUESDAY", monday.AddDate(0, 0, 1).Format("20060102"), "SATURDAY", monday.AddDate(0, 0, 5).Format("20060102")).
		Replace(`BEGIN:VCALENDAR
VERSION:2.0
PRODID:-//Alvarim//demo//EN
BEGIN:VEVENT
UID:choir@alvarim.example
SUMMARY:Choir
DTSTART;TZID=Europe/Lisbon:TUESDAYT190000
DTEND;TZID=Europe/Lisbon:TUESDAYT203000
RRULE:FREQ=WEEKLY
END:VEVENT
BEGIN:VEVENT
UID:harbour-cafe@alvarim.example
SUMMARY:Harbour café
DTSTART;TZID=Europe/Lisbon:SATURDAYT110000
DTEND;TZID=Europe/Lisbon:SATURDAYT140000
RRULE:FREQ=WEEKLY
END:VEVENT
END:VCALENDAR
`)
	upload, err := p.Prepare.Uploads.Take(
		contents.WithOwner(ctx, fmt.Sprint(p.student)),
		"week.ics",
		strings.NewReader(text),
		int64(len(text)),
	)
	if err != nil {
		return err
	}
	_, err = p.Intake.Import(
		ctx,
		p.student,
		intake.Import{Upload: upload, Name: "week.ics", Purpose: intake.PurposeBusy},
	)
	return err
}
