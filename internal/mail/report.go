package mail

import (
	"bufio"
	"bytes"
	"io"
	"net/textproto"
	"regexp"
	"strings"

	"github.com/emersion/go-message"

	"jembro/internal/core/reach"
)

// What one report can hold.
const (
	reportLimit  = 64 << 10 // bytes of a machine-readable part
	reportsLimit = 20       // events of one mail
	saidLimit    = 300      // characters of what a server says
)

// readReport reads a part that tells a program what became of a message: a delivery status
// (RFC 3464, 2), a disposition (RFC 8098, 3) or a complaint (RFC 5965, 3).
func (p *parts) readReport(e *message.Entity, kind string) {
	body, _ := io.ReadAll(io.LimitReader(e.Body, reportLimit)) // what can be read of it
	groups := fieldGroups(body)
	if len(groups) == 0 {
		return
	}
	switch kind {
	case "message/disposition-notification", "message/global-disposition-notification":
		p.heard(disposition(groups[0]))
	case "message/feedback-report":
		if strings.EqualFold(strings.TrimSpace(groups[0].Get("Feedback-Type")), "not-spam") { // registered since, from memory
			return
		}
		p.heard(reach.Event{Kind: reach.Complained, Server: typed(groups[0].Get("Reporting-MTA")), Said: oneLine(groups[0].Get("Feedback-Type")),
			Address: recipient(groups[0].Get("Original-Rcpt-To"))})
	default:
		reporting := groups[0]
		if reporting.Get("Action") == "" && reporting.Get("Status") == "" {
			groups = groups[1:]
		}
		for _, g := range groups {
			p.heard(deliveryStatus(reporting, g))
		}
	}
}

func (p *parts) heard(e reach.Event) {
	if e.Kind != "" && len(p.reports) < reportsLimit {
		p.reports = append(p.reports, e)
	}
}

// deliveryStatus reads the fields about one recipient (RFC 3464, 2.3). Its status counts where
// its action is none that is known.
func deliveryStatus(reporting, g textproto.MIMEHeader) reach.Event {
	e := reach.Event{Code: reach.FindCode(g.Get("Status")), Said: diagnostic(g.Get("Diagnostic-Code")), Server: typed(g.Get("Remote-MTA")),
		Address: recipient(g.Get("Original-Recipient"))}
	if e.Address == "" {
		e.Address = recipient(g.Get("Final-Recipient"))
	}
	if e.Server == "" {
		e.Server = typed(reporting.Get("Reporting-MTA"))
	}
	action, _, _ := strings.Cut(strings.TrimSpace(withoutComments(g.Get("Action"))), " ")
	kinds := map[string]reach.Kind{"failed": reach.Returned, "delayed": reach.Delayed, "delivered": reach.Delivered, "relayed": reach.Relayed, "expanded": reach.Delivered}
	if e.Kind = kinds[strings.ToLower(action)]; e.Kind == "" {
		e.Kind = map[int]reach.Kind{2: reach.Delivered, 4: reach.Delayed, 5: reach.Returned}[e.Code.Class]
	}
	if better := reach.FindCode(e.Said); e.Code.Subject == 0 && e.Code.Detail == 0 && better.Subject != 0 {
		e.Code = better
	}
	return e
}

// disposition reads what became of a message at its reader (RFC 8098, 3.2.6):
// "manual-action/MDN-sent-manually; displayed".
func disposition(g textproto.MIMEHeader) reach.Event {
	_, what, _ := strings.Cut(g.Get("Disposition"), ";")
	what, _, _ = strings.Cut(strings.ToLower(strings.TrimSpace(withoutComments(what))), "/")
	kind := map[string]reach.Kind{"displayed": reach.Seen, "dispatched": reach.Delivered, "processed": reach.Delivered, "deleted": reach.Discarded}[strings.TrimSpace(what)]
	return reach.Event{Kind: kind, Server: oneLine(g.Get("Reporting-UA")), Address: recipient(g.Get("Final-Recipient"))}
}

// fieldGroups reads groups of header fields with empty lines between them, as far as they are
// fields.
func fieldGroups(body []byte) (out []textproto.MIMEHeader) {
	body = bytes.ReplaceAll(body, []byte("\r\n"), []byte("\n"))
	for _, group := range bytes.Split(bytes.TrimLeft(body, "\n \t"), []byte("\n\n")) {
		h := textproto.MIMEHeader{}
		last := ""
		lines := bufio.NewScanner(bytes.NewReader(group))
		lines.Buffer(nil, reportLimit+1)
		for lines.Scan() {
			line := lines.Text()
			if last != "" && strings.ContainsAny(line[:min(1, len(line))], " \t") {
				h[last][len(h[last])-1] += " " + strings.TrimSpace(line)
				continue
			}
			name, value, is := strings.Cut(line, ":")
			if last = ""; is && !strings.ContainsAny(name, " \t") {
				last = textproto.CanonicalMIMEHeaderKey(name)
				h[last] = append(h[last], strings.TrimSpace(value))
			}
		}
		if len(h) > 0 && len(out) < reportsLimit+1 {
			out = append(out, h)
		}
	}
	return out
}

