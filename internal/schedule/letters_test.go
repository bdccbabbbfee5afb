package schedule_test

import (
	"fmt"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/demo"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
	"jembro/internal/standin"
)

// post is somebody who writes to a meeting.
type post struct {
	t      *testing.T
	who    schedule.Person
	id     uuid.UUID
	box    schedule.Mailbox
	uid    string
	number byte
}

func writesTo(t *testing.T, who schedule.Person, id uuid.UUID) *post {
	return &post{t: t, who: who, id: id, box: schedule.Mailbox{Meeting: id}, uid: look(t, who.ID, id).Content.UID}
}

// mail takes a mail with answers, at a DTSTAMP of so many minutes ago.
func (p *post) mail(from string, replies ...meetings.MailReply) {
	p.t.Helper()
	p.number++
	for i := range replies {
		if replies[i].UID == "" {
			replies[i].UID = p.uid
		}
		if replies[i].Attendee == "" {
			replies[i].Attendee = from
		}
	}
	m := meetings.Mail{Digest: []byte{p.number}, FromEmail: from, Subject: "Re: Crate sizes", Replies: replies}
	require.NoError(p.t, service().Meetings.TakeMail(p.t.Context(), p.box, m))
}

func yes(minutesAgo int, sequence int) meetings.MailReply {
	return said(meeting.Accepted, minutesAgo, sequence)
}
func no(minutesAgo int, sequence int) meetings.MailReply {
	return said(meeting.Declined, minutesAgo, sequence)
}

func said(a meeting.Answer, minutesAgo, sequence int) meetings.MailReply {
	return meetings.MailReply{Method: meetings.Replies, Status: string(a), Reply: meeting.Reply{Answer: a, Sequence: sequence,
		Stamp: service().Now().Add(-time.Duration(minutesAgo) * time.Minute).Unix()}}
}

// line is the newest line of history.
func (p *post) line() string {
	return words.Event(tongue.Tongue{}, look(p.t, p.who.ID, p.id).Happenings[0].Event)
}

func (p *post) answer(email string) meeting.Answer {
	for _, i := range look(p.t, p.who.ID, p.id).Invited {
		if i.Email == email {
			return i.Answer
		}
	}
	return "not invited"
}

func TestAddressesOfAMeeting(t *testing.T) {
	id := uuid.New()
	domain := service().House.MailDomain
	address := service().Seal.MeetingAddress(id, domain)
	local, _, _ := strings.Cut(address, "@")
	assert.LessOrEqual(t, len(local), 64, "RFC 5321, 4.5.3.1.1")
	box, err := service().Meetings.Mailbox(strings.ToUpper(address))
	require.NoError(t, err)
	assert.Equal(t, schedule.Mailbox{Meeting: id}, box)
	_, err = service().Meetings.Mailbox(strings.Replace(address, "@meet.", "@other.", 1))
	assert.ErrorIs(t, err, schedule.ErrNotFound)
	other := "a"
	if address[20] == 'a' {
		other = "b"
	}
	for _, bare := range []string{"meeting@" + domain, "meeting-abc@" + domain, address[:20] + other + address[21:]} {
		box, err := service().Meetings.Mailbox(bare)
		require.NoError(t, err, bare)
		assert.Equal(t, schedule.Mailbox{}, box, "without its secret part it proves nothing")
	}
	_, err = service().Meetings.Mailbox("ilse@" + domain)
	assert.ErrorIs(t, err, schedule.ErrNotFound)
}

func outsiders(emails ...string) func(*meeting.Draft) {
	return func(d *meeting.Draft) {
		d.People = nil
		for _, e := range emails {
			d.People = append(d.People, meeting.DraftPerson{Email: e, Needed: true})
		}
	}
}

