package worldtest

import (
	"context"
	"fmt"
	"strings"

	"github.com/stretchr/testify/require"

	"orario/internal/intake"
)

// Todo is one VTODO; more holds further lines.
func Todo(uid, due, title, more string) string {
	return "BEGIN:VTODO\r\nUID:" + uid + "\r\nDUE;TZID=Europe/Lisbon:" + due + "\r\nSUMMARY:" + title + "\r\n" +
		more + "END:VTODO\r\n"
}

// Calendar is a calendar of such things.
func Calendar(parts ...string) string {
	return "BEGIN:VCALENDAR\r\nVERSION:2.0\r\n" + strings.Join(parts, "") + "END:VCALENDAR\r\n"
}

// Take takes a calendar or table over.
func (w *World) Take(name, text string) intake.Imported {
	w.T.Helper()
	done, err := w.Intake.Import(
		context.Background(),
		w.Student,
		intake.Import{Upload: w.Upload(name, []byte(text)), Name: name, Purpose: intake.PurposeDue},
	)
	require.NoError(w.T, err)
	return *done
}

// Titles are the lines of the Horizon, with their due times.
func (w *World) Titles() (out []string) {
	w.T.Helper()
	h, err := w.Agenda.Horizon(context.Background(), w.Student)
	require.NoError(w.T, err)
	for _, l := range h.Lines {
		out = append(out, fmt.Sprintf("%s %s %s", l.Course, l.Title, l.Due.Format("2 Jan 15:04")))
	}
	return out
}
