package httpapi

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"

	"orario/internal/account"
	"orario/internal/contents"
	"orario/internal/httpapi/api"
	"orario/internal/refusal"
)

const (
	studentKey = "student"
	sessionKey = "session"

	sessionCookie = "orario_session"
	knownCookie   = "orario_known" // by which a browser is known that has signed somebody in
)

// knownFor is how long a browser is known.
const knownFor = 180 * 24 * time.Hour

// identify finds out who sends a request, if anybody is signed in.
func (s *Server) identify(c *gin.Context) {
	token, err := c.Cookie(sessionCookie)
	if err != nil {
		return
	}
	session, student, err := s.Accounts.Session(c.Request.Context(), token)
	if err != nil {
		s.fail(c, fmt.Errorf("reading a session: %w", err))
		return
	}
	if student != 0 {
		c.Set(studentKey, student)
		c.Set(sessionKey, session)
		c.Request = c.Request.WithContext(contents.WithOwner(c.Request.Context(), fmt.Sprint(student)))
	}
}

// here is the session that asks.
func here(ctx context.Context) int64 { return ctx.(*gin.Context).GetInt64(sessionKey) }

// setCookie gives a browser something to keep; for no time: it lets go of it.
func (s *Server) setCookie(c *gin.Context, name, value string, keep time.Duration) {
	age := int(keep / time.Second)
	if keep == 0 {
		age = -1
	}
	http.SetCookie(c.Writer, &http.Cookie{
		Name:     name,
		Value:    value,
		Path:     "/",
		MaxAge:   age,
		HttpOnly: true,
		Secure:   s.Secure,
		SameSite: http.SameSiteStrictMode,
	})
}

func (s *Server) requireStudent(c *gin.Context) {
	if c.GetInt64(studentKey) == 0 {
		problem(c, http.StatusUnauthorized, "Sign in first.")
	}
}

// me is the signed-in student; strict handlers get Gin's context.
func me(ctx context.Context) int64 { return ctx.(*gin.Context).GetInt64(studentKey) }

// enter begins a session, under a new token; the browser is known from now on.
func (s *Server) enter(c *gin.Context, who account.Student) (api.Me, error) {
	token, err := s.Accounts.Enter(c.Request.Context(), who.ID, c.Request.UserAgent())
	if err != nil {
		return api.Me{}, err
	}
	s.setCookie(c, sessionCookie, token, account.SessionLife)
	s.setCookie(c, knownCookie, s.Accounts.Known(who.ID), knownFor)
	return shown(who), nil
}

func shown(who account.Student) api.Me {
	return api.Me{Email: who.Email, Given: who.Given, Family: who.Family, Number: who.Number, Zone: who.Zone}
}

func (h handlers) GetEntrance(
	ctx context.Context,
	_ api.GetEntranceRequestObject,
) (api.GetEntranceResponseObject, error) {
	entrance := api.GetEntrance200JSONResponse{Mail: h.Accounts.Mail != nil}
	if !h.Demo {
		return entrance, nil
	}
	who, err := h.Accounts.Demo(ctx)
	if errors.Is(err, sql.ErrNoRows) {
		return entrance, nil
	}
	entrance.Demo = who.Given + " " + who.Family
	return entrance, err
}

func (h handlers) SignIn(ctx context.Context, r api.SignInRequestObject) (api.SignInResponseObject, error) {
	c := ctx.(*gin.Context)
	known, _ := c.Cookie(knownCookie) // a browser that is not known has none
	who, err := h.Accounts.SignIn(ctx, r.Body.Email, r.Body.Password, c.ClientIP(), known)
	if err != nil {
		return nil, err
	}
	entered, err := h.enter(c, who)
	return api.SignIn200JSONResponse(entered), err
}

func (h handlers) SignInDemo(ctx context.Context, _ api.SignInDemoRequestObject) (api.SignInDemoResponseObject, error) {
	if !h.Demo {
		return nil, refusal.ErrNotFound
	}
	who, err := h.Accounts.Demo(ctx)
	if errors.Is(err, sql.ErrNoRows) {
		err = refusal.ErrNotFound
	}
	if err != nil {
		return nil, err
	}
	entered, err := h.enter(ctx.(*gin.Context), who)
	return api.SignInDemo200JSONResponse(entered), err
}

func (h handlers) SignOut(ctx context.Context, _ api.SignOutRequestObject) (api.SignOutResponseObject, error) {
	if err := h.Accounts.End(ctx, me(ctx), here(ctx)); err != nil {
		return nil, fmt.Errorf("ending a session: %w", err)
	}
	h.setCookie(ctx.(*gin.Context), sessionCookie, "", 0)
	return api.SignOut204Response{}, nil
}

func (h handlers) GetMe(ctx context.Context, _ api.GetMeRequestObject) (api.GetMeResponseObject, error) {
	who, err := h.Accounts.ByID(ctx, me(ctx))
	return api.GetMe200JSONResponse(shown(who)), err
}

func (h handlers) GetSessions(
	ctx context.Context,
	_ api.GetSessionsRequestObject,
) (api.GetSessionsResponseObject, error) {
	list, err := h.Accounts.Sessions(ctx, me(ctx), here(ctx))
	return api.GetSessions200JSONResponse(list), err
}

func (h handlers) EndSession(ctx context.Context, r api.EndSessionRequestObject) (api.EndSessionResponseObject, error) {
	return api.EndSession204Response{}, h.Accounts.End(ctx, me(ctx), r.Id)
}

func (h handlers) ChangePassword(
	ctx context.Context,
	r api.ChangePasswordRequestObject,
) (api.ChangePasswordResponseObject, error) {
	err := h.Accounts.ChangePassword(ctx, me(ctx), here(ctx), r.Body.Old, r.Body.Fresh)
	return api.ChangePassword204Response{}, err
}

func (h handlers) AskReset(ctx context.Context, r api.AskResetRequestObject) (api.AskResetResponseObject, error) {
	return api.AskReset204Response{}, h.Accounts.AskReset(ctx, r.Body.Email, ctx.(*gin.Context).ClientIP())
}

func (h handlers) ResetPassword(
	ctx context.Context,
	r api.ResetPasswordRequestObject,
) (api.ResetPasswordResponseObject, error) {
	student, err := h.Accounts.Reset(ctx, r.Body.Token, r.Body.Password)
	if err == nil {
		h.setCookie(ctx.(*gin.Context), knownCookie, h.Accounts.Known(student), knownFor)
	}
	return api.ResetPassword204Response{}, err
}

func (h handlers) RemoveMe(ctx context.Context, r api.RemoveMeRequestObject) (api.RemoveMeResponseObject, error) {
	if err := h.Accounts.Remove(ctx, me(ctx), r.Body.Password); err != nil {
		return nil, err
	}
	h.setCookie(ctx.(*gin.Context), sessionCookie, "", 0)
	return api.RemoveMe204Response{}, nil
}
