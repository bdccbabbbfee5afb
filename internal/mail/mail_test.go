package mail_test

import (
	"bytes"
	"context"
	"crypto/rand"
	"crypto/rsa"
	"crypto/x509"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/http/httptest"
	netmail "net/mail"
	"os/exec"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/emersion/go-msgauth/dkim"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/ical"
	"jembro/internal/mail"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/standin"
)

func local(t testing.TB, s string) when.Local {
	l, err := when.ParseLocal(s)
	require.NoError(t, err)
	return l
}

func letter(t testing.TB) schedule.Letter {
	onari := meeting.Participant{ID: "onari", Party: meeting.Party{Name: `S. Onari; "Kyoto"`, Email: "s.onari@kirisame.example", Zone: "Asia/Tokyo"}, Needed: true}
	freya := meeting.Participant{ID: "freya", Party: meeting.Party{PersonID: "p3", Name: "Freya Holm", Email: "freya.holm@marrowby.example"}}
	return schedule.Letter{
		Kind: meeting.Invite, To: onari, Stamp: time.Date(2026, 11, 24, 10, 12, 0, 0, time.UTC),
		House: schedule.House{Name: "Marrowby Museums"}, GuestURL: "https://jembro.example/guest/abc",
		Address: "meeting-1@meet.marrowby.example", ReturnTo: "reply-1@meet.marrowby.example", MessageID: "1@meet.marrowby.example",
		Meeting: meeting.Meeting{UID: "42@meet.marrowby.example", Sequence: 3, Title: `Crate sizes; loan 14, "lacquer"`,
			Text:  "BEGIN:VEVENT\nEND:VCALENDAR\n<b>bold</b>; a\\nb, \"c\"",
			Start: local(t, "2026-12-03T09:30"), End: local(t, "2026-12-03T10:30"), Zone: "Europe/Lisbon", RemindBefore: 15,
			Organiser:    meeting.Party{PersonID: "p1", Name: "Ilse Marrant", Email: "ilse.marrant@marrowby.example"},
			Participants: []meeting.Participant{onari, freya},
			Room:         &meeting.Room{Name: "Map Room", Place: "Main building, floor 1", Email: "map.room@rooms.marrowby.example"},
			Card:         &join.Card{Name: "Ostrel", URL: "https://ostrel.example/j/48-2190", Number: "482 190 77", Passcode: "veld-31"},
		},
	}
}

func raw(t testing.TB, l schedule.Letter) []byte {
	msg, err := mail.Compose(l)
	require.NoError(t, err)
	var b bytes.Buffer
	_, err = msg.WriteTo(&b)
	require.NoError(t, err)
	return b.Bytes()
}

func read(t testing.TB, raw []byte) standin.Read {
	r, err := standin.ReadMail(standin.Message{Raw: raw, To: "s.onari@kirisame.example"})
	require.NoError(t, err)
	return r
}

// TestCoveringWordsGoBeforeTheLetter: text, HTML and the calendar's COMMENT (RFC 5546, 3.2.2) say the same.
func TestCoveringWordsGoBeforeTheLetter(t *testing.T) {
	l := letter(t)
	l.Cover, l.Subject = "The crates <are> measured.\nBring the list.", "Lacquer: please read before Thursday"
	r := read(t, raw(t, l))
	assert.Equal(t, l.Subject, r.Subject)
	assert.Contains(t, r.Text, "The crates <are> measured.\r\nBring the list.\r\n\r\n"+l.Meeting.Title)
	assert.Contains(t, r.HTML, "The crates &lt;are&gt; measured.\r\nBring the list.</p>\r\n<h1")
	rendered, err := mail.Render(l)
	require.NoError(t, err)
	unfolded := strings.ReplaceAll(string(rendered.Calendar), "\r\n ", "")
	assert.Contains(t, unfolded, `COMMENT:The crates <are> measured.\nBring the list.`)
	assert.NotContains(t, read(t, raw(t, letter(t))).Text, "measured")
}

