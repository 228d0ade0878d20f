package httpapi

import (
	"context"

	"orario/internal/httpapi/api"
	"orario/internal/track"
)

func (h handlers) TypeLine(ctx context.Context, r api.TypeLineRequestObject) (api.TypeLineResponseObject, error) {
	draft, err := h.Track.Typed(ctx, me(ctx), r.Body.Line)
	if err != nil {
		return nil, err
	}
	return api.TypeLine200JSONResponse(*draft), nil
}

func (h handlers) ReadText(ctx context.Context, r api.ReadTextRequestObject) (api.ReadTextResponseObject, error) {
	text := r.Body.Text
	var err error
	if r.Body.Upload != "" {
		if text, err = h.Prepare.UploadText(ctx, me(ctx), r.Body.Upload); err != nil {
			return nil, err
		}
	}
	draft, err := h.Track.ReadText(ctx, me(ctx), r.Body.CourseId, text)
	if err != nil {
		return nil, err
	}
	return api.ReadText200JSONResponse(*draft), nil
}

func (h handlers) CorrectAsk(ctx context.Context, r api.CorrectAskRequestObject) (api.CorrectAskResponseObject, error) {
	ask, err := h.Track.Correct(ctx, me(ctx), r.Body.CourseId, r.Body.Kind, r.Body.Words)
	if err != nil {
		return nil, err
	}
	return api.CorrectAsk200JSONResponse(*ask), nil
}

func (h handlers) AddAssignment(ctx context.Context, r api.AddAssignmentRequestObject) (api.AddAssignmentResponseObject, error) {
	id, err := h.Track.Add(ctx, me(ctx), *r.Body)
	return api.AddAssignment200JSONResponse{Id: id}, err
}

func (h handlers) GetDraft(ctx context.Context, r api.GetDraftRequestObject) (api.GetDraftResponseObject, error) {
	draft, err := h.Track.DraftOf(ctx, me(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return api.GetDraft200JSONResponse(*draft), nil
}

func (h handlers) ChangeAssignment(ctx context.Context, r api.ChangeAssignmentRequestObject) (api.ChangeAssignmentResponseObject, error) {
	draft := *r.Body
	draft.ID = r.Id
	return api.ChangeAssignment204Response{}, h.Track.Change(ctx, me(ctx), draft)
}

func (h handlers) RemoveAssignment(ctx context.Context, r api.RemoveAssignmentRequestObject) (api.RemoveAssignmentResponseObject, error) {
	return api.RemoveAssignment204Response{}, h.Track.Remove(ctx, me(ctx), r.Id)
}

func (h handlers) SettleAsk(ctx context.Context, r api.SettleAskRequestObject) (api.SettleAskResponseObject, error) {
	return api.SettleAsk204Response{}, h.Track.SettleAsk(ctx, me(ctx), r.Id, r.Ask)
}

func (h handlers) NoteSent(ctx context.Context, r api.NoteSentRequestObject) (api.NoteSentResponseObject, error) {
	return api.NoteSent204Response{}, h.Track.NoteSent(ctx, me(ctx), r.Id, r.Body.At, r.Body.Note)
}

func (h handlers) SetWork(ctx context.Context, r api.SetWorkRequestObject) (api.SetWorkResponseObject, error) {
	w := track.Work{Minutes: r.Body.EffortMinutes, Low: r.Body.LowMinutes, High: r.Body.HighMinutes, Done: r.Body.DoneMinutes, Enough: r.Body.Enough}
	return api.SetWork204Response{}, h.Track.SetWork(ctx, me(ctx), r.Id, w)
}

func (h handlers) LogWork(ctx context.Context, r api.LogWorkRequestObject) (api.LogWorkResponseObject, error) {
	return api.LogWork204Response{}, h.Track.LogWork(ctx, me(ctx), r.Id, r.Body.Minutes)
}

func (h handlers) GetExtension(ctx context.Context, r api.GetExtensionRequestObject) (api.GetExtensionResponseObject, error) {
	extension, err := h.Track.ExtensionOf(ctx, me(ctx), r.Id, r.Params.Until)
	if err != nil {
		return nil, err
	}
	return api.GetExtension200JSONResponse(*extension), nil
}

func (h handlers) SetExtension(ctx context.Context, r api.SetExtensionRequestObject) (api.SetExtensionResponseObject, error) {
	return api.SetExtension204Response{}, h.Track.SetExtension(ctx, me(ctx), r.Id, *r.Body)
}
