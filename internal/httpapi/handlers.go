package httpapi

import (
	"context"

	"orario/internal/httpapi/api"
)

// handlers implements the generated interface: each method is one call of a use case.
type handlers struct{ *Server }

func (h handlers) GetHorizon(ctx context.Context, _ api.GetHorizonRequestObject) (api.GetHorizonResponseObject, error) {
	horizon, err := h.Track.Horizon(ctx, me(ctx))
	if err != nil {
		return nil, err
	}
	return api.GetHorizon200JSONResponse(*horizon), nil
}

func (h handlers) SyncNow(ctx context.Context, _ api.SyncNowRequestObject) (api.SyncNowResponseObject, error) {
	return api.SyncNow204Response{}, h.Track.SyncNow(ctx, me(ctx))
}

func (h handlers) GetDesk(ctx context.Context, r api.GetDeskRequestObject) (api.GetDeskResponseObject, error) {
	desk, err := h.Track.Desk(ctx, me(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return api.GetDesk200JSONResponse(*desk), nil
}

func (h handlers) SettleName(ctx context.Context, r api.SettleNameRequestObject) (api.SettleNameResponseObject, error) {
	return api.SettleName204Response{}, h.Prepare.SettleName(ctx, me(ctx), r.Id, r.Body.Pattern)
}

func (h handlers) AddItem(ctx context.Context, r api.AddItemRequestObject) (api.AddItemResponseObject, error) {
	_, err := h.Prepare.AddUpload(ctx, me(ctx), r.Id, r.Body.Upload, r.Body.Slot)
	return api.AddItem204Response{}, err
}

func (h handlers) ChangeItem(ctx context.Context, r api.ChangeItemRequestObject) (api.ChangeItemResponseObject, error) {
	return api.ChangeItem204Response{}, h.Prepare.Change(ctx, me(ctx), r.Id, r.Body.Name, r.Body.Slot)
}

func (h handlers) RemoveItem(ctx context.Context, r api.RemoveItemRequestObject) (api.RemoveItemResponseObject, error) {
	return api.RemoveItem204Response{}, h.Prepare.Remove(ctx, me(ctx), r.Id)
}

func (h handlers) FixItem(ctx context.Context, r api.FixItemRequestObject) (api.FixItemResponseObject, error) {
	return api.FixItem204Response{}, h.Prepare.Fix(ctx, me(ctx), r.Id, string(r.Body.Fix))
}

func (h handlers) CancelFix(ctx context.Context, r api.CancelFixRequestObject) (api.CancelFixResponseObject, error) {
	return api.CancelFix204Response{}, h.Prepare.CancelFix(ctx, me(ctx), r.Id)
}

func (h handlers) Submit(ctx context.Context, r api.SubmitRequestObject) (api.SubmitResponseObject, error) {
	_, err := h.Server.Submit.Start(ctx, me(ctx), r.Id, r.Body.Declared, r.Body.Comment)
	return api.Submit204Response{}, err
}

func (h handlers) CancelSubmission(ctx context.Context, r api.CancelSubmissionRequestObject) (api.CancelSubmissionResponseObject, error) {
	return api.CancelSubmission204Response{}, h.Server.Submit.Cancel(ctx, me(ctx), r.Id)
}

func (h handlers) GetReceipt(ctx context.Context, r api.GetReceiptRequestObject) (api.GetReceiptResponseObject, error) {
	receipt, err := h.Server.Submit.Receipt(ctx, me(ctx), r.Id)
	return api.GetReceipt200JSONResponse(receipt), err
}

func (h handlers) GetReading(ctx context.Context, r api.GetReadingRequestObject) (api.GetReadingResponseObject, error) {
	reading, err := h.Review.Read(ctx, me(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return api.GetReading200JSONResponse(*reading), nil
}

func (h handlers) HandlePassage(ctx context.Context, r api.HandlePassageRequestObject) (api.HandlePassageResponseObject, error) {
	return api.HandlePassage204Response{}, h.Review.Handle(ctx, me(ctx), r.Id, r.N, r.Body.How)
}

func (h handlers) GetLedger(ctx context.Context, _ api.GetLedgerRequestObject) (api.GetLedgerResponseObject, error) {
	entries, err := h.Server.Submit.Ledger(ctx, me(ctx))
	return api.GetLedger200JSONResponse(entries), err
}

func (h handlers) GetLibrary(ctx context.Context, _ api.GetLibraryRequestObject) (api.GetLibraryResponseObject, error) {
	versions, err := h.Track.Library(ctx, me(ctx))
	return api.GetLibrary200JSONResponse(versions), err
}

func (h handlers) GetCourses(ctx context.Context, _ api.GetCoursesRequestObject) (api.GetCoursesResponseObject, error) {
	courses, err := h.Track.Courses(ctx, me(ctx))
	return api.GetCourses200JSONResponse(courses), err
}

func (h handlers) Search(ctx context.Context, r api.SearchRequestObject) (api.SearchResponseObject, error) {
	hits, err := h.Track.Search(ctx, me(ctx), r.Params.Q)
	return api.Search200JSONResponse(hits), err
}
