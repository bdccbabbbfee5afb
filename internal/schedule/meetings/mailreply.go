package meetings

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/invited"
	"jembro/internal/core/meeting"
	"jembro/internal/core/reach"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// letterTx is what is needed here of a transaction.
type letterTx interface {
	InvitedTx
	proposalTx
	refreshTx
	takeTx
	AddLetterIn(ctx context.Context, l schedule.LetterIn) (fresh bool, err error)
	Aliases(ctx context.Context, organiser uuid.UUID, email string) ([]string, error)
	InvitedEver(ctx context.Context, meetingID uuid.UUID) ([]schedule.Invited, error)
	KeepAlias(ctx context.Context, person uuid.UUID, email, also string, at time.Time) error
	LockLetterIn(ctx context.Context, id uuid.UUID) (schedule.LetterIn, error)
	MeetingByUID(ctx context.Context, uid string) (uuid.UUID, error)
	QueueForward(ctx context.Context, letterID uuid.UUID) error
	Related(ctx context.Context, uid string, relatedTo string) ([]schedule.Record, error)
	SetLetterIn(ctx context.Context, l schedule.LetterIn) error
	Tell(ctx context.Context, n schedule.Notice) error
}

func (s *Deeds) letterStore() schedule.Store[letterTx] {
	return schedule.Narrow(s.Store, func(tx Tx) letterTx { return tx })
}

// Mailbox is what an address of the mail domain stands for; it fails with
// ErrNotFound for one that never was ours.
func (s *Deeds) Mailbox(address string) (schedule.Mailbox, error) {
	return s.Seal.Mailbox(address, s.House.MailDomain)
}

// Method is how somebody invited comes back to the organiser (RFC 5546, 1.4).
type Method string

const (
	Replies Method = "REPLY"
	Counter Method = "COUNTER" // proposes another time
	Refresh Method = "REFRESH" // asks for the meeting as it stands
)

// Known tells whether it is one of them.
func (m Method) Known() bool { return m == Replies || m == Counter || m == Refresh }

// MailReply is an answer as a mail brings it, for one ATTENDEE. Date is the
// RECURRENCE-ID, nil for all; NoDate is set where it names none. Status is the
// PARTSTAT as it stood, Answer empty where that is none that a person gives. Proposed is the
// time that a COUNTER names, nil where it names none.
type MailReply struct {
	Method           Method
	Proposed         *when.Span
	DelegatedTo      string // who is to come instead, ""
	DelegatedFrom    string // in whose place who answers comes, ""
	UID              string
	Attendee, SentBy string
	Status           string
	Date             *meeting.DateID
	NoDate           bool
	meeting.Reply
}

// Mail is a message as it came.
type Mail struct {
	Digest              []byte
	FromName, FromEmail string
	SignedBy            string
	Subject, Words      string
	Replies             []MailReply
	Invitations         []invited.Message // to people inside, of people outside
	Why                 string            // why a calendar part could not be read, or ""
	Returned            bool              // by a mail server, not written by anybody
	MessageID           string            // without angle brackets, or ""
	Raw                 []byte
	// Auto says what it is where no person wrote it, "" else; Reports is what it tells of
	// a message that went out.
	Auto    reach.Kind
	Reports []reach.Event
}

// Limits of what is kept of a mail, in characters.
const (
	letterWords   = 4000
	letterSubject = 300
	letterName    = 200
)

