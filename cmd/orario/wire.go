package main

import (
	"cmp"
	"context"
	"fmt"
	"log/slog"
	"os"
	"strings"
	"time"

	"github.com/caarlos0/env/v11"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"

	"orario/internal/account"
	"orario/internal/announce"
	"orario/internal/campus"
	"orario/internal/contents"
	"orario/internal/convert"
	"orario/internal/courier"
	"orario/internal/courses"
	"orario/internal/desk"
	"orario/internal/httpapi"
	"orario/internal/intake"
	"orario/internal/library"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
	"orario/internal/review"
	"orario/internal/schedule"
	"orario/internal/submit"
	"orario/internal/vault"
	"orario/internal/workshop"
	"orario/web"
)

// settings come from the environment.
type settings struct {
	// Data source name, without a database
	DB             string `env:"ORARIO_DB,required"`
	Database       string `env:"ORARIO_DATABASE"         envDefault:"orario"` //
	CampusDatabase string `env:"ORARIO_CAMPUS_DATABASE"  envDefault:"orario_campus"`
	Addr           string `env:"ORARIO_ADDR"             envDefault:"127.0.0.1:8420"` // of serve
	CampusAddr     string `env:"ORARIO_CAMPUS_ADDR"      envDefault:"127.0.0.1:8421"`
	// Under which students reach it; https makes cookies secure
	PublicURL string `env:"ORARIO_PUBLIC_URL"`
	Work      string `env:"ORARIO_WORK"             envDefault:"var/work"` // folder for conversions
	// 32 bytes in base64 by which tokens are sealed; empty: the one in the file, which is made where there is none
	Key     string `env:"ORARIO_KEY"`
	KeyFile string `env:"ORARIO_KEY_FILE"         envDefault:"var/key"`
	// Offer the demo student's sign-in
	Demo      bool          `env:"ORARIO_DEMO"`
	SyncEvery time.Duration `env:"ORARIO_SYNC_EVERY"       envDefault:"15s"`
	// The shortest between two looks at a report that is due
	LookEvery time.Duration `env:"ORARIO_LOOK_EVERY"       envDefault:"5s"`
	FeedEvery time.Duration `env:"ORARIO_FEED_EVERY"       envDefault:"1h"` // for calendars
	// Fetch calendars from the server's own network
	AllowInternal bool `env:"ORARIO_ALLOW_INTERNAL"`
	// Host:port of the mail server; empty: no mail
	SMTP         string `env:"ORARIO_SMTP"`
	SMTPUser     string `env:"ORARIO_SMTP_USER"`
	SMTPPassword string `env:"ORARIO_SMTP_PASSWORD"`
	MailFrom     string `env:"ORARIO_MAIL_FROM"        envDefault:"orario@localhost"`
	// Where the practice campus takes mail
	MailAddr string `env:"ORARIO_CAMPUS_MAIL_ADDR" envDefault:"127.0.0.1:8425"`
	// Megabytes for the files of one student, and that stay free on the database's disk; 0: no bound
	Quota   int64 `env:"ORARIO_QUOTA_MB"         envDefault:"5000"`
	Margin  int64 `env:"ORARIO_FREE_MB"          envDefault:"2000"`
	Workers int   `env:"ORARIO_WORKERS"          envDefault:"4"`
	// Addresses or networks of reverse proxies whose word about who asks is believed.
	Proxies     []string   `env:"ORARIO_TRUSTED_PROXIES"`
	MetricsAddr string     `env:"ORARIO_METRICS_ADDR"` // of /metrics; empty: nowhere
	LogLevel    slog.Level `env:"ORARIO_LOG"              envDefault:"INFO"`
	// How far this process's clock is ahead of the machine's, to rehearse clocks that are wrong
	Ahead time.Duration `env:"ORARIO_CLOCK_AHEAD"`
}

// now is the clock that a process goes by.
func (s settings) now() time.Time { return time.Now().Add(s.Ahead) }

func readSettings() (settings, error) {
	s, err := env.ParseAs[settings]()
	if err != nil {
		return s, fmt.Errorf("settings: %w", err)
	}
	return s, nil
}

func (s settings) logger() *slog.Logger {
	return slog.New(slog.NewJSONHandler(os.Stderr, &slog.HandlerOptions{Level: s.LogLevel}))
}

