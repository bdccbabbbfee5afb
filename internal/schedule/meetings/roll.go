package meetings

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// rollTx is what is needed here of a transaction.
type rollTx interface {
	kernel.In
	LockMeeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	MeetingsInZone(ctx context.Context, zone string, now time.Time) ([]uuid.UUID, error)
	ParticipationsDue(ctx context.Context, most int) ([]uuid.UUID, error)
	ParticipationsWritten(ctx context.Context, meetingID uuid.UUID) error
	SetZonePrint(ctx context.Context, zone string, print string) error
	WrittenBefore(ctx context.Context, day when.Day) ([]uuid.UUID, error)
	ZonePrint(ctx context.Context, zone string) (string, error)
	ZonesInUse(ctx context.Context, now time.Time) ([]string, error)
}

func (s *Deeds) rollStore() schedule.Store[rollTx] {
	return schedule.Narrow(s.Store, func(tx Tx) rollTx { return tx })
}

// RollForward writes down the dates of series that have come within the horizon
// since they were last written, and writes those anew whose instants follow from
// zone rules that have changed. It can run at any time, and twice without harm.
func (s *Deeds) RollForward(ctx context.Context) error {
	if err := s.followZones(ctx); err != nil {
		return err
	}
	// A month's slack: a daily series is written once a month, not every day.
	soon := when.Day(s.Now().Unix()/86400) + 700
	var due []uuid.UUID
	err := s.rollStore().Look(ctx, func(tx rollTx) (err error) {
		due, err = tx.WrittenBefore(ctx, soon)
		return err
	})
	if err != nil {
		return err
	}
	for _, id := range due {
		if err := s.writeAgain(ctx, id); err != nil {
			return fmt.Errorf("roll meeting %s forward: %w", id, err)
		}
	}
	return nil
}

// writeAgain writes the dates of a meeting anew.
func (s *Deeds) writeAgain(ctx context.Context, id uuid.UUID) error {
	return s.rollStore().InTx(ctx, func(tx rollTx) error {
		record, err := tx.LockMeeting(ctx, id)
		if err != nil || record.CalledOffAt != nil {
			return err
		}
		return s.Kernel.WriteAgain(ctx, tx, record)
	})
}

// followZones writes the meetings of a zone anew whose rules are not what they
// were.
func (s *Deeds) followZones(ctx context.Context) error {
	var zones []string
	err := s.rollStore().Look(ctx, func(tx rollTx) (err error) {
		zones, err = tx.ZonesInUse(ctx, s.Now())
		return err
	})
	if err != nil {
		return err
	}
	for _, name := range zones {
		zone, err := when.LoadZone(name)
		if err != nil {
			return err
		}
		now := zonePrint(zone, s.Now())
		var before string
		var meetings []uuid.UUID
		err = s.rollStore().Look(ctx, func(tx rollTx) (err error) {
			if before, err = tx.ZonePrint(ctx, name); err != nil || before == now {
				return err
			}
			meetings, err = tx.MeetingsInZone(ctx, name, s.Now())
			return err
		})
		if err != nil {
			return err
		}
		if before == now {
			continue
		}
		for _, id := range meetings {
			if err := s.writeAgain(ctx, id); err != nil {
				return fmt.Errorf("write meeting %s after a change of %s: %w", id, name, err)
			}
		}
		err = s.rollStore().InTx(ctx, func(tx rollTx) error { return tx.SetZonePrint(ctx, name, now) })
		if err != nil {
			return err
		}
	}
	return nil
}

// zonePrint stands for the offsets of a zone in the three years from the start of
// this one: it differs when they do.
func zonePrint(zone when.Zone, now time.Time) string {
	hash := sha256.New()
	at := when.At(time.Date(now.Year(), 1, 1, 0, 0, 0, 0, time.UTC))
	until := at + 3*366*86400
	for ok := true; ok && at < until; at, ok = zone.NextChange(at) {
		fmt.Fprintf(hash, " %d:%d", at, zone.OffsetAt(at))
	}
	return hex.EncodeToString(hash.Sum(nil)[:16])
}

// FillParts writes the parts of meetings from before there were any.
func (s *Deeds) FillParts(ctx context.Context) error {
	const most = 200
	for {
		var due []uuid.UUID
		err := s.rollStore().Look(ctx, func(tx rollTx) (err error) {
			due, err = tx.ParticipationsDue(ctx, most)
			return err
		})
		if err != nil || len(due) == 0 {
			return err
		}
		for _, id := range due {
			err := s.rollStore().InTx(ctx, func(tx rollTx) error {
				record, err := tx.LockMeeting(ctx, id)
				switch {
				case err != nil:
					return err
				case record.CalledOffAt != nil: // takes nobody's time
					return tx.ParticipationsWritten(ctx, id)
				}
				return s.Kernel.WriteParts(ctx, tx, record, uuid.Nil)
			})
			if err != nil {
				return fmt.Errorf("write who is asked to meeting %s: %w", id, err)
			}
		}
	}
}
