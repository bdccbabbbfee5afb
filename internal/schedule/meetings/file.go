package meetings

import (
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

// GuestFile is the meeting as a calendar file that keeps itself recognisable:
// what the guest's newest message holds.
func (s *Deeds) GuestFile(ctx context.Context, token string) ([]byte, error) {
	v, err := s.Guest(ctx, token)
	if err != nil {
		return nil, err
	}
	return s.Post.Calendar(s.file(v.Record, &v.Guest, v.roll))
}

// GuestCalendar is the same as a calendar to subscribe to, which follows every change.
func (s *Deeds) GuestCalendar(ctx context.Context, token string) ([]byte, error) {
	v, err := s.Guest(ctx, token)
	if err != nil {
		return nil, err
	}
	file := s.file(v.Record, &v.Guest, v.roll)
	file.Subscribed = time.Hour
	return s.Post.Calendar(file)
}

// MeetingFile is the same for a colleague invited, or for the organiser.
func (s *Deeds) MeetingFile(ctx context.Context, who schedule.Actor, id uuid.UUID) ([]byte, error) {
	d, err := s.Meeting(ctx, who, id)
	if err != nil {
		return nil, err
	}
	return s.fileOf(d, nil)
}

// DatesFile is the same of some dates of a series alone; of a meeting that is once it is all.
func (s *Deeds) DatesFile(ctx context.Context, who schedule.Actor, id uuid.UUID, on []when.Day) ([]byte, error) {
	d, err := s.Meeting(ctx, who, id)
	if err != nil {
		return nil, err
	}
	if !d.Content.Repeats() {
		on = nil
	}
	return s.fileOf(d, on)
}

func (s *Deeds) fileOf(d Detail, on []when.Day) ([]byte, error) {
	for _, r := range d.Reminders { // what they set for themselves is in their file alone
		if !r.Mail {
			d.Content.Further = append(slices.Clip(d.Content.Further), meeting.Reminder{Before: r.Before})
		}
	}
	return s.Post.Calendar(s.file(d.Record, d.Me, d.Roll.In(d.Content), on...))
}

// file is what the newest message to a reader would hold, with their answer as it is
// now; of the organiser, nil, an entry of their own. With on it is about those dates alone.
func (s *Deeds) file(record schedule.Record, reader *schedule.Invited, roll schedule.Roll, on ...when.Day) schedule.Letter {
	letter := schedule.Letter{Kind: meeting.Invite, On: on, Own: reader == nil, OffAll: record.CalledOffAt != nil, Meeting: record.Content, Stamp: s.Now(),
		House: s.House, Address: s.Seal.MeetingAddress(record.ID, s.House.MailDomain)}
	if reader != nil {
		letter.Meeting = roll.Only(reader.ID).WithAnswers()
		if reader.PersonID == nil { // who has no account opens files by their page alone
			letter.GuestURL = s.GuestURL(*reader)
		}
		letter.To, _ = letter.Meeting.Participant(reader.ID.String())
	}
	if letter.OffAll {
		letter.Kind = meeting.CallOff
	}
	return letter
}
