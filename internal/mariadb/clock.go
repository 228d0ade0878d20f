package mariadb

import (
	"context"
	"sync"
	"time"
)

// How often the database's clock is looked at, how long that may take, and how far a process's clock may be from it
// without anybody minding.
const (
	clockEvery = 30 * time.Second
	clockWait  = 2 * time.Second
	clockSlack = 500 * time.Millisecond
)

// Clock is a process's own clock, set right by the database's: of several processes, and when one's clock is moved,
// jobs, leases and receipts go by one time. While the database is away it goes on from where it was.
func (d *DB) Clock(own func() time.Time) func() time.Time {
	var mu sync.Mutex // held while the fields below change
	var measuring sync.Mutex
	var offset time.Duration
	var last time.Time // by the monotonic clock
	look := func() {
		ctx, cancel := context.WithTimeout(context.Background(), clockWait)
		defer cancel()
		var there time.Time
		before := own()
		err := d.SQL.QueryRowContext(ctx, "SELECT UTC_TIMESTAMP(3)").Scan(&there)
		middle := before.Add(own().Sub(before) / 2)
		mu.Lock()
		defer mu.Unlock()
		last = time.Now()
		if err != nil {
			last = last.Add(clockWait - clockEvery) // soon again
			return
		}
		if offset = there.Sub(middle); offset.Abs() < clockSlack {
			offset = 0
		}
	}
	return func() time.Time {
		mu.Lock()
		old := last.IsZero() || time.Since(last) > clockEvery
		mu.Unlock()
		if old && measuring.TryLock() {
			look()
			measuring.Unlock()
		}
		mu.Lock()
		defer mu.Unlock()
		return own().Add(offset)
	}
}
