package mariadb

import (
	"context"
	"sync/atomic"
	"time"
)

// How often the database's clock is looked at, how long that may take, and how far a process's clock may be from it
// without anybody minding.
const (
	clockEvery = 10 * time.Second
	clockWait  = 2 * time.Second
	clockSlack = 500 * time.Millisecond
)

// A Clock is a process's own clock, set right by the database's: of several processes, and when one's clock is moved,
// jobs, leases and receipts go by one time. While the database is away it goes on from where it was.
type Clock struct {
	db     *DB
	own    func() time.Time
	offset atomic.Int64 // ns
}

// Clock looks at the database's clock once; [Clock.Keep] keeps looking.
func (d *DB) Clock(ctx context.Context, own func() time.Time) *Clock {
	c := &Clock{db: d, own: own}
	c.look(ctx)
	return c
}

// Now asks nobody.
func (c *Clock) Now() time.Time { return c.own().Add(time.Duration(c.offset.Load())) }

// Keep looks at the database's clock again and again until ctx ends.
func (c *Clock) Keep(ctx context.Context) {
	tick := time.NewTicker(clockEvery)
	defer tick.Stop()
	c.KeepAt(ctx, tick.C)
}

// KeepAt looks at the database's clock at every tick until ctx ends.
func (c *Clock) KeepAt(ctx context.Context, ticks <-chan time.Time) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-ticks:
			c.look(ctx)
		}
	}
}

func (c *Clock) look(ctx context.Context) {
	ctx, cancel := context.WithTimeout(ctx, clockWait)
	defer cancel()
	var there time.Time
	before := c.own()
	if err := c.db.SQL.QueryRowContext(ctx, "SELECT UTC_TIMESTAMP(3)").Scan(&there); err != nil {
		return // it goes on as it was
	}
	middle := before.Add(c.own().Sub(before) / 2)
	offset := there.Sub(middle)
	if offset.Abs() < clockSlack {
		offset = 0
	}
	c.offset.Store(int64(offset))
}
