package roster

import (
	"slices"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"orario/core/agenda"
	"orario/internal/mariadb/query"
)

// Rosters that were read lately are kept with what was noted as changed by then. A roster is the same as long as the
// notes are: the database writes one with each change of what a roster is read from (package mariadb, watch.go), so
// that what another program changes is seen as well.
var rosters, _ = lru.New[whose, reading](rostersKept)

// rostersKept is how many: of some hundred assignments each, a megabyte or two.
const rostersKept = 64

type whose struct {
	store   Store
	student int64
}

type reading struct {
	of     query.TouchedRow
	roster *Roster
}

func remember(s Store, student int64, of query.TouchedRow, r *Roster) {
	kept := *r
	rosters.Add(whose{s, student}, reading{of, &kept})
}

// remembered is the roster that was read when the same was noted, as it is now; nil if there is none.
func remembered(s Store, student int64, of query.TouchedRow, now time.Time) *Roster {
	kept, ok := rosters.Get(whose{s, student})
	if !ok || kept.of != of || now.Before(kept.roster.Now) {
		return nil
	}
	r := *kept.roster
	r.Now = now
	over := func(b agenda.Busy) bool { return !b.End.After(now) }
	if slices.ContainsFunc(r.Busy, over) {
		r.Busy = slices.DeleteFunc(slices.Clone(r.Busy), over)
	}
	return &r
}
