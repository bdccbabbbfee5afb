package postgres

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/when"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

// otherDay is how hours of a single day are kept.
type otherDay struct {
	Day   when.Day        `json:"day"`
	Hours [][2]when.Clock `json:"hours"`
	Word  string          `json:"word,omitempty"`
}

func toOtherDays(b []byte) ([]schedule.OtherDay, error) {
	kept, err := readAll[otherDay](otherDaysShape, b)
	if err != nil {
		return nil, err
	}
	return each(kept, func(o otherDay) (schedule.OtherDay, error) {
		day := schedule.OtherDay{Day: o.Day, Word: o.Word}
		for _, s := range o.Hours {
			day.Hours = append(day.Hours, when.ClockSpan{Start: s[0], End: s[1]})
		}
		return day, nil
	})
}

// SetHours keeps working hours; ok is false where version is no longer the one that holds.
func (t *Tx) SetHours(ctx context.Context, personID uuid.UUID, version int, h when.Hours) (ok bool, err error) {
	n, err := t.Queries.SetHours(ctx, db.SetHoursParams{ID: personID, Version: int32(version), Hours: hoursJSON(h), Zone: h.Zone.String()})
	return n > 0, err
}

// SetOtherDays keeps the hours of single days, as SetHours does.
func (t *Tx) SetOtherDays(ctx context.Context, personID uuid.UUID, version int, days []schedule.OtherDay) (ok bool, err error) {
	kept := make([]otherDay, len(days))
	for i, d := range days {
		kept[i] = otherDay{Day: d.Day, Word: d.Word, Hours: [][2]when.Clock{}}
		for _, s := range d.Hours {
			kept[i].Hours = append(kept[i].Hours, [2]when.Clock{s.Start, s.End})
		}
	}
	n, err := t.SetOtherHours(ctx, db.SetOtherHoursParams{ID: personID, Version: int32(version), OtherHours: writeAll(otherDaysShape, kept)})
	return n > 0, err
}

// SetSharing keeps who sees how much.
func (t *Tx) SetSharing(ctx context.Context, personID uuid.UUID, everybody availability.Level, with []schedule.Sharing) error {
	if err := t.SetShares(ctx, db.SetSharesParams{ID: personID, Shares: string(everybody)}); err != nil {
		return err
	}
	if err := t.DropSharing(ctx, personID); err != nil {
		return err
	}
	add := db.AddSharingParams{PersonID: personID}
	for _, s := range with {
		add.WithIds, add.Levels = append(add.WithIds, s.PersonID), append(add.Levels, string(s.Level))
	}
	return t.AddSharing(ctx, add)
}

// SharingOf is what somebody lets single people see.
func (t *Tx) SharingOf(ctx context.Context, personID uuid.UUID) ([]schedule.Sharing, error) {
	rows, err := t.Queries.SharingOf(ctx, personID)
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.SharingOfRow) (schedule.Sharing, error) {
		return schedule.Sharing{PersonID: r.WithID, Name: r.Name, Level: availability.Level(r.Level)}, nil
	})
}

// SharedWith is what single people let one person see.
func (t *Tx) SharedWith(ctx context.Context, viewer uuid.UUID) (map[uuid.UUID]availability.Level, error) {
	rows, err := t.Queries.SharedWith(ctx, viewer)
	out := make(map[uuid.UUID]availability.Level, len(rows))
	for _, r := range rows {
		out[r.PersonID] = availability.Level(r.Level)
	}
	return out, err
}

// AddAbsence keeps leave.
func (t *Tx) AddAbsence(ctx context.Context, personID uuid.UUID, a schedule.Absence) error {
	return t.Queries.AddAbsence(ctx, db.AddAbsenceParams{ID: a.ID, PersonID: personID, FirstDay: dayTime(a.First), LastDay: dayTime(a.Last), Word: a.Word, EnteredAt: a.EnteredAt})
}

// DropAbsence takes leave back, with the time that it takes; it fails with ErrNotFound.
func (t *Tx) DropAbsence(ctx context.Context, personID, id uuid.UUID) error {
	n, err := t.Queries.DropAbsence(ctx, db.DropAbsenceParams{ID: id, PersonID: personID})
	if err == nil && n == 0 {
		return schedule.ErrNotFound
	}
	if err != nil {
		return err
	}
	return t.DropBusyFrom(ctx, []uuid.UUID{id})
}

// Absences are the leaves that are not over on a day, the earliest first.
func (t *Tx) Absences(ctx context.Context, personID uuid.UUID, since when.Day) ([]schedule.Absence, error) {
	rows, err := t.Queries.Absences(ctx, db.AbsencesParams{PersonID: personID, Since: dayTime(since)})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.Absence) (schedule.Absence, error) {
		return schedule.Absence{ID: r.ID, First: toDay(r.FirstDay), Last: toDay(r.LastDay), Word: r.Word, EnteredAt: r.EnteredAt}, nil
	})
}

// MeetingsInLeave counts the meetings on the days of each leave.
func (t *Tx) MeetingsInLeave(ctx context.Context, personID uuid.UUID, since when.Day) (map[uuid.UUID]int, error) {
	rows, err := t.LeaveDays(ctx, db.LeaveDaysParams{PersonID: personID, Since: dayTime(since)})
	out := make(map[uuid.UUID]int, len(rows))
	for _, r := range rows {
		out[r.ID] = int(r.Meetings)
	}
	return out, err
}

// times are spans by their kinds, none longer than a row can be.
func times(taken []availability.Time) (starts, ends []time.Time, kinds []string) {
	for _, t := range taken {
		for _, part := range inParts([]schedule.BusyTime{{Time: t}}) {
			starts, ends, kinds = append(starts, part.Span.Start.Time()), append(ends, part.Span.End.Time()), append(kinds, string(part.Kind))
		}
	}
	return starts, ends, kinds
}

// SetBusyFrom replaces what a leave or a calendar takes of somebody's time.
func (t *Tx) SetBusyFrom(ctx context.Context, personID, from uuid.UUID, source schedule.BusySource, taken []availability.Time) error {
	if err := t.DropBusyFrom(ctx, []uuid.UUID{from}); err != nil {
		return err
	}
	starts, ends, kinds := times(taken)
	return t.InsertBusyFrom(ctx, db.InsertBusyFromParams{PersonID: personID, FromID: &from, Source: string(source), Starts: starts, Ends: ends, Kinds: kinds})
}
