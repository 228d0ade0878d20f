// Package worldtest sets up Orario and a practice campus for tests: real databases, real HTTP between
// them, real conversions.
package worldtest

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/require"

	"orario/core/brief"
	"orario/core/timing"
	"orario/internal/account"
	"orario/internal/campus"
	api "orario/internal/campus/campusapi"
	"orario/internal/contents"
	"orario/internal/convert"
	"orario/internal/courier"
	"orario/internal/courses"
	"orario/internal/desk"
	"orario/internal/intake"
	"orario/internal/library"
	"orario/internal/mariadb"
	"orario/internal/mariadb/mariadbtest"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
	"orario/internal/review"
	"orario/internal/schedule"
	"orario/internal/submit"
	"orario/internal/vault"
	"orario/internal/workshop"
)

// A World is a student, her Orario and her campus.
type World struct {
	T        testing.TB
	DB       *mariadb.DB
	Campus   *campus.Campus
	CampusDB *mariadb.DB
	URL      string // of the campus
	Token    string
	Tools    *convert.Tools
	Vault    vault.Vault
	Accounts account.Service
	Intake   intake.Service
	Agenda   schedule.Service
	Desk     desk.Service
	Library  library.Service
	Courses  courses.Service
	Prepare  prepare.Service
	Submit   submit.Service
	Review   review.Service
	Workshop workshop.Service
	Student  int64
	Site     int64
}

// repeating does what a transaction does twice, the first time in vain, as it comes after a deadlock: what a room
// leaves behind outside its transaction shows in every test.
type repeating struct{ *mariadb.DB }

func (r repeating) InTx(ctx context.Context, do func(*query.Queries) error) error {
	tx, err := r.SQL.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	err = do(r.WithTx(tx))
	if rolled := tx.Rollback(); err != nil || rolled != nil {
		return errors.Join(err, rolled)
	}
	return r.DB.InTx(ctx, do)
}

// Password of every student of a world.
const Password = "a-quiet-password"

// New makes a world with one student who is connected to the campus, which publishes nothing yet.
func New(t testing.TB) *World {
	gin.SetMode(gin.ReleaseMode)
	t.Helper()
	w := &World{T: t, DB: mariadbtest.Orario(t)}
	var err error
	w.Tools, err = convert.New(t.TempDir())
	require.NoError(t, err)
	t.Cleanup(w.Tools.Close)
	w.openCampus()

	db := repeating{w.DB}
	store := contents.Store{DB: w.DB.SQL}
	w.Vault, err = vault.New(make([]byte, 32))
	require.NoError(t, err)
	w.Accounts = account.Service{Store: db, Now: time.Now, Vault: w.Vault}
	w.Prepare = prepare.Service{Store: db, Uploads: contents.Uploads{Store: store}, Tools: w.Tools, Now: time.Now}
	w.Submit = submit.Service{
		Store:    db,
		Contents: store,
		Now:      time.Now,
		Connect:  func(s query.Site) (submit.Site, error) { return w.connect(s) },
	}
	w.Review = review.Service{
		Texts:   w.Prepare,
		Store:   db,
		Now:     time.Now,
		Pause:   time.Second,
		Connect: func(s query.Site) (review.Site, error) { return w.connect(s) },
	}
	w.Intake = intake.Service{
		Store:     db,
		Contents:  store,
		Log:       slog.New(slog.DiscardHandler),
		Every:     time.Minute,
		FeedEvery: time.Hour,
		Fetch:     courier.Fetcher{Internal: true}.Fetch,
		Seal:      w.Vault.Seal,
		Connect:   func(s query.Site) (intake.Site, error) { return w.connect(s) },
	}
	w.Workshop = workshop.Service{
		Store:   db,
		Uploads: contents.Uploads{Store: store},
		Tools:   w.Tools,
		Fetch:   courier.Fetcher{Internal: true}.Fetch,
	}
	w.Agenda, w.Desk, w.Courses = schedule.Service{Store: db}, desk.Service{Store: db}, courses.Service{Store: db}
	w.Library = library.Service{Store: db}
	w.Clock(time.Now)
	w.Student, w.Site = w.AddStudent("20418", "nerea@alvarim.example")
	return w
}

