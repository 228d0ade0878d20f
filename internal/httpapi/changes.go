package httpapi

import (
	"context"

	"orario/internal/httpapi/api"
	"orario/internal/prepare"
	"orario/internal/schedule"
	"orario/internal/submit"
)

// The methods in this file change something.

func (h handlers) AddAssignment(
	ctx context.Context,
	r api.AddAssignmentRequestObject,
) (api.AddAssignmentResponseObject, error) {
	id, err := h.Intake.Add(ctx, me(ctx), *r.Body)
	return api.AddAssignment200JSONResponse{Id: id}, err
}

func (h handlers) AddCourse(ctx context.Context, r api.AddCourseRequestObject) (api.AddCourseResponseObject, error) {
	id, err := h.Courses.Add(ctx, me(ctx), *r.Body)
	return api.AddCourse200JSONResponse{Id: id}, err
}

func (h handlers) AddEnrolment(
	ctx context.Context,
	r api.AddEnrolmentRequestObject,
) (api.AddEnrolmentResponseObject, error) {
	id, err := h.Intake.AddEnrolment(ctx, me(ctx), *r.Body)
	return api.AddEnrolment200JSONResponse{Id: id}, err
}

func (h handlers) AddItem(ctx context.Context, r api.AddItemRequestObject) (api.AddItemResponseObject, error) {
	b := r.Body
	var err error
	if b.Version != nil {
		place := prepare.Place{Slot: b.Slot, Name: deref(b.Name), Version: *b.Version, Before: deref(b.Before)}
		_, err = h.Prepare.AddVersion(ctx, me(ctx), r.Id, b.Part, place)
	} else {
		_, err = h.Prepare.AddUpload(ctx, me(ctx), r.Id, b.Part, deref(b.Upload), b.Slot)
	}
	return api.AddItem204Response{}, err
}

func (h handlers) ArchiveCourse(
	ctx context.Context,
	r api.ArchiveCourseRequestObject,
) (api.ArchiveCourseResponseObject, error) {
	return api.ArchiveCourse204Response{}, h.Courses.Archive(ctx, me(ctx), r.Id, r.Body.Archived)
}

func (h handlers) BeginAttempt(
	ctx context.Context,
	r api.BeginAttemptRequestObject,
) (api.BeginAttemptResponseObject, error) {
	return api.BeginAttempt204Response{}, h.Prepare.Begin(ctx, me(ctx), r.Id, r.Body.Part)
}

func (h handlers) Bulk(ctx context.Context, r api.BulkRequestObject) (api.BulkResponseObject, error) {
	said, err := h.Agenda.Bulk(ctx, me(ctx), r.Body.Ids, r.Body.Do, r.Body.Minutes)
	return api.Bulk200JSONResponse{Text: said}, err
}

func (h handlers) CancelFix(ctx context.Context, r api.CancelFixRequestObject) (api.CancelFixResponseObject, error) {
	return api.CancelFix204Response{}, h.Prepare.CancelFix(ctx, me(ctx), r.Id)
}

func (h handlers) CancelSubmission(
	ctx context.Context,
	r api.CancelSubmissionRequestObject,
) (api.CancelSubmissionResponseObject, error) {
	return api.CancelSubmission204Response{}, h.Server.Submit.Cancel(ctx, me(ctx), r.Id)
}

func (h handlers) ChangeAssignment(
	ctx context.Context,
	r api.ChangeAssignmentRequestObject,
) (api.ChangeAssignmentResponseObject, error) {
	draft := *r.Body
	draft.ID = r.Id
	return api.ChangeAssignment204Response{}, h.Intake.Change(ctx, me(ctx), draft)
}

func (h handlers) ChangeItem(ctx context.Context, r api.ChangeItemRequestObject) (api.ChangeItemResponseObject, error) {
	return api.ChangeItem204Response{}, h.Prepare.Change(ctx, me(ctx), r.Id, r.Body.Name, r.Body.Slot)
}

