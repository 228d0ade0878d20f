package mariadb_test

import (
	"context"
	"database/sql"
	"net"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/internal/mariadb"
	"orario/internal/mariadb/mariadbtest"
)

func TestAWrongClockIsSetRightByTheDatabase(t *testing.T) {
	db := mariadbtest.Orario(t)
	for _, wrong := range []time.Duration{0, 10 * time.Minute, -7 * time.Hour} {
		now := db.Clock(t.Context(), func() time.Time { return time.Now().Add(wrong) }).Now
		for range 3 {
			assert.WithinDuration(t, time.Now(), now(), time.Second, "a clock that is wrong by %s", wrong)
		}
	}
	exact := db.Clock(t.Context(), time.Now).Now
	before := exact()
	assert.False(t, exact().Before(before), "one that is right is left alone")
}

func TestAClockGoesOnWhileTheDatabaseIsAway(t *testing.T) {
	nowhere, err := sql.Open("mysql", "nobody@tcp(127.0.0.1:1)/")
	require.NoError(t, err)
	defer nowhere.Close()
	now := (&mariadb.DB{SQL: nowhere}).Clock(t.Context(), time.Now).Now
	assert.WithinDuration(t, time.Now(), now(), 3*time.Second)
}

func TestWhoAsksForTheTimeWaitsForNobody(t *testing.T) {
	silent, err := net.Listen("tcp", "127.0.0.1:0") // takes connections and says nothing
	require.NoError(t, err)
	defer silent.Close()
	hangs, err := sql.Open("mysql", "nobody@tcp("+silent.Addr().String()+")/")
	require.NoError(t, err)
	defer hangs.Close()
	clock := (&mariadb.DB{SQL: hangs}).Clock(t.Context(), time.Now)
	begun := time.Now()
	for range 1000 {
		clock.Now()
	}
	assert.Less(t, time.Since(begun), time.Second, "asking the database would take two seconds")
}

func TestAClockIsSetRightWhileItRuns(t *testing.T) {
	db := mariadbtest.Orario(t)
	var ahead atomic.Int64
	clock := db.Clock(t.Context(), func() time.Time { return time.Now().Add(time.Duration(ahead.Load())) })
	ahead.Store(int64(time.Hour))
	ctx, stop := context.WithCancel(t.Context())
	ticks := make(chan time.Time)
	done := make(chan struct{})
	go func() { clock.KeepAt(ctx, ticks); close(done) }()
	ticks <- time.Now()
	ticks <- time.Now() // the first was looked at
	assert.WithinDuration(t, time.Now(), clock.Now(), time.Second)
	stop()
	<-done
}
