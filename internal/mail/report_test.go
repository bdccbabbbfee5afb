package mail_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/reach"
	"jembro/internal/mail"
)

// reported writes a report (RFC 6522): text, what a program reads, the message that it is about.
func reported(kind, text, fields string) string {
	return strings.ReplaceAll(fmt.Sprintf(`From: Mail Delivery Subsystem <MAILER-DAEMON@cs.utk.example>
Subject: Returned mail
To: back-1@meet.marrowby.example
MIME-Version: 1.0
Content-Type: multipart/report; report-type=%s; boundary="RAA14128.773615765/CS.UTK.EDU"

--RAA14128.773615765/CS.UTK.EDU

%s
--RAA14128.773615765/CS.UTK.EDU
content-type: message/%[1]s

%[3]s

--RAA14128.773615765/CS.UTK.EDU
content-type: message/rfc822

Subject: Invitation: Crate sizes
Content-Type: message/delivery-status

Final-Recipient: rfc822;forged@elsewhere.example
Action: failed

--RAA14128.773615765/CS.UTK.EDU--
`, kind, text, fields), "\n", "\r\n")
}

// TestReports: the examples of RFC 3464 (appendix E), RFC 8098 (9) and RFC 5965 (appendix B)
// with their fields as they stand there, and cases that differ from them in one thing.
func TestReports(t *testing.T) {
	const simple = `Reporting-MTA: dns; cs.utk.edu

Original-Recipient: rfc822;louisl@larry.slip.umd.edu
Final-Recipient: rfc822;louisl@larry.slip.umd.edu
Action: failed
Status: 4.0.0
Diagnostic-Code: smtp; 426 connection timed out
Last-Attempt-Date: Thu, 7 Jul 1994 17:15:49 -0400`
	for _, c := range []struct {
		name, kind, fields string
		want               []reach.Event
	}{
		{"3464 E: simple", "delivery-status", simple,
			[]reach.Event{{Kind: reach.Returned, Address: "louisl@larry.slip.umd.edu", Server: "cs.utk.edu", Code: reach.Code{Class: 4}, Said: "426 connection timed out"}}},
		{"3464 E: several recipients", "delivery-status", `Reporting-MTA: dns; cs.utk.edu

Original-Recipient: rfc822;arathib@vnet.ibm.com
Final-Recipient: rfc822;arathib@vnet.ibm.com
Action: failed
Status: 5.0.0 (permanent failure)
Diagnostic-Code: smtp;  550 'arathib@vnet.IBM.COM' is not a
 registered gateway user
Remote-MTA: dns; vnet.ibm.com

Original-Recipient: rfc822;johnh@hpnjld.njd.hp.com
Final-Recipient: rfc822;johnh@hpnjld.njd.hp.com
Action: delayed
Status: 4.0.0 (hpnjld.njd.jp.com: host name lookup failure)

Original-Recipient: rfc822;wsnell@sdcc13.ucsd.edu
Final-Recipient: rfc822;wsnell@sdcc13.ucsd.edu
Action: failed
Status: 5.0.0
Diagnostic-Code: smtp; 550 user unknown
Remote-MTA: dns; sdcc13.ucsd.edu`,
			[]reach.Event{
				{Kind: reach.Returned, Address: "arathib@vnet.ibm.com", Server: "vnet.ibm.com", Code: reach.Code{Class: 5}, Said: "550 'arathib@vnet.IBM.COM' is not a registered gateway user"},
				{Kind: reach.Delayed, Address: "johnh@hpnjld.njd.hp.com", Server: "cs.utk.edu", Code: reach.Code{Class: 4}},
				{Kind: reach.Returned, Address: "wsnell@sdcc13.ucsd.edu", Server: "sdcc13.ucsd.edu", Code: reach.Code{Class: 5}, Said: "550 user unknown"},
			}},
		{"3464 E: from a gateway", "delivery-status", `Reporting-MTA: mailbus; SYS30

Final-Recipient: unknown; nair_s
Status: 5.0.0 (unknown permanent failure)
Action: failed`,
			[]reach.Event{{Kind: reach.Returned, Address: "nair_s", Server: "SYS30", Code: reach.Code{Class: 5}}}},
		{"3464 E: delayed", "delivery-status", `Reporting-MTA: dns; sun2.nsfnet-relay.ac.uk

Final-Recipient: rfc822;thomas@de-montfort.ac.uk
Status: 4.0.0 (unknown temporary failure)
Action: delayed`,
			[]reach.Event{{Kind: reach.Delayed, Address: "thomas@de-montfort.ac.uk", Server: "sun2.nsfnet-relay.ac.uk", Code: reach.Code{Class: 4}}}},
		{"delivered", "delivery-status", strings.NewReplacer("failed", "Delivered (to mailbox)", "4.0.0", "2.0.0", "Diagnostic-Code: smtp; 426 connection timed out\n", "").Replace(simple),
			[]reach.Event{{Kind: reach.Delivered, Address: "louisl@larry.slip.umd.edu", Server: "cs.utk.edu", Code: reach.Code{Class: 2}}}},
		{"relayed", "delivery-status", strings.NewReplacer("failed", "relayed", "4.0.0", "2.0.0").Replace(simple),
			[]reach.Event{{Kind: reach.Relayed, Address: "louisl@larry.slip.umd.edu", Server: "cs.utk.edu", Code: reach.Code{Class: 2}, Said: "426 connection timed out"}}},
		{"the better code of the diagnostic", "delivery-status", strings.NewReplacer("4.0.0", "5.0.0", "426 connection timed out", "552 5.2.2 mailbox full").Replace(simple),
			[]reach.Event{{Kind: reach.Returned, Address: "louisl@larry.slip.umd.edu", Server: "cs.utk.edu", Code: reach.Code{Class: 5, Subject: 2, Detail: 2}, Said: "552 5.2.2 mailbox full"}}},
		{"fields all in one group", "delivery-status", "Reporting-MTA: dns; mx.example\nFinal-Recipient: rfc822; <a@b.example>\nAction: failed\nStatus: 5.1.1",
			[]reach.Event{{Kind: reach.Returned, Address: "a@b.example", Server: "mx.example", Code: reach.Code{Class: 5, Subject: 1, Detail: 1}}}},
		{"8098, 9", "disposition-notification", `Reporting-UA: joes-pc.cs.example.com; Foomail 97.1
Original-Recipient: rfc822;Joe_Recipient@example.com
Final-Recipient: rfc822;Joe_Recipient@example.com
Original-Message-ID: <199509192301.23456@example.org>
Disposition: manual-action/MDN-sent-manually; displayed`,
			[]reach.Event{{Kind: reach.Seen, Address: "Joe_Recipient@example.com", Server: "joes-pc.cs.example.com; Foomail 97.1"}}},
		{"8098: deleted", "disposition-notification", "Final-Recipient: rfc822;a@b.example\nDisposition: automatic-action/MDN-sent-automatically; deleted/error",
			[]reach.Event{{Kind: reach.Discarded, Address: "a@b.example"}}},
		{"5965, B.1", "feedback-report", "Feedback-Type: abuse\nUser-Agent: SomeGenerator/1.0\nVersion: 1",
			[]reach.Event{{Kind: reach.Complained, Said: "abuse"}}},
		{"5965, B.2", "feedback-report", `Feedback-Type: abuse
User-Agent: SomeGenerator/1.0
Version: 1
Original-Mail-From: <somespammer@example.net>
Original-Rcpt-To: <user@example.com>
Arrival-Date: Thu, 8 Mar 2005 14:00:00 EDT
Reporting-MTA: dns; mail.example.com
Source-IP: 192.0.2.1`,
			[]reach.Event{{Kind: reach.Complained, Said: "abuse", Server: "mail.example.com", Address: "user@example.com"}}},
	} {
		m := mail.ReadMail(t.Context(), "", []byte(reported(c.kind, "It could not be delivered.", c.fields)), nil)
		assert.Equal(t, c.want, m.Reports, c.name)
		assert.True(t, m.Returned, c.name)
	}
}

