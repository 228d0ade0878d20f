package planner_test

import (
	"fmt"
	"time"

	"orario/core/planner"
)

func ExampleSchedule() {
	nine := time.Date(2026, 11, 2, 9, 0, 0, 0, time.UTC)
	evenings := []planner.Interval{
		{Start: nine.Add(8 * time.Hour), End: nine.Add(10 * time.Hour)},
		{Start: nine.Add(32 * time.Hour), End: nine.Add(34 * time.Hour)},
	}
	tasks := []planner.Task{
		{ID: 1, Release: nine, Deadline: nine.Add(72 * time.Hour), Left: time.Hour},
		{ID: 2, Release: nine, Deadline: nine.Add(33 * time.Hour), Left: 150 * time.Minute},
	}
	blocks, out := planner.Schedule(nine, evenings, tasks, 0)
	for _, b := range blocks {
		fmt.Println(b.Task, b.Start.Format("Mon 15:04"), b.End.Format("15:04"))
	}
	fmt.Println(len(out), planner.FindOverload(nine, evenings, tasks))
	// Output:
	// 2 Mon 17:00 19:00
	// 2 Tue 17:00 17:30
	// 1 Tue 17:30 18:30
	// 0 <nil>
}