func (w *World) connect(site query.Site) (*courier.Site, error) {
	token, err := w.Vault.Unseal(site.Token)
	if err != nil {
		return nil, err
	}
	return courier.Connect(site.BaseUrl, token)
}

// AddStudent adds an account with a connected campus.
func (w *World) AddStudent(number, email string) (student, site int64) {
	w.T.Helper()
	ctx := context.Background()
	token, err := w.Campus.AddStudent(
		ctx,
		campus.Student{Number: number, Family: "Quintal", Given: "Nerea", Email: email},
	)
	require.NoError(w.T, err)
	w.Token = token
	student, err = w.Accounts.Add(
		ctx,
		account.Student{Email: email, Family: "Quintal", Given: "Nerea", Number: number, Zone: "Europe/Lisbon"},
		Password,
		false,
	)
	require.NoError(w.T, err)
	site, err = w.Intake.AddSite(ctx, student, w.URL, token)
	require.NoError(w.T, err)
	return student, site
}

// Elsewhere connects the student to a second campus, which knows her by another number and name. What it gives is the
// same world, seen from there.
func (w *World) Elsewhere(number, family, given string) *World {
	w.T.Helper()
	ctx := context.Background()
	there := *w
	there.openCampus()
	token, err := there.Campus.AddStudent(ctx, campus.Student{Number: number, Family: family, Given: given})
	require.NoError(w.T, err)
	there.Site, err = w.Intake.AddSite(ctx, w.Student, there.URL, token)
	require.NoError(w.T, err)
	return &there
}

// openCampus gives the world a campus that publishes one course.
func (w *World) openCampus() {
	ctx := context.Background()
	w.CampusDB = mariadbtest.Open(w.T, campus.Migrations)
	var err error
	w.Campus, err = campus.New(ctx, w.CampusDB.SQL, w.Tools, slog.New(slog.DiscardHandler))
	require.NoError(w.T, err)
	handler, err := w.Campus.Handler()
	require.NoError(w.T, err)
	server := httptest.NewUnstartedServer(handler)
	server.Config.ErrorLog = slog.NewLogLogger(slog.DiscardHandler, slog.LevelInfo) // faults abort requests
	server.Start()
	w.T.Cleanup(server.Close)
	w.URL = server.URL
	require.NoError(w.T, w.Campus.PublishCourse(ctx, api.Course{
		Key:        "HYD214",
		Code:       "HYD 214",
		Title:      "Hydrography",
		Zone:       "Europe/Lisbon",
		Instructor: "Prof. Oda Farrobo",
	}))
}

// Essay is an assignment that is open, takes one PDF or text twice, and is checked for similarity.
func Essay() api.Assignment {
	day := func(n int) string { return time.Now().UTC().AddDate(0, 0, n).Format("2006-01-02T15:04") }
	return api.Assignment{
		Key:          "essay",
		Course:       "HYD214",
		Title:        "Chart datum",
		Instructions: "An essay on chart datum.",
		Handouts:     []api.Handout{},
		Opens:        day(-3),
		Due:          day(5),
		Closes:       day(7),
		Late: timing.Rule{
			Kind:    timing.PerDay,
			Percent: 10,
			Of:      "possible",
		},
		Points:     20,
		Weight:     20,
		Turnaround: api.Turnaround{FirstMinutes: 0, LaterMinutes: 0},
		Sheet: brief.Sheet{
			Slots: []brief.Slot{{Name: "essay", Required: true, Forms: []string{"pdf", "txt"}, MaxBytes: 20_000_000}},
			Name:  "{family}_{course}_{title:dash}",
			Attempts: brief.Attempts{
				Max:    2,
				Counts: "latest",
			},
			Report:      &brief.Report{Drafts: 2},
			Declaration: "This is my own work.",
		},
	}
}