// TakeMail takes a mail to an address of the mail domain: its answers count where
// they can, and everything is kept with what became of it. The same mail twice is
// one. It fails with ErrNotFound where the address has no secret part and nothing in
// the mail says which meeting it is about.
func (s *Deeds) TakeMail(ctx context.Context, box schedule.Mailbox, m Mail) error {
	return s.letterStore().InTx(ctx, func(tx letterTx) error {
		record, err := s.meetingOf(ctx, tx, box, m)
		if err != nil {
			return err
		}
		l := schedule.LetterIn{ID: uuid.New(), MeetingID: record.ID, Digest: m.Digest, FromName: cut(meeting.OneLine(m.FromName), letterName),
			FromEmail: cut(meeting.OneLine(m.FromEmail), letterName), SignedBy: cut(meeting.OneLine(m.SignedBy), letterName),
			Subject: cut(meeting.OneLine(m.Subject), letterSubject), Words: cut(meeting.Plain(m.Words), letterWords),
			Why: cut(meeting.OneLine(m.Why), letterSubject), State: schedule.LetterTaken, ArrivedAt: s.Now()}
		for _, r := range speaking(m) {
			a, err := s.judge(ctx, tx, record, box, m.FromEmail, r)
			if err != nil {
				return err
			}
			l.Answers = append(l.Answers, a)
		}
		if len(m.Replies) == 0 && m.Auto == "" && !m.Returned && !s.ours(m.MessageID) && record.CalledOffAt == nil {
			if l.Answers, err = s.spoken(ctx, tx, record, l); err != nil {
				return err
			}
		}
		return s.takeLetter(ctx, tx, record, l, m)
	})
}

// spoken is what somebody invited who has not answered says in plain words: it may be a yes,
// which the organiser decides; none where nobody who is asked wrote.
func (s *Deeds) spoken(ctx context.Context, tx letterTx, record schedule.Record, l schedule.LetterIn) ([]schedule.AnswerIn, error) {
	a := schedule.AnswerIn{Attendee: l.FromEmail, Meeting: record.ID, Sequence: record.Content.Sequence, Stamp: s.Now().Unix(), Verdict: meeting.Spoken}
	all, err := tx.InvitedEver(ctx, record.ID)
	if err != nil {
		return nil, err
	}
	at, err := theirs(ctx, tx, record, all, l.FromEmail)
	if err != nil || at < 0 || l.Words == "" {
		return nil, err
	}
	answers, err := tx.AnswersOn(ctx, record.ID)
	if err != nil {
		return nil, err
	}
	part, is := schedule.RollOf(record.Content, all, answers).Part(all[at].ID)
	if !is {
		return nil, nil
	}
	if _, waits := part.Waiting(when.At(s.Now())); !waits {
		return nil, nil
	}
	a.Participant = all[at].ID
	return []schedule.AnswerIn{a}, nil
}

// theirs is who of those invited an address belongs to: theirs, one that they are reached at, or
// one that the organiser knows as theirs; -1 for nobody.
func theirs(ctx context.Context, tx letterTx, record schedule.Record, all []schedule.Invited, email string) (int, error) {
	is := func(email string) int {
		return slices.IndexFunc(all, func(i schedule.Invited) bool {
			return strings.EqualFold(i.Email, email) || strings.EqualFold(i.ReachAt, email)
		})
	}
	if at := is(email); at >= 0 {
		return at, nil
	}
	if _, err := meeting.ParseEmail(email); err != nil { // whatever somebody wrote there
		return -1, nil
	}
	known, err := tx.Aliases(ctx, record.OrganiserID, email)
	found := -1
	for _, k := range known {
		switch at := is(k); {
		case at < 0 || at == found:
		case found >= 0: // of two people
			return -1, err
		default:
			found = at
		}
	}
	return found, err
}

// ours tells whether a mail is one that went out here.
func (s *Deeds) ours(messageID string) bool {
	return strings.HasSuffix(strings.ToLower(messageID), "@"+strings.ToLower(s.House.MailDomain))
}

// meetingOf locks the meeting that a mail is about.
func (s *Deeds) meetingOf(ctx context.Context, tx letterTx, box schedule.Mailbox, m Mail) (schedule.Record, error) {
	id := box.Meeting
	if box.Participant != uuid.Nil {
		i, err := tx.Invited(ctx, box.Participant)
		if err != nil {
			return schedule.Record{}, err
		}
		id = i.MeetingID
	}
	for _, r := range m.Replies {
		if id != uuid.Nil {
			break
		}
		var err error
		if id, err = tx.MeetingByUID(ctx, r.UID); err != nil && !errors.Is(err, schedule.ErrNotFound) {
			return schedule.Record{}, err
		}
	}
	if id == uuid.Nil {
		return schedule.Record{}, schedule.ErrNotFound
	}
	return tx.LockMeeting(ctx, id)
}

