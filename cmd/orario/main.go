// Command orario serves Orario and its practice campus, and has the core's tools for the command line.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"github.com/spf13/cobra"
)

// errNo ends a command whose answer is "no", which it has printed.
var errNo = errors.New("no")

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	err := root().ExecuteContext(ctx)
	switch {
	case errors.Is(err, errNo):
		os.Exit(1)
	case err != nil:
		fmt.Fprintln(os.Stderr, "orario: "+err.Error())
		os.Exit(2)
	}
}

func root() *cobra.Command {
	r := &cobra.Command{
		Use:           "orario",
		Short:         "A student's workspace for coursework that has to be sent",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	r.CompletionOptions.DisableDefaultCmd = true
	r.AddCommand(
		serveCommand(),
		campusCommand(),
		migrateCommand(),
		demoCommand(),
		userCommand(),
		siteCommand(),
		backupCommand(),
		restoreCommand(),
		doctorCommand(),
		similarityCommand(),
		verifyCommand(),
		inspectCommand(),
		checkCommand(),
		nameCommand(),
		timingCommand(),
		planCommand(),
		briefCommand(),
		calendarCommand(),
		convertCommand(),
		scanCommand(),
		cleanCommand(),
	)
	return r
}
