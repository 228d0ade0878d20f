package demo

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"time"

	"orario/internal/account"
	"orario/internal/campus"
	api "orario/internal/campus/campusapi"
	"orario/internal/contents"
	"orario/internal/convert"
	"orario/internal/courses"
	"orario/internal/intake"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
	"orario/internal/review"
	"orario/internal/schedule"
	"orario/internal/submit"
)

// World is everything that the demo is played in. Its services take their time from Clock.
type World struct {
	Clock     *Clock
	DB        *mariadb.DB
	Tools     *convert.Tools
	Campus    *campus.Campus
	CampusURL string
	Accounts  account.Service
	Intake    intake.Service
	Agenda    schedule.Service
	Courses   courses.Service
	Prepare   prepare.Service
	Submit    submit.Service
	Review    review.Service
}

// A Clock can be set back while the scenario is played. What it is ahead of the real time it stays.
type Clock struct{ Ahead, Offset time.Duration }

// Now is the present, moved by the offset.
func (c *Clock) Now() time.Time { return c.Present().Add(c.Offset) }

// Present is the time around which the scenario is laid.
func (c *Clock) Present() time.Time { return time.Now().Add(c.Ahead) }

// Speed is how much faster than real the practice campus makes its reports in the demo.
const Speed = 360

// Load plays the scenario up to now. Loading it again is an error; the demo has then been used already.
func Load(ctx context.Context, w World) error {
	if _, err := w.Accounts.Demo(ctx); err == nil {
		return errors.New("the demo is loaded already")
	}
	p := player{World: w, items: map[string]query.AssignmentsRow{}}
	steps := []func(context.Context) error{p.publish, p.enrol, p.past, p.looked, p.comeBack, p.present, p.own}
	for _, step := range steps {
		if err := step(ctx); err != nil {
			return fmt.Errorf("loading the demo: %w", err)
		}
	}
	return p.at(ctx, 0)
}

type player struct {
	World
	student int64
	items   map[string]query.AssignmentsRow
}

// at moves both clocks to some time from now.
func (p *player) at(ctx context.Context, offset time.Duration) error {
	p.Clock.Offset = offset
	return p.Campus.MoveClock(ctx, p.Clock.Ahead+offset)
}

func (p *player) publish(ctx context.Context) error {
	if err := p.Campus.SetSpeed(ctx, Speed); err != nil {
		return err
	}
	for _, c := range catalogue {
		if err := p.Campus.PublishCourse(ctx, c); err != nil {
			return err
		}
	}
	handouts, err := p.handouts(ctx)
	if err != nil {
		return err
	}
	for _, a := range assignments(p.Clock.Present()) {
		a.Handouts = append([]api.Handout{}, handouts[a.Key]...)
		if err := p.Campus.PublishAssignment(ctx, a); err != nil {
			return err
		}
	}
	if err := p.Campus.PublishReading(
		ctx,
		"coastal-narratives-4",
		"Coastal Narratives, chapter 4",
		coastalNarratives,
	); err != nil {
		return err
	}
	return p.Campus.PublishReading(ctx, "pilots-year", "The Pilot's Year (1931)", vazPilot)
}

const hour, aDay = time.Hour, 24 * time.Hour

func (p *player) enrol(ctx context.Context) error {
	if err := p.at(ctx, -13*aDay); err != nil {
		return err
	}
	token, err := p.Campus.AddStudent(
		ctx,
		campus.Student{Number: Nerea.Number, Family: Nerea.Family, Given: Nerea.Given, Email: Nerea.Email},
	)
	if err != nil {
		return err
	}
	p.student, err = p.Accounts.Add(
		ctx,
		account.Student{
			Email:  Nerea.Email,
			Family: Nerea.Family,
			Given:  Nerea.Given,
			Number: Nerea.Number,
			Zone:   Nerea.Zone,
		},
		Nerea.Password,
		true,
	)
	if err != nil {
		return err
	}
	site, err := p.Intake.AddSite(ctx, p.student, p.CampusURL, token)
	if err != nil {
		return err
	}
	if err := p.sync(ctx, site); err != nil {
		return err
	}
	list, err := p.DB.Assignments(ctx, query.AssignmentsParams{StudentID: p.student})
	if err != nil {
		return err
	}
	for _, a := range list {
		p.items[a.SiteKey] = a
		if w, ok := work[a.SiteKey]; ok {
			if err := p.Agenda.SetWork(ctx, p.student, a.ID, schedule.Work{Minutes: w[0], Done: w[1]}); err != nil {
				return err
			}
		}
	}
	return nil
}

func (p *player) sync(ctx context.Context, site int64) error {
	if _, err := p.Intake.Sync(ctx, query.Job{Kind: intake.SyncJob, Subject: site, StudentID: p.student}); err != nil {
		return err
	}
	row, err := p.DB.Site(ctx, site)
	if err == nil && row.Notice != "" {
		err = errors.New(row.Notice)
	}
	return err
}

// past: what was sent in the last two weeks.
func (p *player) past(ctx context.Context) error {
	for _, s := range []struct {
		key    string
		name   string
		before time.Duration
		text   []string
	}{
		{"hyd-lab-3", "current meters.pdf", 9 * aDay, append([]string{"Lab 3: Current meters"}, tideReport[1:4]...)},
		{"prb-sheet-5", "sheet5 scan.pdf", 4 * aDay, []string{"Sheet 5", "Exercises one to ten, with the sums written out."}},
		{"fel-transect", "transect notes v3.pdf", 3 * aDay, transect},
		{"ita-racconto", "racconto FINAL.pdf", 2*aDay + 3*hour, racconto},
	} {
		if err := p.at(ctx, -s.before); err != nil {
			return err
		}
		pdf, err := p.Tools.ToPDF(ctx, "docx", DOCX("nerea", s.text...))
		if err != nil {
			return err
		}
		if err := p.send(ctx, s.key, map[string][]byte{s.name: pdf}); err != nil {
			return err
		}
	}
	return nil
}