// speaking are the answers that a mail gives: where a component names several people,
// that of who wrote.
func speaking(m Mail) (out []MailReply) {
	for _, r := range m.Replies {
		if r.Method != Replies { // it names everybody (RFC 5546, 4.2.4, 4.7.1); who wrote is meant
			if len(out) == 0 || !out[len(out)-1].same(r) {
				if !meeting.SpeaksFor(m.FromEmail, r.Attendee, r.SentBy) {
					r.Attendee, r.SentBy = m.FromEmail, ""
				}
				out = append(out, r)
			}
			continue
		}
		theirs := slices.ContainsFunc(m.Replies, func(o MailReply) bool {
			return o.UID == r.UID && o.SameDate(r) && meeting.SpeaksFor(m.FromEmail, o.Attendee, o.SentBy)
		})
		if !theirs || meeting.SpeaksFor(m.FromEmail, r.Attendee, r.SentBy) {
			out = append(out, r)
		}
	}
	return out
}

// same tells whether two answers are one component.
func (r MailReply) same(o MailReply) bool {
	return r.Method == o.Method && r.UID == o.UID && r.SameDate(o) && r.Stamp == o.Stamp
}

// SameDate tells whether two answers are to the same date, or both to all.
func (r MailReply) SameDate(o MailReply) bool {
	a, b := r.Date, o.Date
	if a == nil || b == nil {
		return a == b && r.NoDate == o.NoDate
	}
	local := a.Local == nil && b.Local == nil || a.Local != nil && b.Local != nil && *a.Local == *b.Local
	return local && a.At == b.At && a.Day == b.Day && a.Onward == b.Onward
}

// judge says what an answer is to, and what speaks against it; Counts where nothing
// does so far.
func (s *Deeds) judge(ctx context.Context, tx letterTx, record schedule.Record, box schedule.Mailbox, from string, r MailReply) (schedule.AnswerIn, error) {
	now := s.Now().Unix()
	a := schedule.AnswerIn{Attendee: cut(meeting.OneLine(r.Attendee), letterName), Answer: r.Answer, Comment: cut(meeting.Plain(r.Comment), meeting.CommentLimit),
		Method: method(r), Proposed: r.Proposed, DelegatedFrom: r.DelegatedFrom, Date: r.Date, Sequence: min(r.Sequence, record.Content.Sequence), Stamp: r.Stamp, Meeting: record.ID, Verdict: meeting.Counts}
	if a.Stamp == 0 || a.Stamp > now { // no clock is ahead of the arrival
		a.Stamp = now
	}
	claim := meeting.Claim{Attendee: r.Attendee, SentBy: r.SentBy, From: from, Theirs: meeting.Counts, Secret: box.Meeting != uuid.Nil || box.Participant != uuid.Nil,
		Elsewhere: r.NoDate || r.UID != record.Content.UID, CalledOff: record.CalledOffAt != nil, Silent: r.Method == Replies && !r.Answer.Known()}
	if r.UID == record.Content.UID {
		invited, theirs, err := s.whose(ctx, tx, record, r, &a)
		if err != nil {
			return a, err
		}
		a.Delegate = delegateOf(r)
		claim.Theirs, claim.Delegates = theirs, a.Delegate != ""
		claim.Own, claim.Untimely = box.Participant != uuid.Nil && box.Participant == invited, r.Method == Counter && !proposable(record, a, s.Now())
	}
	if a.Verdict = claim.Believed(); a.Verdict == meeting.NoStatus {
		a.Answer = ""
	}
	return a, nil
}

// method is how an answer came, "" for a REPLY.
func method(r MailReply) string {
	if r.Method == Replies {
		return ""
	}
	return string(r.Method)
}

