package mail

import (
	"bytes"
	"encoding/base64"
	netmail "net/mail"
	"strings"
	"unicode/utf8"

	gomail "github.com/wneessen/go-mail"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/ical"
	"jembro/internal/schedule"
)

// Compose writes the mail: text, HTML and text/calendar as alternatives (RFC 6047,
// 4.2), the calendar object once more as a file (2.6) for programs that know no such
// part. It comes from the address of the meeting, the ORGANIZER of the object, under
// the name of the person, and answers go back there; the envelope's sender is of the
// same domain (RFC 7489, 3.1: both are aligned with what signs for it).
func Compose(l schedule.Letter) (*gomail.Msg, error) {
	rendered, err := Render(l)
	if err != nil {
		return nil, err
	}
	msg := begin(l, rendered.Subject)
	if err := msg.EnvelopeFrom(l.ReturnTo); err != nil {
		return nil, &schedule.RefusedError{Reason: err.Error()}
	}
	if n := len(l.Earlier); n > 0 {
		msg.SetGenHeader(gomail.HeaderInReplyTo, "<"+l.Earlier[n-1]+">")
		msg.SetGenHeader(gomail.HeaderReferences, "<"+strings.Join(l.Earlier, "> <")+">")
	}
	method := ical.Method(l)
	msg.SetBodyString(gomail.TypeTextPlain, rendered.Text)
	msg.AddAlternativeString(gomail.TypeTextHTML, rendered.HTML)
	msg.AddAlternativeString(gomail.ContentType("text/calendar; method="+method), string(rendered.Calendar), gomail.WithPartEncoding(gomail.EncodingB64))
	name := map[meeting.Kind]string{meeting.CallOff: "called-off.ics", meeting.Clear: "replaced.ics", meeting.Keep: "stays.ics"}[l.Kind]
	if name == "" {
		name = "invitation.ics"
	}
	for _, f := range l.Enclosed {
		if err := msg.AttachReader(f.Name, bytes.NewReader(f.Content), gomail.WithFileContentType(gomail.ContentType(f.Type))); err != nil {
			return nil, err
		}
	}
	err = msg.AttachReader(name, bytes.NewReader(rendered.Calendar), gomail.WithFileContentType("application/ics; charset=UTF-8"))
	return msg, err
}

// begin is a mail of a meeting to its reader.
func begin(l schedule.Letter, subject string) *gomail.Msg {
	msg := gomail.NewMsg(gomail.WithNoDefaultUserAgent())
	from := address(l.Meeting.Organiser.Name, l.Address)
	msg.FromMailAddress(from)
	msg.ReplyToMailAddress(from)
	msg.ToMailAddress(address(l.To.Name, l.To.Email))
	msg.Subject(headerText(subject))
	msg.SetMessageIDWithValue(l.MessageID)
	msg.SetDateWithValue(l.Stamp)
	msg.SetGenHeader("Auto-Submitted", "auto-generated") // RFC 3834: no holiday notes to the address of the meeting
	return msg
}

// ComposeReminder writes the mail that a meeting is near. It carries no calendar object: the one that
// its reader has stays as it is.
func ComposeReminder(l schedule.Letter) (*gomail.Msg, error) {
	html, text, subject, err := render(l)
	if err != nil {
		return nil, err
	}
	msg := begin(l, subject)
	msg.SetBodyString(gomail.TypeTextPlain, text)
	msg.AddAlternativeString(gomail.TypeTextHTML, html)
	return msg, nil
}

// ComposeForward writes the mail in which the organiser gets what somebody wrote to a
// meeting: it comes from the meeting, with the mail as it came inside (RFC 2046,
// 5.2.1), so that no check of the sender breaks; answering goes to who wrote.
func ComposeForward(f schedule.Forwarded) (*gomail.Msg, error) {
	msg := gomail.NewMsg(gomail.WithNoDefaultUserAgent())
	in, name := tongue.In(f.Language), f.FromName
	if name == "" {
		name = f.FromEmail
	}
	msg.FromMailAddress(address(in.Say("%[1]s by way of %[2]s", name, f.House.Name), f.Address))
	msg.ToMailAddress(address(f.To.Name, f.To.Email))
	if _, err := meeting.ParseEmail(f.FromEmail); err == nil { // else nobody can be answered
		msg.ReplyToMailAddress(address(f.FromName, f.FromEmail))
	}
	subject := f.Subject
	if subject == "" {
		subject = in.Say("About %s", f.Title)
	}
	msg.Subject(headerText(subject))
	msg.SetMessageIDWithValue(f.MessageID)
	msg.SetDateWithValue(f.ArrivedAt)
	msg.SetGenHeader("Auto-Submitted", "auto-generated")
	msg.SetBodyString(gomail.TypeTextPlain, in.Say("%[1]s wrote to the address of your meeting “%[2]s”:", name, f.Title)+"\n\n"+f.Words+"\n")
	// A message inside is not encoded (RFC 2046, 5.2.1); one whose lines are too long for
	// that goes as a file.
	kind, encoding := gomail.ContentType("message/rfc822"), gomail.NoEncoding
	for line := range bytes.Lines(f.Raw) {
		if len(line) > 1000 {
			kind, encoding = "application/octet-stream", gomail.EncodingB64
			break
		}
	}
	err := msg.AttachReader("message.eml", bytes.NewReader(f.Raw), gomail.WithFileContentType(kind), gomail.WithFileEncoding(encoding))
	return msg, err
}

// ComposeNews writes the mail that tells somebody inside what is new.
func ComposeNews(l schedule.NewsLetter) *gomail.Msg {
	msg := gomail.NewMsg(gomail.WithNoDefaultUserAgent())
	msg.FromMailAddress(address("Jembro, "+l.House.Name, "no-reply@"+l.House.MailDomain))
	msg.ToMailAddress(address(l.To.Name, l.To.Email))
	msg.Subject(headerText(l.Subject))
	msg.SetMessageIDWithValue(l.MessageID)
	msg.SetDateWithValue(l.At)
	msg.SetGenHeader("Auto-Submitted", "auto-generated")
	msg.SetGenHeader("List-Unsubscribe", "<"+l.House.BaseURL+"/account>") // RFC 2369, 3.2: where they are turned off
	msg.SetBodyString(gomail.TypeTextPlain, l.Text)
	return msg
}

// nameLimit is how many characters of a name a header shows: a line has 998 octets
// at most, and one word cannot be folded (RFC 5322, 2.1.1).
const nameLimit = 100

// address is an address with its name as a header shows them.
func address(name, email string) *netmail.Address {
	name = meeting.OneLine(name)
	if utf8.RuneCountInString(name) > nameLimit {
		name = string([]rune(name)[:nameLimit-1]) + "…"
	}
	// What looks like an encoded word would be read as one (RFC 2047, 6.2).
	return &netmail.Address{Name: strings.ReplaceAll(name, "=?", "= ?"), Address: email}
}

// headerText is a text as an unstructured header holds it: what looks like an
// encoded word is encoded itself.
func headerText(text string) string {
	if !strings.Contains(text, "=?") {
		return text
	}
	const most = 36 // octets in a word: 75 with what stands around it (RFC 2047, 2)
	var words []string
	for len(text) > 0 {
		cut := min(most, len(text))
		for cut < len(text) && !utf8.RuneStart(text[cut]) {
			cut--
		}
		words = append(words, "=?UTF-8?B?"+base64.StdEncoding.EncodeToString([]byte(text[:cut]))+"?=")
		text = text[cut:]
	}
	return strings.Join(words, " ")
}
