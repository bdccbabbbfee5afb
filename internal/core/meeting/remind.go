package meeting

import (
	"cmp"
	"slices"
	"time"

	"jembro/internal/core/say"
	"jembro/internal/core/when"
)

// Reminder is a further reminder of a meeting: in the calendars of those invited and inside, or by
// mail; to everybody, or to who organises it alone.
type Reminder struct {
	Before int  `json:"before"` // minutes before the start
	Own    bool `json:"own,omitempty"`
	Mail   bool `json:"mail,omitempty"`
}

// Limits of reminders: how many further ones there are, and how long before the start one is, in
// minutes.
const (
	RemindersLimit = 4
	ReminderLimit  = 40320
)

// fault is what is wrong with when it comes, least minutes before the start or more.
func (r Reminder) fault(field string, least int) *Fault {
	if r.Before < least || r.Before > ReminderLimit {
		return &Fault{Field: field, What: say.It("meeting.reminder.far")}
	}
	return nil
}

// settleReminders puts the reminders on.
func (d Draft) settleReminders(m *Meeting) (out []Fault) {
	all := append([]Reminder{{Before: d.RemindBefore}}, d.Reminders...)
	if len(d.Reminders) > RemindersLimit {
		out = append(out, Fault{Field: "remindBefore", What: say.It("meeting.reminder.many")})
	}
	for i, r := range all {
		if fault := r.fault("remindBefore", 0); fault != nil {
			return append(out, *fault)
		}
		if i > 0 && r.Before > 0 && !slices.Contains(m.Further, r) && r != all[0] {
			m.Further = append(m.Further, r)
		}
	}
	slices.SortFunc(m.Further, func(a, b Reminder) int { return cmp.Compare(a.Before, b.Before) })
	return out
}

// OwnReminders settles what somebody invited sets for themselves: each once, the nearest last.
func OwnReminders(all []Reminder) (out []Reminder, fault *Fault) {
	if len(all) > RemindersLimit+1 {
		return nil, &Fault{Field: "reminders", What: say.It("meeting.reminder.ownMany")}
	}
	for _, r := range all {
		if fault := r.fault("reminders", 1); fault != nil {
			return nil, fault
		}
		if r.Own = true; !slices.Contains(out, r) {
			out = append(out, r)
		}
	}
	slices.SortFunc(out, func(a, b Reminder) int { return cmp.Compare(b.Before, a.Before) })
	return out, nil
}

// Long before something, a reminder is shown inside for so long after its time, and fetched so long
// before it.
const remindedFor, remindedFrom = 3 * 24 * time.Hour, time.Hour

// RemindedAhead tells whether one of its reminders makes what is on a later day be shown by now, or
// within the hour.
func RemindedAhead(reminders []when.Instant, now when.Instant) bool {
	return slices.ContainsFunc(reminders, func(at when.Instant) bool {
		return at > now.Add(-remindedFor) && at <= now.Add(remindedFrom)
	})
}

// RemindsAt are the reminders in somebody's calendar and inside, in minutes before the start, the
// earliest first; own are those of who organises it.
func (m Meeting) RemindsAt(own bool) (out []int) {
	if m.RemindBefore > 0 {
		out = append(out, m.RemindBefore)
	}
	for _, r := range m.Further {
		if !r.Mail && (own || !r.Own) {
			out = append(out, r.Before)
		}
	}
	slices.Sort(out)
	slices.Reverse(out)
	return slices.Compact(out)
}

// MailReminders are the times at which somebody is reminded by mail, in minutes before the start.
func (m Meeting) MailReminders() (out []int) {
	for _, r := range m.Further {
		if r.Mail {
			out = append(out, r.Before)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// MailTo tells whether everybody gets the mail that reminds so long before the start, or the
// organiser alone.
func (m Meeting) MailTo(before int) (everybody bool) {
	return slices.Contains(m.Further, Reminder{Before: before, Mail: true})
}