// delegateOf is who an answer sends instead, "" for nobody.
func delegateOf(r MailReply) string {
	if r.Method != Replies || r.Status != "DELEGATED" {
		return ""
	}
	email, err := meeting.ParseEmail(r.DelegatedTo)
	if err != nil {
		return ""
	}
	return email
}

// whose finds the participant that an answer is of, and the days of the rule that it
// is to: in the meeting, or in the series that goes on from it.
func (s *Deeds) whose(ctx context.Context, tx letterTx, record schedule.Record, r MailReply, a *schedule.AnswerIn) (uuid.UUID, meeting.Verdict, error) {
	verdict := meeting.Stranger
	for range 10 { // splits in a row
		all, err := tx.InvitedEver(ctx, record.ID)
		if err != nil {
			return uuid.Nil, verdict, err
		}
		at, err := theirs(ctx, tx, record, all, r.Attendee)
		if err != nil {
			return uuid.Nil, verdict, err
		}
		switch {
		case at >= 0 && all[at].RemovedAt == nil:
			a.Participant, a.Meeting, verdict = all[at].ID, record.ID, meeting.Counts
			if r.Date == nil && !r.NoDate || !record.Content.Repeats() {
				return all[at].ID, verdict, nil
			}
			p, _ := record.Content.Participant(all[at].ID.String())
			if r.Date != nil {
				if days, ok := record.Content.DaysOf(p, *r.Date, s.horizon(record.Content)); ok {
					if a.Days = days; record.Content.UID != r.UID {
						a.Sequence = max(a.Sequence, all[at].SentSequence)
					}
					return all[at].ID, verdict, nil
				}
			}
			verdict = meeting.NoDate
		case at >= 0 && verdict == meeting.Stranger:
			a.Participant, verdict = all[at].ID, meeting.AfterGone
		}
		if r.Date == nil {
			break
		}
		related, err := tx.Related(ctx, record.Content.UID, "")
		if err != nil || len(related) == 0 {
			return a.Participant, verdict, err
		}
		if record, err = tx.LockMeeting(ctx, related[0].ID); err != nil {
			return uuid.Nil, verdict, err
		}
	}
	return a.Participant, verdict, nil
}

// horizon is the day up to which the dates of a meeting are written down.
func (s *Deeds) horizon(m meeting.Meeting) when.Day {
	return max(m.Start.Day, m.StartIn().Zone.LocalAt(when.At(s.Now())).Day+meeting.Horizon)
}

// takeLetter keeps a mail, once, and does what its answers say.
func (s *Deeds) takeLetter(ctx context.Context, tx letterTx, record schedule.Record, l schedule.LetterIn, m Mail) error {
	for i, a := range l.Answers {
		if a.Verdict.Open() {
			l.State = schedule.LetterOpen
		}
		if a.Proposed != nil && a.Comment != "" { // the rest says in words what it proposes
			continue
		}
		if a.Comment == "" || !strings.Contains(l.Words, a.Comment) {
			a.Comment = strings.TrimSpace(a.Comment + "\n" + l.Words)
		} else {
			a.Comment = l.Words
		}
		l.Answers[i].Comment = cut(a.Comment, meeting.CommentLimit)
	}
	// What nobody wrote is not handed on, nor what we handed on ourselves and somebody's rule
	// sends back.
	plain := len(m.Replies) == 0
	if plain && !m.Returned && m.Auto == "" && !s.ours(m.MessageID) {
		l.Raw = m.Raw
	}
	fresh, err := tx.AddLetterIn(ctx, l)
	if err != nil || !fresh {
		return err
	}
	if plain {
		if l.Raw != nil {
			if err := tx.QueueForward(ctx, l.ID); err != nil {
				return err
			}
		}
		name := l.FromName
		if name == "" {
			name = l.FromEmail
		}
		if err := s.Happened(ctx, tx, record, uuid.Nil, meeting.Event{Kind: meeting.EventLetter, Name: name, Reason: l.Subject}); err != nil {
			return err
		}
	}
	for i := range l.Answers {
		if err := s.takeAnswer(ctx, tx, record, l.Answers[i], l); err != nil {
			return err
		}
	}
	return tx.Tell(ctx, record.Notice())
}