// TestWhoAnswersByMail: where ATTENDEE and From agree it counts; where they do not it
// waits for the organiser, and who wrote is always said.
func TestWhoAnswersByMail(t *testing.T) {
	ilse := who(t, demo.Ilse)
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders("m1@njoro.example", "m2@njoro.example", "m3@njoro.example"))))
	p := writesTo(t, ilse, sent.MeetingID)

	p.mail("M1@njoro.example", yes(1, 0))
	assert.Equal(t, meeting.Accepted, p.answer("m1@njoro.example"))
	assert.Equal(t, "m1@njoro.example answered: accepted (by mail)", p.line())

	byDesk := no(1, 0)
	byDesk.Attendee, byDesk.SentBy = "m2@njoro.example", "desk@njoro.example"
	p.mail("desk@njoro.example", byDesk)
	assert.Equal(t, meeting.Declined, p.answer("m2@njoro.example"), "SENT-BY explains it")
	assert.Contains(t, p.line(), "Written by desk@njoro.example")

	forged := no(0, 0)
	forged.Attendee = "m1@njoro.example"
	p.mail("m3@njoro.example", forged)
	assert.Equal(t, meeting.Accepted, p.answer("m1@njoro.example"), "somebody else wrote it")
	assert.Contains(t, p.line(), "somebody else wrote it, it waits to be decided. Written by m3@njoro.example")
	open := look(t, ilse.ID, sent.MeetingID).Letters
	require.NotEmpty(t, open)
	assert.Equal(t, schedule.LetterOpen, open[0].State)

	p.mail("alias@njoro.example", yes(0, 0)) // an alias of m3
	assert.Equal(t, meeting.NoAnswer, p.answer("m3@njoro.example"))
	assert.Contains(t, p.line(), "this address is not invited, it waits to be decided")
	var alias schedule.LetterIn
	for _, l := range look(t, ilse.ID, sent.MeetingID).Letters {
		if l.FromEmail == "alias@njoro.example" {
			alias = l
		}
	}
	m3 := look(t, ilse.ID, sent.MeetingID).Invited[2]
	require.Equal(t, "m3@njoro.example", m3.Email)
	tome := who(t, "tome.akande@marrowby.example")
	assert.ErrorIs(t, service().Meetings.Decide(t.Context(), schedule.Self(tome.ID), sent.MeetingID, alias.ID, meetings.Decision{As: m3.ID}), schedule.ErrNotFound, "not theirs to decide")
	require.NoError(t, service().Meetings.Decide(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, alias.ID, meetings.Decision{As: m3.ID}))
	assert.Equal(t, meeting.Accepted, p.answer("m3@njoro.example"))
	assert.ErrorIs(t, service().Meetings.Decide(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, alias.ID, meetings.Decision{As: m3.ID}), schedule.ErrNotFound, "decided once")
	require.NoError(t, service().Meetings.Decide(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, open[0].ID, meetings.Decision{As: uuid.Nil}))
	assert.Equal(t, meeting.Accepted, p.answer("m1@njoro.example"), "left")

	p.box = schedule.Mailbox{} // to the address without its secret part
	p.mail("m1@njoro.example", no(0, 0))
	assert.Equal(t, meeting.Accepted, p.answer("m1@njoro.example"))
	assert.Contains(t, p.line(), "it did not come to the meeting’s own address")
	nowhere := meetings.Mail{Digest: []byte("x"), FromEmail: "m1@njoro.example", Replies: []meetings.MailReply{{Method: meetings.Replies, UID: "nowhere@njoro.example", Attendee: "m1@njoro.example"}}}
	assert.ErrorIs(t, service().Meetings.TakeMail(t.Context(), p.box, nowhere), schedule.ErrNotFound)
}

// TestWhichMailAnswerCounts: by SEQUENCE first; no clock is ahead of the arrival; a page
// is never refused for a mail's stamp; sentences are true.
func TestWhichMailAnswerCounts(t *testing.T) {
	ilse := who(t, demo.Ilse)
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders("w1@njoro.example"))))
	p := writesTo(t, ilse, sent.MeetingID)
	guest := service().Seal.GuestToken(look(t, ilse.ID, sent.MeetingID).Invited[0].ID, 0)

	p.mail("w1@njoro.example", yes(-600, 0)) // ten hours fast
	assert.Equal(t, meeting.Accepted, p.answer("w1@njoro.example"))
	require.NoError(t, service().Meetings.GuestAnswer(t.Context(), guest, meetings.Given{Answer: meeting.Declined, Seen: 0}))
	assert.Equal(t, meeting.Declined, p.answer("w1@njoro.example"), "the page is newer")
	p.mail("w1@njoro.example", yes(30, 0))
	assert.Equal(t, meeting.Declined, p.answer("w1@njoro.example"))
	assert.Contains(t, p.line(), "an older answer, it changes nothing")

	change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.Start, d.End = d.Start[:11]+"15:00", d.End[:11]+"16:00" })
	assert.Equal(t, meeting.NoAnswer, p.answer("w1@njoro.example"), "asked again")
	p.mail("w1@njoro.example", no(0, 0)) // to the old time, later
	assert.Equal(t, meeting.NoAnswer, p.answer("w1@njoro.example"))
	p.mail("w1@njoro.example", yes(700, 1)) // to the new time, by a slow clock
	assert.Equal(t, meeting.Accepted, p.answer("w1@njoro.example"), "SEQUENCE before DTSTAMP")
	again := yes(700, 1)
	again.Stamp = look(t, ilse.ID, sent.MeetingID).Invited[0].AnswerStamp
	p.mail("w1@njoro.example", again)
	assert.Contains(t, p.line(), "the same answer came twice")
	before := len(look(t, ilse.ID, sent.MeetingID).Happenings)
	p.number-- // the very same mail
	p.mail("w1@njoro.example", again)
	assert.Len(t, look(t, ilse.ID, sent.MeetingID).Happenings, before, "one mail twice is one")
}

