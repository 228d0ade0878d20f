package httpapi

import (
	"context"
	"net/http"

	"orario/internal/httpapi/api"
)

// handlers implements the generated interface: each method is one call of a use case. Those in this file change
// nothing.
type handlers struct{ *Server }

func (h handlers) CorrectAsk(ctx context.Context, r api.CorrectAskRequestObject) (api.CorrectAskResponseObject, error) {
	ask, err := h.Intake.Correct(ctx, me(ctx), r.Body.CourseId, r.Body.Kind, r.Body.Words)
	if err != nil {
		return nil, err
	}
	return api.CorrectAsk200JSONResponse(*ask), nil
}

func (h handlers) GetCourses(ctx context.Context, _ api.GetCoursesRequestObject) (api.GetCoursesResponseObject, error) {
	list, err := h.Courses.List(ctx, me(ctx))
	if err != nil {
		return nil, err
	}
	return api.GetCourses200JSONResponse(list.Courses), nil
}

func (h handlers) GetDesk(ctx context.Context, r api.GetDeskRequestObject) (api.GetDeskResponseObject, error) {
	desk, err := h.Desks.Desk(ctx, me(ctx), r.Id, partOf(r.Params.Part))
	if err != nil {
		return nil, err
	}
	return api.GetDesk200JSONResponse(*desk), nil
}

