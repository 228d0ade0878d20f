package main

import (
	"context"
	"fmt"
	"os"
	"time"

	"github.com/spf13/cobra"

	"orario/core/wording"
	"orario/internal/doctor"
	"orario/internal/mariadb"
)

func backupCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "backup FILE",
		Short: "Write everything, files too, into one file, while Orario runs; keep the key beside it",
		Args:  takes(1, 1),
		RunE: func(cmd *cobra.Command, args []string) error {
			s, err := readSettings()
			if err != nil {
				return err
			}
			last := time.Now()
			return mariadb.Backup(cmd.Context(), s.DB, s.Database, args[0], func(bytes int64) {
				if time.Since(last) > time.Second {
					last = time.Now()
					fmt.Fprintf(os.Stderr, "%s are written\n", wording.Bytes(bytes))
				}
			})
		},
	}
}

func restoreCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "restore FILE",
		Short: "Bring a backup into an empty database, and look whether it is whole",
		Args:  takes(1, 1),
		RunE: func(cmd *cobra.Command, args []string) error {
			s, err := readSettings()
			if err != nil {
				return err
			}
			if err := mariadb.Restore(cmd.Context(), s.DB, s.Database, args[0]); err != nil {
				return err
			}
			return withApp(nil, func(ctx context.Context, a *app) error {
				fmt.Fprintln(os.Stderr, "It is in. Every content is read and compared with its digest…")
				n, err := a.contents.Verify(ctx)
				if err != nil {
					return err
				}
				fmt.Printf("%s agree with their digests\n", wording.Count(n, "content", "contents"))
				return a.doctor(ctx)
			})(cmd, nil)
		},
	}
}

func doctorCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "doctor",
		Short: "Look at the installation, and say what is not as it should be",
		Args:  cobra.NoArgs,
		RunE:  withApp(nil, func(ctx context.Context, a *app) error { return a.doctor(ctx) }),
	}
}

// doctor prints what is found; if anything is bad, the answer is no.
func (a *app) doctor(ctx context.Context) error {
	found, err := doctor.Case{
		DB:     a.db,
		Unseal: a.keys.Unseal,
		Work:   a.settings.Work,
		Margin: a.settings.Margin * 1e6,
		InUse:  inUse,
		Now:    time.Now(),
	}.Look(ctx)
	bad := false
	for _, f := range found {
		mark := "      "
		if f.Bad {
			mark, bad = "BAD   ", true
		}
		fmt.Println(mark + f.Text)
	}
	if err == nil && bad {
		err = errNo
	}
	return err
}
