package main

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/spf13/cobra"

	"orario/core/brief/prose"
	"orario/core/calendar"
	"orario/core/inspect"
	"orario/core/timing"
	"orario/internal/convert"
)

// scenarioCommand is a command that answers one JSON document.
func scenarioCommand[S, A any](use, short string, answer func(S) (A, error), people func(A)) *cobra.Command {
	var asJSON bool
	cmd := &cobra.Command{Use: use, Short: short, Args: takes(1, 1)}
	cmd.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	cmd.RunE = func(_ *cobra.Command, args []string) error {
		text, err := readFileOrInput(args[0])
		if err != nil {
			return err
		}
		var s S
		if err := decode(text, &s); err != nil {
			return err
		}
		a, err := answer(s)
		if err != nil {
			return err
		}
		return show(asJSON, a, func() { people(a) })
	}
	return cmd
}

func timingCommand() *cobra.Command {
	return scenarioCommand(
		"timing SCENARIO.json|-",
		"Windows, late costs and send-by",
		timingScenario.answer,
		func(a *timingAnswer) {
			fmt.Printf("send by %s, due %s\n", a.SendBy.At, a.Due)
			for _, at := range a.At {
				fmt.Printf("%s %s\n", at.At, strings.ReplaceAll(string(at.State), "_", " "))
			}
		},
	)
}

func planCommand() *cobra.Command {
	return scenarioCommand(
		"plan TASKS.json|-",
		"A schedule, latest starts, and what to give up",
		planScenario.answer,
		func(a *planAnswer) {
			for _, b := range a.Blocks {
				fmt.Printf("%s to %s  %s\n", b.Start, b.End, b.Task)
			}
			if o := a.Overloaded; o != nil {
				fmt.Printf(
					"too much between %s and %s: %g minutes of work, %g of time\n",
					o.Start,
					o.End,
					o.DemandMinutes,
					o.CapacityMinutes,
				)
				fmt.Printf(
					"fewest to give up: %s; cheapest: %s\n",
					strings.Join(a.FewestLate, ", "),
					strings.Join(a.CheapestLate.Tasks, ", "),
				)
			}
		},
	)
}

func briefCommand() *cobra.Command {
	var asJSON bool
	var at, zone string
	cmd := &cobra.Command{Use: "brief FILE|-", Short: "What instructions ask for", Args: takes(1, 1)}
	cmd.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	cmd.Flags().StringVar(&at, "now", "", "the instant that dates without a year count from; this one if left out")
	cmd.Flags().StringVar(&zone, "zone", "UTC", "time zone in which now has its day")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		now, err := instantIn(at, zone)
		if err != nil {
			return err
		}
		text, err := readInstructions(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		reading := prose.Read(text, now)
		return show(asJSON, reading, func() {
			for _, i := range reading.Found {
				value, _ := json.Marshal(i.Value)
				fmt.Printf("%-16s %s %s\n", i.Kind, value, i.Zone)
			}
			for _, q := range reading.Unsettled {
				fmt.Println(q.Question)
			}
		})
	}
	return cmd
}

func calendarCommand() *cobra.Command {
	var asJSON bool
	var from, to, zone string
	cmd := &cobra.Command{
		Use:   "calendar FILE.ics|FILE.csv|-",
		Short: "What is due, out of a calendar or a table",
		Args:  takes(1, 1),
	}
	cmd.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	cmd.Flags().
		StringVar(&from, "from", "", "list what is due from this instant on; with neither --from nor --to, "+
			"recurrences of the year around now")
	cmd.Flags().StringVar(&to, "to", "", "list what is due before this instant")
	cmd.Flags().StringVar(&zone, "zone", "", "time zone of times that name none")
	cmd.RunE = func(_ *cobra.Command, args []string) error {
		data, err := readFileOrInput(args[0])
		if err != nil {
			return err
		}
		var floating *time.Location
		if zone != "" {
			if floating, err = timing.Zone(zone); err != nil {
				return err
			}
		}
		within, err := stretch(from, to, cmp.Or(zone, "UTC"))
		if err != nil {
			return err
		}
		var items []calendar.Item
		var left []calendar.LeftOut
		if strings.EqualFold(filepath.Ext(args[0]), ".csv") ||
			args[0] == "-" && !bytes.Contains(data, []byte("BEGIN:VCALENDAR")) {
			items, err = calendar.FromTable(string(data), within, floating)
		} else {
			items, left, err = calendar.Read(string(data), within, floating)
		}
		if err != nil {
			return fmt.Errorf("%s: %w", args[0], err)
		}
		for _, l := range left {
			fmt.Fprintf(os.Stderr, "left out: %v\n", l)
		}
		return show(asJSON, items, func() {
			for _, i := range items {
				fmt.Printf("%-20s  %-12s %s %s\n", i.Due, i.Course, i.Title, i.Status)
			}
		})
	}
	return cmd
}

// stretch bounds a list by two instants, either of which may be empty: then it goes a year from the other.
func stretch(from, to, zone string) (calendar.Stretch, error) {
	if from == "" && to == "" {
		return calendar.Around(time.Now()), nil
	}
	s := calendar.Stretch{Fixed: true}
	var err error
	if from != "" {
		if s.From, err = instantIn(from, zone); err != nil {
			return s, err
		}
	}
	if to != "" {
		if s.To, err = instantIn(to, zone); err != nil {
			return s, err
		}
	}
	switch {
	case from == "":
		s.From = s.To.AddDate(-1, 0, 0)
	case to == "":
		s.To = s.From.AddDate(1, 0, 0)
	}
	if !s.From.Before(s.To) {
		return s, errors.New("--from must be before --to")
	}
	return s, nil
}

// instantIn is an instant with its fields in a zone; empty text means now, a wall time is read in the zone.
func instantIn(text, zone string) (time.Time, error) {
	location, err := timing.Zone(zone)
	if err != nil {
		return time.Time{}, err
	}
	if text == "" {
		return time.Now().In(location), nil
	}
	wall, err := timing.ParseWall(text, location)
	if err != nil {
		return time.Time{}, err
	}
	return wall.At().In(location), nil
}

// readInstructions reads a text file or standard input as it is, and any other document's text.
func readInstructions(ctx context.Context, path string) (text string, err error) {
	data, err := readFileOrInput(path)
	if err != nil {
		return "", err
	}
	if utf8.Valid(data) && !bytes.HasPrefix(data, []byte("%PDF")) {
		return string(data), nil
	}
	err = withTools(func(tools *convert.Tools) error {
		text, err = tools.Text(ctx, inspect.Kind(path, data), data)
		return err
	})
	if err != nil {
		return "", fmt.Errorf("%s: %w", path, err)
	}
	return text, nil
}
