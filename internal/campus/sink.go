package campus

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"mime"
	"net"
	"net/mail"
	"strings"
	"time"

	"github.com/emersion/go-smtp"
)

// ServeMail takes mail by SMTP (RFC 5321) at an address until ctx ends, and delivers it nowhere: it lies in
// the campus's mailbox to be looked at.
func (c *Campus) ServeMail(ctx context.Context, listener net.Listener) error {
	server := smtp.NewServer(
		smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &delivery{campus: c, ctx: ctx}, nil }),
	)
	server.Domain = "campus.example"
	server.ReadTimeout, server.WriteTimeout = 20*time.Second, 20*time.Second
	server.MaxMessageBytes, server.MaxRecipients = 1<<20, 10
	server.ErrorLog = slog.NewLogLogger(c.log.Handler(), slog.LevelWarn)
	stop := context.AfterFunc(ctx, func() { _ = server.Close() })
	defer stop()
	if err := server.Serve(listener); err != nil && ctx.Err() == nil && !errors.Is(err, smtp.ErrServerClosed) {
		return fmt.Errorf("taking mail: %w", err)
	}
	return nil
}

// delivery is one SMTP session.
type delivery struct {
	campus *Campus
	ctx    context.Context
	to     []string
}

func (d *delivery) Mail(string, *smtp.MailOptions) error { return nil }

func (d *delivery) Rcpt(to string, _ *smtp.RcptOptions) error {
	d.to = append(d.to, to)
	return nil
}

func (d *delivery) Data(r io.Reader) error {
	text, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	m, err := mail.ReadMessage(strings.NewReader(string(text)))
	if err != nil {
		return &smtp.SMTPError{Code: 554, Message: "That is no message of RFC 5322."}
	}
	subject, err := new(mime.WordDecoder).DecodeHeader(m.Header.Get("Subject"))
	if err != nil {
		subject = m.Header.Get("Subject")
	}
	for _, to := range d.to {
		_, err := d.campus.db.ExecContext(
			d.ctx,
			"INSERT INTO mail (recipient, subject, body, sent_at) VALUES (?, ?, ?, ?)",
			clip(to, 200),
			clip(subject, 200),
			string(text),
			time.Now().UTC(),
		)
		if err != nil {
			return err
		}
	}
	return nil
}

func (d *delivery) Reset() { d.to = nil }

func (d *delivery) Logout() error { return nil }

func clip(text string, most int) string {
	if runes := []rune(text); len(runes) > most {
		return string(runes[:most])
	}
	return text
}
