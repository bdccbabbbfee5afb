package mail_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"jembro/internal/mail"
)

// hostile are mails that are as expensive to read as their size allows.
func hostile() map[string]string {
	in := func(lines string) string { // inside the answer, and as large as a part can be
		return strings.Replace(replyMail, "UID:", strings.Repeat(lines, 250_000/len(lines))+"UID:", 1)
	}
	nested, parts := "", ""
	for i := range 60 {
		nested += fmt.Sprintf("Content-Type: multipart/mixed; boundary=b%d\r\n\r\n--b%d\r\n", i, i)
		parts += "--b\r\nContent-Type: text/calendar\r\n\r\n" + strings.Repeat("X:y\r\n", 6000) + "\r\n"
	}
	zones := ""
	for range 120 {
		zones += "BEGIN:VTIMEZONE\r\nTZID:z\r\nBEGIN:STANDARD\r\nDTSTART:16010101T000000\r\nRRULE:FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30\r\nTZOFFSETFROM:+0100\r\nTZOFFSETTO:+0200\r\nEND:STANDARD\r\nEND:VTIMEZONE\r\n"
	}
	return map[string]string{
		"an answer":         replyMail,
		"folded lines":      in("\r\n a"),
		"many properties":   in("X-A;B=C:d\r\n"),
		"many attendees":    in("ATTENDEE;PARTSTAT=ACCEPTED:mailto:a@b.example\r\n"),
		"many components":   in("END:VEVENT\r\nBEGIN:VEVENT\r\n"),
		"nested components": in("BEGIN:X\r\n"),
		"parameters":        in("X" + strings.Repeat(";A=\"b\"", 2000) + ":c\r\n"),
		"zones":             strings.Replace(replyMail, "BEGIN:VEVENT", zones+strings.Repeat("BEGIN:VEVENT\r\nUID:1\r\nRECURRENCE-ID;TZID=z:20270101T000000\r\nATTENDEE:mailto:a@b.example\r\nEND:VEVENT\r\n", 200)+"BEGIN:VEVENT", 1),
		"nested parts":      nested + "Content-Type: text/calendar\r\n\r\nBEGIN:VCALENDAR\r\n",
		"many parts":        "Content-Type: multipart/mixed; boundary=b\r\n\r\n" + parts[:min(len(parts), 2_000_000)] + "--b--\r\n",
		"two million words": strings.Replace(replyMail, "Yes", strings.Repeat("> x\r\n", 400_000), 1),
		"a long subject":    "Subject: " + strings.Repeat("=?utf-8?q?a?= ", 100_000) + "\r\n" + replyMail,
		"html":              strings.Replace(strings.Replace(replyMail, "text/plain", "text/html", 1), "Yes", strings.Repeat("<b><p><", 250_000), 1),
	}
}

// BenchmarkTheMostExpensiveMails beside an ordinary answer; the aim is 50 ms of
// processor and 20 MB for any of them.
func BenchmarkTheMostExpensiveMails(b *testing.B) {
	for name, text := range hostile() {
		b.Run(name, func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				mail.ReadMail(b.Context(), "s.onari@kirisame.example", []byte(text), nil)
			}
		})
	}
}

// TestExpensiveMailsAreRead: each comes to an end, and has a name of its own.
func TestExpensiveMailsAreRead(t *testing.T) {
	for name, text := range hostile() {
		m := mail.ReadMail(t.Context(), "s.onari@kirisame.example", []byte(text), nil)
		assert.NotEmpty(t, m.Digest, name)
		assert.LessOrEqual(t, len(m.Replies), 50, name)
	}
}
