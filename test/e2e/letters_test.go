package e2e_test

import (
	"fmt"
	"regexp"
	"strings"
	"testing"

	"github.com/emersion/go-smtp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
)

// writeTo delivers a mail to an address of the mail domain, as a mail server does.
func writeTo(t testing.TB, from, to, body string) {
	t.Helper()
	c, err := smtp.Dial(running.Program.Mail.Addr().String())
	require.NoError(t, err)
	defer c.Close()
	require.NoError(t, c.SendMail(from, []string{to}, strings.NewReader(strings.ReplaceAll(body, "\n", "\r\n"))))
}

// organizerOf is the address of the meeting that a calendar object names.
func organizerOf(t testing.TB, calendar []byte) string {
	t.Helper()
	found := regexp.MustCompile(`ORGANIZER[^:]*:mailto:(\S+)`).FindSubmatch([]byte(strings.ReplaceAll(string(calendar), "\r\n ", "")))
	require.NotNil(t, found)
	return string(found[1])
}

// TestAnAnswerFromAnotherAddress: it waits for the organiser, who decides at one press;
// what is no answer is shown, and handed on.
func TestAnAnswerFromAnotherAddress(t *testing.T) {
	const address, title = "ines.prado@saobento.example", "Varnish tests"
	ilse := signIn(t, demo.Ilse)
	ilse.sheetFor(title, address)
	ilse.write("Day", "10 dec")
	ilse.write("Starts", "8:00")
	ilse.tick("no link needed")
	ilse.sees("Goes to " + address)
	ilse.press("Send")
	ilse.sees("People", "e-mail in the mailbox")
	mail := mails(t, address, title, 1)[0]
	uid := regexp.MustCompile(`UID:(\S+)`).FindStringSubmatch(string(mail.Calendar))[1]
	to := organizerOf(t, mail.Calendar)
	assert.Contains(t, fmt.Sprint(mail.Headers), to, "From is the organiser of the entry")

	writeTo(t, "ines@home.example", to, fmt.Sprintf(`From: Ines Prado <ines@home.example>
Subject: Accepted: %s
Content-Type: multipart/mixed; boundary=b

--b
Content-Type: text/plain

Gladly, but I leave at 9:00.
--b
Content-Type: text/calendar; method=REPLY

BEGIN:VCALENDAR
VERSION:2.0
METHOD:REPLY
BEGIN:VEVENT
UID:%s
DTSTAMP:20261124T101500Z
ATTENDEE;PARTSTAT=ACCEPTED:mailto:ines@home.example
ORGANIZER:mailto:%s
END:VEVENT
END:VCALENDAR
--b--
`, title, uid, to))
	ilse.sees("Written to the meeting", "Ines Prado", "ines@home.example is not invited. It may be another address of somebody who is.", "Gladly, but I leave at 9:00.", "1 silent")
	ilse.axe("a mail that waits to be decided") // the only one who is silent is suggested
	ilse.press("Count it")
	ilse.sees("1 accepted", "“Gladly, but I leave at 9:00.”", address+" answered: accepted (by mail). Written by ines@home.example")
	ilse.lacks("Whose answer is it?")

	writeTo(t, address, to, "From: "+address+"\nSubject: Parking\n\nWhere can the truck stand?\n")
	ilse.sees("Where can the truck stand?", address+" wrote to the meeting: “Parking”")
	forwarded := mails(t, demo.Ilse, "Parking", 1)[0]
	assert.Contains(t, forwarded.Text, "Where can the truck stand?")
}