// typed is what stands behind a type: "mx.veerhaven.example" of "dns; mx.veerhaven.example".
func typed(field string) string {
	if _, value, is := strings.Cut(field, ";"); is {
		field = value
	}
	value, _, _ := strings.Cut(strings.TrimSpace(withoutComments(field)), " ")
	return oneLine(value)
}

func recipient(field string) string { return strings.Trim(typed(field), "<>") }

// diagnostic is what a server said, without its type; a reply of several lines is one.
func diagnostic(field string) string {
	if kind, value, is := strings.Cut(field, ";"); is && !strings.ContainsAny(kind, " \t") {
		field = value
	}
	return oneLine(field)
}

func oneLine(s string) string {
	s = strings.ToValidUTF8(strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f {
			return ' '
		}
		return r
	}, s), "")
	s = strings.Join(strings.Fields(s), " ")
	if runes := []rune(s); len(runes) > saidLimit {
		s = string(runes[:saidLimit-1]) + "…"
	}
	return s
}

// How mails are known that no person wrote, and what they say: common practice of mail servers
// and programs, where nothing else is named.
var (
	serverWrites = regexp.MustCompile(`(?i)^(mailer-daemon|postmaster|mail-?daemon|mdaemon|bounces?)(@|$)`)
	cannotBe     = regexp.MustCompile(`(?i)undeliver|delivery (status|failure|has failed|to the following|problem)|not (be )?delivered|could ?n[o']t be delivered|returned (mail|to sender)|failure notice|mail delivery failed|unzustellbar|non remis|no se (pudo|ha podido) entregar|permanent (error|failure)`)
	stillTries   = regexp.MustCompile(`(?i)\bdelay(ed)?\b|will (be )?(retr|continue|keep)|still (being )?tr(y|ied)|not yet been delivered|temporar(y|ily)|no action is required|warning:`)
	asksSender   = regexp.MustCompile(`(?i)(confirm|verify|prove) (that )?(you|your|this|the sender)|challenge|(click|reply|follow|visit)[^.]{0,80}(be delivered|to deliver|release|approve)|not (yet )?(on|in) .{0,30}(approved|allowed|safe|known) (sender|list)`)
	byItself     = regexp.MustCompile(`(?i)out of (the )?office|auto(matic|mated)? ?-?re(ply|sponse)|abwesen|automatische antwort|absence|ausente|fuera de|vacation|holiday`)
)

// automatic tells what a mail is that no person wrote (RFC 3834, 2 and 5), with what it reports
// where no part of it does so for programs. from is the sender of the envelope. One from a
// mail server is about a message that did not get there, or not yet; one from a mailbox answers
// by itself, or asks its sender to confirm.
func (p *parts) automatic(h message.Header, from, writer, subject string) (auto reach.Kind, reports []reach.Event) {
	if len(p.reports) > 0 {
		return p.reports[0].Kind, p.reports
	}
	words := p.words()
	said := subject + "\n" + words
	submitted, _, _ := strings.Cut(strings.ToLower(withoutComments(h.Get("Auto-Submitted"))), ";")
	submitted = strings.TrimSpace(submitted)
	server := serverWrites.MatchString(writer)
	answers := strings.HasPrefix(submitted, "auto-replied") || h.Get("X-Autoreply") != "" || h.Get("X-Autorespond") != "" ||
		strings.EqualFold(h.Get("Precedence"), "auto_reply") || byItself.MatchString(subject)
	e := reach.Event{Code: reach.FindCode(words), Said: oneLine(said)}
	switch {
	case p.report || server || from == "" && !answers && (cannotBe.MatchString(said) || e.Code != reach.Code{}):
		e.Kind = reach.Returned
		if stillTries.MatchString(said) && !e.Code.Permanent() || e.Code.Class == 4 {
			e.Kind = reach.Delayed
		}
		if _, host, is := strings.Cut(writer, "@"); is {
			e.Server = oneLine(host)
		}
		e.Said = sentenceOf(words, e.Code)
	case from == "" || answers || submitted != "" && submitted != "no":
		e.Kind, e.Code = reach.Automatic, reach.Code{}
		if asksSender.MatchString(said) && !byItself.MatchString(subject) {
			e.Kind = reach.Challenged
		}
	default:
		return "", nil
	}
	return e.Kind, []reach.Event{e}
}

// sentenceOf is the line of a report in words that holds its code, or what it begins with.
func sentenceOf(words string, c reach.Code) string {
	if c != (reach.Code{}) {
		for line := range strings.Lines(words) {
			if reach.FindCode(line) == c {
				return oneLine(line)
			}
		}
	}
	return oneLine(words)
}