// TestNoAnswerVanishes: each is in the history with its reason.
func TestNoAnswerVanishes(t *testing.T) {
	ilse := who(t, demo.Ilse)
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders("v1@njoro.example", "v2@njoro.example"))))
	p := writesTo(t, ilse, sent.MeetingID)
	p.mail("v1@njoro.example", said("X-PERHAPS", 0, 0))
	p.mail("v1@njoro.example", meetings.MailReply{Method: meetings.Replies, Reply: meeting.Reply{}})
	assert.Contains(t, p.line(), "v1@njoro.example answered (by mail); neither yes, maybe nor no")
	other := yes(0, 0)
	other.UID = "another@njoro.example"
	p.mail("v1@njoro.example", other)
	assert.Contains(t, p.line(), "to no date that there is")
	change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.People = d.People[:1] })
	p.mail("v2@njoro.example", yes(0, 0))
	assert.Contains(t, p.line(), "they were taken off, it changes nothing")
	m := look(t, ilse.ID, sent.MeetingID)
	require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, m.Version, nil, ""))
	p.mail("v1@njoro.example", yes(0, 9))
	assert.Contains(t, p.line(), "the meeting is called off, it changes nothing")
}

// TestAnOldAnswerToTheOnlyDate: somebody with one date is told of its new time by that
// date, and an answer to the old one changes nothing.
func TestAnOldAnswerToTheOnlyDate(t *testing.T) {
	ilse := who(t, demo.Ilse)
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(repeated("every Monday, 4 times", func(d *meeting.Draft) {
		d.Start, d.End = "2027-10-04T07:00", "2027-10-04T08:00"
		d.People = []meeting.DraftPerson{{Email: "s1@njoro.example", Dates: []meeting.DraftRange{{From: "2027-10-11", To: "2027-10-11"}}}}
	}))))
	p := writesTo(t, ilse, sent.MeetingID)
	change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.Start, d.End = d.Start[:11]+"06:30", d.End[:11]+"07:30" })
	p.mail("s1@njoro.example", yes(0, 0))
	assert.Equal(t, meeting.NoAnswer, p.answer("s1@njoro.example"))
	assert.Contains(t, p.line(), "an older answer, it changes nothing")
	p.mail("s1@njoro.example", yes(0, 1))
	assert.Equal(t, meeting.Accepted, p.answer("s1@njoro.example"))
}

// TestAbsurdMailsAreKeptAndReadBack: what a mail says of itself is cut, not refused.
func TestAbsurdMailsAreKeptAndReadBack(t *testing.T) {
	ilse := who(t, demo.Ilse)
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders("x1@njoro.example"))))
	p := writesTo(t, ilse, sent.MeetingID)
	long := strings.Repeat("x\x00\xff\u202e", 5000)
	m := meetings.Mail{Digest: []byte("absurd"), FromName: long, FromEmail: long, SignedBy: long, Subject: long, Words: long, Why: long, Raw: []byte(long)}
	r := yes(0, 1<<31-1)
	r.UID, r.Attendee, r.Comment = p.uid, long, long
	r.Date = &meeting.DateID{At: 1 << 40, Onward: true}
	m.Replies = append(m.Replies, r)
	require.NoError(t, service().Meetings.TakeMail(t.Context(), p.box, m))
	letters := look(t, ilse.ID, sent.MeetingID).Letters
	require.Len(t, letters, 1)
	assert.Equal(t, schedule.LetterOpen, letters[0].State)
	far := yes(0, 1<<31-1) // a version that there is not yet
	p.mail("x1@njoro.example", far)
	assert.Equal(t, 0, look(t, ilse.ID, sent.MeetingID).Invited[0].AnswerSequence)
	invited := look(t, ilse.ID, sent.MeetingID).Invited[0]
	require.NoError(t, service().Meetings.Decide(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, letters[0].ID, meetings.Decision{As: invited.ID}))
	assert.Equal(t, meeting.Accepted, p.answer("x1@njoro.example"))
	change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.Start, d.End = d.Start[:11]+"15:00", d.End[:11]+"16:00" })
	assert.Equal(t, meeting.NoAnswer, p.answer("x1@njoro.example"), "asked again, however far the answer ran ahead")
	p.mail("x1@njoro.example", no(0, 1))
	assert.Equal(t, meeting.Declined, p.answer("x1@njoro.example"))
}

