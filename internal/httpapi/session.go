package httpapi

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"orario/internal/account"
	"orario/internal/contents"
	"orario/internal/httpapi/api"
	"orario/internal/refusal"
)

const studentKey = "student"

// identify finds out who sends a request, if anybody is signed in.
func (s *Server) identify(c *gin.Context) {
	cookie, err := c.Cookie(s.sessions.Cookie.Name)
	if err != nil {
		return
	}
	ctx, err := s.sessions.Load(c.Request.Context(), cookie)
	if err != nil {
		s.fail(c, fmt.Errorf("reading a session: %w", err))
		return
	}
	if id := s.sessions.GetInt64(ctx, studentKey); id != 0 {
		c.Set(studentKey, id)
		c.Request = c.Request.WithContext(contents.WithOwner(ctx, fmt.Sprint(id)))
	}
}

func (s *Server) requireStudent(c *gin.Context) {
	if c.GetInt64(studentKey) == 0 {
		problem(c, http.StatusUnauthorized, "Sign in first.")
	}
}

// me is the signed-in student; strict handlers get Gin's context.
func me(ctx context.Context) int64 { return ctx.(*gin.Context).GetInt64(studentKey) }

// enter begins a session, under a new token.
func (s *Server) enter(c *gin.Context, who account.Student) (api.Me, error) {
	ctx, err := s.sessions.Load(c.Request.Context(), "")
	if err != nil {
		return api.Me{}, err
	}
	s.sessions.Put(ctx, studentKey, who.ID)
	token, expiry, err := s.sessions.Commit(ctx)
	if err != nil {
		return api.Me{}, fmt.Errorf("beginning a session: %w", err)
	}
	s.sessions.WriteSessionCookie(ctx, c.Writer, token, expiry)
	return shown(who), nil
}

func shown(who account.Student) api.Me {
	return api.Me{Email: who.Email, Given: who.Given, Family: who.Family, Number: who.Number, Zone: who.Zone}
}

func (h handlers) GetEntrance(
	ctx context.Context,
	_ api.GetEntranceRequestObject,
) (api.GetEntranceResponseObject, error) {
	if !h.Demo {
		return api.GetEntrance200JSONResponse{}, nil
	}
	who, err := h.Accounts.Demo(ctx)
	if errors.Is(err, sql.ErrNoRows) {
		return api.GetEntrance200JSONResponse{}, nil
	}
	return api.GetEntrance200JSONResponse{Demo: who.Given + " " + who.Family}, err
}

func (h handlers) SignIn(ctx context.Context, r api.SignInRequestObject) (api.SignInResponseObject, error) {
	c := ctx.(*gin.Context)
	who, err := h.Accounts.SignIn(ctx, r.Body.Email, r.Body.Password, c.ClientIP())
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
	c := ctx.(*gin.Context)
	if err := h.sessions.Destroy(c.Request.Context()); err != nil {
		return nil, fmt.Errorf("ending a session: %w", err)
	}
	http.SetCookie(c.Writer, &http.Cookie{
		Name:     h.sessions.Cookie.Name,
		Path:     "/",
		MaxAge:   -1,
		HttpOnly: true,
		Secure:   h.Secure,
		SameSite: http.SameSiteStrictMode,
	})
	return api.SignOut204Response{}, nil
}

func (h handlers) GetMe(ctx context.Context, _ api.GetMeRequestObject) (api.GetMeResponseObject, error) {
	who, err := h.Accounts.ByID(ctx, me(ctx))
	return api.GetMe200JSONResponse(shown(who)), err
}
