package links

import (
	"context"
	"slices"
	"strconv"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
	"jembro/internal/schedule/sheets"
)

type callsTx interface {
	directory.LookupTx
	sheets.LinkTx
	SignedInAt(ctx context.Context, person uuid.UUID) ([]string, error)
	StandingLinks(ctx context.Context, person uuid.UUID, rooms []uuid.UUID, most int) ([]schedule.StandingLink, error)
}

func (s *Deeds) callsStore() schedule.Store[callsTx] {
	return schedule.Narrow(s.Store, func(tx Tx) callsTx { return tx })
}

// Calls is where the call of a sheet can be.
type Calls struct {
	Options []CallOption
	// Door is what can be chosen for the call on the sheet, nil where nothing can.
	Door *join.Choices
	// PasscodeStays tells that the passcode has been sent.
	PasscodeStays bool
}

// CallOption is one place where it can be.
type CallOption struct {
	Provider string    // its key, with a fresh link
	Standing uuid.UUID // with a standing link
	Name     string
	About    []string // what it is, in short pieces
	URL      string   // of a standing link
	Warnings []string // for what it would be too small, and what else is there at the time
	State    CallState
	On       bool // on the sheet
}

// CallState is how somebody stands to a place for calls.
type CallState string

const (
	SignedIn   CallState = "signedIn"
	SignInNew  CallState = "signIn" // they have to sign in there
	OfTheHouse CallState = "house"  // the house has the account
	Stands     CallState = "standing"
)

// Calls says where the call of a sheet can be, and how each place would do for it.
func (s *Deeds) Calls(ctx context.Context, who schedule.Actor, id uuid.UUID) (out Calls, err error) {
	v, err := s.Sheets.Sheet(ctx, who, id, "")
	if err != nil {
		return out, err
	}
	err = s.callsStore().Look(ctx, func(tx callsTx) error {
		me, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		all, err := tx.ProvidersInUse(ctx, sheets.MostProviders)
		if err != nil {
			return err
		}
		signedIn, err := tx.SignedInAt(ctx, who.For)
		if err != nil {
			return err
		}
		use, spans := v.Settled.CallUse(), v.Settled.CallSpans(s.now())
		out = Calls{}
		for _, p := range all {
			if !p.Service.Does(join.CanMake) {
				continue
			}
			o := CallOption{Provider: p.Key, Name: p.Service.Name, State: OfTheHouse, On: v.Card != nil && v.Card.Kind == join.Fresh && v.Card.Provider == p.Key}
			if p.Service.Each {
				if o.State = SignInNew; slices.Contains(signedIn, p.Key) {
					o.State = SignedIn
				}
			}
			o.About = append([]string{words.Service(schedule.Tongue(ctx), p.Service)}, words.Plan(schedule.Tongue(ctx), p.Service)...)
			if p.Service.About != "" {
				o.About[0] = p.Service.About
			}
			for _, e := range p.Service.Limits.Over(use, s.Now()) {
				o.Warnings = append(o.Warnings, words.Over(schedule.Tongue(ctx), e, p.Service.Name, me.Hours.Zone))
			}
			out.Options = append(out.Options, o)
		}
		standing, err := tx.StandingLinks(ctx, who.For, roomsOf(v.Settled, v.Draft), mostStanding)
		if err != nil {
			return err
		}
		but := uuid.Nil
		if v.MeetingID != nil {
			but = *v.MeetingID
		}
		for _, l := range standing {
			o := CallOption{Standing: l.ID, Name: l.Name, URL: l.Card.ShortURL(), State: Stands, On: v.Card != nil && v.Card.StandsAs == l.ID.String()}
			if l.Kind == schedule.OfRoom {
				o.Name = schedule.Tongue(ctx).Say("%s’s standing room", l.Name)
			}
			if l.Card.Name != "" {
				o.About = append(o.About, l.Card.Name)
			}
			if o.Warnings, err = s.Sheets.Overlaps(ctx, tx, l.ID.String(), but, me, spans); err != nil {
				return err
			}
			for _, e := range l.Card.Over(use) {
				o.Warnings = append(o.Warnings, words.Over(schedule.Tongue(ctx), e, l.Card.Name, me.Hours.Zone))
			}
			if len(o.Warnings) == 0 && len(spans) > 0 {
				o.About = append(o.About, clearOn(schedule.Tongue(ctx), len(spans)))
			}
			if len(l.SharedWith) > 0 {
				people, err := tx.People(ctx, l.SharedWith)
				if err != nil {
					return err
				}
				o.About = append(o.About, schedule.Tongue(ctx).Say("with %s", names(schedule.Tongue(ctx), people)))
			}
			out.Options = append(out.Options, o)
		}
		return nil
	})
	if err != nil || !v.Card.Made() {
		return out, err
	}
	if p, _, err := s.providerOf(ctx, *v.Card); err == nil {
		choices := p.Service().Choices
		out.Door = &choices
		out.PasscodeStays = v.Of != nil && v.Of.Content.Card.SameCall(v.Card)
	}
	return out, nil
}

func clearOn(in tongue.Tongue, n int) string {
	if n == 1 {
		return in.Say("clear at this time")
	}
	if n == meeting.CallDates {
		return in.Say("clear on its next dates")
	}
	return in.Say("clear on all %s dates", strconv.Itoa(n))
}

// names are those of up to three people.
func names(in tongue.Tongue, people []schedule.Person) string {
	var out []string
	for _, p := range people {
		out = append(out, p.Name)
	}
	if len(out) > 3 {
		return words.People(in, len(out))
	}
	return strings.Join(out, ", ")
}

// roomsOf are the rooms of a sheet, whose standing links are offered.
func roomsOf(m meeting.Meeting, d meeting.Draft) (out []uuid.UUID) {
	texts := []string{d.RoomID}
	if m.Room != nil {
		texts = append(texts, m.Room.ID)
	}
	for _, text := range texts {
		if id, err := uuid.Parse(text); err == nil && !slices.Contains(out, id) {
			out = append(out, id)
		}
	}
	return out
}
