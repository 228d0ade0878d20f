package main

import (
	"cmp"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/spf13/cobra"

	"orario/core/brief"
	"orario/core/finding"
	"orario/core/naming"
	"orario/core/timing"
	"orario/internal/convert"
)

// A writtenBrief is what an assignment asks for, as a document: its slots and what holds for all files; the fields of
// names; and, if time is to be checked as well, its window.
type writtenBrief struct {
	Slots         []brief.Slot      `json:"slots"`
	Name          string            `json:"name"`
	PlainNames    bool              `json:"plain_names"`
	MaxTotalBytes int64             `json:"max_total_bytes"`
	Report        *brief.Report     `json:"report"`
	Fields        map[string]string `json:"fields"`
	Handouts      map[string]string `json:"handouts"` // names by SHA-256
	Zone          string            `json:"zone"`
	Opens         string            `json:"opens"`
	Due           string            `json:"due"`
	Closes        string            `json:"closes"`
	GraceMinutes  int               `json:"grace_minutes"`
	Late          *writtenRule      `json:"late"`
}

// bundle is what it asks for, to be held against files.
func (w writtenBrief) bundle(now time.Time) (b brief.Bundle, err error) {
	b = brief.Bundle{
		Sheet: brief.Sheet{
			Slots: w.Slots, Name: w.Name, PlainNames: w.PlainNames, MaxTotalBytes: w.MaxTotalBytes, Report: w.Report,
		},
		Fields: naming.Fields{}, Handouts: w.Handouts, Now: now,
	}
	if len(w.Slots) == 0 {
		b.Sheet.Slots = []brief.Slot{{Name: "work", Required: true}}
	}
	for _, slot := range w.Slots {
		if slot.Name == "" || slot.MaxBytes < 0 || slot.Most < 0 {
			return b, errors.New("slots: each has a name, and nothing in it is negative")
		}
	}
	if w.MaxTotalBytes < 0 || w.GraceMinutes < 0 {
		return b, errors.New("max_total_bytes and grace_minutes must not be negative")
	}
	for k, v := range w.Fields {
		b.Fields[k] = v
	}
	if w.Name != "" {
		p, err := naming.Parse(w.Name)
		if err != nil {
			return b, fmt.Errorf("name: %w", err)
		}
		for _, field := range p.Needs() {
			if _, known := b.Fields[field]; !known && !slices.Contains([]string{"slot", "ext"}, field) {
				return b, fmt.Errorf("name: fields lacks %q", field)
			}
		}
	}
	b.Late = timing.Rule{Kind: timing.NoLateWork}
	if w.Late != nil {
		b.Late = w.Late.rule()
		if err := b.Late.Validate(); err != nil {
			return b, fmt.Errorf("late: %w", err)
		}
	}
	if w.Due == "" { // without a window it is open for ever
		far := now.AddDate(100, 0, 0).UTC().Format("2006-01-02T15:04")
		b.Window, err = timing.ParseWindow("UTC", "", far, "", 0)
		b.SendBy = now.AddDate(100, 0, 0)
		return b, err
	}
	if b.Window, err = timing.ParseWindow(cmp.Or(w.Zone, "UTC"), w.Opens, w.Due, w.Closes, w.GraceMinutes); err != nil {
		return b, err
	}
	b.SendBy, _, _ = timing.SendBy(b.Window.Due.At(), timing.Job{Margin: timing.UsualMargin})
	return b, nil
}

// evidence is what a finding rests on and what mends it.
type evidence struct {
	Slot    string `json:"slot,omitempty"`
	Fix     string `json:"fix,omitempty"`     // what one press in the application does
	Becomes string `json:"becomes,omitempty"` // the name afterwards
}

type checked struct {
	Code     string         `json:"code"`
	Weight   finding.Weight `json:"weight"`
	File     string         `json:"file"` // empty: the bundle as a whole, or a slot
	Message  string         `json:"message"`
	Evidence evidence       `json:"evidence"`
}

func checkCommand() *cobra.Command {
	var path, at string
	var asJSON bool
	cmd := &cobra.Command{
		Use:   "check --brief BRIEF.json FILE...",
		Short: "Hold files against what an assignment asks for",
	}
	cmd.Flags().StringVar(&path, "brief", "", "what is asked for; docs/formats.md tells how it is written")
	cmd.Flags().StringVar(&at, "now", "", "the time that counts; else it is the clock's")
	cmd.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if path == "" {
			return errors.New("name what is asked for with --brief BRIEF.json")
		}
		text, err := os.ReadFile(path)
		if err != nil {
			return unreadable(path, err)
		}
		var w writtenBrief
		if err := decode(text, &w); err != nil {
			return fmt.Errorf("%s: %w", path, err)
		}
		now := time.Now()
		if at != "" {
			if now, err = instantIn(at, cmp.Or(w.Zone, "UTC")); err != nil {
				return err
			}
		}
		b, err := w.bundle(now)
		if err != nil {
			return fmt.Errorf("%s: %w", path, err)
		}
		return withTools(func(tools *convert.Tools) error {
			filled := map[string]int{}
			for n, file := range args {
				data, err := os.ReadFile(file)
				if err != nil {
					return unreadable(file, err)
				}
				facts, err := tools.Facts(cmd.Context(), file, data)
				if err != nil {
					return fmt.Errorf("%s: %w", file, err)
				}
				slot := b.Sheet.SlotFor(facts.Kind, filled)
				filled[slot]++
				b.Items = append(b.Items, brief.Item{
					ID: int64(n + 1), Slot: slot, Name: filepath.Base(file), Facts: facts,
				})
			}
			return tellChecked(asJSON, brief.Check(b), args)
		})
	}
	return cmd
}

func tellChecked(asJSON bool, found []brief.Finding, files []string) error {
	result := struct {
		Findings []checked `json:"findings"`
	}{[]checked{}}
	for _, f := range found {
		c := checked{
			Code: f.Code, Weight: f.Weight, Message: f.Message, Evidence: evidence{f.Slot, f.Fix, f.Becomes},
		}
		if f.Item > 0 {
			c.File = files[f.Item-1]
		}
		result.Findings = append(result.Findings, c)
	}
	err := show(asJSON, result, func() {
		for _, c := range result.Findings {
			fmt.Printf("%-6s %-16s %s  %s\n", c.Weight, c.Code, c.File, c.Message)
		}
		if len(result.Findings) == 0 {
			fmt.Println("everything is as it is asked for")
		}
	})
	if err == nil && brief.MustFix(found) > 0 {
		err = errNo
	}
	return err
}
