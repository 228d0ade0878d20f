package httpapi

import (
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"orario/core/inspect"
	"orario/internal/contents"
	"orario/internal/httpapi/api"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
	"orario/internal/refusal"
	"orario/internal/workshop"
)

// deref is what a pointer points to, or the zero value.
func deref[T any](p *T) (v T) {
	if p != nil {
		v = *p
	}
	return v
}

func (h handlers) Reorder(ctx context.Context, r api.ReorderRequestObject) (api.ReorderResponseObject, error) {
	part := prepare.Part{Assignment: r.Id, ID: r.Body.Part}
	return api.Reorder204Response{}, h.Prepare.Reorder(ctx, me(ctx), part, r.Body.Items)
}

func (h handlers) RenameAll(ctx context.Context, r api.RenameAllRequestObject) (api.RenameAllResponseObject, error) {
	n, err := h.Prepare.RenameAll(ctx, me(ctx), prepare.Part{Assignment: r.Id, ID: r.Body.Part})
	return api.RenameAll200JSONResponse{Count: n}, err
}

func (h handlers) KeepHandouts(
	ctx context.Context,
	r api.KeepHandoutsRequestObject,
) (api.KeepHandoutsResponseObject, error) {
	n, left, err := h.Prepare.KeepHandouts(ctx, me(ctx), r.Id)
	return api.KeepHandouts200JSONResponse{Count: n, Left: left}, err
}

func (h handlers) BeginWith(ctx context.Context, r api.BeginWithRequestObject) (api.BeginWithResponseObject, error) {
	return api.BeginWith204Response{}, h.Prepare.BeginWith(ctx, me(ctx), r.Id, r.Body.Part, string(deref(r.Body.Where)))
}

func (h handlers) TryName(ctx context.Context, r api.TryNameRequestObject) (api.TryNameResponseObject, error) {
	e, err := h.Prepare.TryName(ctx, me(ctx), r.Id, r.Body.Pattern)
	if err != nil {
		return nil, err
	}
	return api.TryName200JSONResponse(*e), nil
}

func (h handlers) TryHabit(ctx context.Context, r api.TryHabitRequestObject) (api.TryHabitResponseObject, error) {
	e, err := h.Prepare.TryHabit(ctx, me(ctx), r.Id, r.Body.Pattern)
	if err != nil {
		return nil, err
	}
	return api.TryHabit200JSONResponse(*e), nil
}

func (h handlers) GetWorkpieces(
	ctx context.Context,
	r api.GetWorkpiecesRequestObject,
) (api.GetWorkpiecesResponseObject, error) {
	list, err := h.Workshop.Lying(ctx, me(ctx), r.Id, deref(r.Params.Part))
	return api.GetWorkpieces200JSONResponse(list), err
}

func (h handlers) BeginWorkpiece(
	ctx context.Context,
	r api.BeginWorkpieceRequestObject,
) (api.BeginWorkpieceResponseObject, error) {
	b := r.Body
	w, err := h.Workshop.Begin(ctx, me(ctx), r.Id, b.Part, b.Tool, b.Versions, b.Wishes)
	if err != nil {
		return nil, err
	}
	return api.BeginWorkpiece200JSONResponse(*w), nil
}

