package campus_test

import (
	"context"
	"net"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/internal/courier"
	"orario/internal/worldtest"
)

// A mail goes out by SMTP, over the loopback, and lies in the campus's mailbox.
func TestMailsArriveInTheMailbox(t *testing.T) {
	w := worldtest.New(t)
	ctx, stop := context.WithCancel(context.Background())
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	ended := make(chan error, 1)
	go func() { ended <- w.Campus.ServeMail(ctx, listener) }()
	post := courier.Post{Server: listener.Addr().String(), From: "reminders@orario.example"}
	require.NoError(
		t,
		post.Send(
			ctx,
			"nerea@alvarim.example",
			"Tide tables: due tonight – prüfe",
			"Send it.\r\n.\r\nThe dot is not the end.",
		),
	)
	var to, subject, body string
	require.NoError(
		t,
		w.CampusDB.SQL.QueryRow("SELECT recipient, subject, body FROM mail ORDER BY id DESC LIMIT 1").
			Scan(&to, &subject, &body),
	)
	assert.Equal(t, "nerea@alvarim.example", to)
	assert.Equal(t, "Tide tables: due tonight – prüfe", subject)
	assert.Contains(t, body, "The dot is not the end.")
	assert.Contains(t, body, "Message-ID:")
	stop()
	assert.NoError(t, <-ended)
	assert.Error(t, post.Send(context.Background(), "nerea@alvarim.example", "x", "y"), "nobody is there any more")
	assert.Error(
		t,
		courier.Post{Server: "nowhere", From: "a@b.example"}.Send(context.Background(), "c@d.example", "x", "y"),
	)
}