func TestAnInvitationAsAMail(t *testing.T) {
	r := read(t, raw(t, letter(t)))
	assert.Equal(t, `Invitation: Crate sizes; loan 14, "lacquer", Thursday 3 December 2026, 18:30 – 19:30 Tokyo time`, r.Subject)
	assert.Equal(t, "REQUEST", r.Method, "RFC 6047, 2.4 and 4: the method of the part is that of the object")
	assert.Equal(t, []string{"invitation.ics"}, r.Attached)
	for _, want := range []string{"Thursday 3 December 2026, 18:30 – 19:30, Tokyo time", "9:30 – 10:30 in Lisbon", "Map Room, Main building, floor 1",
		"Passcode: veld-31", "https://jembro.example/guest/abc", "<b>bold</b>; a\\nb"} {
		assert.Contains(t, r.Text, want)
	}
	assert.Contains(t, r.HTML, "&lt;b&gt;bold&lt;/b&gt;")
	assert.NotContains(t, r.HTML, "<img")
	// The one style sheet is for the dark: a program that drops it shows the letter as by day.
	assert.Equal(t, 1, strings.Count(r.HTML, "<style"))
	assert.Contains(t, r.HTML, "<style>@media (prefers-color-scheme:dark){")
	sheet := regexp.MustCompile(`<style>@media[^{]*\{((?:[^{}]*\{[^{}]*\})*)\}</style>`).FindStringSubmatch(r.HTML)
	require.Len(t, sheet, 2, "nothing stands beside the one rule about the dark")
	assert.Less(t, strings.Index(r.HTML, ">Answer</a>"), strings.Index(r.HTML, "Map Room"), "a screen reader comes to the answer before the details")
	assert.Equal(t, string(r.Calendar), string(calendar(t, letter(t))))
}

func calendar(t testing.TB, l schedule.Letter) []byte {
	c, err := ical.Write(l)
	require.NoError(t, err)
	return c
}

func TestSubjectsAndThreads(t *testing.T) {
	l := letter(t)
	l.Kind, l.Words, l.Earlier = meeting.Update, "time, room", []string{"0@meet.marrowby.example", "1@meet.marrowby.example"}
	update := read(t, raw(t, l))
	assert.True(t, strings.HasPrefix(update.Subject, "Changed: "))
	assert.Contains(t, update.Text, "Changed: time, room")
	assert.Contains(t, string(update.Raw), "<0@meet.marrowby.example> <1@meet.marrowby.example>")
	l.Kind, l.OffAll, l.Words = meeting.CallOff, true, "The kiln is broken."
	off := read(t, raw(t, l))
	assert.True(t, strings.HasPrefix(off.Subject, "Called off: "))
	assert.Equal(t, "CANCEL", off.Method)
	assert.Contains(t, off.Text, "The kiln is broken.")
	assert.NotContains(t, off.Text, "Answer here")
	before := l.Meeting
	l.Before, l.OffAll = &before, false
	l.Meeting.Participants = l.Meeting.Participants[1:]
	dropped := read(t, raw(t, l))
	assert.True(t, strings.HasPrefix(dropped.Subject, "No longer needed: "))
	assert.Contains(t, dropped.Text, "took you off the list")
}

func TestNoFieldInjectsHeaders(t *testing.T) {
	l := letter(t)
	l.Meeting.Title = "Crates\r\nBcc: spy@elsewhere.example"
	l.To.Name = "S. Onari\r\nX-Bad: 1"
	l.Meeting.Organiser.Name = "Ilse\nX-Bad: 2"
	msg, err := mail.Compose(l)
	if err != nil { // refusing is fine too
		return
	}
	var b bytes.Buffer
	_, err = msg.WriteTo(&b)
	if err != nil {
		return
	}
	head, _, _ := strings.Cut(b.String(), "\r\n\r\n")
	for line := range strings.SplitSeq(head, "\r\n") {
		assert.False(t, strings.HasPrefix(line, "Bcc:") || strings.HasPrefix(line, "X-Bad:"), line)
	}
}

// seen is what testdata/read_invitation.py prints of a raw mail.
type seen struct {
	Method, UID, Summary, Description, Location, Organizer string
	Sequence                                               int
	Start, End                                             string // RFC 3339, UTC
	TZID                                                   string
	Attendees                                              []struct{ Address, CN, Role, Partstat, Cutype, RSVP string }
	Conference                                             string
	Alarm                                                  string
	Errors                                                 []string
}