// app is everything wired together.
type app struct {
	settings settings
	log      *slog.Logger
	now      func() time.Time
	clock    *mariadb.Clock // behind now, where that is the process's own
	db       *mariadb.DB
	keys     vault.Vault
	tools    *convert.Tools
	contents contents.Store
	accounts account.Service
	intake   intake.Service
	agenda   schedule.Service
	desk     desk.Service
	library  library.Service
	courses  courses.Service
	prepare  prepare.Service
	submit   submit.Service
	review   review.Service
	workshop workshop.Service
}

// wire connects Orario's parts; now is the clock they all go by; nil: the process's own,
// set right by the database's.
func wire(ctx context.Context, s settings, now func() time.Time) (*app, error) {
	a := &app{settings: s, log: s.logger(), now: now}
	var err error
	if a.db, err = mariadb.Open(ctx, s.DB, s.Database, mariadb.Migrations()); err != nil {
		return nil, err
	}
	if now == nil {
		a.clock = a.db.Clock(ctx, s.now)
		a.now = a.clock.Now
	}
	if a.tools, err = convert.New(s.Work); err != nil {
		return nil, err
	}
	if a.keys, err = vault.Open(s.Key, s.KeyFile); err != nil {
		return nil, err
	}
	if err := a.db.SealTokens(ctx, a.keys.Seal); err != nil {
		return nil, err
	}
	a.furnish()
	return a, nil
}

// furnish makes the rooms on what is there below them.
func (a *app) furnish() {
	s, now := a.settings, a.now
	a.contents = contents.Store{DB: a.db.SQL}
	a.accounts = account.Service{Store: a.db, Now: now, Vault: a.keys, PublicURL: s.publicURL()}
	a.prepare = prepare.Service{
		Store:   a.db,
		Uploads: contents.Uploads{Store: a.contents},
		Tools:   a.tools,
		Room:    prepare.Room{Quota: s.Quota * 1e6, Margin: s.Margin * 1e6, Free: a.db.Free},
		Now:     now,
	}
	a.submit = submit.Service{
		Store:    a.db,
		Contents: a.contents,
		Now:      now,
		Connect:  func(site query.Site) (submit.Site, error) { return a.connect(site) },
	}
	a.review = review.Service{
		Texts:   a.prepare,
		Store:   a.db,
		Now:     now,
		Pause:   s.LookEvery,
		Connect: func(site query.Site) (review.Site, error) { return a.connect(site) },
	}
	a.intake = intake.Service{
		Store:     a.db,
		Contents:  a.contents,
		Files:     a.prepare,
		Log:       a.log,
		Now:       now,
		Every:     s.SyncEvery,
		FeedEvery: s.FeedEvery,
		Fetch:     courier.Fetcher{Internal: s.AllowInternal}.Fetch,
		Seal:      a.keys.Seal,
		Connect:   func(site query.Site) (intake.Site, error) { return a.connect(site) },
	}
	a.agenda = schedule.Service{
		Store:     a.db,
		Files:     a.prepare,
		Removing:  a.intake,
		Noting:    a.submit,
		Now:       now,
		PublicURL: s.publicURL(),
	}
	a.workshop = workshop.Service{
		Store:   a.db,
		Bundles: a.prepare,
		Uploads: contents.Uploads{Store: a.contents},
		Tools:   a.tools,
		Fetch:   courier.Fetcher{Internal: s.AllowInternal}.Fetch,
		Now:     now,
	}
	a.desk = desk.Service{Store: a.db, Changes: a.review, Now: now}
	a.library = library.Service{Store: a.db, Now: now}
	a.courses = courses.Service{Store: a.db, Now: now}
	if s.SMTP != "" {
		post := courier.Post{Server: s.SMTP, From: s.MailFrom, User: s.SMTPUser, Password: s.SMTPPassword}
		a.agenda.Mail, a.accounts.Mail = post, post
	}
}

// connect is the way to a site, by the token that is kept for it.
func (a *app) connect(site query.Site) (*courier.Site, error) {
	token, err := a.keys.Unseal(site.Token)
	if err != nil {
		return nil, fmt.Errorf("the token of %s: %w", site.Name, err)
	}
	return courier.Connect(site.BaseUrl, token)
}

// publicURL is the address under which students reach the pages, without a slash at its end.
func (s settings) publicURL() string {
	return strings.TrimSuffix(cmp.Or(s.PublicURL, "http://"+s.Addr), "/")
}

