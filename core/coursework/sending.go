package coursework

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"time"

	"orario/core/brief"
	"orario/core/finding"
	"orario/core/timing"
)

// MayGoOn says whether the site would take another attempt, and if not, why.
func (s *Standing) MayGoOn() (yes bool, why string) {
	last, sent := s.Part.Last()
	if state, _ := s.Window.At(s.Now, s.Late); state == timing.Closed {
		return false, "it is closed"
	}
	switch most := s.Sheet.Attempts.Max; {
	case !sent:
		return true, ""
	case most > 0 && s.Number > most:
		return false, used(most)
	case s.Sheet.Attempts.Invitation && (last.Return == nil || !last.Return.Invited):
		return false, "another attempt needs an invitation"
	}
	return true, ""
}

func used(attempts int) string {
	switch attempts {
	case 1:
		return "the only attempt is used"
	case 2:
		return "both attempts are used"
	}
	return fmt.Sprintf("all %d attempts are used", attempts)
}

// AttemptsLeft is how many attempts are left, the one being prepared included; limited says whether they are counted.
func (s *Standing) AttemptsLeft() (n int, limited bool) {
	most := s.Sheet.Attempts.Max
	return max(0, most-s.Number+1), most > 0
}

// MaySend says what is in the way of sending the bundle now, in a sentence that says what to do; empty: nothing.
func (s *Standing) MaySend(declared bool) string {
	if !s.BySite() {
		return "No connected site takes this one. Send it as the instructions say, and note it as sent."
	}
	if s.Sending {
		return "This attempt is being sent already."
	}
	if may, why := s.MayGoOn(); !may {
		return "Nothing more can be sent here: " + why + "."
	}
	switch must := brief.MustFix(s.Findings); {
	case must == 1:
		first := slices.IndexFunc(s.Findings, func(f brief.Finding) bool { return f.Weight == finding.Must })
		return "One thing must be fixed first: " + s.Findings[first].Message
	case must > 1:
		return fmt.Sprintf("%d things must be fixed first.", must)
	}
	if s.Sheet.Declaration != "" && !declared {
		return "Confirm the declaration first."
	}
	return ""
}

// Mark tells one state of the bundle from another: its files, their order, slots and names.
func (s *Standing) Mark() string {
	sum := sha256.New()
	for _, i := range s.Items {
		fmt.Fprintf(sum, "%d %d %q %q\n", i.ID, i.Version, i.Slot, i.Name)
	}
	return hex.EncodeToString(sum.Sum(nil)[:8])
}

// Outcome is what came of it, in a few words; empty: nothing yet.
func (s *Standing) Outcome() string {
	last, sent := s.Part.Last()
	switch {
	case !sent && s.Part.Noted != nil:
		return "you say so; no proof"
	case !sent:
		return ""
	case last.Return != nil && last.Return.Mark != nil:
		return fmt.Sprintf("%g of %g", *last.Return.Mark, last.Return.Points)
	case last.Report != nil && last.Report.Ready:
		return fmt.Sprintf("report: %.0f %%", 100*last.Report.Share)
	}
	return ""
}

// NothingLate is the price of lateness where late work is not taken.
const NothingLate = "nothing is taken late"

// Price says what lateness costs, as it is written beside the late stretch.
func Price(r timing.Rule) string {
	if r.Percent == 0 && r.Kind != timing.Steps && r.Kind != timing.NoLateWork {
		return "taken late"
	}
	of := map[string]string{"earned": " %", "possible": " %", "points": " points"}[r.Of]
	amount := fmt.Sprintf("−%g%s", r.Percent, of)
	switch r.Kind {
	case timing.Fixed:
		return amount
	case timing.PerDay:
		return amount + " a day"
	case timing.PerHours:
		return fmt.Sprintf("%s per %g h", amount, r.Hours)
	case timing.Steps:
		return "costs more with time"
	}
	return NothingLate
}

// Job is what sending needs before the due time.
func (s *Standing) Job(margin time.Duration) timing.Job {
	j := timing.Job{
		Bytes:       usualBytes,
		Rate:        usualRate,
		Fix:         usualFix,
		Margin:      margin,
		FirstReport: s.FirstReport,
		LaterReport: s.LaterReport,
	}
	if len(s.Items) > 0 {
		j.Bytes = s.Bytes()
	}
	if site := s.Course.Site; site != nil && s.BySite() && site.Rate > 0 {
		j.Rate = site.Rate
	}
	if s.Crowded {
		j.Rate /= rushFactor
	}
	if s.Sheet.Report != nil {
		j.Rounds = 1
	}
	return j
}
