package mail_test

import (
	"bufio"
	"context"
	"crypto/tls"
	"fmt"
	"net"
	"strings"
	"testing"
	"time"

	gosmtp "github.com/emersion/go-smtp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/mail"
	"jembro/internal/schedule"
)

// deliver hands a mail over as a mail server does, without TLS.
func deliver(address, from string, to []string, raw string) error {
	c, err := gosmtp.Dial(address)
	if err != nil {
		return err
	}
	defer c.Close()
	if err := c.SendMail(from, to, strings.NewReader(raw)); err != nil {
		return err
	}
	return c.Quit()
}

// server is a mail server that says what a test wants: a line for each command by
// its verb, "banner" for the first, "." for the message. "" cuts the connection,
// and a line that begins with "!" cuts it after what follows.
type server struct {
	net.Listener
	says map[string]string
	late time.Duration // before the answer to the message
	took chan string
}

func serve(t *testing.T, says map[string]string) *server {
	s := &server{Listener: listen(t), says: says, took: make(chan string, 10)}
	t.Cleanup(func() { s.Close() })
	go func() {
		for {
			conn, err := s.Accept()
			if err != nil {
				return
			}
			go s.talk(conn)
		}
	}()
	return s
}

func (s *server) talk(conn net.Conn) {
	defer conn.Close()
	lines := bufio.NewScanner(conn)
	answer := func(verb, usual string) bool {
		line, own := s.says[verb]
		if !own {
			line = usual
		}
		cut := strings.HasPrefix(line, "!")
		if line = strings.TrimPrefix(line, "!"); line == "" {
			return false
		}
		fmt.Fprintf(conn, "%s\r\n", line)
		return !cut
	}
	if !answer("banner", "220 ready") {
		return
	}
	for lines.Scan() {
		verb := strings.ToUpper(strings.SplitN(lines.Text(), " ", 2)[0])
		switch verb {
		case "DATA":
			if !answer("DATA", "354 go on") {
				return
			}
			var text strings.Builder
			for lines.Scan() && lines.Text() != "." {
				text.WriteString(lines.Text() + "\n")
			}
			time.Sleep(s.late)
			s.took <- text.String()
			if !answer(".", "250 taken") {
				return
			}
		case "QUIT":
			answer("QUIT", "221 bye")
			return
		default:
			if !answer(verb, "250 fine") {
				return
			}
		}
	}
}

func (s *server) relay() mail.Relay {
	return mail.Relay{Host: "127.0.0.1", Port: s.Addr().(*net.TCPAddr).Port, Plain: true, Helo: "meet.marrowby.example"}
}

// TestWhatARelayMeans: the answer of a mail server is taken as what it is, by stage
// and code (RFC 5321, 4.2 and 4.3.2).
func TestWhatARelayMeans(t *testing.T) {
	cases := []struct {
		name  string
		says  map[string]string
		means string // "taken", "refused", "again"
		words string
	}{
		{"all is well", nil, "taken", ""},
		{"takes the message and hangs up", map[string]string{".": "!250 taken"}, "taken", ""},
		{"takes the message and is rude at QUIT", map[string]string{"QUIT": "500 what"}, "taken", ""},
		{"hangs up without a word", map[string]string{"banner": ""}, "again", ""},
		{"is not open today", map[string]string{"banner": "554 no service here"}, "again", "554 no service"},
		{"does not like our name", map[string]string{"EHLO": "550 go away"}, "again", "550 go away"},
		{"wants us to sign in", map[string]string{"MAIL": "530 5.7.0 authentication required"}, "again", "authentication required"},
		{"does not like the sender", map[string]string{"MAIL": "550 5.7.1 sender not allowed"}, "again", "sender not allowed"},
		{"knows nobody of that name", map[string]string{"RCPT": "550 5.1.1 no such user"}, "refused", "550 5.1.1 no such user"},
		{"says 551 in other words", map[string]string{"RCPT": "550 551 Main Street does not exist"}, "refused", "550 551 Main Street"},
		{"wants to wait for the recipient", map[string]string{"RCPT": "450 4.2.1 mailbox busy"}, "again", "mailbox busy"},
		{"finds the sequence wrong", map[string]string{"RCPT": "503 5.5.1 out of order"}, "again", "out of order"},
		{"takes no data now", map[string]string{"DATA": "451 later"}, "again", "later"},
		{"refuses the message", map[string]string{".": "554 5.6.0 no calendars here"}, "refused", "554 5.6.0 no calendars here"},
		{"hangs up before it answers to the message", map[string]string{".": ""}, "again", ""},
		{"is full", map[string]string{".": "452 4.3.1 no space"}, "again", "no space"},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			s := serve(t, c.says)
			_, err := s.relay().Send(t.Context(), letter(t))
			var refused *schedule.RefusedError
			switch c.means {
			case "taken":
				require.NoError(t, err)
				return
			case "refused":
				require.ErrorAs(t, err, &refused)
				assert.Contains(t, refused.Reason, c.words)
			default:
				require.ErrorIs(t, err, schedule.ErrUnreachable)
				assert.NotErrorAs(t, err, &refused)
				assert.Contains(t, err.Error(), c.words)
			}
		})
	}
}

