package campus

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	api "orario/internal/campus/campusapi"
	"orario/internal/contents"
)

// Handler serves the interface, the uploads and the pages.
func (c *Campus) Handler() (http.Handler, error) {
	r := gin.New()
	r.ContextWithFallback = true // a handler stops when nobody waits for its answer
	r.Use(gin.CustomRecovery(func(g *gin.Context, problem any) {
		c.log.Error("a request failed", "path", g.Request.URL.Path, "problem", problem)
		g.AbortWithStatus(http.StatusInternalServerError)
	}))
	strict := api.NewStrictHandlerWithOptions(
		server{c},
		[]api.StrictMiddlewareFunc{ownContext},
		api.StrictGinServerOptions{
			HandlerErrorFunc: c.fail, RequestErrorHandlerFunc: func(g *gin.Context, err error) {
				g.AbortWithStatusJSON(http.StatusBadRequest, api.Refusal{Code: "malformed", Reason: err.Error()})
			},
			ResponseErrorHandlerFunc: c.fail,
		},
	)
	api.RegisterHandlersWithOptions(
		r.Group("", c.authenticate),
		strict,
		api.GinServerOptions{ErrorHandler: func(g *gin.Context, err error, code int) {
			g.AbortWithStatusJSON(code, api.Refusal{Code: "malformed", Reason: err.Error()})
		}},
	)

	tus, err := contents.Uploads{Store: c.contents}.Handler("/uploads/", 1<<30)
	if err != nil {
		return nil, err
	}
	r.Any("/uploads/*any", c.authenticate, gin.WrapH(tus))
	c.pages(r)
	return c.withFaults(http.NewCrossOriginProtection().Handler(r)), nil
}

func (c *Campus) fail(g *gin.Context, err error) {
	c.log.Error("a request failed", "path", g.Request.URL.Path, "error", err)
	g.AbortWithStatusJSON(
		http.StatusInternalServerError,
		api.Refusal{Code: "internal", Reason: "The campus has a problem of its own. Try again later."},
	)
}

const studentKey = "student"

func (c *Campus) authenticate(g *gin.Context) {
	token, _ := strings.CutPrefix(g.GetHeader("Authorization"), "Bearer ")
	s, err := c.studentOf(g.Request.Context(), token)
	if errors.Is(err, sql.ErrNoRows) {
		g.AbortWithStatusJSON(
			http.StatusUnauthorized,
			api.Refusal{Code: "token", Reason: "The token is not known. Get a new one from the campus."},
		)
		return
	}
	if err != nil {
		c.fail(g, err)
		return
	}
	g.Set(studentKey, s)
	g.Request = g.Request.WithContext(contents.WithOwner(g.Request.Context(), s.Number))
}

// server implements the generated interface; the context it gets is Gin's.
type server struct{ *Campus }

func student(ctx context.Context) Student { return ctx.(*gin.Context).MustGet(studentKey).(Student) }

func (s server) GetSite(ctx context.Context, _ api.GetSiteRequestObject) (api.GetSiteResponseObject, error) {
	who := student(ctx)
	now, err := s.now(ctx)
	if err != nil {
		return nil, err
	}
	revision, err := s.revision(ctx, who)
	return api.GetSite200JSONResponse{Name: Name, Key: KeyID, PublicKey: s.publicKey(), Now: now, Revision: revision,
		Student: api.Registered{Number: who.Number, Family: who.Family, Given: who.Given}}, err
}

func (s server) ListCourses(
	ctx context.Context,
	_ api.ListCoursesRequestObject,
) (api.ListCoursesResponseObject, error) {
	list, err := s.courses(ctx)
	return api.ListCourses200JSONResponse(list), err
}

func (s server) ListAssignments(
	ctx context.Context,
	_ api.ListAssignmentsRequestObject,
) (api.ListAssignmentsResponseObject, error) {
	list, err := s.assignments(ctx)
	return api.ListAssignments200JSONResponse(list), err
}

func (s server) GetHandout(ctx context.Context, r api.GetHandoutRequestObject) (api.GetHandoutResponseObject, error) {
	// Only what some assignment gives out can be fetched, not every content by its digest.
	var n int
	err := s.db.QueryRowContext(ctx, "SELECT COUNT(*) FROM assignment WHERE JSON_CONTAINS(JSON_EXTRACT(body, "+
		"'$.handouts[*].digest'), JSON_QUOTE(?))", r.Digest).
		Scan(&n)
	if err != nil {
		return nil, err
	}
	if n == 0 {
		return api.GetHandout404JSONResponse{
			RefusalJSONResponse: api.RefusalJSONResponse{Code: "unknown", Reason: "There is no such handout."},
		}, nil
	}
	data, err := s.contents.Read(ctx, r.Digest)
	return api.GetHandout200ApplicationoctetStreamResponse{
		Body:          bytes.NewReader(data),
		ContentLength: int64(len(data)),
	}, err
}

