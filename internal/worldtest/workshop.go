package worldtest

import (
	"bytes"
	"context"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"
	"testing"

	"github.com/stretchr/testify/require"

	"orario/internal/mariadb/query"
	"orario/internal/workshop"
)

// Work has a tool of the Workshop make something, and does its job.
func (w *World) Work(assignment int64, tool string, versions []int64, wishes workshop.Wishes) *workshop.Workpiece {
	w.T.Helper()
	ctx := context.Background()
	piece, err := w.Workshop.Begin(ctx, w.Student, assignment, 0, tool, versions, wishes)
	require.NoError(w.T, err)
	jobs, err := w.DB.JobsOf(ctx, w.Student)
	require.NoError(w.T, err)
	for _, j := range jobs {
		if j.Kind != workshop.Job || j.Subject != piece.ID {
			continue
		}
		require.NoError(w.T, w.DB.InTx(ctx, func(q *query.Queries) error {
			return q.TakeJob(ctx, query.TakeJobParams{Token: "mine", ID: j.ID})
		}))
		j.Token = "mine"
		_, _ = w.Workshop.Run(ctx, j) // what fails is told by the workpiece
		_, err = w.DB.RemoveJob(ctx, query.RemoveJobParams{ID: j.ID, Token: "mine"})
		require.NoError(w.T, err)
	}
	piece, err = w.Workshop.Workpiece(ctx, w.Student, piece.ID)
	require.NoError(w.T, err)
	return piece
}

// Photograph is a JPEG of a white page with lines on a dark desk.
func Photograph(t testing.TB, width, height int) []byte {
	p := image.NewRGBA(image.Rect(0, 0, width, height))
	draw.Draw(p, p.Rect, image.NewUniform(color.RGBA{60, 50, 45, 255}), image.Point{}, draw.Src)
	page := p.Rect.Inset(width / 10)
	draw.Draw(p, page, image.NewUniform(color.RGBA{235, 232, 225, 255}), image.Point{}, draw.Src)
	ink := image.NewUniform(color.RGBA{30, 30, 70, 255})
	for y := page.Min.Y + 40; y < page.Max.Y-40; y += 30 {
		for x := page.Min.X + 30; x < page.Max.X-30; x += 24 {
			draw.Draw(p, image.Rect(x, y, x+16, y+4), ink, image.Point{}, draw.Src)
		}
	}
	var out bytes.Buffer
	require.NoError(t, jpeg.Encode(&out, p, nil))
	return out.Bytes()
}