// Publish publishes an assignment, syncs, and gives its id in Orario.
func (w *World) Publish(a api.Assignment) int64 {
	w.T.Helper()
	ctx := context.Background()
	require.NoError(w.T, w.Campus.PublishAssignment(ctx, a))
	w.Sync()
	list, err := w.DB.Assignments(ctx, query.AssignmentsParams{StudentID: w.Student})
	require.NoError(w.T, err)
	for _, row := range list {
		course, err := w.DB.Course(ctx, query.CourseParams{ID: row.CourseID, StudentID: w.Student})
		require.NoError(w.T, err)
		if row.SiteKey == a.Key && course.SiteID.Int64 == w.Site {
			return row.ID
		}
	}
	w.T.Fatalf("%s was not synced", a.Key)
	return 0
}

// Sync takes over what the campus publishes.
func (w *World) Sync() {
	w.T.Helper()
	_, err := w.Intake.Sync(
		context.Background(),
		query.Job{Kind: intake.SyncJob, Subject: w.Site, StudentID: w.Student},
	)
	require.NoError(w.T, err)
}

// Add puts a file into the bundle and gives its item.
func (w *World) Add(assignment int64, name string, data []byte) int64 {
	w.T.Helper()
	item, err := w.Prepare.AddUpload(context.Background(), w.Student, assignment, 0, w.Upload(name, data), "")
	require.NoError(w.T, err)
	return item
}

// Upload uploads a file as the pages do and gives the upload's id.
func (w *World) Upload(name string, data []byte) string {
	w.T.Helper()
	id, err := w.Prepare.Uploads.Take(
		contents.WithOwner(context.Background(), fmt.Sprint(w.Student)),
		name,
		bytes.NewReader(data),
		int64(len(data)),
	)
	require.NoError(w.T, err)
	return id
}

// At sets the clock of all of Orario.
func (w *World) At(now time.Time) { w.Clock(func() time.Time { return now }) }

// Clock gives all of Orario a clock.
func (w *World) Clock(now func() time.Time) {
	w.Accounts.Now, w.Prepare.Now, w.Submit.Now, w.Review.Now, w.Intake.Now, w.Agenda.Now, w.Desk.Now, w.Library.Now,
		w.Courses.Now, w.Workshop.Now = now, now, now, now, now, now, now, now, now, now
	w.Workshop.Bundles = w.Prepare
	w.Intake.Files, w.Agenda.Files, w.Desk.Changes = w.Prepare, w.Prepare, w.Review
	w.Agenda.Removing, w.Agenda.Noting = w.Intake, w.Submit
}

// Send submits the bundle and carries it to the campus in one go.
func (w *World) Send(assignment int64) query.SubmissionRow {
	w.T.Helper()
	ctx := context.Background()
	id, err := w.Submit.Start(ctx, w.Student, submit.Order{Assignment: assignment, Declared: true})
	require.NoError(w.T, err)
	_, err = w.Submit.Carry(ctx, query.Job{Subject: id, StudentID: w.Student})
	require.NoError(w.T, err)
	return w.Submission(id)
}

// Submission reads one.
func (w *World) Submission(id int64) query.SubmissionRow {
	w.T.Helper()
	sub, err := w.DB.Submission(context.Background(), query.SubmissionParams{ID: id, StudentID: w.Student})
	require.NoError(w.T, err)
	return sub
}

// Received counts what the campus has taken.
func (w *World) Received() (n int) {
	w.T.Helper()
	require.NoError(w.T, w.CampusDB.SQL.QueryRow("SELECT COUNT(*) FROM submission WHERE number IS NOT NULL").Scan(&n))
	return n
}

// Published is the first course that the campus publishes.
func (w *World) Published() int64 {
	w.T.Helper()
	list, err := w.DB.Courses(context.Background(), w.Student)
	require.NoError(w.T, err)
	for _, c := range list {
		if c.SiteID.Valid {
			return c.ID
		}
	}
	w.T.Fatal("the campus publishes no course")
	return 0
}

// Enrolment is the student's first.
func (w *World) Enrolment() int64 {
	w.T.Helper()
	list, err := w.DB.Enrolments(context.Background(), w.Student)
	require.NoError(w.T, err)
	require.NotEmpty(w.T, list)
	return list[0].ID
}