// takeAnswer does what one answer says, or notes why it does not count.
func (s *Deeds) takeAnswer(ctx context.Context, tx letterTx, to schedule.Record, a schedule.AnswerIn, l schedule.LetterIn) error {
	reply := meeting.Reply{Answer: a.Answer, Comment: a.Comment, Sequence: a.Sequence, Stamp: a.Stamp}
	g := given{days: a.Days, onward: a.Date != nil && a.Date.Onward, reply: reply, via: schedule.ViaMail, from: l.FromEmail}
	if a.Verdict == meeting.Spoken { // that they wrote is said
		return nil
	}
	if a.Verdict == meeting.Counts {
		record, err := tx.LockMeeting(ctx, a.Meeting)
		if err != nil {
			return err
		}
		i, err := tx.LockInvited(ctx, a.Participant)
		if err != nil {
			return err
		}
		return s.counts(ctx, tx, record, i, a, g)
	}
	name := a.Attendee
	if a.Participant != uuid.Nil {
		if i, err := tx.Invited(ctx, a.Participant); err == nil {
			name = i.Name
		}
	}
	e := g.event(name)
	switch {
	case a.Verdict == meeting.Delegates:
		return s.Happened(ctx, tx, to, uuid.Nil, meeting.Event{Kind: meeting.EventSends, Name: name, Reason: a.Delegate})
	case a.Proposed != nil:
		e.Kind = meeting.EventProposed
	case a.Method == string(Refresh):
		return nil
	}
	if e.Verdict = a.Verdict; strings.EqualFold(e.From, a.Attendee) {
		e.From = ""
	}
	return s.Happened(ctx, tx, to, uuid.Nil, e)
}

// counts does what an answer says that counts.
func (s *Deeds) counts(ctx context.Context, tx letterTx, record schedule.Record, i schedule.Invited, a schedule.AnswerIn, g given) error {
	switch Method(a.Method) {
	case Counter:
		return s.propose(ctx, tx, record, i, proposalOf(a), schedule.ViaMail)
	case Refresh:
		return s.refresh(ctx, tx, record, i)
	}
	_, err := s.take(ctx, tx, record, i, g)
	return err
}

// Decision is how the organiser settles a mail: its answers count for As, uuid.Nil for nobody;
// Answer is what plain words mean.
type Decision struct {
	As     uuid.UUID
	Answer meeting.Answer
}

// Decide has the organiser settle a mail whose answers did not count by themselves:
// they count for a participant, or, with uuid.Nil, are left. It fails with
// ErrNotFound for what is not there or not open any more.
func (s *Deeds) Decide(ctx context.Context, who schedule.Actor, meetingID, letterID uuid.UUID, how Decision) error {
	return s.letterStore().InTx(ctx, func(tx letterTx) error {
		record, err := kernel.Organised(ctx, tx, who, meetingID)
		if err != nil {
			return err
		}
		l, err := tx.LockLetterIn(ctx, letterID)
		switch {
		case err != nil:
			return err
		case l.MeetingID != record.ID || l.State != schedule.LetterOpen:
			return schedule.ErrNotFound
		}
		l.State = schedule.LetterLeft
		if how.As != uuid.Nil {
			l.State = schedule.LetterTaken
			if err := s.count(ctx, tx, record, l, how); err != nil {
				return err
			}
		}
		if err := tx.SetLetterIn(ctx, l); err != nil {
			return err
		}
		return tx.Tell(ctx, record.Notice())
	})
}