// outside reads a raw mail with a library that is not ours.
func outside(t testing.TB, library string, raw []byte) seen {
	t.Helper()
	cmd := exec.CommandContext(t.Context(), "/usr/bin/python3", "testdata/read_invitation.py", library)
	cmd.Stdin = bytes.NewReader(raw)
	var stderr bytes.Buffer
	cmd.Stderr = &stderr
	out, err := cmd.Output()
	require.NoError(t, err, "%s: %s", library, stderr.String())
	var s seen
	require.NoError(t, json.Unmarshal(out, &s), "%s", out)
	return s
}

// TestOtherLibrariesReadWhatWasEntered: Debian's python3-icalendar and libical
// parse what we send without complaint, and find in it what was entered.
func TestOtherLibrariesReadWhatWasEntered(t *testing.T) {
	zones := []struct{ zone, start, end string }{
		{"Europe/Lisbon", "2026-12-03T09:30:00Z", "2026-12-03T10:30:00Z"},
		{"Asia/Tokyo", "2026-12-03T00:30:00Z", "2026-12-03T01:30:00Z"},
		{"America/Sao_Paulo", "2026-12-03T12:30:00Z", "2026-12-03T13:30:00Z"},
		{"Australia/Lord_Howe", "2026-12-02T22:30:00Z", "2026-12-02T23:30:00Z"},
		{"UTC", "2026-12-03T09:30:00Z", "2026-12-03T10:30:00Z"},
	}
	post := newPost(t, &answers{})
	for _, library := range []string{"icalendar", "libical"} {
		for _, z := range zones {
			t.Run(library+" "+z.zone, func(t *testing.T) {
				l := letter(t)
				l.Meeting.Zone = z.zone
				if library == "icalendar" { // it takes an escaped backslash before n for a line break
					l.Meeting.Text = strings.ReplaceAll(l.Meeting.Text, `\n`, "")
				}
				s := outside(t, library, post.through(t, l))
				assert.Empty(t, s.Errors)
				assert.Equal(t, "REQUEST", s.Method)
				assert.Equal(t, l.Meeting.UID, s.UID)
				assert.Equal(t, 3, s.Sequence)
				assert.Equal(t, l.Meeting.Title, s.Summary)
				assert.Equal(t, l.Meeting.Text+"\n\n"+strings.TrimSpace(l.Meeting.Card.Text(join.Reader{Outside: true})), s.Description)
				assert.Equal(t, "Map Room (Main building, floor 1)", s.Location)
				assert.Equal(t, z.start, s.Start)
				assert.Equal(t, z.end, s.End)
				assert.Equal(t, z.zone, s.TZID)
				assert.Equal(t, "https://ostrel.example/j/48-2190", s.Conference)
				assert.Equal(t, "-PT15M", s.Alarm)
				require.Len(t, s.Attendees, 3)
				assert.Equal(t, "mailto:s.onari@kirisame.example", s.Attendees[0].Address)
				assert.Equal(t, "REQ-PARTICIPANT NEEDS-ACTION TRUE", s.Attendees[0].Role+" "+s.Attendees[0].Partstat+" "+s.Attendees[0].RSVP)
				assert.Equal(t, "OPT-PARTICIPANT", s.Attendees[1].Role)
				assert.Equal(t, "ROOM ACCEPTED", s.Attendees[2].Cutype+" "+s.Attendees[2].Partstat)
				assert.Equal(t, "mailto:meeting-1@meet.marrowby.example", s.Organizer)
			})
		}
		t.Run(library+" cancel", func(t *testing.T) {
			l := letter(t)
			l.Kind = meeting.CallOff
			s := outside(t, library, post.through(t, l))
			assert.Empty(t, s.Errors)
			assert.Equal(t, "CANCEL", s.Method)
		})
	}
}

// post is the post office with a relay to it and a listener for its answers.
type post struct {
	world *standin.World
	relay mail.Relay
}