// TestAReplyIsReadWhole: "yes to all, no to 14 January", this and all that follow, a
// date by its old and its new time, one that a split carried along.
func TestAReplyIsReadWhole(t *testing.T) {
	ilse := who(t, demo.Ilse)
	d := draft(outsiders("r1@njoro.example"))
	d.Repeat = &meeting.DraftRepeat{Rule: "FREQ=WEEKLY", Ends: "after", Count: 8}
	sent := send(t, ilse.ID, open(t, ilse.ID, d))
	p := writesTo(t, ilse, sent.MeetingID)
	m := look(t, ilse.ID, sent.MeetingID)
	dates := m.Content.DatesOf(m.Content.Participants[0], m.Content.Start.Day+100)
	require.Len(t, dates, 8)
	on := func(r meetings.MailReply, at int) meetings.MailReply {
		r.Date = &meeting.DateID{At: dates[at].Span.Start}
		return r
	}
	answers := func(id uuid.UUID) (out []string) {
		m := look(t, ilse.ID, id)
		for _, x := range service().Meetings.Series(tongue.Tongue{}, m).Dates {
			for a := range x.Answers {
				out = append(out, words.Answer(tongue.Tongue{}, a))
			}
		}
		return out
	}
	p.mail("r1@njoro.example", yes(3, 0), on(no(3, 0), 2))
	assert.Equal(t, strings.Fields("accepted accepted declined accepted accepted accepted accepted accepted"), answers(sent.MeetingID))
	onward := on(said(meeting.Maybe, 2, 0), 6)
	onward.Date.Onward = true
	p.mail("r1@njoro.example", onward)
	assert.Equal(t, strings.Fields("accepted accepted declined accepted accepted accepted maybe maybe"), answers(sent.MeetingID))
	assert.Contains(t, p.line(), "and all that follow: maybe")
	nothing := on(no(1, 0), 0)
	nothing.Date.At += 60
	p.mail("r1@njoro.example", nothing)
	assert.Contains(t, p.line(), "to no date that there is")

	// A split carries the later dates, at the same time, into the next series.
	s, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, sheets.Opening{At: dates[4].On})
	require.NoError(t, err)
	s.Draft.Title = "Crate sizes, with the courier"
	s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, s.Draft, "")
	require.NoError(t, err)
	next := send(t, ilse.ID, s)
	require.NotEqual(t, sent.MeetingID, next.MeetingID)
	assert.Equal(t, strings.Fields("accepted accepted maybe maybe"), answers(next.MeetingID), "what they answered holds")
	eventually(t, "it is told", func() bool { return len(running.World.Post.Box("r1@njoro.example")) == 3 })
	mails := running.World.Post.Box("r1@njoro.example")
	var partstats int
	for _, m := range mails {
		read, err := standin.ReadMail(m)
		require.NoError(t, err)
		entry := strings.ReplaceAll(string(read.Calendar), "\r\n ", "")
		if strings.Contains(read.Subject, "with the courier") {
			assert.NotContains(t, entry, "PARTSTAT=NEEDS-ACTION", "their program does not take the answers back")
			partstats += strings.Count(entry, "PARTSTAT=ACCEPTED")
		}
	}
	assert.Positive(t, partstats)
	p.mail("r1@njoro.example", on(no(0, 0), 5))
	assert.Equal(t, "declined", answers(next.MeetingID)[1], "found in the series that goes on")
}

