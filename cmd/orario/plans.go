package main

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"orario/core/planner"
	"orario/core/timing"
)

// scenarioCommand is a command that answers one JSON document.
func scenarioCommand[S, A any](use, short string, answer func(S) (A, error), people func(A)) *cobra.Command {
	var asJSON bool
	cmd := &cobra.Command{Use: use, Short: short, Args: cobra.ExactArgs(1)}
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
		return print(asJSON, a, func() { people(a) })
	}
	return cmd
}

func timingCommand() *cobra.Command {
	return scenarioCommand("timing SCENARIO.json|-", "Windows, late costs and send-by", timing.Scenario.Answer, func(a *timing.Answer) {
		fmt.Printf("send by %s, due %s\n", a.SendBy.At, a.Due)
		for _, at := range a.At {
			fmt.Printf("%s %s\n", at.At, strings.ReplaceAll(string(at.State), "_", " "))
		}
	})
}

func planCommand() *cobra.Command {
	return scenarioCommand("plan TASKS.json|-", "A schedule, latest starts, and what to give up", planner.Scenario.Answer, func(a *planner.Answer) {
		for _, b := range a.Blocks {
			fmt.Printf("%s to %s  %s\n", b.Start, b.End, b.Task)
		}
		if o := a.Overloaded; o != nil {
			fmt.Printf("too much between %s and %s: %g minutes of work, %g of time\n", o.Start, o.End, o.DemandMinutes, o.CapacityMinutes)
			fmt.Printf("fewest to give up: %s; cheapest: %s\n", strings.Join(a.FewestLate, ", "), strings.Join(a.CheapestLate.Tasks, ", "))
		}
	})
}