func newPost(t testing.TB, a *answers) post {
	in := listen(t)
	server, err := mail.NewListener(mail.Inbox{Answers: a, Domain: "meet.marrowby.example"})
	require.NoError(t, err)
	go mail.Serve(server, in)
	t.Cleanup(func() { server.Close() })
	out := listen(t)
	world, err := standin.New(standin.Config{AnswersTo: in.Addr().String(), AnswersDomain: "meet.marrowby.example", Now: time.Now})
	require.NoError(t, err)
	go world.Post.Serve(out)
	t.Cleanup(func() { out.Close() })
	return post{world, mail.Relay{Host: "127.0.0.1", Port: out.Addr().(*net.TCPAddr).Port, Plain: true, Helo: "meet.marrowby.example"}}
}

// through sends a letter and gives the raw mail that the post office has then.
func (p post) through(t testing.TB, l schedule.Letter) []byte {
	t.Helper()
	_, err := p.relay.Send(t.Context(), l)
	require.NoError(t, err)
	box := p.world.Post.Box(l.To.Email)
	page := httptest.NewRecorder()
	p.world.Handler().ServeHTTP(page, httptest.NewRequest("GET", fmt.Sprintf("/post/messages/%d.eml", box[len(box)-1].ID), nil))
	require.Equal(t, 200, page.Code)
	return page.Body.Bytes()
}

// TestThePostOfficeAnswers runs a letter through real SMTP to a mailbox, and
// the answer of a mail program back to the listener.
func TestThePostOfficeAnswers(t *testing.T) {
	taken := &answers{}
	p := newPost(t, taken)
	world, relay := p.world, p.relay
	by, err := relay.Send(t.Context(), letter(t))
	require.NoError(t, err)
	assert.Equal(t, "127.0.0.1", by)
	box := world.Post.Box("s.onari@kirisame.example")
	require.Len(t, box, 1)
	assert.Equal(t, "reply-1@meet.marrowby.example", box[0].From, "what is returned comes to an address of the same domain")
	require.NoError(t, world.Post.Answer(box[0], "TENTATIVE", "After lunch; if at all, \\ maybe"))
	require.Len(t, taken.all(), 1)
	a := taken.all()[0]
	assert.Equal(t, "42@meet.marrowby.example s.onari@kirisame.example TENTATIVE 3 After lunch; if at all, \\ maybe",
		fmt.Sprintf("%s %s %s %d %s", a.UID, a.Attendee, a.Reply.Answer, a.Sequence, a.Comment))

	t.Run("refused for good", func(t *testing.T) {
		l := letter(t)
		l.To.Email = "nobody@kirisame.example"
		_, err := relay.Send(t.Context(), l)
		var refused *schedule.RefusedError
		require.ErrorAs(t, err, &refused)
		assert.Contains(t, refused.Reason, "550")
	})
	t.Run("out of order", func(t *testing.T) {
		world.Switch("post", standin.Failing)
		defer world.Switch("post", standin.Working)
		_, err := relay.Send(t.Context(), letter(t))
		assert.ErrorIs(t, err, schedule.ErrUnreachable)
	})
	t.Run("away", func(t *testing.T) {
		world.Switch("post", standin.Away)
		defer world.Switch("post", standin.Working)
		_, err := relay.Send(t.Context(), letter(t))
		assert.ErrorIs(t, err, schedule.ErrUnreachable)
	})
}

func listen(t testing.TB) net.Listener {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	return l
}

// answers keeps what the listener took; addresses that begin with "meeting" and
// "reply-" are known.
type answers struct {
	mu    sync.Mutex
	mails []meetings.Mail
	err   error
}

func (a *answers) Mailbox(address string) (schedule.Mailbox, error) {
	switch {
	case strings.HasPrefix(address, "meeting-"):
		return schedule.Mailbox{Meeting: uuid.NameSpaceDNS}, nil
	case strings.HasPrefix(address, "reply-"):
		return schedule.Mailbox{Participant: uuid.NameSpaceDNS}, nil
	case strings.HasPrefix(address, "meeting"):
		return schedule.Mailbox{}, nil
	}
	return schedule.Mailbox{}, schedule.ErrNotFound
}

func (a *answers) TakeMail(_ context.Context, box schedule.Mailbox, m meetings.Mail) error {
	a.mu.Lock()
	defer a.mu.Unlock()
	if box == (schedule.Mailbox{}) && len(m.Replies) == 0 {
		return schedule.ErrNotFound
	}
	a.mails = append(a.mails, m)
	return a.err
}

func (a *answers) all() (out []ical.Answer) {
	for _, m := range a.letters() {
		out = append(out, m.Replies...)
	}
	return out
}

