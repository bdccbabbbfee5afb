package web

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/say"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/account"
	"jembro/internal/schedule/deeds"
	"jembro/internal/schedule/links"
	keeping "jembro/internal/schedule/rooms"
	"jembro/internal/web/api"
)

var errSignedOut = errors.New("nobody is signed in")

// problemHandler turns every error into an RFC 9457 problem.
func problemHandler(do *deeds.Deeds) fiber.ErrorHandler {
	return func(ctx fiber.Ctx, err error) error {
		p := problem(ctx, do, err)
		if p.Status >= 500 && p.Status != fiber.StatusServiceUnavailable {
			slog.Error("request failed", "method", ctx.Method(), "route", ctx.Route().Path, "error", err)
		}
		return ctx.Status(p.Status).JSON(p, "application/problem+json")
	}
}

func simple(t tongue.Tongue, status int, kind string, what say.What) api.Problem {
	detail, title := words.Say(t, what), words.Say(t, say.It(say.Code("problem."+kind+".title")))
	return api.Problem{Type: "/problems/" + kind, Title: title, Status: status, Detail: &detail, Code: orNil(string(what.Code)), Args: saidArgs(what)}
}

// saidArgs are the arguments of what is said, for programs; nil where there are none.
func saidArgs(what say.What) *[]api.SaidArg {
	return listOrNil(each(what.Kept(), func(k say.Kept) api.SaidArg { return api.SaidArg{Kind: k.Kind, Value: k.Value} }))
}

// refusal is a request that is not taken as it is, by its status and what to do.
type refused struct {
	status int
	what   say.What
}

func (e *refused) Error() string { return e.what.Error() }

func refuse(status int, code say.Code, args ...any) error {
	return &refused{status, say.It(code, args...)}
}

// problem says what an error means to the caller.
func problem(ctx fiber.Ctx, do *deeds.Deeds, err error) api.Problem {
	t := schedule.Tongue(ctx.Context())
	var (
		invalid *schedule.InvalidError
		version *schedule.VersionError
		taken   *schedule.TakenError
		outside *schedule.RefusedError
		plain   *refused
		wait    *account.WaitError
		asked   *keeping.AnsweredError
		table   *keeping.TableError
		changed *keeping.ChangedError
		http    *fiber.Error
		said    *schedule.ProviderError
		written *links.ChangedProviderError
	)
	switch {
	case errors.As(err, &invalid):
		p := simple(t, fiber.StatusUnprocessableEntity, "invalid", invalid.Faults[0].What)
		p.Errors = fieldErrors(t, invalid.Faults)
		return p
	case errors.As(err, &version):
		return versionProblem(t, version)
	case errors.As(err, &written):
		return simple(t, fiber.StatusPreconditionFailed, "description-changed", say.It("problem.description-changed"))
	case errors.As(err, &said):
		return providerProblem(t, said)
	case errors.As(err, &asked):
		return simple(t, fiber.StatusConflict, "answered", asked.What())
	case errors.As(err, &changed):
		return simple(t, fiber.StatusPreconditionFailed, "room-changed", say.It("problem.room-changed"))
	case errors.As(err, &table):
		p := simple(t, fiber.StatusUnprocessableEntity, "table", say.It("problem.table", table.Lines[0].Said()))
		p.Type = "/problems/invalid"
		faults := each(table.Lines[:min(len(table.Lines), 50)], func(l keeping.LineError) api.FieldError {
			return fieldError(t, meeting.Fault{Field: fmt.Sprintf("csv.%d", l.Line), What: l.Said()})
		})
		p.Errors = &faults
		return p
	case errors.As(err, &taken):
		return takenProblem(ctx, t, do, taken)
	case errors.Is(err, schedule.ErrOverlap):
		return simple(t, fiber.StatusConflict, "room-taken", say.It("problem.room-taken"))
	case errors.As(err, &outside):
		return simple(t, fiber.StatusUnprocessableEntity, "refused-outside", say.It("problem.refused-outside", outside.Reason))
	case errors.Is(err, schedule.ErrConnect):
		return simple(t, fiber.StatusConflict, "sign-in-at-provider", say.It("problem.sign-in-at-provider"))
	case errors.Is(err, schedule.ErrUnreachable):
		return simple(t, fiber.StatusBadGateway, "provider-away", say.It("problem.provider-away"))
	case errors.Is(err, schedule.ErrCalledOff):
		return simple(t, fiber.StatusConflict, "called-off", say.It("problem.called-off"))
	case errors.Is(err, schedule.ErrNotFound):
		return simple(t, fiber.StatusNotFound, "not-found", say.It("problem.not-found"))
	case errors.Is(err, schedule.ErrSignIn):
		return simple(t, fiber.StatusUnauthorized, "wrong-sign-in", say.It("problem.wrong-sign-in"))
	case errors.As(err, &wait):
		ctx.Set("Retry-After", strconv.Itoa(wait.Seconds()))
		return simple(t, fiber.StatusTooManyRequests, "wait", say.It("problem.wait", say.Count{N: wait.Seconds(), Of: "second"}))
	case errors.Is(err, context.DeadlineExceeded):
		return simple(t, fiber.StatusServiceUnavailable, "slow", say.It("problem.slow"))
	case errors.Is(err, errSignedOut):
		return simple(t, fiber.StatusUnauthorized, "signed-out", say.It("problem.signed-out"))
	case errors.As(err, &plain):
		return simple(t, plain.status, "request", plain.what)
	case errors.As(err, &http): // of the router
		return simple(t, http.Code, "request", say.It("verbatim", http.Message))
	}
	return simple(t, fiber.StatusInternalServerError, "internal", say.It("problem.internal"))
}