// send puts files into a bundle, does what the checks offer, and submits.
func (p *player) send(ctx context.Context, key string, files map[string][]byte) error {
	a := p.items[key]
	for name, data := range files {
		if err := p.add(ctx, a.ID, name, data, ""); err != nil {
			return err
		}
	}
	if err := p.Prepare.SettleName(ctx, p.student, a.ID, "{family:lower}_{course}_{title:dash}"); err != nil {
		return err
	}
	state, err := p.Prepare.State(ctx, p.student, a.ID, 0)
	if err != nil {
		return err
	}
	for _, f := range state.Findings {
		if f.Fix == "rename" {
			if err := p.Prepare.Fix(ctx, p.student, f.Item, "rename"); err != nil {
				return err
			}
		}
	}
	id, err := p.Submit.Start(ctx, p.student, submit.Order{Assignment: a.ID, Declared: true})
	if err != nil {
		return fmt.Errorf("%s: %w", key, err)
	}
	if _, err := p.Submit.Carry(ctx, query.Job{Subject: id, StudentID: p.student}); err != nil {
		return fmt.Errorf("%s: %w", key, err)
	}
	sub, err := p.DB.Submission(ctx, query.SubmissionParams{ID: id, StudentID: p.student})
	if err == nil && sub.State != query.SubmissionStateAccepted {
		err = fmt.Errorf("%s is %s: %s", key, sub.State, sub.Reason)
	}
	return err
}

// upload uploads a file as the pages do.
func (p *player) upload(ctx context.Context, name string, data []byte) (string, error) {
	mine := contents.WithOwner(ctx, fmt.Sprint(p.student))
	return p.Prepare.Uploads.Take(mine, name, bytes.NewReader(data), int64(len(data)))
}

// add puts a file into the bundle.
func (p *player) add(ctx context.Context, assignment int64, name string, data []byte, slot string) error {
	id, err := p.upload(ctx, name, data)
	if err != nil {
		return err
	}
	_, err = p.Prepare.AddUpload(ctx, p.student, assignment, 0, id, slot)
	return err
}

// looked: she has looked at everything so far.
func (p *player) looked(ctx context.Context) error {
	last, err := p.DB.LastEvent(ctx, p.student)
	if err != nil {
		return err
	}
	return p.Agenda.Seen(ctx, p.student, last)
}

// comeBack: marks, comments, an invitation.
func (p *player) comeBack(ctx context.Context) error {
	one, two := 1.0, 2.0
	for _, m := range []struct {
		key      string
		before   time.Duration
		mark     float64
		comments []api.Comment
		invited  bool
	}{
		{"hyd-lab-3", 5 * aDay, 18, []api.Comment{{Text: "Careful work. The units of figure 2 are missing.", Open: false}}, false},
		{"prb-sheet-5", 3 * aDay, 9, []api.Comment{}, false},
		{"ita-racconto", 20 * hour, 22, []api.Comment{{Text: "The second paragraph is too close to the reader.", Open: true, Points: &two}, {Text: "Good reading of the door.", Open: false}}, true},
		{"fel-transect", 26 * hour, 17, []api.Comment{{Text: "Name the handbook that you disagree with.", Open: true, Points: &one}, {Text: "State how cover was averaged.", Open: true, Points: &two}}, false},
	} {
		if err := p.at(ctx, -m.before); err != nil {
			return err
		}
		subs, err := p.DB.Submissions(ctx, query.SubmissionsParams{StudentID: p.student})
		if err != nil {
			return err
		}
		for _, made := range subs {
			sub, err := p.DB.Submission(ctx, query.SubmissionParams{ID: made.ID, StudentID: p.student})
			if err != nil {
				return err
			}
			if sub.AssignmentID != p.items[m.key].ID {
				continue
			}
			if err := p.Campus.Return(ctx, sub.Number, m.mark, m.comments, m.invited); err != nil {
				return err
			}
			job := query.Job{Subject: sub.ID, StudentID: p.student}
			if _, err := p.Review.FetchReturn(ctx, job); err != nil {
				return err
			}
			if p.items[m.key].SiteKey == "ita-racconto" {
				if _, err := p.Review.FetchReport(ctx, job); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// present: something waits for its report, something is in the bundle and not in order yet.
func (p *player) present(ctx context.Context) error {
	if err := p.at(ctx, 0); err != nil {
		return err
	}
	pdf, err := p.Tools.ToPDF(ctx, "docx", DOCX("nerea", lettera...))
	if err != nil {
		return err
	}
	if err := p.send(ctx, "ita-lettera", map[string][]byte{"lettera.pdf": pdf}); err != nil {
		return err
	}
	lab := p.items["hyd-lab-4"].ID
	if err := p.add(ctx, lab, "tide lab FINAL2.docx", DOCX("nerea", tideReport...), "report"); err != nil {
		return err
	}
	if err := p.add(ctx, lab, "quintal_HYD214_tide-tables.csv", tideReadings(), "data"); err != nil {
		return err
	}
	if err := p.photographs(ctx); err != nil {
		return err
	}
	source, err := p.upload(ctx, "gauges and benches.txt", []byte(gaugeReader))
	if err != nil {
		return err
	}
	if err := p.Review.AddSource(ctx, p.student, lab, source, true); err != nil {
		return err
	}
	return p.Review.CheckOwn(ctx, p.student, lab, 0)
}
