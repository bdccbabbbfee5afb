package standin

import (
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/emersion/go-smtp"
)

// A Report is what a mail server says of a message (RFC 3464): Action is "failed", "delayed",
// "delivered" or "relayed".
type Report struct{ Action, Status, Said string }

// reports are those that its page can send.
var reports = map[string]Report{
	"failed":    {"failed", "5.7.1", "550 5.7.1 sender not allowed"},
	"full":      {"failed", "5.2.2", "552 5.2.2 mailbox full"},
	"delayed":   {"delayed", "4.4.1", "421 4.4.1 no answer from host"},
	"delivered": {"delivered", "2.1.5", ""},
	"relayed":   {"relayed", "2.0.0", ""},
}

// wait is how long mailboxes take that do not do at once what they do.
const wait = 700 * time.Millisecond

// behave has a mailbox do what its name says, and reports what became of a message where that
// was asked for.
func (p *PostOffice) behave(m Message, asked bool) {
	if m.From == "" || p.config.AnswersTo == "" {
		return
	}
	go func() {
		p.reporting <- struct{}{}
		defer func() { <-p.reporting }()
		local, _, _ := strings.Cut(m.To, "@")
		switch { // nobody hears of a report that does not get there, as outside
		case strings.HasPrefix(local, "full"):
			time.Sleep(wait)
			p.Report(m, reports["full"])
		case strings.HasPrefix(local, "late"): // until something else is reported, on its page or by a test
			p.Report(m, reports["delayed"])
		case strings.HasPrefix(local, "away"):
			p.writeBack(m, "Out of office", "I am away until Monday 7 December. For freight, call the desk.")
		case strings.HasPrefix(local, "asks"):
			p.writeBack(m, "Please confirm", "Please confirm that you sent this mail: https://asks.example/confirm/31-4400\nIt is delivered then.")
		case asked:
			p.Report(m, reports["delivered"])
		}
	}()
}

// Report tells the sender of a message what became of it.
func (p *PostOffice) Report(m Message, r Report) error {
	text := map[string]string{"failed": "This message could not be delivered.", "delayed": "This message is delayed; it is tried for two more days.",
		"delivered": "This message was put into the mailbox.", "relayed": "This message was passed on to a server that reports no further."}[r.Action]
	said := ""
	if r.Said != "" {
		said = "\nDiagnostic-Code: smtp; " + r.Said
	}
	body := fmt.Sprintf(`From: Mail Delivery <MAILER-DAEMON@post.example>
To: <%s>
Subject: Report of a delivery
Date: %s
Auto-Submitted: auto-replied
MIME-Version: 1.0
Content-Type: multipart/report; report-type=delivery-status; boundary="report-%d"

--report-%[3]d
Content-Type: text/plain; charset=utf-8

%[4]s %[5]s
--report-%[3]d
Content-Type: message/delivery-status

Reporting-MTA: dns; post.example

Final-Recipient: rfc822; %[6]s
Action: %[7]s
Status: %[8]s
Remote-MTA: dns; mx.%[9]s%[10]s

--report-%[3]d--
`, m.From, p.config.Now().UTC().Format(time.RFC1123Z), m.ID, text, r.Said, m.To, r.Action, r.Status, m.To[strings.LastIndexByte(m.To, '@')+1:], said)
	return p.hand("", m.From, body)
}

// writeBack is what a mailbox writes by itself (RFC 3834).
func (p *PostOffice) writeBack(m Message, subject, text string) error {
	return p.hand("", m.From, fmt.Sprintf("From: <%s>\nTo: <%s>\nSubject: %s\nDate: %s\nAuto-Submitted: auto-replied\nMessage-ID: <auto-%d@post.example>\nContent-Type: text/plain; charset=utf-8\n\n%s\n",
		m.To, m.From, subject, p.config.Now().UTC().Format(time.RFC1123Z), m.ID, text))
}

// hand hands a mail to the outside of the post office as it stands.
func (p *PostOffice) hand(from, to, body string) error {
	if _, domain, _ := strings.Cut(to, "@"); !strings.EqualFold(domain, p.config.AnswersDomain) {
		return fmt.Errorf("no way to %s from here", domain)
	}
	c, err := smtp.Dial(p.config.AnswersTo)
	if err != nil {
		return err
	}
	defer c.Close()
	if err := c.Hello("post.example"); err != nil {
		return err
	}
	return c.SendMail(from, []string{to}, strings.NewReader(strings.ReplaceAll(body, "\n", "\r\n")))
}

// report sends what was pressed on the page of a message.
func (p *PostOffice) report(rw http.ResponseWriter, r *http.Request) {
	m, ok := p.find(r.PathValue("id"))
	what, known := reports[r.FormValue("what")]
	if !ok || !known {
		http.NotFound(rw, r)
		return
	}
	if err := p.Report(m, what); err != nil {
		http.Error(rw, err.Error(), http.StatusBadGateway)
		return
	}
	http.Redirect(rw, r, fmt.Sprintf("/post/messages/%d?said=reported", m.ID), http.StatusSeeOther)
}