func (h handlers) GetDraft(ctx context.Context, r api.GetDraftRequestObject) (api.GetDraftResponseObject, error) {
	draft, err := h.Intake.DraftOf(ctx, me(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return api.GetDraft200JSONResponse(*draft), nil
}

func (h handlers) GetEnrolments(
	ctx context.Context,
	_ api.GetEnrolmentsRequestObject,
) (api.GetEnrolmentsResponseObject, error) {
	list, err := h.Courses.List(ctx, me(ctx))
	if err != nil {
		return nil, err
	}
	return api.GetEnrolments200JSONResponse(list.Enrolments), nil
}

func (h handlers) GetExtension(
	ctx context.Context,
	r api.GetExtensionRequestObject,
) (api.GetExtensionResponseObject, error) {
	extension, err := h.Agenda.Extension(ctx, me(ctx), r.Id, r.Params.Until)
	if err != nil {
		return nil, err
	}
	return api.GetExtension200JSONResponse(*extension), nil
}

func (h handlers) GetFeeds(ctx context.Context, _ api.GetFeedsRequestObject) (api.GetFeedsResponseObject, error) {
	feeds, err := h.Intake.Feeds(ctx, me(ctx))
	return api.GetFeeds200JSONResponse(feeds), err
}

func (h handlers) GetHorizon(ctx context.Context, _ api.GetHorizonRequestObject) (api.GetHorizonResponseObject, error) {
	horizon, err := h.Agenda.Horizon(ctx, me(ctx))
	if err != nil {
		return nil, err
	}
	return api.GetHorizon200JSONResponse(*horizon), nil
}

func (h handlers) GetLedger(ctx context.Context, _ api.GetLedgerRequestObject) (api.GetLedgerResponseObject, error) {
	entries, err := h.Server.Submit.Ledger(ctx, me(ctx))
	return api.GetLedger200JSONResponse(entries), err
}

func (h handlers) GetLibrary(ctx context.Context, r api.GetLibraryRequestObject) (api.GetLibraryResponseObject, error) {
	versions, err := h.Library.Find(ctx, me(ctx), deref(r.Params.Q))
	return api.GetLibrary200JSONResponse(versions), err
}

func (h handlers) GetLink(ctx context.Context, _ api.GetLinkRequestObject) (api.GetLinkResponseObject, error) {
	on, err := h.Agenda.Linked(ctx, me(ctx))
	return api.GetLink200JSONResponse{On: on}, err
}

func (h handlers) GetPlan(ctx context.Context, _ api.GetPlanRequestObject) (api.GetPlanResponseObject, error) {
	plan, err := h.Agenda.Plan(ctx, me(ctx))
	if err != nil {
		return nil, err
	}
	return api.GetPlan200JSONResponse(*plan), nil
}

func (h handlers) GetReading(ctx context.Context, r api.GetReadingRequestObject) (api.GetReadingResponseObject, error) {
	reading, err := h.Review.Read(ctx, me(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return api.GetReading200JSONResponse(*reading), nil
}

func (h handlers) GetOwnCheck(
	ctx context.Context,
	r api.GetOwnCheckRequestObject,
) (api.GetOwnCheckResponseObject, error) {
	reading, err := h.Review.ReadOwn(ctx, me(ctx), r.Id, partOf(r.Params.Part))
	if err != nil {
		return nil, err
	}
	if reading == nil {
		return api.GetOwnCheck204Response{}, nil
	}
	return api.GetOwnCheck200JSONResponse(*reading), nil
}

func (h handlers) GetSources(ctx context.Context, r api.GetSourcesRequestObject) (api.GetSourcesResponseObject, error) {
	list, err := h.Review.Sources(ctx, me(ctx), r.Id)
	return api.GetSources200JSONResponse(list), err
}

// partOf is the part that was asked for; 0: the one that comes next.
func partOf(part *int64) int64 {
	if part == nil {
		return 0
	}
	return *part
}

// rawReceipt is a receipt, byte by byte as the site sent it.
type rawReceipt []byte

func (r rawReceipt) VisitGetReceiptResponse(w http.ResponseWriter) error {
	w.Header().Set("Content-Type", "application/json")
	_, err := w.Write(r)
	return err
}

func (h handlers) GetReceipt(ctx context.Context, r api.GetReceiptRequestObject) (api.GetReceiptResponseObject, error) {
	text, err := h.Server.Submit.Receipt(ctx, me(ctx), r.Id)
	return rawReceipt(text), err
}

func (h handlers) GetSettings(
	ctx context.Context,
	_ api.GetSettingsRequestObject,
) (api.GetSettingsResponseObject, error) {
	settings, err := h.Agenda.Settings(ctx, me(ctx))
	return api.GetSettings200JSONResponse(settings), err
}

func (h handlers) GetSpace(ctx context.Context, _ api.GetSpaceRequestObject) (api.GetSpaceResponseObject, error) {
	space, err := h.Prepare.Space(ctx, me(ctx))
	return api.GetSpace200JSONResponse(space), err
}

func (h handlers) GetVersion(ctx context.Context, r api.GetVersionRequestObject) (api.GetVersionResponseObject, error) {
	sheet, err := h.Library.Sheet(ctx, me(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return api.GetVersion200JSONResponse(*sheet), nil
}

func (h handlers) GetWeek(ctx context.Context, r api.GetWeekRequestObject) (api.GetWeekResponseObject, error) {
	week, err := h.Agenda.Week(ctx, me(ctx), r.Params.From)
	if err != nil {
		return nil, err
	}
	return api.GetWeek200JSONResponse(*week), nil
}

func (h handlers) PreviewImport(
	ctx context.Context,
	r api.PreviewImportRequestObject,
) (api.PreviewImportResponseObject, error) {
	preview, err := h.Intake.Preview(ctx, me(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return api.PreviewImport200JSONResponse(*preview), nil
}

func (h handlers) ReadText(ctx context.Context, r api.ReadTextRequestObject) (api.ReadTextResponseObject, error) {
	text := r.Body.Text
	var err error
	if r.Body.Upload != "" {
		if text, err = h.Prepare.UploadText(ctx, me(ctx), r.Body.Upload); err != nil {
			return nil, err
		}
	}
	draft, err := h.Intake.ReadText(ctx, me(ctx), r.Body.CourseId, text)
	if err != nil {
		return nil, err
	}
	return api.ReadText200JSONResponse(*draft), nil
}

func (h handlers) Search(ctx context.Context, r api.SearchRequestObject) (api.SearchResponseObject, error) {
	hits, err := h.Library.Search(ctx, me(ctx), r.Params.Q)
	return api.Search200JSONResponse(hits), err
}

func (h handlers) TryPlan(ctx context.Context, r api.TryPlanRequestObject) (api.TryPlanResponseObject, error) {
	plan, err := h.Agenda.Try(ctx, me(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return api.TryPlan200JSONResponse(*plan), nil
}

func (h handlers) TypeLine(ctx context.Context, r api.TypeLineRequestObject) (api.TypeLineResponseObject, error) {
	draft, err := h.Intake.Typed(ctx, me(ctx), r.Body.Line)
	if err != nil {
		return nil, err
	}
	return api.TypeLine200JSONResponse(*draft), nil
}
