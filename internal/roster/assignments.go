package roster

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"orario/core/coursework"
	"orario/core/inspect"
	"orario/core/timing"
	"orario/internal/mariadb/query"
)

func (l *loading) assignmentsAndParts() error {
	rows, err := l.q.Assignments(l.ctx, query.AssignmentsParams{StudentID: l.student, Only: l.only})
	if err != nil {
		return err
	}
	done, err := l.q.WorkDone(l.ctx, l.student)
	if err != nil {
		return err
	}
	partRows, err := l.q.Parts(l.ctx, query.PartsParams{StudentID: l.student, Only: l.only})
	if err != nil {
		return err
	}
	of := map[int64][]query.Part{}
	for _, p := range partRows {
		of[p.AssignmentID] = append(of[p.AssignmentID], p)
	}
	minutes := map[int64]int{}
	for _, row := range done {
		minutes[row.AssignmentID] = int(row.Minutes)
	}
	r := l.roster
	l.parts = make(map[int64]*coursework.Part, len(partRows))
	r.Assignments = make([]*coursework.Assignment, 0, len(rows))
	for _, row := range rows {
		course, ok := r.courses[row.CourseID]
		if !ok {
			continue // its course is a trouble already
		}
		a, err := assignment(row, course)
		if err == nil {
			err = l.addParts(a, of[row.ID])
		}
		if err != nil {
			r.trouble("%s %s cannot be shown: %v. Change it, or ask the instructor to.", course.Code, row.Title, err)
			continue
		}
		a.Done = minutes[a.ID]
		r.Assignments = append(r.Assignments, a)
		r.assignments[a.ID] = a
	}
	return nil
}

func assignment(row query.AssignmentsRow, course *coursework.Course) (*coursework.Assignment, error) {
	a := &coursework.Assignment{
		ID:          row.ID,
		Course:      course,
		Source:      coursework.Source(row.Source),
		Key:         row.SiteKey,
		Title:       row.Title,
		Points:      row.Points,
		Weight:      row.Weight,
		FirstReport: time.Duration(row.FirstReportMinutes) * time.Minute,
		LaterReport: time.Duration(row.LaterReportMinutes) * time.Minute,
		Effort: coursework.Effort{
			Low:    int(row.EffortLow.Int32),
			Likely: int(row.EffortMinutes),
			High:   int(row.EffortHigh.Int32),
		},
		NotBefore: moment(row.NotBefore),
		Enough:    row.Enough,
		Cancelled: row.Cancelled,
	}
	said, err := sheet(text{string(row.Sheet), string(row.Own), string(row.Late)})
	a.Sheet, a.Own, a.Late = said.Sheet, said.Own, said.Late
	return a, err
}

func (l *loading) addParts(a *coursework.Assignment, rows []query.Part) error {
	if len(rows) == 0 {
		return errors.New("it has no due time")
	}
	slices.SortFunc(rows, func(a, b query.Part) int { return int(a.N - b.N) })
	for _, row := range rows {
		p := &coursework.Part{
			ID:     row.ID,
			Name:   row.Name,
			Points: row.Points.Float64,
			Weight: row.Weight.Float64,
			Route:  row.Route,
		}
		var err error
		if p.Window, err = timing.ParseWindow(
			a.Course.Zone.String(),
			row.Opens,
			row.Due,
			row.Closes,
			int(row.GraceMinutes),
		); err != nil {
			return err
		}
		if len(row.Slots) > len("[]") {
			if err := json.Unmarshal(row.Slots, &p.Slots); err != nil {
				return fmt.Errorf("what is stored of it cannot be read: %w", err)
			}
		}
		if row.DueWas != "" {
			if was, err := timing.ParseWall(row.DueWas, a.Course.Zone); err == nil {
				at := was.At()
				p.DueWas = &at
			}
		}
		a.Parts = append(a.Parts, p)
		l.parts[p.ID] = p
	}
	return nil
}

// extensionsAndNotes reads more time that was asked for or given, and what was sent outside of Orario; few parts have
// either.
func (l *loading) extensionsAndNotes() error {
	extensions, err := l.q.Extensions(l.ctx, query.ExtensionsParams{StudentID: l.student, Only: l.only})
	if err != nil {
		return err
	}
	for _, e := range extensions {
		if p, ok := l.parts[e.PartID]; ok {
			p.Extension = &coursework.Extension{
				Asked:   moment(e.AskedAt),
				Granted: moment(e.GrantedAt),
				Due:     e.Due,
				Closes:  e.Closes,
				Note:    e.Note,
				Proof:   e.VersionID.Int64,
			}
		}
	}
	notes, err := l.q.NotedParts(l.ctx, query.NotedPartsParams{StudentID: l.student, Only: l.only})
	for _, n := range notes {
		if p, ok := l.parts[n.PartID]; ok {
			p.Noted = &coursework.Noted{At: n.At, Note: n.Note}
		}
	}
	return err
}