func (a *answers) letters() []meetings.Mail {
	a.mu.Lock()
	defer a.mu.Unlock()
	return a.mails
}

const replyMail = "From: \"S. Onari\" <s.onari@kirisame.example>\r\nTo: meeting-x@meet.marrowby.example\r\nSubject: Accepted\r\nMIME-Version: 1.0\r\n" +
	"Content-Type: multipart/alternative; boundary=b\r\n\r\n--b\r\nContent-Type: text/plain\r\n\r\nYes\r\n--b\r\n" +
	"Content-Type: text/calendar; method=REPLY; charset=UTF-8\r\n\r\nBEGIN:VCALENDAR\r\nVERSION:2.0\r\nMETHOD:REPLY\r\nBEGIN:VEVENT\r\n" +
	"UID:42@meet.marrowby.example\r\nDTSTAMP:20261124T101500Z\r\nATTENDEE;PARTSTAT=ACCEPTED:mailto:s.onari@kirisame.example\r\n" +
	"ORGANIZER:mailto:meeting-x@meet.marrowby.example\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n--b--\r\n"

// TestNothingStopsTheListener sends it what is broken or hostile, and then an
// answer, which it takes.
func TestNothingStopsTheListener(t *testing.T) {
	taken := &answers{}
	l := listen(t)
	server, err := mail.NewListener(mail.Inbox{Answers: taken, Domain: "meet.marrowby.example"})
	require.NoError(t, err)
	go mail.Serve(server, l)
	t.Cleanup(func() { server.Close() })
	send := func(to, body string) error {
		return deliver(l.Addr().String(), "x@kirisame.example", []string{to}, body)
	}
	ours := "meeting-x@meet.marrowby.example"
	deep := strings.Repeat("Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\n", 200) + "Content-Type: text/calendar\r\n\r\nBEGIN:VCALENDAR\r\n"
	for name, body := range map[string]string{
		"nothing": "", "no header": "\r\n\r\n", "plain words": "Subject: hi\r\n\r\nOn holiday until Monday", "nested": deep,
		"a broken calendar": strings.Replace(replyMail, "ATTENDEE;PARTSTAT=ACCEPTED:", "ATTENDEE;PARTSTAT", 1),
		"no boundary":       strings.Replace(replyMail, "; boundary=b", "", 1),
		"another charset":   strings.Replace(replyMail, "charset=UTF-8", "charset=x-nonsense", 1),
		"a delivery report": "Content-Type: multipart/report; report-type=delivery-status; boundary=b\r\n\r\n--b\r\nContent-Type: message/delivery-status\r\n\r\nReporting-MTA: dns; x\r\n\r\n--b--\r\n",
		"binary":            "Content-Type: text/calendar\r\n\r\n\x00\xff\xfe" + strings.Repeat("\x01", 3000),
	} {
		before := len(taken.letters())
		assert.NoError(t, send(ours, body), name)
		assert.Len(t, taken.letters(), before+1, "%s is kept", name)
	}
	n := len(taken.all())
	assert.ErrorContains(t, send("meeting@meet.marrowby.example", "Subject: hi\r\n\r\nWhich meeting?"), "550", "nobody can tell what it is about")
	assert.NoError(t, send("meeting@meet.marrowby.example", replyMail), "its UID tells")
	n++
	err = send("ilse.marrant@marrowby.example", replyMail)
	assert.ErrorContains(t, err, "550", "no mail for anybody else")
	assert.Error(t, send(ours, "Subject: long\r\n\r\n"+strings.Repeat("x", 10_000)), "a line longer than any mail has")
	assert.Error(t, send(ours, "Subject: big\r\n\r\n"+strings.Repeat("0123456789abcdef\r\n", 200_000)), "too big")
	conn, err := net.Dial("tcp", l.Addr().String())
	require.NoError(t, err)
	fmt.Fprintf(conn, "HELO x\r\nMAIL FROM:<x@x.example>\r\nRCPT TO:<%s>\r\nDATA\r\nSubject: cut off", ours)
	conn.Close()
	require.NoError(t, send(ours, replyMail))
	require.Len(t, taken.all(), n+1)

	taken.err = errors.New("the database is away")
	assert.ErrorContains(t, send(ours, replyMail), "451", "the sender keeps it and tries again")
}

