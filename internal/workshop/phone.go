package workshop

import (
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"rsc.io/qr"

	"orario/core/wording"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/vault"
)

// PassLife is how long a telephone may photograph into a slot.
const PassLife = 15 * time.Minute

// A Pass lets one browser put photographs into one slot, without signing in.
type Pass struct {
	ID    int64     `json:"id"`
	URL   string    `json:"url"`
	Code  string    `json:"code"` // the address as a QR code (ISO/IEC 18004): the path of an SVG
	Size  int       `json:"size"` // of its sides, with the quiet zone of four modules
	Until time.Time `json:"until"`
}

// quiet is the margin of a QR code, in modules (ISO/IEC 18004, 6.3.8).
const quiet = 4

// GivePass gives a pass for a slot. base is the address under which telephones reach Orario.
func (s Service) GivePass(ctx context.Context, student, assignment, part int64, slot, base string) (*Pass, error) {
	state, err := s.Bundles.State(ctx, student, assignment, part)
	if err != nil {
		return nil, err
	}
	if may, why := state.MayGoOn(); !may {
		return nil, refusal.Say("Nothing more can be sent here: %s.", why)
	}
	if _, known := state.Sheet.Slot(slot); !known && slot != "" {
		return nil, refusal.Say("The brief has no slot %q.", wording.Clip(slot, 80))
	}
	token := rand.Text()
	p := &Pass{URL: base + "/phone/" + token, Until: s.Now().Add(PassLife).UTC()}
	p.ID, err = s.Store.AddPass(ctx, query.AddPassParams{
		Digest: vault.Digest(token), StudentID: student, PartID: state.Part.ID, Slot: slot, EndsAt: p.Until,
	})
	if err != nil {
		return nil, fmt.Errorf("giving a pass: %w", err)
	}
	code, err := qr.Encode(p.URL, qr.M)
	if err != nil {
		return nil, fmt.Errorf("drawing a QR code: %w", err)
	}
	p.Code, p.Size = drawn(code), code.Size+2*quiet
	return p, nil
}

// drawn is the path of a QR code's dark modules, a run in each row as one rectangle.
func drawn(code *qr.Code) string {
	var b strings.Builder
	for y := range code.Size {
		for x := 0; x < code.Size; x++ {
			from := x
			for code.Black(x, y) && x < code.Size {
				x++
			}
			if x > from {
				fmt.Fprintf(&b, "M%d %dh%dv1h-%dz", from+quiet, y+quiet, x-from, x-from)
			}
		}
	}
	return b.String()
}

// A Bearer is who came with a pass, and where to.
type Bearer struct {
	Pass, Student, Assignment, Part int64
	Slot, Title, Course             string
	Came                            int
	Until                           time.Time
}

// Admit says what a pass is for; the first browser that comes with it keeps it. browser is what only that one knows.
func (s Service) Admit(ctx context.Context, token, browser string) (*Bearer, error) {
	row, err := s.Store.Pass(ctx, query.PassParams{Digest: vault.Digest(token), EndsAt: s.Now().UTC()})
	if errors.Is(err, sql.ErrNoRows) {
		return nil, refusal.ErrNotFound
	}
	if err != nil {
		return nil, fmt.Errorf("looking at a pass: %w", err)
	}
	mine := vault.Digest(browser)
	if row.Browser != mine {
		taken := query.TakePassParams{Browser: mine, ID: row.ID}
		if n, err := s.Store.TakePass(ctx, taken); err != nil || n == 0 {
			return nil, errors.Join(err, refusal.ErrNotFound)
		}
	}
	return &Bearer{
		row.ID, row.StudentID, row.AssignmentID, row.PartID, row.Slot, row.Title, row.Code, int(row.Came), row.EndsAt,
	}, nil
}

// Bring puts a photograph that came with a pass into its slot.
func (s Service) Bring(ctx context.Context, b *Bearer, upload string) error {
	if _, err := s.Bundles.AddPhotograph(ctx, b.Student, b.Assignment, b.Part, upload, b.Slot); err != nil {
		return err
	}
	return s.Store.CountPass(ctx, b.Pass)
}

// EndPass ends a pass before its time.
func (s Service) EndPass(ctx context.Context, student, id int64) error {
	return refusal.Unless(s.Store.EndPass(ctx, query.EndPassParams{ID: id, StudentID: student}))
}