// TestALetterThatIsNoAnswer is shown at the meeting and handed on to the organiser.
func TestALetterThatIsNoAnswer(t *testing.T) {
	ilse := who(t, demo.Ilse)
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders("l1@njoro.example"))))
	p := writesTo(t, ilse, sent.MeetingID)
	before := len(running.World.Post.Box(ilse.Email))
	m := meetings.Mail{Digest: []byte("l"), FromName: "Juma", FromEmail: "l1@njoro.example", Subject: "Parking?", Words: "Where can the truck stand?",
		Raw: []byte("From: Juma <l1@njoro.example>\r\nSubject: Parking?\r\n\r\nWhere can the truck stand?\r\n")}
	require.NoError(t, service().Meetings.TakeMail(t.Context(), p.box, m))
	require.NoError(t, service().Meetings.TakeMail(t.Context(), p.box, m), "twice is once")
	assert.Equal(t, "Juma wrote to the meeting: “Parking?”", p.line())
	letters := look(t, ilse.ID, sent.MeetingID).Letters
	require.Len(t, letters, 1)
	assert.Equal(t, "Where can the truck stand?", letters[0].Words)
	mails := box(t, ilse.Email, before+1)
	got := mails[before]
	assert.Equal(t, "Parking?", got.Subject)
	assert.Contains(t, got.Text, "Where can the truck stand?")
	assert.Contains(t, header(got.Headers, "Reply-To"), "l1@njoro.example")
	assert.Equal(t, "", running.World.Post.Box(ilse.Email)[before].From, "what is returned of it is nobody's")

	back := m // the forwarded mail comes back by somebody's rule
	back.Digest, back.MessageID = []byte("b"), uuid.NewString()+"@"+service().House.MailDomain
	require.NoError(t, service().Meetings.TakeMail(t.Context(), p.box, back))
	returned := m
	returned.Digest, returned.Returned = []byte("r"), true
	require.NoError(t, service().Meetings.TakeMail(t.Context(), p.box, returned))
	assert.Len(t, look(t, ilse.ID, sent.MeetingID).Letters, 3)
	// The first is in the mailbox a moment before that is kept.
	assert.Eventually(t, func() bool {
		var queued int
		err := running.Program.Pool.QueryRow(t.Context(), "SELECT count(*) FROM letter_in WHERE meeting_id = $1 AND raw IS NOT NULL", sent.MeetingID).Scan(&queued)
		return err == nil && queued == 0
	}, 5*time.Second, 20*time.Millisecond, "both are shown, and not handed on")
	assert.Len(t, running.World.Post.Box(ilse.Email), before+1)
}

// TestAnUpdateTakesNoAnswersBack: everybody's answer as known is in it, and no two
// messages to one person have the same SEQUENCE and DTSTAMP.
func TestAnUpdateTakesNoAnswersBack(t *testing.T) {
	ilse := who(t, demo.Ilse)
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders("u1@njoro.example", "u2@njoro.example"))))
	p := writesTo(t, ilse, sent.MeetingID)
	p.mail("u1@njoro.example", yes(0, 0))
	for _, title := range []string{"Crate sizes, again", "Crate sizes, once more", "Crate sizes"} {
		change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.Title = title })
	}
	seen := map[string]bool{}
	for _, raw := range calendars(t, "u2@njoro.example", 4) {
		text := strings.ReplaceAll(string(raw), "\r\n ", "")
		var version string
		for line := range strings.Lines(text) {
			if strings.HasPrefix(line, "SEQUENCE:") || strings.HasPrefix(line, "DTSTAMP:") {
				version += line
			}
		}
		assert.False(t, seen[version], "%s stands for one message", version)
		seen[version] = true
	}
	last := string(calendars(t, "u2@njoro.example", 4)[3])
	last = strings.ReplaceAll(last, "\r\n ", "")
	assert.Regexp(t, `ATTENDEE;[^:]*PARTSTAT=ACCEPTED[^:]*:mailto:u1@njoro.example`, last)
	assert.Regexp(t, `ATTENDEE;[^:]*PARTSTAT=NEEDS-ACTION[^:]*:mailto:u2@njoro.example`, last)
	// A new time asks everybody again.
	change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.Start, d.End = d.Start[:11]+"15:00", d.End[:11]+"16:00" })
	asked := strings.ReplaceAll(string(calendars(t, "u2@njoro.example", 5)[4]), "\r\n ", "")
	assert.NotContains(t, asked, "PARTSTAT=ACCEPTED")
}

