package web

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/links"
	"jembro/internal/schedule/sheets"
	"jembro/internal/web/api"
)

// toCard is a card as its reader sees it.
func toCard(c *join.Card, reader join.Reader) *api.Card {
	if c == nil {
		return nil
	}
	near, far := c.Near(reader)
	others := join.Reader{Country: reader.Country, Outside: true, Tongue: reader.Tongue} // what is copied is for them
	phone := func(p join.Phone) api.CardPhone { return toCardPhone(p, reader.Tongue) }
	out := &api.Card{Kind: api.CardKindFresh, Heading: c.Heading(reader.Tongue), Provider: orNil(c.Provider), Name: c.Name, URL: c.URL, ShortURL: c.ShortURL(), Follows: c.Follows,
		Number: orNil(c.Number), Passcode: orNil(c.Passcode), LimitMinutes: orNil(c.LimitMinutes), GoodUntil: orNil(c.GoodUntil),
		Lines: []api.CardLine{}, Far: each(far, phone), Text: c.Text(others), Chat: c.Chat(others)}
	if reader.Organiser {
		out.Pasted = orNil(c.Pasted)
	}
	if c.Kind != join.Fresh {
		out.Kind = api.CardKind(c.Kind)
	}
	for _, l := range c.Lines(reader) {
		if !l.Phone {
			out.Lines = append(out.Lines, api.CardLine{Label: l.Label, Value: l.Value, Link: orNil(l.Link), Way: orNil(l.Way)})
		}
	}
	out.Near = each(near, phone)
	if door := c.DoorLines(reader); len(door) > 0 {
		out.Door = &door[0]
	}
	countries := map[string]bool{}
	for _, p := range far {
		countries[p.Country] = true
	}
	out.Countries = orNil(len(countries))
	if c.Made() && c.Door != (join.Door{}) {
		out.SetDoor = &api.Door{Waits: (*api.DoorWaits)(orNil(string(c.Door.Waits))), Speaks: (*api.DoorSpeaks)(orNil(string(c.Door.Speaks))), Starts: (*api.DoorStarts)(orNil(string(c.Door.Starts)))}
	}
	return out
}

func toCardPhone(p join.Phone, t tongue.Tongue) api.CardPhone {
	return api.CardPhone{Where: p.Where(t), Words: p.Words(), Pin: orNil(p.PIN), Link: p.URI()}
}

func toSheetLink(v sheets.LinkView) api.SheetLink {
	return api.SheetLink{Changed: v.Changed, Overlaps: each(v.Overlaps, same), Ways: each(v.Ways, func(w meeting.FieldWay) api.FieldWay {
		return api.FieldWay{Field: api.FieldWayField(w.Field), Address: w.Address}
	}), Over: each(v.Over, func(o sheets.LinkOver) api.LinkOver {
		return api.LinkOver{Words: o.Words, Mends: each(o.Mends, func(m sheets.LinkMend) api.LinkMend {
			out := api.LinkMend{Words: m.Words, Provider: orNil(m.Provider), End: orNil(m.End), Count: orNil(m.Count), Parts: orNil(m.Parts)}
			if m.Until != 0 {
				out.Until = orNil(m.Until.String())
			}
			return out
		})}
	})}
}

func (h *handlers) AttachLink(ctx context.Context, r api.AttachLinkRequestObject) (api.AttachLinkResponseObject, error) {
	choice := links.Choice{Provider: deref(r.Body.Provider), Standing: deref(r.Body.Standing), Text: deref(r.Body.Text)}
	if _, err := h.deeds.Links.Choose(ctx, actor(ctx), r.ID, choice); err != nil {
		return nil, err
	}
	s, err := h.sheet(ctx, r.ID)
	return api.AttachLink200JSONResponse(s), err
}

func (h *handlers) DropLink(ctx context.Context, r api.DropLinkRequestObject) (api.DropLinkResponseObject, error) {
	if _, err := h.deeds.Links.DropLink(ctx, actor(ctx), r.ID, deref(r.Params.None)); err != nil {
		return nil, err
	}
	s, err := h.sheet(ctx, r.ID)
	return api.DropLink200JSONResponse(s), err
}