// providerProblem is what a conferencing provider said.
func providerProblem(t tongue.Tongue, e *schedule.ProviderError) api.Problem {
	switch {
	case errors.Is(e, schedule.ErrConnect):
		return simple(t, fiber.StatusConflict, "sign-in-at-provider", e.What)
	case errors.Is(e, schedule.ErrUnreachable):
		return simple(t, fiber.StatusBadGateway, "provider-away", e.What)
	}
	return simple(t, fiber.StatusUnprocessableEntity, "refused-outside", e.What)
}

func fieldErrors(t tongue.Tongue, faults []meeting.Fault) *[]api.FieldError {
	out := each(faults, func(f meeting.Fault) api.FieldError { return fieldError(t, f) })
	return &out
}

func fieldError(t tongue.Tongue, f meeting.Fault) api.FieldError {
	return api.FieldError{Field: f.Field, Detail: words.Say(t, f.What), Code: orNil(string(f.What.Code)), Args: saidArgs(f.What), Fix: orNil(f.Fix), Long: orNil(f.Long)}
}

// versionProblem: 412 for a sheet that another window saved, 409 for a meeting
// that was changed.
func versionProblem(t tongue.Tongue, e *schedule.VersionError) api.Problem {
	switch {
	case e.Sheet != nil:
		p := simple(t, fiber.StatusPreconditionFailed, "sheet-changed", say.It("problem.sheet-changed"))
		sheet := toSheet(t, *e.Sheet, nil)
		p.Sheet = &sheet
		return p
	case e.Meeting != nil:
		return simple(t, fiber.StatusConflict, "meeting-changed", say.It("problem.meeting-changed", e.Facts.What()))
	}
	return simple(t, fiber.StatusConflict, "meeting-changed", e.What)
}

func takenProblem(ctx fiber.Ctx, t tongue.Tongue, do *deeds.Deeds, e *schedule.TakenError) api.Problem {
	zone := when.Zone{}
	// The time of the request may be over by now.
	within, cancel := context.WithTimeout(context.WithoutCancel(ctx.Context()), 2*time.Second)
	defer cancel()
	if p, err := do.Account.Me(within, actor(within)); err == nil {
		zone = p.Hours.Zone
	}
	p := simple(t, fiber.StatusConflict, "room-taken", e.What(zone))
	p.Errors = fieldErrors(t, []meeting.Fault{{Field: "room", What: e.What(zone)}})
	dates := each(e.Taken, func(taken rooms.Taken) api.TakenDate {
		return api.TakenDate{On: taken.On.String(), Room: taken.Room, Detail: words.Say(t, taken.What(zone))}
	})
	clear := each(e.Clear, toRoomRef)
	p.TakenDates, p.ClearRooms = &dates, &clear
	return p
}