func FuzzReadMessage(f *testing.F) {
	f.Add([]byte(replyMail))
	f.Add([]byte("Content-Type: text/calendar\r\nContent-Transfer-Encoding: base64\r\n\r\nQkVHSU46"))
	f.Add([]byte("Content-Type: multipart/mixed; boundary=\"\r\n\r\n--"))
	f.Add([]byte("Content-Type: text/html (a \\) comment); charset=iso-8859-1\r\nFrom: =?utf-8?q?=C3=AF?= <a@b.example>\r\n\r\n<p>yes<br>> quoted"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		m := mail.ReadMail(t.Context(), "s.onari@kirisame.example", raw, nil)
		if len(m.Digest) == 0 {
			t.Fatal("a mail without a name of its own")
		}
		for _, a := range m.Replies {
			if a.Reply.Answer != "" && !a.Reply.Answer.Known() {
				t.Fatalf("an answer that is none: %+v", a)
			}
		}
	})
}

// TestWhatIsReadOfAMail: all calendar parts, the words that were typed, who wrote.
func TestWhatIsReadOfAMail(t *testing.T) {
	cases := []struct {
		name, old, new string
		answers        int
		words          string
	}{
		{"as it is", "", "", 1, ""},
		{"words beside the answer", "\r\n\r\nYes\r\n", "\r\n\r\nAccepted\r\nI bring the list.\r\n\r\nOn Tue, 24 Nov 2026 at 10:12, Ilse Marrant wrote:\r\n> Invitation\r\n", 1, "I bring the list."},
		{"an attribution in two lines", "\r\n\r\nYes\r\n", "\r\n\r\nLate!\r\n\r\nOn Tuesday, 24 November 2026 at 10:12, Ilse Marrant of Marrowby\r\nMuseums wrote:\r\n\r\n> Invitation\r\n", 1, "Late!"},
		{"a signature", "\r\n\r\nYes\r\n", "\r\n\r\nLate!\r\n-- \r\nS. Onari\r\n", 1, "Late!"},
		{"words in HTML only", "text/plain\r\n\r\nYes\r\n", "text/html\r\n\r\n<style>p{}</style><p>I&#39;ll bring <b>the list</b>.</p><div>Bye</div>\r\n", 1, "I'll bring the list.\nBye"},
		{"another part before", "Content-Type: text/calendar", "Content-Type: application/ics\r\n\r\nBEGIN:VCALENDAR\r\nnonsense\r\n--b\r\nContent-Type: text/calendar", 1, ""},
		{"a comment in the type", "text/calendar; method=REPLY", "text/calendar (by \\) hand); method=REPLY", 1, ""},
		{"METHOD only in the type", "METHOD:REPLY\r\n", "", 1, ""},
		{"a part as a file as well", "--b--", "--b\r\nContent-Type: application/ics\r\n\r\n" + replyMail[strings.Index(replyMail, "BEGIN:VCALENDAR"):strings.Index(replyMail, "--b--")] + "--b--", 1, ""},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			require.Contains(t, replyMail, c.old)
			m := mail.ReadMail(t.Context(), "s.onari@kirisame.example", []byte(strings.Replace(replyMail, c.old, c.new, 1)), nil)
			assert.Len(t, m.Replies, c.answers)
			assert.Equal(t, c.words, m.Words)
			assert.Equal(t, "S. Onari s.onari@kirisame.example Accepted", m.FromName+" "+m.FromEmail+" "+m.Subject)
		})
	}
	once := mail.ReadMail(t.Context(), "s.onari@kirisame.example", []byte("Received: by one\r\nMessage-ID: <1@kirisame.example>\r\n"+replyMail), nil)
	twice := mail.ReadMail(t.Context(), "s.onari@kirisame.example", []byte("Received: by another\r\nMessage-ID: <1@kirisame.example>\r\n"+replyMail), nil)
	assert.Equal(t, once.Digest, twice.Digest, "the same mail by another way")
	other := mail.ReadMail(t.Context(), "s.onari@kirisame.example", []byte("Message-ID: <2@kirisame.example>\r\n"+replyMail), nil)
	assert.NotEqual(t, once.Digest, other.Digest)
}