func (h handlers) GetWorkpiece(
	ctx context.Context,
	r api.GetWorkpieceRequestObject,
) (api.GetWorkpieceResponseObject, error) {
	w, err := h.Workshop.Workpiece(ctx, me(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return api.GetWorkpiece200JSONResponse(*w), nil
}

func (h handlers) ThrowWorkpiece(
	ctx context.Context,
	r api.ThrowWorkpieceRequestObject,
) (api.ThrowWorkpieceResponseObject, error) {
	return api.ThrowWorkpiece204Response{}, h.Workshop.Throw(ctx, me(ctx), r.Id)
}

func (h handlers) TakeWorkpiece(
	ctx context.Context,
	r api.TakeWorkpieceRequestObject,
) (api.TakeWorkpieceResponseObject, error) {
	err := h.Workshop.Take(ctx, me(ctx), r.Id, r.Body.Files, r.Body.Instead, r.Body.Slot)
	return api.TakeWorkpiece204Response{}, err
}

func (h handlers) PutBackWorkpiece(
	ctx context.Context,
	r api.PutBackWorkpieceRequestObject,
) (api.PutBackWorkpieceResponseObject, error) {
	return api.PutBackWorkpiece204Response{}, h.Workshop.PutBack(ctx, me(ctx), r.Id)
}

func (h handlers) GetWriting(ctx context.Context, r api.GetWritingRequestObject) (api.GetWritingResponseObject, error) {
	w, err := h.Workshop.Writing(ctx, me(ctx), r.Id, deref(r.Params.Part), deref(r.Params.Version))
	if err != nil {
		return nil, err
	}
	return api.GetWriting200JSONResponse(*w), nil
}

func (h handlers) KeepWriting(
	ctx context.Context,
	r api.KeepWritingRequestObject,
) (api.KeepWritingResponseObject, error) {
	b := r.Body
	n, err := h.Workshop.Keep(ctx, me(ctx), r.Id, b.Part, b.Version, b.Body, b.Revision)
	return api.KeepWriting200JSONResponse{Revision: n}, err
}

func (h handlers) LayOutTyped(
	ctx context.Context,
	r api.LayOutTypedRequestObject,
) (api.LayOutTypedResponseObject, error) {
	t, err := h.Workshop.Type(ctx, me(ctx), r.Id, r.Body.Part, r.Body.Slot, r.Body.Text)
	if err != nil {
		return nil, err
	}
	return api.LayOutTyped200JSONResponse(*t), nil
}

func (h handlers) GetPhotograph(
	ctx context.Context,
	r api.GetPhotographRequestObject,
) (api.GetPhotographResponseObject, error) {
	p, err := h.Workshop.Photograph(ctx, me(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	out := api.GetPhotograph200JSONResponse{Width: p.Width, Height: p.Height, Found: p.Found, Jpeg: p.JPEG}
	for _, c := range p.Corners {
		out.Corners = append(out.Corners, []float32{float32(c[0]), float32(c[1])})
	}
	return out, nil
}

func (h handlers) GetRecordings(
	ctx context.Context,
	_ api.GetRecordingsRequestObject,
) (api.GetRecordingsResponseObject, error) {
	list, err := h.Workshop.Recordings(ctx, me(ctx))
	return api.GetRecordings200JSONResponse(list), err
}

func (h handlers) KeepRecording(
	ctx context.Context,
	r api.KeepRecordingRequestObject,
) (api.KeepRecordingResponseObject, error) {
	_, err := h.Workshop.KeepRecording(ctx, me(ctx), r.Id, r.Body.Part, r.Body.Upload, r.Body.Slot)
	return api.KeepRecording204Response{}, err
}

func (h handlers) GivePass(ctx context.Context, r api.GivePassRequestObject) (api.GivePassResponseObject, error) {
	p, err := h.Workshop.GivePass(ctx, me(ctx), r.Id, r.Body.Part, r.Body.Slot, h.reached(ctx.(*gin.Context)))
	if err != nil {
		return nil, err
	}
	return api.GivePass200JSONResponse(*p), nil
}

// reached is the address under which a telephone reaches Orario: the public one, or where none is set that of the
// asking browser, since a telephone in the same network reaches that, too.
func (s *Server) reached(c *gin.Context) string {
	return cmp.Or(s.PublicURL, "http://"+c.Request.Host)
}

func (h handlers) EndPass(ctx context.Context, r api.EndPassRequestObject) (api.EndPassResponseObject, error) {
	return api.EndPass204Response{}, h.Workshop.EndPass(ctx, me(ctx), r.Id)
}

// phoneCookie holds what only the telephone that took a pass knows.
const phoneCookie = "orario_phone"

// bearer is who comes with a pass.
func (s *Server) bearer(c *gin.Context, token string) (*workshop.Bearer, error) {
	browser, err := c.Cookie(phoneCookie)
	if err != nil || browser == "" {
		browser = rand.Text()
		s.setCookie(c, phoneCookie, browser, 24*time.Hour)
	}
	return s.Workshop.Admit(c.Request.Context(), token, browser)
}

// over is the answer to a pass that is not good, or not for this browser.
func over(err error) error {
	if errors.Is(err, refusal.ErrNotFound) {
		return refusal.Say(
			"This code is over, or another telephone has it. Show a new one on your computer, and read that.",
		)
	}
	return err
}

func (h handlers) GetPhone(ctx context.Context, r api.GetPhoneRequestObject) (api.GetPhoneResponseObject, error) {
	b, err := h.bearer(ctx.(*gin.Context), r.Token)
	if err != nil {
		return nil, over(err)
	}
	return api.GetPhone200JSONResponse{
		Title: b.Title, Course: b.Course, Slot: b.Slot, Came: b.Came, Until: b.Until,
	}, nil
}

func (h handlers) BringPhotograph(
	ctx context.Context,
	r api.BringPhotographRequestObject,
) (api.BringPhotographResponseObject, error) {
	b, err := h.bearer(ctx.(*gin.Context), r.Token)
	if err != nil {
		return nil, over(err)
	}
	return api.BringPhotograph204Response{}, h.Workshop.Bring(ctx, b, r.Body.Upload)
}

// passed serves the uploads of a telephone: as those of the student who gave the pass.
func (s *Server) passed(uploads http.Handler) gin.HandlerFunc {
	return func(c *gin.Context) {
		b, err := s.bearer(c, c.GetHeader("Orario-Pass"))
		if err != nil {
			s.fail(c, over(err))
			return
		}
		request := c.Request.WithContext(contents.WithOwner(c.Request.Context(), fmt.Sprint(b.Student)))
		uploads.ServeHTTP(c.Writer, request)
	}
}

// workpieceFile is the file of a workpiece that is asked for.
func (s *Server) workpieceFile(c *gin.Context) (query.WorkpieceFile, error) {
	id, _ := strconv.ParseInt(c.Param("id"), 10, 64) // 0 is nobody's
	n, err := strconv.Atoi(c.Param("n"))
	if err != nil {
		n = -1
	}
	return s.Workshop.File(c.Request.Context(), c.GetInt64(studentKey), id, n)
}

func (s *Server) workpiecePages(c *gin.Context) {
	f, err := s.workpieceFile(c)
	s.pages(c, f.Digest, f.Kind, f.Bytes, err)
}

// workpieceContent sends a file of a workpiece, to be looked at.
func (s *Server) workpieceContent(c *gin.Context) {
	f, err := s.workpieceFile(c)
	if form := inspect.Shown(f.Kind); form != "" && c.Query("show") != "" {
		s.send(c, f.Digest, f.Bytes, form, "inline", err)
		return
	}
	s.download(c, strings.TrimSpace(f.Name), f.Digest, f.Bytes, err)
}