// TestALateAnswerIsWaitedFor: RFC 5321, 4.5.3.2.6 allows ten minutes; three seconds
// stand for them, more than anything else here would wait.
func TestALateAnswerIsWaitedFor(t *testing.T) {
	s := serve(t, nil)
	s.late = 3 * time.Second
	_, err := s.relay().Send(t.Context(), letter(t))
	require.NoError(t, err)
	assert.Len(t, s.took, 1, "the message went out once")
}

// TestAConversationEndsWithTheProgram: nothing hangs on to a server that says
// nothing when the program is stopped.
func TestAConversationEndsWithTheProgram(t *testing.T) {
	s := serve(t, nil)
	s.late = time.Hour
	ctx, stop := context.WithTimeout(t.Context(), 300*time.Millisecond)
	defer stop()
	_, err := s.relay().Send(ctx, letter(t))
	require.ErrorIs(t, err, schedule.ErrUnreachable)
}

// TestTheListenerIsAGoodNeighbour: recipients named twice count once, the postmaster
// is there (RFC 5321, 4.5.1), STARTTLS is offered (RFC 3207), and one address cannot
// take all connections.
func TestTheListenerIsAGoodNeighbour(t *testing.T) {
	taken := &answers{}
	var forwarded []string
	l := listen(t)
	server, err := mail.NewListener(mail.Inbox{Answers: taken, Domain: "meet.marrowby.example",
		Postmaster: func(_ context.Context, from string, raw []byte) error {
			forwarded = append(forwarded, from+": "+string(raw))
			return nil
		}})
	require.NoError(t, err)
	go mail.Serve(server, l)
	t.Cleanup(func() { server.Close() })
	at := l.Addr().String()

	// From a reply of our own making: the form is that of TestThePostOfficeAnswers.
	p := newPost(t, taken)
	_, err = p.relay.Send(t.Context(), letter(t))
	require.NoError(t, err)
	require.NoError(t, p.world.Post.Answer(p.world.Post.Box("s.onari@kirisame.example")[0], "ACCEPTED", ""))
	require.Len(t, taken.all(), 1)

	require.NoError(t, deliver(at, "a@kirisame.example", []string{"POSTMASTER@meet.marrowby.example"}, "Subject: trouble\r\n\r\nMail loops.\r\n"))
	require.Len(t, forwarded, 1)
	assert.Contains(t, forwarded[0], "a@kirisame.example: Subject: trouble")

	c, err := gosmtp.Dial(at)
	require.NoError(t, err)
	require.NoError(t, c.Hello("kirisame.example"))
	offered, _ := c.Extension("STARTTLS")
	assert.True(t, offered)
	require.NoError(t, c.Mail("a@kirisame.example", nil))
	for range 3 {
		require.NoError(t, c.Rcpt("reply-1@meet.marrowby.example", nil))
	}
	c.Close()
	conn, err := net.Dial("tcp", at)
	require.NoError(t, err)
	defer conn.Close()
	secure, err := gosmtp.NewClientStartTLS(conn, &tls.Config{InsecureSkipVerify: true})
	require.NoError(t, err)
	require.NoError(t, secure.Noop())

	var open []*gosmtp.Client
	refused := 0
	for range 80 {
		c, err := gosmtp.Dial(at)
		require.NoError(t, err)
		open = append(open, c)
		if c.Hello("kirisame.example") != nil {
			refused++
		}
	}
	assert.Greater(t, refused, 0, "one address does not take all connections")
	for _, c := range open {
		c.Close()
	}
	assert.Eventually(t, func() bool {
		c, err := gosmtp.Dial(at)
		if err != nil {
			return false
		}
		defer c.Close()
		return c.Hello("kirisame.example") == nil
	}, 5*time.Second, 50*time.Millisecond, "and gives them back")
}

// TestAnInvitationTakesSomeAnswersAMinute: whoever has an address cannot fill the
// history of a meeting.
func TestAnInvitationTakesSomeAnswersAMinute(t *testing.T) {
	taken := &answers{}
	l := listen(t)
	server, err := mail.NewListener(mail.Inbox{Answers: taken, Domain: "meet.marrowby.example"})
	require.NoError(t, err)
	go mail.Serve(server, l)
	t.Cleanup(func() { server.Close() })
	for range 20 {
		require.NoError(t, deliver(l.Addr().String(), "a@kirisame.example", []string{"reply-1@meet.marrowby.example"}, "Subject: x\r\n\r\nx\r\n"))
	}
	err = deliver(l.Addr().String(), "a@kirisame.example", []string{"reply-1@meet.marrowby.example"}, "Subject: x\r\n\r\nx\r\n")
	var reply *gosmtp.SMTPError
	require.ErrorAs(t, err, &reply)
	assert.Equal(t, 451, reply.Code, "later, not never")
}