func (h handlers) FixItem(ctx context.Context, r api.FixItemRequestObject) (api.FixItemResponseObject, error) {
	return api.FixItem204Response{}, h.Prepare.Fix(ctx, me(ctx), r.Id, string(r.Body.Fix))
}

func (h handlers) HandlePassage(
	ctx context.Context,
	r api.HandlePassageRequestObject,
) (api.HandlePassageResponseObject, error) {
	return api.HandlePassage204Response{}, h.Review.Handle(ctx, me(ctx), r.Id, r.N, r.Body.How)
}

func (h handlers) CheckOwn(ctx context.Context, r api.CheckOwnRequestObject) (api.CheckOwnResponseObject, error) {
	return api.CheckOwn204Response{}, h.Review.CheckOwn(ctx, me(ctx), r.Id, partOf(r.Params.Part))
}

func (h handlers) HandleOwnPassage(
	ctx context.Context,
	r api.HandleOwnPassageRequestObject,
) (api.HandleOwnPassageResponseObject, error) {
	err := h.Review.HandleOwn(ctx, me(ctx), r.Id, partOf(r.Params.Part), r.N, r.Body.How)
	return api.HandleOwnPassage204Response{}, err
}

func (h handlers) AddSource(ctx context.Context, r api.AddSourceRequestObject) (api.AddSourceResponseObject, error) {
	return api.AddSource204Response{}, h.Review.AddSource(ctx, me(ctx), r.Id, r.Body.Upload, r.Body.Course)
}

func (h handlers) RemoveSource(
	ctx context.Context,
	r api.RemoveSourceRequestObject,
) (api.RemoveSourceResponseObject, error) {
	return api.RemoveSource204Response{}, h.Review.RemoveSource(ctx, me(ctx), r.Id)
}

