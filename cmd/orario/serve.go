package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/spf13/cobra"

	"orario/demo"
	"orario/internal/convert"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/submit"
)

// withApp gives a command everything wired together, by some clock (nil: that of the settings), and closes it
// afterwards.
func withApp(now func() time.Time, run func(context.Context, *app) error) func(*cobra.Command, []string) error {
	return func(cmd *cobra.Command, _ []string) error {
		s, err := readSettings()
		if err != nil {
			return err
		}
		a, err := wire(cmd.Context(), s, now)
		if err != nil {
			return err
		}
		defer a.close()
		return run(cmd.Context(), a)
	}
}

func serveCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "serve",
		Short: "Serve Orario",
		Args:  cobra.NoArgs,
		RunE: withApp(nil, func(ctx context.Context, a *app) error {
			server := a.server()
			handler, err := server.Handler()
			if err != nil {
				return err
			}
			go a.tools.Warm()
			if err := a.agenda.Arm(ctx); err != nil {
				return err
			}
			for _, kind := range []string{mariadb.PurgeJob, submit.ReconcileJob} {
				err := a.db.AddJob(ctx, query.AddJobParams{Kind: kind, RunAt: a.now().UTC()})
				if err != nil {
					return err
				}
			}
			ctx, stop := context.WithCancel(ctx)
			defer stop()
			var jobs sync.WaitGroup
			jobs.Go(func() { a.runner(server.Figures).Run(ctx) })
			jobs.Go(func() { a.clock.Keep(ctx) })
			watched := make(chan error, 1)
			go func() { watched <- watch(ctx, a.settings.MetricsAddr, server.Metrics(), a.log, stop) }()
			err = listen(ctx, a.settings.Addr, handler, a.log)
			stop()
			jobs.Wait()
			return errors.Join(err, <-watched)
		}),
	}
}

func campusCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "campus",
		Short: "Serve the practice campus",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			s, err := readSettings()
			if err != nil {
				return err
			}
			tools, err := convert.New(s.Work)
			if err != nil {
				return err
			}
			defer tools.Close()
			site, db, err := openCampus(cmd.Context(), s, tools, s.logger())
			if err != nil {
				return err
			}
			defer db.Close()
			handler, err := site.Handler()
			if err != nil {
				return err
			}
			post, err := net.Listen("tcp", s.MailAddr)
			if err != nil {
				return fmt.Errorf("the address %s for mail cannot be used: %w", s.MailAddr, err)
			}
			ctx, stop := context.WithCancel(cmd.Context())
			taking := make(chan error, 1)
			go func() { taking <- site.ServeMail(ctx, post) }()
			err = listen(ctx, s.CampusAddr, handler, s.logger())
			stop()
			return errors.Join(err, <-taking)
		},
	}
}

// patience is how long running requests may take to finish when the process is told to stop.
const patience = 10 * time.Second

func init() { gin.SetMode(gin.ReleaseMode) }

// watch serves the figures where they are asked for; it stops everything if that cannot be done.
func watch(ctx context.Context, addr string, figures http.Handler, log *slog.Logger, stop func()) error {
	if addr == "" {
		return nil
	}
	defer stop()
	return listen(ctx, addr, figures, log)
}

// listen serves until ctx ends, then finishes the running requests. Live events end at once.
func listen(ctx context.Context, addr string, handler http.Handler, log *slog.Logger) error {
	listener, err := net.Listen("tcp", addr)
	if err != nil {
		return fmt.Errorf("the address %s cannot be used: %w", addr, err)
	}
	live, endLive := context.WithCancel(context.Background())
	defer endLive()
	server := &http.Server{
		Handler: handler, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute,
		ErrorLog:    slog.NewLogLogger(log.Handler(), slog.LevelWarn),
		BaseContext: func(net.Listener) context.Context { return live },
	}
	failed := make(chan error, 1)
	go func() { failed <- server.Serve(listener) }()
	log.Info("serving", "address", listener.Addr().String())
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	log.Info("stopping")
	stop, cancel := context.WithTimeout(context.Background(), patience)
	defer cancel()
	time.AfterFunc(patience/4, endLive) // streams of events never finish by themselves
	if err := server.Shutdown(stop); err != nil && !errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	return server.Close()
}

func migrateCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "migrate",
		Short: "Bring both databases up to date",
		Args:  cobra.NoArgs,
		RunE: withApp(nil, func(ctx context.Context, a *app) error {
			_, db, err := openCampus(ctx, a.settings, a.tools, a.log)
			if err != nil {
				return err
			}
			return db.Close()
		}),
	}
}

func demoCommand() *cobra.Command {
	clock := &demo.Clock{}
	anew := false
	c := &cobra.Command{
		Use:   "demo",
		Short: "Load the invented scenario into empty databases",
		Args:  cobra.NoArgs,
		PreRunE: func(cmd *cobra.Command, _ []string) error {
			s, err := readSettings()
			if err != nil || !anew {
				return err
			}
			if err := mariadb.DropDemo(cmd.Context(), s.DB, s.Database); err != nil {
				return err
			}
			return mariadb.DropDemo(cmd.Context(), s.DB, s.CampusDatabase)
		},
		RunE: withApp(clock.Now, func(ctx context.Context, a *app) error {
			s := a.settings
			site, db, err := openCampus(ctx, s, a.tools, a.log)
			if err != nil {
				return err
			}
			defer db.Close()
			handler, err := site.Handler()
			if err != nil {
				return err
			}
			// While the scenario is played, the campus answers at its usual address.
			serving, stop := context.WithCancel(ctx)
			ended := make(chan error, 1)
			go func() { ended <- listen(serving, s.CampusAddr, handler, slog.New(slog.DiscardHandler)) }()
			err = demo.Load(ctx, demo.World{
				Clock:     clock,
				DB:        a.db,
				Tools:     a.tools,
				Campus:    site,
				CampusURL: "http://" + s.CampusAddr,
				Accounts:  a.accounts,
				Intake:    a.intake,
				Agenda:    a.agenda,
				Courses:   a.courses,
				Prepare:   a.prepare,
				Submit:    a.submit,
				Review:    a.review,
			})
			stop()
			return errors.Join(err, <-ended)
		}),
	}
	c.Flags().BoolVar(&anew, "anew", false, "drop the databases first, if nothing but the demo is in them")
	return c
}
