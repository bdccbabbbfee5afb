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

func simple(status int, kind, title, detail string) api.Problem {
	return api.Problem{Type: "/problems/" + kind, Title: title, Status: status, Detail: &detail}
}

// problem says what an error means to the caller.
func problem(ctx fiber.Ctx, do *deeds.Deeds, err error) api.Problem {
	var (
		invalid *schedule.InvalidError
		version *schedule.VersionError
		taken   *schedule.TakenError
		refused *schedule.RefusedError
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
		p := simple(fiber.StatusUnprocessableEntity, "invalid", "Something has to be put right", invalid.Faults[0].Sentence)
		p.Errors = fieldErrors(invalid.Faults)
		return p
	case errors.As(err, &version):
		return versionProblem(version)
	case errors.As(err, &written):
		return simple(fiber.StatusPreconditionFailed, "description-changed", "The description was changed in the meantime", "Somebody else, or another window, wrote this description in the meantime. What you wrote is still here; look at theirs before you go on.")
	case errors.As(err, &said):
		return providerProblem(said)
	case errors.As(err, &asked):
		return simple(fiber.StatusConflict, "answered", "It was answered already", asked.Sentence())
	case errors.As(err, &changed):
		return simple(fiber.StatusPreconditionFailed, "room-changed", "The room was changed in the meantime", "Somebody else changed the room in the meantime. Look at it again; what you wrote is still here.")
	case errors.As(err, &table):
		p := simple(fiber.StatusUnprocessableEntity, "invalid", "The table cannot be taken", "Nothing was changed. "+lineWords(table.Lines[0]))
		faults := each(table.Lines[:min(len(table.Lines), 50)], func(l keeping.LineError) api.FieldError {
			return api.FieldError{Field: fmt.Sprintf("csv.%d", l.Line), Detail: lineWords(l)}
		})
		p.Errors = &faults
		return p
	case errors.As(err, &taken):
		return takenProblem(ctx, do, taken)
	case errors.Is(err, schedule.ErrOverlap):
		return simple(fiber.StatusConflict, "room-taken", "The room is taken", "Somebody else took the room at this moment. Send again to see who.")
	case errors.As(err, &refused):
		return simple(fiber.StatusUnprocessableEntity, "refused-outside", "The other side refused", "The other side refused: "+refused.Reason+".")
	case errors.Is(err, schedule.ErrConnect):
		return simple(fiber.StatusConflict, "sign-in-at-provider", "Sign in at the provider first", "Sign in at the provider once; the sheet stays as it is.")
	case errors.Is(err, schedule.ErrUnreachable):
		return simple(fiber.StatusBadGateway, "provider-away", "The provider does not answer", "The provider does not answer. The sheet is kept; try again, or send without a link and add it later.")
	case errors.Is(err, schedule.ErrCalledOff):
		return simple(fiber.StatusConflict, "called-off", "The meeting has been called off", "The meeting has been called off and takes no changes or answers.")
	case errors.Is(err, schedule.ErrNotFound):
		return simple(fiber.StatusNotFound, "not-found", "Not found", "There is nothing here, or nothing that you may see.")
	case errors.Is(err, schedule.ErrSignIn):
		return simple(fiber.StatusUnauthorized, "wrong-sign-in", "That did not work", "Address or password is wrong.")
	case errors.As(err, &wait):
		ctx.Set("Retry-After", strconv.Itoa(wait.Seconds()))
		return simple(fiber.StatusTooManyRequests, "wait", "Wait a moment", fmt.Sprintf("Several tries did not work. Wait %d seconds, then try again.", wait.Seconds()))
	case errors.Is(err, context.DeadlineExceeded):
		return simple(fiber.StatusServiceUnavailable, "slow", "This takes too long", "This takes too long at the moment. What you wrote is kept; try again.")
	case errors.Is(err, errSignedOut):
		return simple(fiber.StatusUnauthorized, "signed-out", "You are not signed in", "Sign in to go on.")
	case errors.As(err, &http):
		return simple(http.Code, "request", "The request cannot be taken", http.Message)
	}
	return simple(fiber.StatusInternalServerError, "internal", "Something broke here", "Something broke here. What you wrote is kept; try again.")
}

// providerProblem is what a conferencing provider said.
func providerProblem(e *schedule.ProviderError) api.Problem {
	switch {
	case errors.Is(e, schedule.ErrConnect):
		return simple(fiber.StatusConflict, "sign-in-at-provider", "Sign in at the provider first", e.Sentence)
	case errors.Is(e, schedule.ErrUnreachable):
		return simple(fiber.StatusBadGateway, "provider-away", "The provider does not answer", e.Sentence)
	}
	return simple(fiber.StatusUnprocessableEntity, "refused-outside", "The other side refused", e.Sentence)
}

func lineWords(l keeping.LineError) string {
	if l.Column == "" {
		return fmt.Sprintf("Line %d: %s", l.Line, l.Sentence)
	}
	return fmt.Sprintf("Line %d, %s: %s", l.Line, l.Column, l.Sentence)
}

func fieldErrors(faults []meeting.Fault) *[]api.FieldError {
	out := make([]api.FieldError, len(faults))
	for i, f := range faults {
		out[i] = api.FieldError{Field: f.Field, Detail: f.Sentence}
		if f.Fix != "" {
			out[i].Fix = &f.Fix
		}
		out[i].Long = orNil(f.Long)
	}
	return &out
}

// versionProblem: 412 for a sheet that another window saved, 409 for a meeting
// that was changed.
func versionProblem(e *schedule.VersionError) api.Problem {
	switch {
	case e.Sheet != nil:
		p := simple(fiber.StatusPreconditionFailed, "sheet-changed", "Another window saved this sheet", "Another window of yours saved this sheet. Look at what it holds now, or keep what is here.")
		sheet := toSheet(*e.Sheet, nil)
		p.Sheet = &sheet
		return p
	case e.Meeting != nil:
		return simple(fiber.StatusConflict, "meeting-changed", "The meeting was changed in the meantime", "The meeting was changed in the meantime: "+e.Changed+". Nothing was overwritten.")
	}
	return simple(fiber.StatusConflict, "meeting-changed", "The meeting was changed in the meantime", e.Changed)
}

func takenProblem(ctx fiber.Ctx, do *deeds.Deeds, e *schedule.TakenError) api.Problem {
	zone := when.Zone{}
	// The time of the request may be over by now.
	within, cancel := context.WithTimeout(context.WithoutCancel(ctx.Context()), 2*time.Second)
	defer cancel()
	if p, err := do.Account.Me(within, actor(within)); err == nil {
		zone = p.Hours.Zone
	}
	sentence := e.Sentence(zone)
	p := simple(fiber.StatusConflict, "room-taken", "The room is taken", sentence)
	field := []api.FieldError{{Field: "room", Detail: sentence}}
	p.Errors = &field
	dates := each(e.Taken, func(t rooms.Taken) api.TakenDate {
		return api.TakenDate{On: t.On.String(), Room: t.Room, Detail: words.Taken(t, zone)}
	})
	clear := each(e.Clear, toRoomRef)
	p.TakenDates, p.ClearRooms = &dates, &clear
	return p
}
