package links

import (
	"context"
	"errors"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
	"jembro/internal/schedule/kernel"
	"jembro/internal/schedule/sheets"
)

// attachTx is what is needed here of a transaction.
type attachTx interface {
	directory.LookupTx
	kernel.In
	ChooseCall(ctx context.Context, sheetID uuid.UUID) (int, error)
	LockSheet(ctx context.Context, id uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	QueueCallChange(ctx context.Context, c schedule.CallChange) error
	QueueCallChangeIn(ctx context.Context, c schedule.CallChange, wait time.Duration) error
	SetCard(ctx context.Context, s schedule.Sheet) error
	SetSheet(ctx context.Context, s schedule.Sheet) error
	Sheet(ctx context.Context, id uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
	StandingLink(ctx context.Context, id uuid.UUID) (schedule.StandingLink, error)
	Tell(ctx context.Context, n schedule.Notice) error
}

func (s *Deeds) attachStore() schedule.Store[attachTx] {
	return schedule.Narrow(s.Store, func(tx Tx) attachTx { return tx })
}

// Choice is where the call of a sheet is to be: a fresh one at a provider, a standing link, or
// what a text says.
type Choice struct {
	Provider string
	Standing uuid.UUID
	Text     string
}

// Choose puts a call on a sheet in the place of the one that it has: a meeting has one
// (DESIGN.md, rule 8). A fresh one of the same provider stays. Where a provider does not
// answer the sheet waits for its link, which comes by itself; the error says so.
func (s *Deeds) Choose(ctx context.Context, who schedule.Actor, id uuid.UUID, c Choice) (schedule.Sheet, error) {
	switch {
	case c.Provider != "":
		return s.makeFresh(ctx, who, id, c.Provider)
	case c.Standing != uuid.Nil:
		return s.takeStanding(ctx, who, id, c.Standing)
	}
	text := meeting.Plain(c.Text)
	p, found := join.Read(text)
	if !found {
		return schedule.Sheet{}, schedule.Invalid("text", say.It("link.noWay"))
	}
	return s.put(ctx, who, id, p.Card(strings.ToValidUTF8(text[:min(len(text), join.MostPasted)], "")))
}

// makeFresh has a provider make a link for a sheet at this moment.
func (s *Deeds) makeFresh(ctx context.Context, who schedule.Actor, id uuid.UUID, key string) (schedule.Sheet, error) {
	p, record, err := s.provider(ctx, key)
	if errors.Is(err, schedule.ErrNotFound) {
		return schedule.Sheet{}, schedule.Invalid("provider", say.It("link.noProvider"))
	}
	if err != nil {
		return schedule.Sheet{}, err
	}
	var sheet schedule.Sheet
	var of *schedule.Record
	var call Call
	choice := 0
	err = s.attachStore().InTx(ctx, func(tx attachTx) (err error) {
		if sheet, err = tx.LockSheet(ctx, id, who.For); err != nil {
			return err
		}
		if of, err = sheets.MeetingOf(ctx, tx, sheet); err != nil {
			return err
		}
		if sheet.SendAt != nil {
			return schedule.Invalid("sendAt", say.It("sheet.waits"))
		}
		if choice, err = tx.ChooseCall(ctx, id); err != nil {
			return err
		}
		call, err = draftCall(ctx, tx, sheet)
		return err
	})
	if err != nil || sheet.Card.Made() && sheet.Card.Provider == key {
		return sheet, err
	}
	if of != nil && of.Content.Card.Made() && of.Content.Card.Provider == key { // back to what the meeting has
		return s.put(ctx, who, id, *of.Content.Card)
	}
	// The provider may answer when nobody waits any more: what it made then is put on
	// the sheet all the same, or withdrawn.
	type answer struct {
		sheet schedule.Sheet
		err   error
	}
	answered := make(chan answer, 1)
	go func() {
		own, cancel := context.WithTimeout(context.WithoutCancel(ctx), makeWithin)
		defer cancel()
		card, err := p.Make(own, s.keyring(who.For, record), call)
		if err != nil {
			answered <- answer{sheet, err}
			return
		}
		card.Provider, card.Version = key, record.Version
		attached, err := s.bring(own, who, id, card, choice)
		answered <- answer{attached, err}
	}()
	select {
	case a := <-answered:
		if errors.Is(a.err, schedule.ErrUnreachable) {
			return s.await(ctx, who, id, choice, key, p.Service().Name, 0, a.err)
		}
		return a.sheet, a.err
	case <-time.After(s.WaitFor):
		slow := &schedule.ProviderError{Provider: p.Service().Name, Kind: schedule.ErrUnreachable, What: say.It("provider.slow", p.Service().Name)}
		// What is asked already may still be answered; after that it is asked again.
		return s.await(ctx, who, id, choice, key, p.Service().Name, makeWithin, slow)
	case <-ctx.Done():
		return sheet, ctx.Err()
	}
}

// makeWithin is how long a provider may take to make a link.
const makeWithin = 2 * time.Minute

// await has a sheet wait for its link, which is asked for again after a while, unless something
// else was chosen after that choice. The error is why it waits, and is given back then.
func (s *Deeds) await(ctx context.Context, who schedule.Actor, id uuid.UUID, choice int, key, name string, again time.Duration, why error) (sheet schedule.Sheet, err error) {
	err = s.attachStore().InTx(ctx, func(tx attachTx) error {
		if sheet, err = tx.LockSheet(ctx, id, who.For); err != nil {
			return err
		}
		if sheet.Chosen != choice {
			why = nil
			return nil
		}
		if c := sheet.Card; c != nil && c.Provider == key && c.Kind == join.Fresh { // made meanwhile, or awaited already
			return nil
		}
		if err := s.replace(ctx, tx, who, &sheet, &join.Card{Provider: key, Name: name, Follows: true}); err != nil {
			return err
		}
		return tx.QueueCallChangeIn(ctx, schedule.CallChange{PersonID: who.For, Card: schedule.StoredCard{Card: *sheet.Card}, Make: true, SheetID: id}, again)
	})
	if err != nil {
		return sheet, err
	}
	return sheet, why
}

// put puts a card that somebody chose on a sheet.
func (s *Deeds) put(ctx context.Context, who schedule.Actor, id uuid.UUID, card join.Card) (sheet schedule.Sheet, err error) {
	err = s.attachStore().InTx(ctx, func(tx attachTx) error {
		if sheet, err = tx.LockSheet(ctx, id, who.For); err != nil {
			return err
		}
		return s.choose(ctx, tx, who, &sheet, &card)
	})
	return sheet, err
}

// bring puts a card that was just made on the sheet that waits for it, or on which that choice is
// still the last. Where somebody chose otherwise meanwhile, or the sheet goes out or is gone, it is
// withdrawn instead.
func (s *Deeds) bring(ctx context.Context, who schedule.Actor, id uuid.UUID, card join.Card, choice int) (sheet schedule.Sheet, err error) {
	err = s.attachStore().InTx(ctx, func(tx attachTx) error {
		sheet, err = tx.LockSheet(ctx, id, who.For)
		switch {
		case err != nil && !errors.Is(err, schedule.ErrNotFound):
			return err
		case err == nil && sheet.Card.AwaitedFrom(card.Provider):
			sheet.Card = &card
			return s.Sheets.StoreCard(ctx, tx, &sheet)
		case err == nil && sheet.SendAt == nil && sheet.Chosen == choice:
			return s.replace(ctx, tx, who, &sheet, &card)
		}
		return tx.QueueCallChange(ctx, schedule.CallChange{PersonID: who.For, Card: schedule.StoredCard{Card: card}, Withdraw: true})
	})
	if err == nil && sheet.ID == uuid.Nil {
		err = schedule.ErrNotFound
	}
	return sheet, err
}

// noChoice is that of what is made for a sheet that waits, whoever chose it.
const noChoice = -1

// choose puts a card that somebody chose on a sheet that is locked; nil takes the call off. What is
// still under way from an earlier choice comes too late then.
func (s *Deeds) choose(ctx context.Context, tx attachTx, who schedule.Actor, sheet *schedule.Sheet, card *join.Card) (err error) {
	if sheet.Chosen, err = tx.ChooseCall(ctx, sheet.ID); err != nil {
		return err
	}
	return s.replace(ctx, tx, who, sheet, card)
}

// replace puts a card on a sheet that is locked, in the place of the one that it has.
func (s *Deeds) replace(ctx context.Context, tx attachTx, who schedule.Actor, sheet *schedule.Sheet, card *join.Card) error {
	if err := s.withdrawOld(ctx, tx, who, *sheet, card); err != nil {
		return err
	}
	if sheet.Card = card; card != nil {
		sheet.Draft.NoLink = false
	}
	return s.Sheets.StoreSheet(ctx, tx, sheet)
}

// withdrawOld takes the call of a sheet back unless the meeting that was sent has it, or the
// sheet goes on having it.
func (s *Deeds) withdrawOld(ctx context.Context, tx attachTx, who schedule.Actor, sheet schedule.Sheet, next *join.Card) error {
	if sheet.Card == nil || sheet.Card.SameCall(next) {
		return nil
	}
	of, err := sheets.MeetingOf(ctx, tx, sheet)
	if err != nil {
		return err
	}
	return kernel.WithdrawUnused(ctx, tx, who.For, sheet.Card, of)
}

// takeStanding puts a standing link on a sheet.
func (s *Deeds) takeStanding(ctx context.Context, who schedule.Actor, id, standing uuid.UUID) (schedule.Sheet, error) {
	var card join.Card
	err := s.attachStore().Look(ctx, func(tx attachTx) error {
		link, err := tx.StandingLink(ctx, standing)
		if err != nil && !errors.Is(err, schedule.ErrNotFound) {
			return err
		}
		if err != nil || !usable(link, who.For) {
			return schedule.Invalid("standing", say.It("link.standingGone"))
		}
		card = link.Card
		card.Kind, card.StandsAs = join.Standing, link.ID.String()
		return nil
	})
	if err != nil {
		return schedule.Sheet{}, err
	}
	return s.put(ctx, who, id, card)
}

// DropLink takes the link off a sheet, and back at its provider unless the
// meeting that was sent has it.
func (s *Deeds) DropLink(ctx context.Context, who schedule.Actor, id uuid.UUID, none bool) (sheet schedule.Sheet, err error) {
	err = s.attachStore().InTx(ctx, func(tx attachTx) error {
		if sheet, err = tx.LockSheet(ctx, id, who.For); err != nil {
			return err
		}
		if sheet.Card == nil && (!none || sheet.Draft.NoLink) { // only one that is being made is not wanted any more
			_, err = tx.ChooseCall(ctx, id)
			return err
		}
		sheet.Draft.NoLink = none
		return s.choose(ctx, tx, who, &sheet, nil)
	})
	return sheet, err
}

// OtherWay is what becomes of a way into a call in the words of a sheet.
type OtherWay string

const (
	TakeOut  OtherWay = "out"  // of the words
	TakeOver OtherWay = "over" // it becomes the call of the meeting
	NoWay    OtherWay = "none" // it is no join link, which is remembered
)

// SettleWay does that with a way in the field "title" or "text".
func (s *Deeds) SettleWay(ctx context.Context, who schedule.Actor, id uuid.UUID, field, address string, what OtherWay) (sheet schedule.Sheet, err error) {
	err = s.attachStore().InTx(ctx, func(tx attachTx) error {
		if sheet, err = tx.LockSheet(ctx, id, who.For); err != nil {
			return err
		}
		before := sheet.Draft
		switch what {
		case NoWay:
			if len(before.NoWays) < mostNoWays {
				sheet.Draft.NoWays = append(append([]string{}, before.NoWays...), address)
			}
			return s.Sheets.StoreSheet(ctx, tx, &sheet)
		case TakeOut:
			if sheet.Draft = before.WithoutWay(field, address, sheet.Card); sheet.Draft.Text == before.Text && sheet.Draft.Title == before.Title {
				return nil // it is gone already
			}
			return s.Sheets.StoreSheet(ctx, tx, &sheet)
		}
		card := wayCard(before, field, address)
		sheet.Draft = before.WithoutWay(field, address, sheet.Card)
		return s.choose(ctx, tx, who, &sheet, &card)
	})
	return sheet, err
}

// mostNoWays is how many links of one meeting are remembered to be none.
const mostNoWays = 50

// wayCard is the card of a way that stands in the words of a sheet: with the number, the
// passcode and the phones that stand there too, where the text says them of this way.
func wayCard(d meeting.Draft, field, address string) join.Card {
	text := d.Text
	if field == "title" {
		text = d.Title
	}
	if p, found := join.Read(text); found && join.SameAddress(p.URL, address) {
		return p.Card(text)
	}
	if strings.HasPrefix(address, "tel:") {
		p, _ := join.Read(text)
		return join.Card{Kind: join.Given, Number: p.Number, Passcode: p.Passcode, Phones: p.Phones, Pasted: text}
	}
	if strings.HasPrefix(address, "sip") {
		return join.Card{Kind: join.Given, SIP: address, Pasted: text}
	}
	return join.Card{Kind: join.Given, URL: address, Pasted: text}
}

// SetDoor keeps who waits, who speaks and when the call of a sheet starts. The provider hears
// of it when the sheet is sent. A passcode of one's own is asked for at once, and only for a
// call that nobody was told of yet.
func (s *Deeds) SetDoor(ctx context.Context, who schedule.Actor, id uuid.UUID, door join.Door, passcode string) (sheet schedule.Sheet, err error) {
	var of *schedule.Record
	var call Call
	err = s.attachStore().Look(ctx, func(tx attachTx) error {
		if sheet, of, err = sheets.SheetAndMeeting(ctx, tx, who, id); err != nil {
			return err
		}
		call, err = draftCall(ctx, tx, sheet)
		return err
	})
	if err != nil {
		return sheet, err
	}
	if sheet.SendAt != nil {
		return sheet, schedule.Invalid("sendAt", say.It("sheet.waits"))
	}
	card := sheet.Card
	if !card.Made() {
		return sheet, schedule.Invalid("door", say.It("link.door"))
	}
	p, record, err := s.providerOf(ctx, *card)
	if err != nil {
		return sheet, err
	}
	choices := p.Service().Choices
	changed := *card
	changed.Door = choices.Fit(door)
	if passcode = strings.TrimSpace(passcode); passcode != "" && passcode != card.Passcode {
		switch {
		case !choices.OwnPasscode:
			return sheet, schedule.Invalid("passcode", say.It("link.ownPasscode", card.Name))
		case of != nil && of.Content.Card.SameCall(card):
			return sheet, schedule.Invalid("passcode", say.It("link.passcodeSent"))
		case len([]rune(passcode)) > 40 || strings.ContainsAny(passcode, " \t\r\n"):
			return sheet, schedule.Invalid("passcode", say.It("link.passcode"))
		}
		call.Door, call.Passcode = changed.Door, passcode
		if changed, err = p.Change(ctx, s.keyring(schedule.AccountOf(*card, who.For), record), changed, call); err != nil {
			var refused *schedule.RefusedError
			var said *schedule.ProviderError
			if errors.As(err, &refused) && errors.As(err, &said) {
				return sheet, schedule.Invalid("passcode", said.What)
			}
			return sheet, err
		}
	}
	err = s.attachStore().InTx(ctx, func(tx attachTx) error {
		if sheet, err = tx.LockSheet(ctx, id, who.For); err != nil || !sheet.Card.SameCall(card) { // another call was chosen meanwhile
			return err
		}
		return s.replace(ctx, tx, who, &sheet, &changed)
	})
	return sheet, err
}

// draftCall is what a sheet can say of its call so far.
func draftCall(ctx context.Context, tx directory.LookupTx, sheet schedule.Sheet) (Call, error) {
	owner, err := directory.Person(ctx, tx, sheet.OwnerID)
	if err != nil {
		return Call{}, err
	}
	c := Call{Topic: meeting.OneLine(sheet.Draft.Title), Zone: sheet.Draft.Zone, People: len(sheet.Draft.People) + 1, Repeats: sheet.Draft.Repeat != nil, Organiser: owner.Name}
	if sheet.Card != nil {
		c.Door = sheet.Card.Door
	}
	zone, zoneErr := when.LoadZone(sheet.Draft.Zone)
	start, startErr := when.ParseLocal(sheet.Draft.Start)
	end, endErr := when.ParseLocal(sheet.Draft.End)
	if errors.Join(zoneErr, startErr, endErr) == nil && end.Sub(start) > 0 {
		c.Start = when.Zoned{Local: start, Zone: zone}.Instant().Time()
		c.End = when.Zoned{Local: end, Zone: zone}.Instant().Time()
	}
	return c, nil
}

// meetingCall is what a meeting says of its call.
func meetingCall(m meeting.Meeting) Call {
	span := m.Span()
	c := Call{Topic: m.Title, Start: span.Start.Time(), End: span.End.Time(), Zone: m.Zone, People: len(m.Participants) + 1, Repeats: m.Repeats(), Organiser: m.Organiser.Name}
	if m.Card != nil {
		c.Door = m.Card.Door
	}
	return c
}