func (s server) OpenDraft(ctx context.Context, r api.OpenDraftRequestObject) (api.OpenDraftResponseObject, error) {
	who := student(ctx)
	d, err := s.openDraft(ctx, who, r.Body.Assignment, r.Params.IdempotencyKey)
	if no, ok := asRefusal(err); ok {
		if no.Code == "unknown" {
			return api.OpenDraft404JSONResponse{RefusalJSONResponse: api.RefusalJSONResponse(no)}, nil
		}
		return api.OpenDraft409JSONResponse(no), nil
	}
	if err != nil {
		return nil, err
	}
	files, err := s.draftFiles(ctx, who, d.id)
	return api.OpenDraft200JSONResponse{Id: d.id, Files: files}, err
}

func asRefusal(err error) (api.Refusal, bool) {
	var no refusal
	if errors.As(err, &no) {
		return api.Refusal{Code: no.code, Reason: no.reason}, true
	}
	return api.Refusal{}, false
}

func (s server) SubmitDraft(
	ctx context.Context,
	r api.SubmitDraftRequestObject,
) (api.SubmitDraftResponseObject, error) {
	made, err := s.submit(ctx, student(ctx), r.Id, r.Params.IdempotencyKey, *r.Body)
	if no, ok := asRefusal(err); ok {
		if no.Code == "unknown" {
			return api.SubmitDraft404JSONResponse{RefusalJSONResponse: api.RefusalJSONResponse(no)}, nil
		}
		return api.SubmitDraft422JSONResponse(no), nil
	}
	return api.SubmitDraft200JSONResponse(made), err
}

func (s server) GetReceipt(ctx context.Context, r api.GetReceiptRequestObject) (api.GetReceiptResponseObject, error) {
	made, err := receiptOf(ctx, s.db, student(ctx), r.Key)
	if errors.Is(err, sql.ErrNoRows) {
		return api.GetReceipt404JSONResponse{
			RefusalJSONResponse: api.RefusalJSONResponse{
				Code:   "unknown",
				Reason: "Nothing was submitted with this key.",
			},
		}, nil
	}
	return api.GetReceipt200JSONResponse(made), err
}

func (s server) GetReport(ctx context.Context, r api.GetReportRequestObject) (api.GetReportResponseObject, error) {
	report, err := s.report(ctx, student(ctx), r.Number)
	if no, ok := asRefusal(err); ok {
		return api.GetReport404JSONResponse{RefusalJSONResponse: api.RefusalJSONResponse(no)}, nil
	}
	return api.GetReport200JSONResponse(report), err
}

func (s server) GetReturn(ctx context.Context, r api.GetReturnRequestObject) (api.GetReturnResponseObject, error) {
	var assignment string
	var comments []byte
	var mark *float64
	var at *time.Time
	out := api.Return{}
	err := s.db.QueryRowContext(ctx, "SELECT assignment_key, mark, comments, invited, marked_at FROM submission "+
		"WHERE number = ? AND student_id = ?", r.Number, student(ctx).ID).
		Scan(&assignment, &mark, &comments, &out.Invited, &at)
	if errors.Is(err, sql.ErrNoRows) {
		return api.GetReturn404JSONResponse{
			RefusalJSONResponse: api.RefusalJSONResponse{Code: "unknown", Reason: "There is no such submission."},
		}, nil
	}
	if err != nil {
		return nil, err
	}
	a, err := s.assignment(ctx, assignment)
	if err != nil {
		return nil, err
	}
	out.Mark, out.MarkedAt, out.Marked, out.Points = mark, at, mark != nil, a.Points
	err = json.Unmarshal(comments, &out.Comments)
	return api.GetReturn200JSONResponse(out), err
}

// ownContext gives an operation a context that stays its own. Gin takes back its contexts, and uses them for other
// requests, when the answer is written; database/sql may still ask one whether it has ended by then.
func ownContext(next api.StrictHandlerFunc, _ string) api.StrictHandlerFunc {
	return func(c *gin.Context, request any) (any, error) {
		own := c.Copy()
		own.Writer = c.Writer
		return next(own, request)
	}
}