func (a *app) close() {
	a.tools.Close()
	a.db.Close()
}

func (a *app) server() *httpapi.Server {
	figures := prometheus.NewRegistry()
	figures.MustRegister(collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	figures.MustRegister(prometheus.NewCounterFunc(prometheus.CounterOpts{
		Name: "orario_transactions_again_total",
		Help: "Transactions tried again after a deadlock or a wait for a lock.",
	}, func() float64 { return float64(mariadb.TriedAgain()) }))
	return &httpapi.Server{
		DB:        a.db,
		Accounts:  a.accounts,
		Intake:    a.intake,
		Agenda:    a.agenda,
		Desks:     a.desk,
		Library:   a.library,
		Courses:   a.courses,
		Prepare:   a.prepare,
		Submit:    a.submit,
		Review:    a.review,
		Workshop:  a.workshop,
		Contents:  a.contents,
		Log:       a.log,
		Pages:     web.Pages(),
		Secure:    strings.HasPrefix(a.settings.PublicURL, "https://"),
		Demo:      a.settings.Demo,
		Figures:   figures,
		Proxies:   a.settings.Proxies,
		PublicURL: strings.TrimSuffix(a.settings.PublicURL, "/"),
	}
}

func (a *app) runner(figures *prometheus.Registry) *mariadb.Runner {
	done := prometheus.NewCounterVec(
		prometheus.CounterOpts{Name: "orario_jobs_total", Help: "Jobs run, by kind and outcome."},
		[]string{"kind", "outcome"},
	)
	figures.MustRegister(done)
	r := &mariadb.Runner{
		DB: a.db, Log: a.log, Now: a.now, Workers: a.settings.Workers, First: submit.CarryJob,
		Handlers: map[string]mariadb.Handler{
			intake.SyncJob: a.intake.Sync, prepare.LookJob: a.prepare.LookAgain,
			submit.CarryJob: a.submit.Carry, submit.ProveJob: a.submit.Prove,
			submit.ReconcileJob: a.submit.Reconcile, submit.RefusedJob: a.submit.LookAgain,
			workshop.Job:   a.workshop.Run,
			intake.FeedJob: a.intake.FetchFeed, announce.RemindJob: a.agenda.Remind, mariadb.PurgeJob: a.purge,
			account.ResetJob: a.accounts.MailReset,
			submit.ReportJob: a.review.FetchReport, submit.ReturnJob: a.review.FetchReturn,
		},
		GiveUp: map[string]mariadb.Handler{
			intake.FeedJob: a.intake.GiveUpFeed, intake.SyncJob: a.intake.RestSite,
			workshop.Job: a.workshop.GiveUp,
		},
		Done: func(kind string, err error) {
			outcome := "done"
			if err != nil {
				outcome = "failed"
			}
			done.WithLabelValues(kind, outcome).Inc()
		},
	}
	for _, j := range prepare.Jobs {
		r.Handlers[j.Fix], r.GiveUp[j.Fix] = a.prepare.Convert, a.prepare.GiveUpConvert
	}
	return r
}

// inUse are the columns that refer to contents by their digest.
var inUse = []string{"version.digest", "handout.digest", "submission_file.digest", "workpiece_file.digest",
	"laid_out.made"}

// purge is the handler of [mariadb.PurgeJob]: it takes out what has had its time, once an hour.
func (a *app) purge(ctx context.Context, _ query.Job) (time.Duration, error) {
	a.tools.Sweep()
	rows, err := a.db.Purge(ctx, a.now())
	if err != nil {
		return 0, err
	}
	uploads, contents, err := a.contents.Purge(ctx, a.now(), inUse...)
	a.log.Info("purged", "rows", rows, "uploads", uploads, "contents", contents)
	return time.Hour, err
}

// openCampus connects the practice campus to its own database.
func openCampus(
	ctx context.Context,
	s settings,
	tools *convert.Tools,
	log *slog.Logger,
) (*campus.Campus, *mariadb.DB, error) {
	db, err := mariadb.Open(ctx, s.DB, s.CampusDatabase, campus.Migrations)
	if err != nil {
		return nil, nil, err
	}
	site, err := campus.New(ctx, db.SQL, tools, log)
	return site, db, err
}