// Suggested is the participant whose answer an open mail seems to be: the one that it
// speaks for, or the only one at the address or the firm that it came from, of the
// writer's name, or who has not answered; uuid.Nil where that is open.
func (d Detail) Suggested(l schedule.LetterIn) uuid.UUID {
	if l.State != schedule.LetterOpen {
		return uuid.Nil
	}
	for _, is := range []func(schedule.Invited, schedule.AnswerIn) bool{
		func(i schedule.Invited, a schedule.AnswerIn) bool { return a.Participant == i.ID },
		func(i schedule.Invited, a schedule.AnswerIn) bool { return strings.EqualFold(i.Email, a.Attendee) },
		func(i schedule.Invited, a schedule.AnswerIn) bool { return strings.EqualFold(i.Email, a.DelegatedFrom) },
		func(i schedule.Invited, _ schedule.AnswerIn) bool { return strings.EqualFold(i.Email, l.FromEmail) },
		func(i schedule.Invited, a schedule.AnswerIn) bool {
			return meeting.DomainOf(i.Email) == meeting.DomainOf(a.Attendee)
		},
		func(i schedule.Invited, _ schedule.AnswerIn) bool {
			return surname(i.Name) != "" && surname(i.Name) == surname(l.FromName)
		},
		func(i schedule.Invited, _ schedule.AnswerIn) bool {
			part, is := d.Roll.Part(i.ID)
			_, waits := part.Waiting(when.At(d.At))
			return i.PersonID == nil && is && waits
		},
	} {
		var found []uuid.UUID
		for _, i := range d.Invited {
			if slices.ContainsFunc(l.Answers, func(a schedule.AnswerIn) bool { return a.Verdict.Open() && is(i, a) }) {
				found = append(found, i.ID)
			}
		}
		if len(found) == 1 {
			return found[0]
		}
	}
	return uuid.Nil
}

// surname is the last word of a name, in lower case; "" for an address.
func surname(name string) string {
	words := strings.Fields(strings.ToLower(name))
	if len(words) < 2 {
		return ""
	}
	return words[len(words)-1]
}

// count makes the open answers of a mail those of a participant.
func (s *Deeds) count(ctx context.Context, tx letterTx, record schedule.Record, l schedule.LetterIn, how Decision) error {
	for _, a := range l.Answers {
		if !a.Verdict.Open() || a.Verdict == meeting.Delegates {
			continue
		}
		if a.Verdict == meeting.Spoken {
			if a.Answer = how.Answer; !a.Answer.Known() {
				return schedule.Invalid("answer", say.It("letter.meaning"))
			}
		}
		i, err := tx.LockInvited(ctx, how.As)
		switch {
		case err != nil:
			return err
		case i.MeetingID != record.ID || i.RemovedAt != nil:
			return schedule.ErrNotFound
		}
		if err := s.remember(ctx, tx, record, i, a); err != nil {
			return err
		}
		p, _ := record.Content.Participant(how.As.String())
		g := given{via: schedule.ViaMail, from: l.FromEmail, decided: true}
		if a.Date != nil && record.Content.Repeats() {
			var theirs bool
			if g.days, theirs = record.Content.DaysOf(p, *a.Date, s.horizon(record.Content)); !theirs {
				return schedule.Invalid("as", say.It("letter.otherDate", say.Person(i.Name)))
			}
			g.onward = a.Date.Onward
		}
		// Decided now, and on what is known now.
		g.reply = meeting.Reply{Answer: a.Answer, Comment: a.Comment, Sequence: max(a.Sequence, record.Content.Sequence), Stamp: s.Now().Unix()}
		a.Sequence, a.Stamp, a.Days = g.reply.Sequence, g.reply.Stamp, g.days
		if err := s.counts(ctx, tx, record, i, a, g); err != nil {
			return err
		}
	}
	return nil
}

// remember keeps that an address is another one of somebody invited: their answers from there
// count by themselves the next time.
func (s *Deeds) remember(ctx context.Context, tx letterTx, record schedule.Record, i schedule.Invited, a schedule.AnswerIn) error {
	also, err := meeting.ParseEmail(a.Attendee)
	if a.Verdict != meeting.Stranger || a.DelegatedFrom != "" || err != nil || i.PersonID != nil || strings.EqualFold(also, i.Email) {
		return nil
	}
	return tx.KeepAlias(ctx, record.OrganiserID, i.Email, also, s.Now())
}

func cut(text string, most int) string {
	if runes := []rune(text); len(runes) > most {
		return string(runes[:most-1]) + "…"
	}
	return text
}
