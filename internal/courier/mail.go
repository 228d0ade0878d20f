package courier

import (
	"context"
	"fmt"
	"net"
	"strconv"

	"github.com/wneessen/go-mail"
)

// A Post sends mail by SMTP (RFC 5321). Without a user nothing is asked for; TLS is used where the server
// offers it, and with a user always.
type Post struct {
	Server   string // host:port
	From     string
	User     string
	Password string
}

// Send sends one plain text mail.
func (p Post) Send(ctx context.Context, to, subject, text string) error {
	host, port, err := net.SplitHostPort(p.Server)
	if err != nil {
		return fmt.Errorf("the mail server %q: write it like mail.example:587", p.Server)
	}
	number, err := strconv.Atoi(port)
	if err != nil {
		return fmt.Errorf("the mail server's port %q is no number", port)
	}
	m := mail.NewMsg()
	if err := m.From(p.From); err != nil {
		return fmt.Errorf("the address that mail comes from: %w", err)
	}
	if err := m.To(to); err != nil {
		return fmt.Errorf("the address that mail goes to: %w", err)
	}
	m.Subject(subject)
	m.SetDate()
	m.SetMessageID()
	m.SetBodyString(mail.TypeTextPlain, text)
	options := []mail.Option{mail.WithPort(number), mail.WithTLSPortPolicy(mail.TLSOpportunistic)}
	if p.User != "" {
		options = append(
			options,
			mail.WithSMTPAuth(mail.SMTPAuthAutoDiscover),
			mail.WithUsername(p.User),
			mail.WithPassword(p.Password),
			mail.WithTLSPortPolicy(mail.TLSMandatory),
		)
	}
	client, err := mail.NewClient(host, options...)
	if err != nil {
		return fmt.Errorf("the mail server: %w", err)
	}
	// The policy for TLS sets its own port; the one that was given stands.
	if err := mail.WithPort(number)(client); err != nil {
		return err
	}
	return client.DialAndSendWithContext(ctx, m)
}