// TestWhatNobodyWrote: mails that a program wrote, told apart by what they hold (common
// practice of mail servers; Auto-Submitted from RFC 3834, 5).
func TestWhatNobodyWrote(t *testing.T) {
	for _, c := range []struct {
		name, from, headers, text string
		want                      reach.Kind
		code, said                string
	}{
		{"a person", "s@kirisame.example", "From: s@kirisame.example\nSubject: Crates", "Delivery failed last time, 550 crates.", "", "", ""},
		{"returned, in words", "", "From: MAILER-DAEMON@mx.veerhaven.example\nSubject: Undelivered Mail Returned to Sender",
			"I'm sorry.\n\n<desk@veerhaven.example>: host mx.veerhaven.example said:\n550 5.7.1 sender not allowed (in reply to RCPT)\n", reach.Returned, "5.7.1", "550 5.7.1 sender not allowed (in reply to RCPT)"},
		{"delayed, in words", "", "From: postmaster@relay.example\nSubject: Warning: could not send message for past 4 hours",
			"Your message has not yet been delivered. It will be retried for 5 days.", reach.Delayed, "", "Your message has not yet been delivered. It will be retried for 5 days."},
		{"without a name for its writer", "", "From: x@veerhaven.example\nSubject: failure notice", "user unknown", reach.Returned, "", "user unknown"},
		{"on holiday", "", "From: s@kirisame.example\nSubject: Re: Invitation\nAuto-Submitted: auto-replied (vacation)", "I am away until Monday. Call 550 1234.", reach.Automatic, "", "Re: Invitation I am away until Monday. Call 550 1234."},
		{"on holiday, from themselves", "s@kirisame.example", "From: s@kirisame.example\nSubject: Automatic reply: Invitation", "Back on 3 December.", reach.Automatic, "", "Automatic reply: Invitation Back on 3 December."},
		{"a mailbox that asks first", "", "From: s@kirisame.example\nSubject: Your mail\nAuto-Submitted: auto-replied", "Please confirm that you sent this: https://kirisame.example/c/31", reach.Challenged, "", "Your mail Please confirm that you sent this: https://kirisame.example/c/31"},
		{"written by hand, and says so", "s@kirisame.example", "From: s@kirisame.example\nSubject: Re: Invitation\nAuto-Submitted: no", "Yes.", "", "", ""},
	} {
		m := mail.ReadMail(t.Context(), c.from, []byte(strings.ReplaceAll(c.headers+"\nTo: back-1@meet.marrowby.example\n\n"+c.text, "\n", "\r\n")), nil)
		assert.Equal(t, c.want, m.Auto, c.name)
		if c.want == "" {
			assert.Empty(t, m.Reports, c.name)
			continue
		}
		require.Len(t, m.Reports, 1, c.name)
		assert.Equal(t, c.code, m.Reports[0].Code.String(), c.name)
		assert.Equal(t, c.said, m.Reports[0].Said, c.name)
	}
}

func FuzzReports(f *testing.F) {
	f.Add("delivery-status", "Reporting-MTA: dns; cs.utk.edu\n\nFinal-Recipient: rfc822;a@b.example\nAction: failed\nStatus: 5.1.1\nDiagnostic-Code: smtp; 550\n no")
	f.Add("disposition-notification", "Disposition: manual-action/MDN-sent-manually; displayed")
	f.Add("feedback-report", "Feedback-Type: abuse")
	f.Add("delivery-status", " \n\t\n: \nAction:\n(((")
	f.Fuzz(func(t *testing.T, kind, fields string) {
		m := mail.ReadMail(t.Context(), "", []byte(reported(kind, "", fields)), nil)
		assert.NotEqual(t, "the mail could not be read to its end", m.Why)
		for _, e := range m.Reports {
			assert.True(t, e.Kind.Known())
			assert.NotContains(t, e.Said+e.Server+e.Address, "\n")
			assert.NotContains(t, e.Said+e.Server+e.Address, "\x00")
		}
	})
}