// TestMailsTellOfNobodyElsesDates: somebody on one date learns of the people on it.
func TestMailsTellOfNobodyElsesDates(t *testing.T) {
	ilse := who(t, demo.Ilse)
	only := func(day string) []meeting.DraftRange { return []meeting.DraftRange{{From: day, To: day}} }
	send(t, ilse.ID, open(t, ilse.ID, draft(repeated("every Monday, 4 times", func(d *meeting.Draft) {
		d.Start, d.End = "2027-09-06T07:00", "2027-09-06T08:00"
		d.People = []meeting.DraftPerson{{Email: "n1@njoro.example", Dates: only("2027-09-13")}, {Email: "n2@njoro.example", Dates: only("2027-09-20")}, {Email: "n3@njoro.example"}}
	}))))
	one := box(t, "n1@njoro.example", 1)[0]
	for _, text := range []string{one.Text, one.HTML, string(one.Calendar)} {
		assert.NotContains(t, text, "n2@njoro.example")
	}
	assert.Contains(t, one.Text, "n3@njoro.example", "who is on their date")
	all := box(t, "n3@njoro.example", 1)[0]
	assert.Contains(t, all.Text, "n2@njoro.example")
}

// TestAnEarlierMessageIsOfItsOwnVersion: a message that still waits when everything is
// called off says what was true of its version; who is dropped gets no words that were
// meant for the others.
func TestAnEarlierMessageIsOfItsOwnVersion(t *testing.T) {
	ilse := who(t, demo.Ilse)
	running.World.Switch("post", standin.Away)
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders("e1@njoro.example", "e2@njoro.example"))))
	change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) {
		d.People, d.Title = d.People[:1], "Crate sizes, moved"
	})
	m := look(t, ilse.ID, sent.MeetingID)
	require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, m.Version, nil, "The kiln is broken."))
	running.World.Switch("post", standin.Working)
	dropped := box(t, "e2@njoro.example", 2)[1]
	assert.Contains(t, dropped.Text, "took you off the list; the meeting goes on without you")
	assert.NotContains(t, string(dropped.Calendar), "STATUS:CANCELLED", "RFC 5546, 3.2.5")
	assert.NotContains(t, dropped.Text, "the title")
	off := box(t, "e1@njoro.example", 3)
	assert.Contains(t, off[1].Text, "Changed: the title")
	assert.NotContains(t, off[1].Text, "e2@njoro.example")
	assert.Contains(t, off[2].Text, "The kiln is broken.")
	assert.Contains(t, string(off[2].Calendar), "STATUS:CANCELLED")
}

// TestMailsAreSigned: what goes out carries a signature that the other side finds valid.
func TestMailsAreSigned(t *testing.T) {
	ilse := who(t, demo.Ilse)
	send(t, ilse.ID, open(t, ilse.ID, draft(outsiders("signed@kirisame.example"))))
	m := box(t, "signed@kirisame.example", 1)[0]
	rw := httptest.NewRecorder()
	running.World.Handler().ServeHTTP(rw, httptest.NewRequest("GET", fmt.Sprintf("/post/messages/%d", m.ID), nil))
	assert.Contains(t, rw.Body.String(), "valid signature of "+service().House.MailDomain)
}

// TestGuestsKeptApart learn nothing of each other: not from the mail, its calendar part, the page
// or the file; the organiser sees everybody.
func TestGuestsKeptApart(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	const one, other = "apart.one@kirisame.example", "apart.other@njoro.example"
	id := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
		outsiders(one, other)(d)
		d.Apart, d.People = true, append(d.People, meeting.DraftPerson{Email: rui.Email, Needed: true})
	}))).MeetingID
	mail := box(t, one, 1)[0]
	for _, text := range []string{mail.Text, mail.HTML, strings.ReplaceAll(string(mail.Calendar), "\r\n ", "")} {
		assert.NotContains(t, text, other)
		assert.NotContains(t, text, rui.Name)
	}
	d := look(t, ilse.ID, id)
	require.Len(t, d.Invited, 3)
	token := service().Seal.GuestToken(d.Invited[0].ID, 0)
	v, err := service().Meetings.Guest(t.Context(), token)
	require.NoError(t, err)
	assert.Len(t, v.Content.Participants, 1)
	file, err := service().Meetings.GuestFile(t.Context(), token)
	require.NoError(t, err)
	assert.NotContains(t, string(file), other)
	theirs := look(t, rui.ID, id)
	assert.Len(t, theirs.Invited, 1)
	assert.Len(t, theirs.Content.Participants, 1)
	change(t, ilse.ID, id, func(d *meeting.Draft) { d.Title = "Another title" })
	assert.NotContains(t, strings.ReplaceAll(string(box(t, one, 2)[1].Calendar), "\r\n ", ""), other)
}