func (h handlers) Import(ctx context.Context, r api.ImportRequestObject) (api.ImportResponseObject, error) {
	done, err := h.Intake.Import(ctx, me(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return api.Import200JSONResponse{
		Added:     done.Added,
		Changed:   done.Changed,
		Same:      done.Same,
		Cancelled: done.Cancelled,
		Busy:      done.Busy,
	}, nil
}

func (h handlers) KeepPlan(ctx context.Context, r api.KeepPlanRequestObject) (api.KeepPlanResponseObject, error) {
	return api.KeepPlan204Response{}, h.Agenda.Keep(ctx, me(ctx), *r.Body)
}

func (h handlers) LogWork(ctx context.Context, r api.LogWorkRequestObject) (api.LogWorkResponseObject, error) {
	return api.LogWork204Response{}, h.Agenda.LogWork(ctx, me(ctx), r.Id, r.Body.Minutes)
}

func (h handlers) NoteSent(ctx context.Context, r api.NoteSentRequestObject) (api.NoteSentResponseObject, error) {
	return api.NoteSent204Response{}, h.Server.Submit.Note(ctx, me(ctx), r.Id, r.Body.Part, r.Body.At, r.Body.Note)
}

func (h handlers) RemoveAssignment(
	ctx context.Context,
	r api.RemoveAssignmentRequestObject,
) (api.RemoveAssignmentResponseObject, error) {
	return api.RemoveAssignment204Response{}, h.Intake.Remove(ctx, me(ctx), r.Id)
}

func (h handlers) RemoveFeed(ctx context.Context, r api.RemoveFeedRequestObject) (api.RemoveFeedResponseObject, error) {
	return api.RemoveFeed204Response{}, h.Intake.RemoveFeed(ctx, me(ctx), r.Id)
}

func (h handlers) RemoveItem(ctx context.Context, r api.RemoveItemRequestObject) (api.RemoveItemResponseObject, error) {
	return api.RemoveItem204Response{}, h.Prepare.Remove(ctx, me(ctx), r.Id)
}

func (h handlers) RemoveVersion(
	ctx context.Context,
	r api.RemoveVersionRequestObject,
) (api.RemoveVersionResponseObject, error) {
	return api.RemoveVersion204Response{}, h.Prepare.RemoveVersion(ctx, me(ctx), r.Id)
}

func (h handlers) RemoveView(ctx context.Context, r api.RemoveViewRequestObject) (api.RemoveViewResponseObject, error) {
	return api.RemoveView204Response{}, h.Agenda.RemoveView(ctx, me(ctx), r.Id)
}

func (h handlers) RenewLink(ctx context.Context, _ api.RenewLinkRequestObject) (api.RenewLinkResponseObject, error) {
	address, err := h.Agenda.Renew(ctx, me(ctx))
	return api.RenewLink200JSONResponse{Url: address}, err
}

func (h handlers) RevokeLink(ctx context.Context, _ api.RevokeLinkRequestObject) (api.RevokeLinkResponseObject, error) {
	return api.RevokeLink204Response{}, h.Agenda.Revoke(ctx, me(ctx))
}

func (h handlers) SaveView(ctx context.Context, r api.SaveViewRequestObject) (api.SaveViewResponseObject, error) {
	return api.SaveView204Response{}, h.Agenda.SaveView(ctx, me(ctx), r.Body.Name, r.Body.Filter)
}

func (h handlers) Seen(ctx context.Context, r api.SeenRequestObject) (api.SeenResponseObject, error) {
	return api.Seen204Response{}, h.Agenda.Seen(ctx, me(ctx), r.Body.Id)
}

func (h handlers) SetCourse(ctx context.Context, r api.SetCourseRequestObject) (api.SetCourseResponseObject, error) {
	return api.SetCourse204Response{}, h.Courses.Set(ctx, me(ctx), r.Id, *r.Body)
}

func (h handlers) SetEnrolment(
	ctx context.Context,
	r api.SetEnrolmentRequestObject,
) (api.SetEnrolmentResponseObject, error) {
	return api.SetEnrolment204Response{}, h.Intake.SetEnrolment(ctx, me(ctx), r.Id, *r.Body)
}

func (h handlers) SetExtension(
	ctx context.Context,
	r api.SetExtensionRequestObject,
) (api.SetExtensionResponseObject, error) {
	return api.SetExtension204Response{}, h.Agenda.SetExtension(ctx, me(ctx), r.Id, *r.Body)
}

func (h handlers) SetSettings(
	ctx context.Context,
	r api.SetSettingsRequestObject,
) (api.SetSettingsResponseObject, error) {
	return api.SetSettings204Response{}, h.Agenda.SetSettings(ctx, me(ctx), *r.Body)
}

func (h handlers) SetWork(ctx context.Context, r api.SetWorkRequestObject) (api.SetWorkResponseObject, error) {
	w := schedule.Work{
		Minutes: r.Body.EffortMinutes,
		Low:     r.Body.LowMinutes,
		High:    r.Body.HighMinutes,
		Done:    r.Body.DoneMinutes,
		Enough:  r.Body.Enough,
	}
	return api.SetWork204Response{}, h.Agenda.SetWork(ctx, me(ctx), r.Id, w)
}

func (h handlers) SettleAsk(ctx context.Context, r api.SettleAskRequestObject) (api.SettleAskResponseObject, error) {
	return api.SettleAsk204Response{}, h.Intake.SettleAsk(ctx, me(ctx), r.Id, r.Ask)
}

func (h handlers) SettleName(ctx context.Context, r api.SettleNameRequestObject) (api.SettleNameResponseObject, error) {
	return api.SettleName204Response{}, h.Prepare.SettleName(ctx, me(ctx), r.Id, r.Body.Pattern)
}

func (h handlers) Submit(ctx context.Context, r api.SubmitRequestObject) (api.SubmitResponseObject, error) {
	b := r.Body
	_, err := h.Server.Submit.Start(ctx, me(ctx), submit.Order{
		Assignment: r.Id, Part: b.Part, Declared: b.Declared, Comment: b.Comment, Seen: b.Seen,
	})
	return api.Submit204Response{}, err
}

func (h handlers) SyncNow(ctx context.Context, _ api.SyncNowRequestObject) (api.SyncNowResponseObject, error) {
	return api.SyncNow204Response{}, h.Intake.SyncNow(ctx, me(ctx))
}
