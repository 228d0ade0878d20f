package main

import (
	"bufio"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"orario/internal/account"
	"orario/internal/mariadb/query"
)

func userCommand() *cobra.Command {
	var who account.Student
	add := &cobra.Command{
		Use:   "add",
		Short: "Add an account; the password is read from standard input",
		Args:  cobra.NoArgs,
		RunE: withApp(nil, func(ctx context.Context, a *app) error {
			password, err := secret("", "the password")
			if err != nil {
				return err
			}
			id, err := a.accounts.Add(ctx, who, password, false)
			if err != nil {
				return err
			}
			fmt.Printf("student %d\n", id)
			return a.agenda.Arm(ctx)
		}),
	}
	flags := add.Flags()
	flags.StringVar(&who.Email, "email", "", "e-mail address to sign in with")
	flags.StringVar(&who.Family, "family", "", "family name")
	flags.StringVar(&who.Given, "given", "", "given name")
	flags.StringVar(&who.Number, "number", "", "student number")
	flags.StringVar(&who.Zone, "zone", "", "time zone, such as Europe/Lisbon")
	user := &cobra.Command{Use: "user", Short: "Accounts"}
	user.AddCommand(add, passwordCommand(), removeCommand())
	return user
}

func passwordCommand() *cobra.Command {
	var email string
	c := &cobra.Command{
		Use:   "password",
		Short: "Set an account's password, read from standard input; all its sign-ins end",
		Args:  cobra.NoArgs,
		RunE: withApp(nil, func(ctx context.Context, a *app) error {
			who, err := a.student(ctx, email)
			if err != nil {
				return err
			}
			password, err := secret("", "the new password")
			if err != nil {
				return err
			}
			return a.accounts.SetPassword(ctx, who.ID, 0, password)
		}),
	}
	c.Flags().StringVar(&email, "email", "", "the account's e-mail address")
	return c
}

func removeCommand() *cobra.Command {
	var email string
	c := &cobra.Command{
		Use:   "remove",
		Short: "Remove an account with everything in it; type its e-mail address on standard input to confirm",
		Args:  cobra.NoArgs,
		RunE: withApp(nil, func(ctx context.Context, a *app) error {
			who, err := a.student(ctx, email)
			if err != nil {
				return err
			}
			typed, err := secret("", "the e-mail address once more")
			if err != nil {
				return err
			}
			if !strings.EqualFold(typed, who.Email) {
				return fmt.Errorf("%q is not %s; nothing was removed", typed, who.Email)
			}
			return a.db.RemoveStudent(ctx, who.ID)
		}),
	}
	c.Flags().StringVar(&email, "email", "", "the account's e-mail address")
	return c
}

// secret reads what must not stand among the arguments, where everybody on the machine sees it: from the environment
// or, where that is empty, from a line of standard input.
func secret(env, what string) (string, error) {
	if env != "" {
		if value := os.Getenv(env); value != "" {
			return value, nil
		}
	}
	line, err := bufio.NewReader(os.Stdin).ReadString('\n')
	if err != nil && line == "" {
		return "", fmt.Errorf("type %s on standard input", what)
	}
	return strings.TrimRight(line, "\r\n"), nil
}

func (a *app) student(ctx context.Context, email string) (query.Student, error) {
	who, err := a.db.StudentByEmail(ctx, strings.ToLower(email))
	if errors.Is(err, sql.ErrNoRows) {
		return who, fmt.Errorf("there is no account %q; add it with orario user add", email)
	}
	return who, err
}

func siteCommand() *cobra.Command {
	var email, base string
	add := &cobra.Command{
		Use:   "add",
		Short: "Connect a student's course site; the token is read from ORARIO_SITE_TOKEN or standard input",
		Args:  cobra.NoArgs,
		RunE: withApp(nil, func(ctx context.Context, a *app) error {
			who, err := a.student(ctx, email)
			if err != nil {
				return err
			}
			token, err := secret("ORARIO_SITE_TOKEN", "the token")
			if err != nil {
				return err
			}
			_, err = a.intake.AddSite(ctx, who.ID, base, token)
			return err
		}),
	}
	add.Flags().StringVar(&email, "email", "", "the student's e-mail address")
	add.Flags().StringVar(&base, "url", "", "the site's address")
	site := &cobra.Command{Use: "site", Short: "Course sites"}
	site.AddCommand(add)
	return site
}
