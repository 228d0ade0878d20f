package mariadb_test

import (
	"database/sql"
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
		now := db.Clock(func() time.Time { return time.Now().Add(wrong) })
		for range 3 {
			assert.WithinDuration(t, time.Now(), now(), time.Second, "a clock that is wrong by %s", wrong)
		}
	}
	exact := db.Clock(time.Now)
	before := exact()
	assert.False(t, exact().Before(before), "one that is right is left alone")
}

func TestAClockGoesOnWhileTheDatabaseIsAway(t *testing.T) {
	nowhere, err := sql.Open("mysql", "nobody@tcp(127.0.0.1:1)/")
	require.NoError(t, err)
	defer nowhere.Close()
	now := (&mariadb.DB{SQL: nowhere}).Clock(time.Now)
	assert.WithinDuration(t, time.Now(), now(), 3*time.Second)
}
