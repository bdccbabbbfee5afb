package web

import (
	"context"
	"errors"
	"net/http"
	"net/netip"
	"strings"
	"unicode/utf8"

	"github.com/gofiber/fiber/v3"
	"github.com/google/uuid"

	"jembro/internal/core/tongue"
	"jembro/internal/core/typed"
	"jembro/internal/schedule"
	"jembro/internal/schedule/account"
	"jembro/internal/schedule/deeds"
	"jembro/internal/web/api"
)

// cookieName is the name of the session cookie; behind HTTPS the prefix has the
// browser keep it for this host alone (RFC 6265bis, 4.1.3.2).
func cookieName(secure bool) string {
	if secure {
		return "__Host-jembro"
	}
	return "jembro_session"
}

// handlers implements the contract.
type handlers struct {
	deeds    *deeds.Deeds
	hub      *Hub
	secure   bool
	previews *bounded
}

var _ api.StrictServerInterface = (*handlers)(nil)

type contextKey int

const (
	keyMe contextKey = iota
	keyToken
	keyFrom
)

// spoken is the language of a page without a session: as it says, or as its browser asks for.
func spoken(ctx fiber.Ctx) tongue.Tongue {
	if code := ctx.Get("Jembro-Language"); code != "" {
		return tongue.In(code)
	}
	return tongue.In(tongue.Match(ctx.Get("Accept-Language")))
}

// session finds out who is signed in; without a session only sign-in and guest
// pages go on.
func (h *handlers) session(ctx fiber.Ctx) error {
	token := ctx.Cookies(cookieName(h.secure))
	inner := context.WithValue(ctx.Context(), keyToken, token)
	inner = context.WithValue(inner, keyFrom, ctx.IP())
	if window := ctx.Get("Jembro-Window"); len(window) <= 64 && utf8.ValidString(window) {
		inner = schedule.FromWindow(inner, window)
	}
	switch order := typed.Order(ctx.Get("Jembro-Days")); order {
	case typed.DayFirst, typed.MonthFirst, typed.YearFirst:
		inner = schedule.WritingDays(inner, order)
	}
	open := ctx.Path() == "/api/session" || strings.HasPrefix(ctx.Path(), "/api/guest/")
	if !open {
		session, err := h.deeds.Account.SignedIn(ctx.Context(), token)
		if err != nil {
			if errors.Is(err, schedule.ErrNotFound) {
				return errSignedOut
			}
			return err
		}
		inner = schedule.Reading(context.WithValue(inner, keyMe, session.Person), tongue.In(session.Language))
		ctx.Locals(keyMe, session.Person)
	} else {
		inner = schedule.Reading(inner, spoken(ctx))
	}
	ctx.SetContext(inner)
	ctx.Set("Cache-Control", "no-store")
	return ctx.Next()
}

// actor is who is signed in, acting for themselves.
func actor(ctx context.Context) schedule.Actor { return schedule.Self(me(ctx)) }

// me is who is signed in; session has made sure that somebody is.
func me(ctx context.Context) uuid.UUID {
	id, _ := ctx.Value(keyMe).(uuid.UUID)
	return id
}

// cookie is the session cookie as a header line; a session that is over has
// none left to live.
func (h *handlers) cookie(token string, seconds int) *string {
	c := http.Cookie{Name: cookieName(h.secure), Value: token, Path: "/", MaxAge: seconds, HttpOnly: true, Secure: h.secure, SameSite: http.SameSiteLaxMode}
	line := c.String()
	return &line
}

// SignIn begins a new session, whatever session there was.
func (h *handlers) SignIn(ctx context.Context, r api.SignInRequestObject) (api.SignInResponseObject, error) {
	ip, _ := ctx.Value(keyFrom).(string)
	from, _ := netip.ParseAddr(ip)
	token, p, err := h.deeds.Account.SignIn(ctx, r.Body.Email, r.Body.Password, from)
	if err != nil {
		noteSecurity("sign-in refused", "why", refusedFor(err))
		return nil, err
	}
	noteSecurity("signed in", "person", p.ID)
	if old, _ := ctx.Value(keyToken).(string); old != "" {
		if err := h.deeds.Account.SignOut(ctx, old); err != nil {
			return nil, err
		}
	}
	body, err := h.me(ctx, p)
	if err != nil {
		return nil, err
	}
	return api.SignIn200JSONResponse{Body: body,
		Headers: api.SignIn200ResponseHeaders{SetCookie: h.cookie(token, int(account.SessionLength.Seconds()))}}, nil
}

func refusedFor(err error) string {
	var wait *account.WaitError
	switch {
	case errors.As(err, &wait):
		return "limit"
	case errors.Is(err, schedule.ErrSignIn):
		return "wrong"
	}
	return "failed"
}

func (h *handlers) SignOutOthers(ctx context.Context, _ api.SignOutOthersRequestObject) (api.SignOutOthersResponseObject, error) {
	token, _ := ctx.Value(keyToken).(string)
	noteSecurity("other sessions ended", "person", me(ctx))
	return api.SignOutOthers204Response{}, h.deeds.Account.SignOutOthers(ctx, actor(ctx), token)
}

func (h *handlers) ChangePassword(ctx context.Context, r api.ChangePasswordRequestObject) (api.ChangePasswordResponseObject, error) {
	token, _ := ctx.Value(keyToken).(string)
	err := h.deeds.Account.ChangePassword(ctx, actor(ctx), token, r.Body.Current, r.Body.Fresh)
	if err == nil {
		noteSecurity("password changed", "person", me(ctx))
	}
	return api.ChangePassword204Response{}, err
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
	p, err := h.deeds.Account.Me(ctx, actor(ctx))
	if err != nil {
		return nil, err
	}
	out, err := h.me(ctx, p)
	return api.GetMe200JSONResponse(out), err
}