func (h *handlers) GetCalls(ctx context.Context, r api.GetCallsRequestObject) (api.GetCallsResponseObject, error) {
	c, err := h.deeds.Links.Calls(ctx, actor(ctx), r.ID)
	if err != nil {
		return nil, err
	}
	out := api.GetCalls200JSONResponse{PasscodeStays: c.PasscodeStays, Items: each(c.Options, func(o links.CallOption) api.CallOption {
		return api.CallOption{Provider: orNil(o.Provider), Standing: orNil(o.Standing), Name: o.Name, About: each(o.About, same), URL: orNil(o.URL),
			Warnings: each(o.Warnings, same), State: api.CallOptionState(o.State), On: o.On}
	})}
	if c.Door != nil {
		out.Door = &api.DoorChoices{Waits: each(c.Door.Waits, func(x join.Waits) string { return string(x) }), Speaks: each(c.Door.Speaks, func(x join.Speaks) string { return string(x) }),
			Starts: each(c.Door.Starts, func(x join.Starts) string { return string(x) }), OwnPasscode: c.Door.OwnPasscode}
	}
	return out, nil
}

func (h *handlers) GetSheetCard(ctx context.Context, r api.GetSheetCardRequestObject) (api.GetSheetCardResponseObject, error) {
	card, reader, err := h.deeds.Sheets.CardFor(ctx, actor(ctx), r.ID, r.Params.Reader)
	if err != nil {
		return nil, err
	}
	return api.GetSheetCard200JSONResponse(*toCard(card, reader)), nil
}

func (h *handlers) SettleWay(ctx context.Context, r api.SettleWayRequestObject) (api.SettleWayResponseObject, error) {
	if _, err := h.deeds.Links.SettleWay(ctx, actor(ctx), r.ID, string(r.Body.Field), r.Body.Address, links.OtherWay(r.Body.What)); err != nil {
		return nil, err
	}
	s, err := h.sheet(ctx, r.ID)
	return api.SettleWay200JSONResponse(s), err
}

func (h *handlers) SplitSheet(ctx context.Context, r api.SplitSheetRequestObject) (api.SplitSheetResponseObject, error) {
	if err := h.deeds.Sheets.SplitSheet(ctx, actor(ctx), r.ID, r.Body.Parts); err != nil {
		return nil, err
	}
	s, err := h.sheet(ctx, r.ID)
	return api.SplitSheet200JSONResponse(s), err
}

func (h *handlers) SetDoor(ctx context.Context, r api.SetDoorRequestObject) (api.SetDoorResponseObject, error) {
	door := join.Door{Waits: join.Waits(deref(r.Body.Waits)), Speaks: join.Speaks(deref(r.Body.Speaks)), Starts: join.Starts(deref(r.Body.Starts))}
	if _, err := h.deeds.Links.SetDoor(ctx, actor(ctx), r.ID, door, deref(r.Body.Passcode)); err != nil {
		return nil, err
	}
	s, err := h.sheet(ctx, r.ID)
	return api.SetDoor200JSONResponse(s), err
}

func (h *handlers) ReadCard(ctx context.Context, r api.ReadCardRequestObject) (api.ReadCardResponseObject, error) {
	out := api.ReadCard200JSONResponse{Others: []string{}}
	text := meeting.Plain(r.Body.Text)
	p, found := join.Read(text)
	if found {
		card := p.Card("")
		out.Card, out.Others = toCard(&card, join.Reader{Tongue: schedule.Tongue(ctx)}), each(p.Others, same)
	}
	return out, nil
}

func (h *handlers) ListStanding(ctx context.Context, _ api.ListStandingRequestObject) (api.ListStandingResponseObject, error) {
	all, err := h.deeds.Links.StandingLinks(ctx, actor(ctx))
	return api.ListStanding200JSONResponse{Items: each(all, func(l links.Standing) api.StandingLink {
		return api.StandingLink{ID: l.ID, Name: l.Name, Group: l.Kind == schedule.OfGroup, Mine: l.Mine, Owner: l.Owner, Uses: l.Uses, Card: *toCard(&l.Card, join.Reader{Organiser: true, Tongue: schedule.Tongue(ctx)}),
			SharedWith: each(l.Shared, func(p schedule.Person) api.Entry {
				return api.Entry{PersonID: p.ID.String(), Name: p.Name, Email: p.Email, About: p.Role}
			})}
	})}, err
}

