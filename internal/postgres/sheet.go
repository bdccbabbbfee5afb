package postgres

import (
	"context"
	"encoding/json"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/core/say"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

func toSheet(s db.Sheet) (schedule.Sheet, error) {
	out := schedule.Sheet{ID: s.ID, OwnerID: s.OwnerID, MeetingID: s.MeetingID, BasedOn: int(s.BasedOn),
		Version: int(s.Version), Chosen: int(s.Chosen), UpdatedAt: s.UpdatedAt, SendAt: s.SendAt}
	if s.SendFault != nil {
		if err := faultShape.read(s.SendFault, &out.SendFault); err != nil {
			return out, err
		}
	}
	err := sheetShape.read(s.Draft, &out.Draft)
	if err != nil {
		return out, err
	}
	if s.Card == nil {
		return out, nil
	}
	out.Card, err = readCard(s.Card)
	return out, err
}

// oneSheet finishes a query for one sheet.
func oneSheet(s db.Sheet, err error) (schedule.Sheet, error) {
	if err != nil {
		return schedule.Sheet{}, domain(err)
	}
	return toSheet(s)
}

func cardJSON(c *join.Card) []byte {
	if c == nil {
		return nil
	}
	return must(schedule.KeptCard(c))
}

func readCard(raw []byte) (*join.Card, error) {
	var c schedule.StoredCard
	err := json.Unmarshal(raw, &c)
	return &c.Card, err
}

// AddSheet keeps a sheet, unless there is one of that id.
func (t *Tx) AddSheet(ctx context.Context, s schedule.Sheet) error {
	return t.InsertSheet(ctx, db.InsertSheetParams{ID: s.ID, OwnerID: s.OwnerID, MeetingID: s.MeetingID, BasedOn: int32(s.BasedOn),
		Draft: sheetShape.write(s.Draft), Card: cardJSON(s.Card), UpdatedAt: s.UpdatedAt})
}

// Sheet is a sheet of its owner; it fails with ErrNotFound.
func (t *Tx) Sheet(ctx context.Context, id, owner uuid.UUID) (schedule.Sheet, error) {
	return oneSheet(t.SheetOf(ctx, db.SheetOfParams{ID: id, OwnerID: owner}))
}

// LockSheet is the same, and makes other transactions wait.
func (t *Tx) LockSheet(ctx context.Context, id, owner uuid.UUID) (schedule.Sheet, error) {
	return oneSheet(t.Queries.LockSheet(ctx, db.LockSheetParams{ID: id, OwnerID: owner}))
}

// LockSheetForMeeting is the sheet on which somebody changes a meeting.
func (t *Tx) LockSheetForMeeting(ctx context.Context, meetingID, owner uuid.UUID) (schedule.Sheet, error) {
	return oneSheet(t.Queries.LockSheetForMeeting(ctx, db.LockSheetForMeetingParams{MeetingID: &meetingID, OwnerID: owner}))
}

// LockSheetsOf makes whoever settles changes to a meeting wait.
func (t *Tx) LockSheetsOf(ctx context.Context, meetingID uuid.UUID) error {
	return t.Queries.LockSheetsOf(ctx, &meetingID)
}

// SheetsByID locks those of somebody's sheets that are there.
func (t *Tx) SheetsByID(ctx context.Context, owner uuid.UUID, ids []uuid.UUID) ([]schedule.Sheet, error) {
	rows, err := t.Queries.SheetsByID(ctx, db.SheetsByIDParams{OwnerID: owner, Ids: ids})
	if err != nil {
		return nil, err
	}
	return each(rows, toSheet)
}

// Sheets are the sheets of somebody, the last touched first.
func (t *Tx) Sheets(ctx context.Context, owner uuid.UUID, page schedule.Page) ([]schedule.Sheet, error) {
	rows, err := t.Queries.Sheets(ctx, db.SheetsParams{OwnerID: owner, Most: int32(page.Most), Skip: int32(page.Skip)})
	if err != nil {
		return nil, err
	}
	return each(rows, toSheet)
}

// SetSheet stores draft, card and BasedOn, and raises the version.
func (t *Tx) SetSheet(ctx context.Context, s schedule.Sheet) error {
	return t.UpdateSheet(ctx, db.UpdateSheetParams{ID: s.ID, Draft: sheetShape.write(s.Draft), Card: cardJSON(s.Card), BasedOn: int32(s.BasedOn), UpdatedAt: s.UpdatedAt})
}

// ChooseCall counts that something else is chosen for the call of a sheet, and gives the number of
// that choice.
func (t *Tx) ChooseCall(ctx context.Context, id uuid.UUID) (int, error) {
	n, err := t.Queries.ChooseCall(ctx, id)
	return int(n), domain(err)
}

// SetCard stores the card alone; the version stays.
func (t *Tx) SetCard(ctx context.Context, s schedule.Sheet) error {
	return t.SetSheetCard(ctx, db.SetSheetCardParams{ID: s.ID, Card: cardJSON(s.Card)})
}

// SetSending stores when a sheet goes out by itself, and why it did not.
func (t *Tx) SetSending(ctx context.Context, s schedule.Sheet) error {
	return t.Queries.SetSending(ctx, db.SetSendingParams{ID: s.ID, SendAt: s.SendAt, SendFault: faultOrNull(s.SendFault)})
}

// SheetByID is a sheet whoever's it is.
func (t *Tx) SheetByID(ctx context.Context, id uuid.UUID) (schedule.Sheet, error) {
	return oneSheet(t.Queries.SheetByID(ctx, id))
}

// UnsentSheets are those of somebody that were to go out by themselves and did not.
func (t *Tx) UnsentSheets(ctx context.Context, owner uuid.UUID) ([]schedule.Sheet, error) {
	rows, err := t.Queries.UnsentSheets(ctx, owner)
	if err != nil {
		return nil, err
	}
	return each(rows, toSheet)
}

// RebaseSheetOn has a sheet be a change of a newer version of its meeting, with another card.
func (t *Tx) RebaseSheetOn(ctx context.Context, id uuid.UUID, version int, card *join.Card) error {
	return t.RebaseSheet(ctx, db.RebaseSheetParams{ID: id, BasedOn: int32(version), Card: cardJSON(card)})
}

// idOrNil is an id where there is one.
func idOrNil(id uuid.UUID) *uuid.UUID {
	if id == uuid.Nil {
		return nil
	}
	return &id
}

// DropSheet throws a sheet away.
func (t *Tx) DropSheet(ctx context.Context, id uuid.UUID) error { return t.DeleteSheet(ctx, id) }

// DropSheetsOf throws the sheets away that change a meeting.
func (t *Tx) DropSheetsOf(ctx context.Context, meetingID uuid.UUID) error {
	return t.DeleteSheetsOfMeeting(ctx, &meetingID)
}

// LockConnection makes whoever else uses or renews the same sign-in wait.
func (t *Tx) LockConnection(ctx context.Context, personID uuid.UUID, provider string) error {
	return t.LockSendKey(ctx, "connection "+personID.String()+provider)
}

// Connection is the account of somebody at a provider, sealed; it fails with ErrNotFound.
func (t *Tx) Connection(ctx context.Context, personID uuid.UUID, provider string) ([]byte, error) {
	sealed, err := t.Queries.Connection(ctx, db.ConnectionParams{PersonID: personID, Provider: provider})
	return sealed, domain(err)
}

// SetConnection keeps that.
func (t *Tx) SetConnection(ctx context.Context, personID uuid.UUID, provider string, sealed []byte, now time.Time) error {
	return t.UpsertConnection(ctx, db.UpsertConnectionParams{PersonID: personID, Provider: provider, Sealed: sealed, UpdatedAt: now})
}

// DropConnection forgets it.
func (t *Tx) DropConnection(ctx context.Context, personID uuid.UUID, provider string) error {
	return t.DeleteConnection(ctx, db.DeleteConnectionParams{PersonID: personID, Provider: provider})
}

// AddConnecting keeps that somebody signs in at a provider, until a moment.
func (t *Tx) AddConnecting(ctx context.Context, stateHash []byte, c schedule.Connecting, until time.Time) error {
	return t.InsertConnecting(ctx, db.InsertConnectingParams{StateHash: stateHash, PersonID: c.PersonID, Provider: c.Provider,
		Verifier: c.Verifier, SheetID: idOrNil(c.SheetID), ExpiresAt: until})
}

// TakeConnecting can be taken once.
func (t *Tx) TakeConnecting(ctx context.Context, stateHash []byte, personID uuid.UUID, now time.Time) (schedule.Connecting, error) {
	if err := t.DeleteOldConnecting(ctx, now); err != nil {
		return schedule.Connecting{}, err
	}
	c, err := t.Queries.TakeConnecting(ctx, db.TakeConnectingParams{StateHash: stateHash, PersonID: personID, Now: now})
	out := schedule.Connecting{PersonID: c.PersonID, Provider: c.Provider, Verifier: c.Verifier}
	if c.SheetID != nil {
		out.SheetID = *c.SheetID
	}
	return out, domain(err)
}

// faultOrNull is null where nothing is said.
func faultOrNull(what say.What) []byte {
	if what.Empty() {
		return nil
	}
	return faultShape.write(what)
}
