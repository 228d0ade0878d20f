package httpapi

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"orario/internal/announce"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
)

const (
	eventPoll = 500 * time.Millisecond
	heartbeat = 20 * time.Second

	sessionPoll = 2 * time.Second // within which a stream ends after its session

	// unsettledFor is how long after an event was written one with a smaller id may still come: ids are given when a
	// row is written, and it is seen when its transaction commits. None takes nearly as long.
	unsettledFor = 2 * time.Minute
)

// events sends what happens, as server-sent events (WHATWG HTML §9.2), from now on or from the id that
// a reconnecting browser or page names. Events come from a table, so it does not matter which process did what.
// After a reconnection those of the last two minutes may come once more; who hears them goes by their ids. At a first
// connection these come without their text: a page may have been read before it was connected, so it has to look
// again, but they were told at their time.
func (s *Server) events(c *gin.Context) {
	ctx := c.Request.Context()
	heard := &hearing{db: s.DB, student: c.GetInt64(studentKey)}
	last, err := strconv.ParseInt(cmp.Or(c.GetHeader("Last-Event-ID"), c.Query("after")), 10, 64)
	missed, err := heard.begin(ctx, last, err == nil)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Type", "text/event-stream")
	c.Header("X-Accel-Buffering", "no")
	fmt.Fprintf(c.Writer, "retry: 2000\n\n")
	for _, e := range missed {
		e.Text = ""
		write(c.Writer, e)
	}
	c.Writer.Flush()
	quiet, asked := time.Now(), time.Now()
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(eventPoll):
		}
		list, err := heard.next(ctx)
		if err != nil {
			return // the browser connects again
		}
		for _, e := range list {
			write(c.Writer, e)
			quiet = time.Now()
		}
		if time.Since(asked) > sessionPoll {
			if lives, err := s.Accounts.Lives(ctx, c.GetInt64(sessionKey)); err != nil || !lives {
				return // the browser connects again, and is told to sign in
			}
			asked = time.Now()
		}
		if time.Since(quiet) > heartbeat {
			quiet = time.Now()
			fmt.Fprint(c.Writer, ": \n\n")
		}
		c.Writer.Flush()
	}
}

func write(w io.Writer, e query.Event) {
	text, _ := json.Marshal(map[string]any{
		"kind":       e.Kind,
		"assignment": e.AssignmentID,
		"text":       e.Text,
		"pages":      announce.Pages(e.Kind),
	}) // plain values
	fmt.Fprintf(w, "id: %d\ndata: %s\n\n", e.ID, text)
}

// A hearing is what a stream has heard of a student's events: all up to an id, and those that it names above it.
type hearing struct {
	db      *mariadb.DB
	student int64
	upTo    int64
	above   map[int64]bool
	mark    query.EventsMarkRow // of those above when they were last read
}

// begin has a hearing go on after an id, or from now on; then it gives what happened just before.
func (h *hearing) begin(ctx context.Context, last int64, named bool) (missed []query.Event, err error) {
	h.above = map[int64]bool{}
	if err = h.settle(ctx); err != nil {
		return nil, err
	}
	if named {
		h.upTo = min(h.upTo, last)
		return nil, nil
	}
	return h.next(ctx)
}

// settle forgets the names of what is old enough that nothing can come below it any more.
func (h *hearing) settle(ctx context.Context) error {
	settled, err := h.db.EventsSettled(ctx, query.EventsSettledParams{
		StudentID: h.student, Seconds: int64(unsettledFor / time.Second),
	})
	if err != nil {
		return err
	}
	h.upTo, h.mark = max(h.upTo, settled), query.EventsMarkRow{}
	for id := range h.above {
		if id <= h.upTo {
			delete(h.above, id)
		}
	}
	return nil
}

// next gives what was not heard before, by id.
func (h *hearing) next(ctx context.Context) (fresh []query.Event, err error) {
	mark, err := h.db.EventsMark(ctx, query.EventsMarkParams{StudentID: h.student, ID: h.upTo})
	if err != nil || mark == h.mark {
		return nil, err
	}
	for from := h.upTo; ; {
		list, err := h.db.EventsAfter(ctx, query.EventsAfterParams{StudentID: h.student, ID: from})
		if err != nil {
			return nil, err
		}
		for _, e := range list {
			if from = e.ID; !h.above[e.ID] {
				h.above[e.ID] = true
				fresh = append(fresh, e)
			}
		}
		if len(list) == 0 {
			break
		}
	}
	h.mark = mark
	if len(h.above) > manyAbove {
		err = h.settle(ctx)
	}
	return fresh, err
}

// manyAbove is how many names are kept before those that are settled are forgotten.
const manyAbove = 200