// TestASignatureIsNoted: a valid one of the writer's domain, and no other (RFC 6376).
func TestASignatureIsNoted(t *testing.T) {
	key, err := rsa.GenerateKey(rand.Reader, 2048)
	require.NoError(t, err)
	public, err := x509.MarshalPKIXPublicKey(&key.PublicKey)
	require.NoError(t, err)
	lookup := func(_ context.Context, name string) ([]string, error) {
		return []string{"v=DKIM1; k=rsa; p=" + base64.StdEncoding.EncodeToString(public)}, nil
	}
	sign := func(domain string) []byte {
		var b bytes.Buffer
		require.NoError(t, dkim.Sign(&b, strings.NewReader(replyMail), &dkim.SignOptions{Domain: domain, Selector: "k1", Signer: key}))
		return b.Bytes()
	}
	signed := sign("kirisame.example")
	assert.Equal(t, "kirisame.example", mail.ReadMail(t.Context(), "s.onari@kirisame.example", signed, lookup).SignedBy)
	assert.Empty(t, mail.ReadMail(t.Context(), "s.onari@kirisame.example", bytes.Replace(signed, []byte("ACCEPTED"), []byte("DECLINED"), 1), lookup).SignedBy, "changed on its way")
	assert.Empty(t, mail.ReadMail(t.Context(), "s.onari@kirisame.example", sign("elsewhere.example"), lookup).SignedBy, "of another domain")
	away := func(context.Context, string) ([]string, error) { return nil, errors.New("no network") }
	assert.Empty(t, mail.ReadMail(t.Context(), "s.onari@kirisame.example", signed, away).SignedBy)
	assert.Len(t, mail.ReadMail(t.Context(), "s.onari@kirisame.example", signed, away).Replies, 1, "the answer is read all the same")
}

// TestHeadersAreWellFormed: no line over 998 octets (RFC 5322, 2.1.1), nothing that is
// read as another text, whatever names and titles are.
func TestHeadersAreWellFormed(t *testing.T) {
	for _, name := range []string{strings.Repeat("x", 1200), strings.Repeat("ú", 1200), "=?utf-8?q?spoofed?=", `Freya "Fi" Holm \ desk`, "Müller, Jürgen", "a\x7fb"} {
		l := letter(t)
		l.Meeting.Title, l.To.Name, l.Meeting.Organiser.Name = name, name, name
		text := raw(t, l)
		head, _, _ := bytes.Cut(text, []byte("\r\n\r\n"))
		for line := range bytes.SplitSeq(head, []byte("\r\n")) {
			assert.LessOrEqual(t, len(line), 998)
		}
		r := read(t, text)
		assert.Contains(t, r.Subject, "Invitation: "+name[:1])
		parsed, err := netmail.ReadMessage(bytes.NewReader(text))
		require.NoError(t, err)
		for _, field := range []string{"From", "To", "Reply-To"} {
			all, err := parsed.Header.AddressList(field)
			require.NoError(t, err, "%s: %s", field, parsed.Header.Get(field))
			require.Len(t, all, 1)
		}
		assert.NotContains(t, r.Subject, "spoofed,")
	}
}

// TestOneSender: who writes is who organises, for everybody, and the envelope is of the
// same domain.
func TestOneSender(t *testing.T) {
	l := letter(t)
	msg, err := mail.Compose(l)
	require.NoError(t, err)
	assert.Equal(t, []string{`"Ilse Marrant" <meeting-1@meet.marrowby.example>`}, msg.GetFromString())
	assert.Equal(t, []string{`"Ilse Marrant" <meeting-1@meet.marrowby.example>`}, msg.GetAddrHeaderString("Reply-To"))
	sender, err := msg.GetSender(false)
	require.NoError(t, err)
	assert.Equal(t, "<reply-1@meet.marrowby.example>", sender)
	assert.Contains(t, strings.ReplaceAll(string(calendar(t, l)), "\r\n ", ""), `ORGANIZER;CN="Ilse Marrant";EMAIL=ilse.marrant@marrowby.example:mailto:meeting-1@meet.marrowby.example`)
	assert.NotContains(t, string(calendar(t, l)), "guest/", "whoever is forwarded the entry cannot answer")
}
