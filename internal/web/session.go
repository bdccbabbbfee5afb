package web

import (
	"context"
	"errors"
	"net/http"
	"strings"

	"github.com/gofiber/fiber/v3"
	"github.com/google/uuid"

	"jembro/internal/schedule"
	"jembro/internal/schedule/account"
	"jembro/internal/schedule/deeds"
	"jembro/internal/web/api"
)

const cookieName = "jembro_session"

// handlers implements the contract.
type handlers struct {
	deeds  *deeds.Deeds
	secure bool
}

var _ api.StrictServerInterface = (*handlers)(nil)

type contextKey int

const (
	keyMe contextKey = iota
	keyToken
)

// session finds out who is signed in; without a session only sign-in and guest
// pages go on.
func (h *handlers) session(ctx fiber.Ctx) error {
	token := ctx.Cookies(cookieName)
	inner := context.WithValue(ctx.Context(), keyToken, token)
	open := ctx.Path() == "/api/session" || strings.HasPrefix(ctx.Path(), "/api/guest/")
	if !open {
		me, err := h.deeds.Account.SignedIn(ctx.Context(), token)
		if err != nil {
			if errors.Is(err, schedule.ErrNotFound) {
				return errSignedOut
			}
			return err
		}
		inner = context.WithValue(inner, keyMe, me)
		ctx.Locals(keyMe, me)
	}
	ctx.SetContext(inner)
	ctx.Set("Cache-Control", "no-store")
	return ctx.Next()
}

// me is who is signed in; session has made sure that somebody is.
func me(ctx context.Context) uuid.UUID {
	id, _ := ctx.Value(keyMe).(uuid.UUID)
	return id
}

// cookie is the session cookie as a header line; a session that is over has
// none left to live.
func (h *handlers) cookie(token string, seconds int) *string {
	c := http.Cookie{Name: cookieName, Value: token, Path: "/", MaxAge: seconds, HttpOnly: true, Secure: h.secure, SameSite: http.SameSiteLaxMode}
	line := c.String()
	return &line
}

// SignIn begins a new session, whatever session there was.
func (h *handlers) SignIn(ctx context.Context, r api.SignInRequestObject) (api.SignInResponseObject, error) {
	token, p, err := h.deeds.Account.SignIn(ctx, r.Body.Email, r.Body.Password)
	if err != nil {
		return nil, err
	}
	if old, _ := ctx.Value(keyToken).(string); old != "" {
		if err := h.deeds.Account.SignOut(ctx, old); err != nil {
			return nil, err
		}
	}
	return api.SignIn200JSONResponse{Body: h.me(p),
		Headers: api.SignIn200ResponseHeaders{SetCookie: h.cookie(token, int(account.SessionLength.Seconds()))}}, nil
}

func (h *handlers) SignOut(ctx context.Context, _ api.SignOutRequestObject) (api.SignOutResponseObject, error) {
	if token, _ := ctx.Value(keyToken).(string); token != "" {
		if err := h.deeds.Account.SignOut(ctx, token); err != nil {
			return nil, err
		}
	}
	return api.SignOut204Response{Headers: api.SignOut204ResponseHeaders{SetCookie: h.cookie("", -1)}}, nil
}

func (h *handlers) GetMe(ctx context.Context, _ api.GetMeRequestObject) (api.GetMeResponseObject, error) {
	p, err := h.deeds.Account.Me(ctx, me(ctx))
	return api.GetMe200JSONResponse(h.me(p)), err
}