func (h *handlers) KeepStanding(ctx context.Context, r api.KeepStandingRequestObject) (api.KeepStandingResponseObject, error) {
	c := links.StandingChange{Name: r.Body.Name, Group: r.Body.Group, SharedWith: r.Body.SharedWith, Provider: deref(r.Body.Provider), Room: deref(r.Body.Room), Text: deref(r.Body.Text)}
	return api.KeepStanding204Response{}, h.deeds.Links.KeepStanding(ctx, actor(ctx), r.ID, c)
}

func (h *handlers) DropStanding(ctx context.Context, r api.DropStandingRequestObject) (api.DropStandingResponseObject, error) {
	return api.DropStanding204Response{}, h.deeds.Links.DropStanding(ctx, actor(ctx), r.ID)
}

func (h *handlers) ListProviders(ctx context.Context, _ api.ListProvidersRequestObject) (api.ListProvidersResponseObject, error) {
	all, err := h.deeds.Links.ProvidersKept(ctx, actor(ctx))
	return api.ListProviders200JSONResponse{Items: each(all, func(p links.Provided) api.ProviderSummary {
		return api.ProviderSummary{Key: p.Key, Name: p.Name, About: p.Words, InUse: p.InUse, Version: p.Version, People: p.People}
	})}, err
}

func (h *handlers) AddProvider(ctx context.Context, r api.AddProviderRequestObject) (api.AddProviderResponseObject, error) {
	key, err := h.deeds.Links.AddProvider(ctx, actor(ctx), r.Body.Name)
	return api.AddProvider201JSONResponse{Key: key}, err
}

func (h *handlers) GetProviderSchema(_ context.Context, _ api.GetProviderSchemaRequestObject) (api.GetProviderSchemaResponseObject, error) {
	out := api.GetProviderSchema200JSONResponse{}
	return out, json.Unmarshal([]byte(h.deeds.Links.Descriptions.Schema()), &out)
}

func toDescriptionFault(in tongue.Tongue, f links.DescriptionFault) api.DescriptionFault {
	return api.DescriptionFault{Line: f.Line, Sentence: words.Say(in, f.What), Near: each(f.Near, same)}
}

func (h *handlers) CheckProvider(ctx context.Context, r api.CheckProviderRequestObject) (api.CheckProviderResponseObject, error) {
	p, err := h.deeds.Links.CheckProvider(ctx, actor(ctx), r.Body.Description)
	return api.CheckProvider200JSONResponse{Items: each(p.Faults, func(x links.DescriptionFault) api.DescriptionFault {
		return toDescriptionFault(schedule.Tongue(ctx), x)
	})}, err
}

func (h *handlers) provider(ctx context.Context, key string) (api.ProviderPage, error) {
	p, err := h.deeds.Links.ProviderKept(ctx, actor(ctx), key)
	return api.ProviderPage{Key: p.Key, Name: p.Name, Description: p.Draft, DescriptionVersion: p.DraftVersion, InUse: p.InUse, Version: p.Version, Changed: p.Changed,
		People: p.People, Calls: p.Calls, Faults: each(p.Faults, func(x links.DescriptionFault) api.DescriptionFault {
			return toDescriptionFault(schedule.Tongue(ctx), x)
		}), Needs: each(p.Needs, same), Given: each(p.SecretNames, same), Each: p.Each,
		Versions: each(p.Versions, func(v schedule.ProviderVersion) api.ProviderVersion {
			return api.ProviderVersion{Number: v.Number, At: v.At, By: v.By}
		})}, err
}

func (h *handlers) GetProvider(ctx context.Context, r api.GetProviderRequestObject) (api.GetProviderResponseObject, error) {
	p, err := h.provider(ctx, r.Provider)
	return api.GetProvider200JSONResponse(p), err
}

func (h *handlers) WriteProvider(ctx context.Context, r api.WriteProviderRequestObject) (api.WriteProviderResponseObject, error) {
	if err := h.deeds.Links.WriteProvider(ctx, actor(ctx), r.Provider, r.Params.IfMatch, r.Body.Description); err != nil {
		return nil, err
	}
	p, err := h.provider(ctx, r.Provider)
	return api.WriteProvider200JSONResponse(p), err
}

func (h *handlers) StopProvider(ctx context.Context, r api.StopProviderRequestObject) (api.StopProviderResponseObject, error) {
	noteSecurity("provider taken out of use", "person", me(ctx), "provider", r.Provider)
	return api.StopProvider204Response{}, h.deeds.Links.StopProvider(ctx, actor(ctx), r.Provider)
}

