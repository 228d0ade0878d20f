package httpapi

import (
	"context"
	"net/http"

	"github.com/gin-gonic/gin"

	"orario/internal/account"
	"orario/internal/httpapi/api"
	"orario/internal/prepare"
)

func (h handlers) GetSettings(ctx context.Context, _ api.GetSettingsRequestObject) (api.GetSettingsResponseObject, error) {
	settings, err := h.Accounts.Settings(ctx, me(ctx))
	return api.GetSettings200JSONResponse(settings), err
}

func (h handlers) SetSettings(ctx context.Context, r api.SetSettingsRequestObject) (api.SetSettingsResponseObject, error) {
	return api.SetSettings204Response{}, h.Accounts.SetSettings(ctx, me(ctx), account.Settings(*r.Body))
}

func (h handlers) GetPlan(ctx context.Context, _ api.GetPlanRequestObject) (api.GetPlanResponseObject, error) {
	plan, err := h.Track.Plan(ctx, me(ctx))
	if err != nil {
		return nil, err
	}
	return api.GetPlan200JSONResponse(*plan), nil
}

func (h handlers) TryPlan(ctx context.Context, r api.TryPlanRequestObject) (api.TryPlanResponseObject, error) {
	plan, err := h.Track.Try(ctx, me(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return api.TryPlan200JSONResponse(*plan), nil
}

func (h handlers) KeepPlan(ctx context.Context, r api.KeepPlanRequestObject) (api.KeepPlanResponseObject, error) {
	return api.KeepPlan204Response{}, h.Track.Keep(ctx, me(ctx), *r.Body)
}

func (h handlers) GetWeek(ctx context.Context, r api.GetWeekRequestObject) (api.GetWeekResponseObject, error) {
	week, err := h.Track.Week(ctx, me(ctx), r.Params.From)
	if err != nil {
		return nil, err
	}
	return api.GetWeek200JSONResponse(*week), nil
}

func (h handlers) Bulk(ctx context.Context, r api.BulkRequestObject) (api.BulkResponseObject, error) {
	said, err := h.Track.Bulk(ctx, me(ctx), r.Body.Ids, r.Body.Do, r.Body.Minutes)
	return api.Bulk200JSONResponse{Text: said}, err
}

func (h handlers) SaveView(ctx context.Context, r api.SaveViewRequestObject) (api.SaveViewResponseObject, error) {
	return api.SaveView204Response{}, h.Track.SaveView(ctx, me(ctx), r.Body.Name, r.Body.Filter)
}

func (h handlers) RemoveView(ctx context.Context, r api.RemoveViewRequestObject) (api.RemoveViewResponseObject, error) {
	return api.RemoveView204Response{}, h.Track.RemoveView(ctx, me(ctx), r.Id)
}

func (h handlers) Seen(ctx context.Context, r api.SeenRequestObject) (api.SeenResponseObject, error) {
	return api.Seen204Response{}, h.Track.Seen(ctx, me(ctx), r.Body.Id)
}

func (h handlers) PreviewImport(ctx context.Context, r api.PreviewImportRequestObject) (api.PreviewImportResponseObject, error) {
	preview, err := h.Track.Preview(ctx, me(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return api.PreviewImport200JSONResponse(*preview), nil
}

func (h handlers) Import(ctx context.Context, r api.ImportRequestObject) (api.ImportResponseObject, error) {
	done, err := h.Track.Import(ctx, me(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return api.Import200JSONResponse{Added: done.Added, Changed: done.Changed, Same: done.Same, Cancelled: done.Cancelled, Busy: done.Busy}, nil
}

func (h handlers) GetFeeds(ctx context.Context, _ api.GetFeedsRequestObject) (api.GetFeedsResponseObject, error) {
	feeds, err := h.Track.Feeds(ctx, me(ctx))
	return api.GetFeeds200JSONResponse(feeds), err
}

func (h handlers) RemoveFeed(ctx context.Context, r api.RemoveFeedRequestObject) (api.RemoveFeedResponseObject, error) {
	return api.RemoveFeed204Response{}, h.Track.RemoveFeed(ctx, me(ctx), r.Id)
}

func (h handlers) GetLink(ctx context.Context, _ api.GetLinkRequestObject) (api.GetLinkResponseObject, error) {
	token, err := h.Track.Link(ctx, me(ctx))
	if err != nil || token == "" {
		return api.GetLink200JSONResponse{}, err
	}
	return api.GetLink200JSONResponse{Url: h.Track.PublicURL + "/feed/" + token + ".ics"}, nil
}

func (h handlers) RenewLink(ctx context.Context, _ api.RenewLinkRequestObject) (api.RenewLinkResponseObject, error) {
	return api.RenewLink204Response{}, h.Track.Renew(ctx, me(ctx), true)
}

func (h handlers) RevokeLink(ctx context.Context, _ api.RevokeLinkRequestObject) (api.RevokeLinkResponseObject, error) {
	return api.RevokeLink204Response{}, h.Track.Renew(ctx, me(ctx), false)
}

// feed is the calendar behind a secret link: whoever knows the link may read it.
func (s *Server) feed(c *gin.Context) {
	name := c.Param("name")
	const suffix = ".ics"
	if len(name) <= len(suffix) || name[len(name)-len(suffix):] != suffix {
		s.fail(c, prepare.ErrNotFound)
		return
	}
	text, err := s.Track.Published(c, name[:len(name)-len(suffix)], s.Track.PublicURL)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Cache-Control", "private, no-cache")
	c.Data(http.StatusOK, "text/calendar; charset=utf-8", []byte(text))
}

// table is all assignments as CSV.
func (s *Server) table(c *gin.Context) {
	text, err := s.Track.Table(c, c.GetInt64(studentKey))
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Disposition", `attachment; filename="assignments.csv"`)
	c.Data(http.StatusOK, "text/csv; charset=utf-8", []byte(text))
}

func (h handlers) AddCourse(ctx context.Context, r api.AddCourseRequestObject) (api.AddCourseResponseObject, error) {
	id, err := h.Track.AddCourse(ctx, me(ctx), *r.Body)
	return api.AddCourse200JSONResponse{Id: id}, err
}

func (h handlers) SetCourse(ctx context.Context, r api.SetCourseRequestObject) (api.SetCourseResponseObject, error) {
	return api.SetCourse204Response{}, h.Track.SetCourse(ctx, me(ctx), r.Id, *r.Body)
}

func (h handlers) ArchiveCourse(ctx context.Context, r api.ArchiveCourseRequestObject) (api.ArchiveCourseResponseObject, error) {
	return api.ArchiveCourse204Response{}, h.Track.ArchiveCourse(ctx, me(ctx), r.Id, r.Body.Archived)
}