// attempts reads attempts with what lies in their bundles and what became of them.
func (l *loading) attempts() error {
	rows, err := l.q.Attempts(l.ctx, query.AttemptsParams{StudentID: l.student, Only: l.only})
	if err != nil {
		return err
	}
	slices.SortFunc(rows, func(a, b query.Attempt) int { return int(a.Number - b.Number) })
	l.tries = make(map[int64]*coursework.Attempt, len(rows))
	for _, row := range rows {
		part, ok := l.parts[row.PartID]
		if !ok {
			continue
		}
		try := &coursework.Attempt{ID: row.ID, Number: int(row.Number), BegunFrom: row.BegunFrom.Int64}
		part.Attempts = append(part.Attempts, try)
		l.tries[row.ID] = try
	}
	if err := l.items(); err != nil {
		return err
	}
	return l.submissions()
}

func (l *loading) items() error {
	rows, err := l.q.Items(l.ctx, query.ItemsParams{StudentID: l.student, Only: l.only})
	if err != nil {
		return err
	}
	for _, row := range rows {
		try, ok := l.tries[row.AttemptID]
		if !ok {
			continue
		}
		i := coursework.Item{
			ID:        row.ID,
			Slot:      row.Slot,
			Name:      row.Name,
			Version:   row.VersionID,
			Original:  row.VersionName,
			Digest:    row.Digest,
			MadeFrom:  row.MadeFrom.Int64,
			AddedAt:   row.CreatedAt,
			Inherited: row.Inherited,
			Newer:     row.Newer,
		}
		if i.Facts, err = factsOf(row.Facts); err != nil {
			l.roster.trouble("The file %s: %v. Take it out of its bundle and add it again.", row.Name, err)
			i.Facts = &inspect.Facts{Kind: "unknown"}
		}
		try.Items = append(try.Items, i)
	}
	return nil
}

func (l *loading) submissions() error {
	rows, err := l.q.Submissions(l.ctx, query.SubmissionsParams{StudentID: l.student, Only: l.only})
	if err != nil {
		return err
	}
	for _, row := range rows {
		try, ok := l.tries[row.AttemptID]
		if !ok {
			continue
		}
		sub := &coursework.Submission{
			ID:         row.ID,
			Attempt:    try.Number,
			State:      coursework.SubmissionState(row.State),
			Comment:    row.Comment,
			StartedAt:  row.StartedAt,
			Reason:     row.Reason,
			Begun:      row.DraftID.Valid,
			TotalBytes: row.TotalBytes,
			SentBytes:  row.SentBytes,
			Number:     row.Number,
			AcceptedAt: moment(row.AcceptedAt),
		}
		if row.Agrees.Valid {
			sub.Proved = &row.Agrees.Bool
		}
		if row.ReportState.Valid {
			sub.Report = &coursework.Report{
				Ready:      row.ReportState.ReportState == query.ReportStateReady && row.Share.Valid,
				ExpectedAt: moment(row.ExpectedAt),
				Share:      row.Share.Float64,
			}
		}
		if row.ReturnedID.Valid {
			sub.Return = &coursework.Return{
				Points:   row.Points.Float64,
				Invited:  row.Invited.Bool,
				Comments: []coursework.Comment{},
			}
			if row.Mark.Valid {
				sub.Return.Mark = &row.Mark.Float64
			}
			if err := json.Unmarshal(row.Comments, &sub.Return.Comments); err != nil {
				l.roster.trouble("The comments on %s cannot be read: %v. See them at the site.", row.Number, err)
			}
		}
		try.Submissions = append(try.Submissions, sub)
	}
	return nil
}

func (l *loading) handouts() error {
	rows, err := l.q.Handouts(l.ctx, query.HandoutsParams{StudentID: l.student, Only: l.only})
	if err != nil {
		return err
	}
	for _, h := range rows {
		if a, ok := l.roster.assignments[h.AssignmentID]; ok {
			out := coursework.Handout{ID: h.ID, Name: h.Name, Bytes: h.Bytes, Digest: h.Digest}
			if err := json.Unmarshal(h.Inside, &out.Inside); err != nil {
				return fmt.Errorf("reading what the handout %s holds: %w", h.Name, err)
			}
			a.Handouts = append(a.Handouts, out)
		}
	}
	return nil
}

// Assignment finds an assignment by its id; nil if there is none.
func (r *Roster) Assignment(id int64) *coursework.Assignment { return r.assignments[id] }

// Course finds a course by its id; nil if there is none.
func (r *Roster) Course(id int64) *coursework.Course { return r.courses[id] }

// Taken are the courses that are not put away.
func (r *Roster) Taken() []*coursework.Course {
	return slices.DeleteFunc(slices.Clone(r.Courses), func(c *coursework.Course) bool { return c.Archived })
}