func (h *handlers) UseProvider(ctx context.Context, r api.UseProviderRequestObject) (api.UseProviderResponseObject, error) {
	if err := h.deeds.Links.UseProvider(ctx, actor(ctx), r.Provider, r.Params.IfMatch); err != nil {
		return nil, err
	}
	noteSecurity("provider put into use", "person", me(ctx), "provider", r.Provider)
	p, err := h.provider(ctx, r.Provider)
	return api.UseProvider200JSONResponse(p), err
}

func (h *handlers) RestoreProvider(ctx context.Context, r api.RestoreProviderRequestObject) (api.RestoreProviderResponseObject, error) {
	if err := h.deeds.Links.RestoreProvider(ctx, actor(ctx), r.Provider, r.Params.IfMatch, r.Body.Version); err != nil {
		return nil, err
	}
	p, err := h.provider(ctx, r.Provider)
	return api.RestoreProvider200JSONResponse(p), err
}

func (h *handlers) GiveSecrets(ctx context.Context, r api.GiveSecretsRequestObject) (api.GiveSecretsResponseObject, error) {
	noteSecurity("secrets of a provider given", "person", me(ctx), "provider", r.Provider)
	return api.GiveSecrets204Response{}, h.deeds.Links.GiveSecrets(ctx, actor(ctx), r.Provider, r.Body.Secrets)
}

func (h *handlers) TryProvider(ctx context.Context, r api.TryProviderRequestObject) (api.TryProviderResponseObject, error) {
	t, err := h.deeds.Links.TryProvider(ctx, actor(ctx), r.Provider)
	out := api.TryProvider200JSONResponse{Card: toCard(t.Card, join.Reader{Organiser: true, Tongue: schedule.Tongue(ctx)}), Rooms: each(t.Rooms, func(r links.Room) string { return r.Name })}
	out.Steps = each(t.Steps, func(s links.TrialStep) api.TrialStep {
		step := api.TrialStep{Name: api.TrialStepName(s.Name), Outcome: api.TrialStepOutcome(s.Outcome), Note: orNil(words.Say(schedule.Tongue(ctx), s.Note)), Request: orNil(s.Request), Answer: orNil(s.Answer), Status: orNil(s.Status)}
		if s.Status != 0 {
			millis := int(s.Took.Milliseconds())
			step.Millis = &millis
		}
		if s.Fault != nil {
			f := toDescriptionFault(schedule.Tongue(ctx), *s.Fault)
			step.Fault = &f
		}
		return step
	})
	return out, err
}

func (h *handlers) ListRoomsAt(ctx context.Context, r api.ListRoomsAtRequestObject) (api.ListRoomsAtResponseObject, error) {
	rooms, err := h.deeds.Links.RoomsAt(ctx, actor(ctx), r.Provider)
	return api.ListRoomsAt200JSONResponse{Items: each(rooms, func(r links.Room) api.RoomAt { return api.RoomAt{Name: r.Name, URL: r.Card.URL} })}, err
}

func (h *handlers) StartConnecting(ctx context.Context, r api.StartConnectingRequestObject) (api.StartConnectingResponseObject, error) {
	to, err := h.deeds.Links.StartConnecting(ctx, actor(ctx), r.Provider, deref(r.Params.Sheet))
	return api.StartConnecting303Response{Headers: api.StartConnecting303ResponseHeaders{Location: &to}}, err
}

// FinishConnecting leads back to the sheet whatever happened; the sheet makes
// the link then, or says what is wrong.
func (h *handlers) FinishConnecting(ctx context.Context, r api.FinishConnectingRequestObject) (api.FinishConnectingResponseObject, error) {
	sheet, err := h.deeds.Links.FinishConnecting(ctx, actor(ctx), r.Provider, r.Params.State, deref(r.Params.Code))
	outcome := "attach"
	switch {
	case errors.Is(err, schedule.ErrConnect):
		outcome = "refused"
	case errors.Is(err, schedule.ErrUnreachable):
		outcome = "away"
	case err != nil:
		return nil, err
	}
	to := fmt.Sprintf("/sheet/%s?%s=%s", sheet, outcome, r.Provider)
	if sheet == uuid.Nil { // it was to try a provider out
		to = fmt.Sprintf("/providers/%s?%s=1", r.Provider, outcome)
	}
	return api.FinishConnecting303Response{Headers: api.FinishConnecting303ResponseHeaders{Location: &to}}, nil
}
