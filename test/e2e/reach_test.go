package e2e_test

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/demo"
	"jembro/internal/schedule"
	"jembro/internal/schedule/sheets"
	"jembro/internal/standin"
)

// sends is a meeting that somebody sends without a window of their own.
func sends(t *testing.T, email, start, end string, change func(*meeting.Draft)) uuid.UUID {
	t.Helper()
	id, err := whoIs(t, email)
	require.NoError(t, err)
	me, do := schedule.Self(id), running.Program.Deeds.Sheets
	s, err := do.OpenSheet(t.Context(), me, start, end)
	require.NoError(t, err)
	s.Draft.NoRoom, s.Draft.NoLink = true, true
	change(&s.Draft)
	s, _, err = do.SaveSheet(t.Context(), me, s.ID, s.Version, s.Draft, "")
	require.NoError(t, err)
	sent, err := do.Send(t.Context(), me, s.ID, s.Version, s.ID.String())
	require.NoError(t, err)
	return sent.MeetingID
}

func to(d *meeting.Draft, title string, emails ...string) {
	d.Title, d.People = title, nil
	for _, e := range emails {
		d.People = append(d.People, meeting.DraftPerson{Email: e, Needed: true})
	}
}

// end is the row of one loose end on Today.
func (p *page) end(words string) string {
	return fmt.Sprintf(`[...document.querySelectorAll("section[aria-label='Loose ends'] li")].find(li => li.innerText.includes(%q))`, words)
}

// mends presses what mends a loose end, and sees it go by itself.
func (p *page) mends(words, button string) {
	p.t.Helper()
	p.holds(`!!` + p.end(words))
	p.do("mend "+words, clickOn(fmt.Sprintf(`[...%s.querySelectorAll("button")].find(b => b.textContent.includes(%q) && !b.disabled)`, p.end(words), button)))
	p.holds(`!` + p.end(words))
}

// TestWhatDoesNotArriveIsSeenAndMended: refused at hand-over, returned later, delayed and then
// delivered; each is in Dispatch and on Today at once, and each has another way.
func TestWhatDoesNotArriveIsSeenAndMended(t *testing.T) {
	const by = "hanna.tomic@marrowby.example"
	const title = "Kiln shelves"
	hanna := signIn(t, by)
	dispatch, day := hanna.second(), hanna.second()
	dispatch.open(running.BaseURL + "/dispatch")
	dispatch.sees("what went out, and how far it came")
	day.open(running.BaseURL + "/today")
	day.sees("Loose ends")
	both := func(what string, began time.Time, inDispatch, onToday string) {
		t.Helper()
		dispatch.sees(inDispatch)
		day.holds(`!!` + day.end(onToday))
		took := time.Since(began)
		t.Logf("%s: in Dispatch and on Today within %v", what, took.Round(10*time.Millisecond))
		assert.Less(t, took, patience)
	}

	// One is refused while it is handed over.
	began := time.Now()
	sends(t, by, "2026-11-30T09:00", "2026-11-30T09:30", func(d *meeting.Draft) {
		to(d, title, "nobody.kiln@njoro.example", "hours.later@njoro.example", "late.kiln@njoro.example")
	})
	both("refused at hand-over", began, "refused 5.1.1", "nobody.kiln@njoro.example never got")

	// One is delayed, and then delivered: it mends itself.
	dispatch.sees("delayed 4.4.1")
	late := mails(t, "late.kiln@njoro.example", title, 1)[0]
	require.NoError(t, running.World.Post.Report(late.Message, standin.Report{Action: "delivered", Status: "2.1.5"}))
	dispatch.lacks("delayed 4.4.1")
	day.holds(`!` + day.end("late.kiln@njoro.example"))

	// One was taken, and comes back an hour later.
	mail := mails(t, "hours.later@njoro.example", title, 1)[0]
	began = time.Now()
	require.NoError(t, running.World.Post.Report(mail.Message, standin.Report{Action: "failed", Status: "5.4.7", Said: "554 5.4.7 no route for an hour"}))
	both("returned later", began, "returned 5.4.7", "hours.later@njoro.example never got")

	// The first is mended by another address, which is known the next time.
	dispatch.pressIn("nobody.kiln@njoro.example", "Other ways")
	dispatch.sees("nobody.kiln@njoro.example was not reached", "550 5.1.1", "Another way")
	dispatch.write("Another address", "kiln@njoro.example")
	dispatch.press("Send")
	dispatch.sees("sent elsewhere")
	mails(t, "kiln@njoro.example", title, 1)
	day.holds(`!` + day.end("nobody.kiln@njoro.example"))

	// The second by a text that somebody copies.
	dispatch.pressIn("hours.later@njoro.example", "Other ways")
	dispatch.sees("hours.later@njoro.example was not reached")
	dispatch.do("keep what is copied", chromedp.Evaluate[chromedp.Void](`navigator.clipboard.writeText = (t) => { window.__copied = t; return Promise.resolve() }`))
	dispatch.press("Copy")
	dispatch.holds(`window.__copied.includes("Kiln shelves") && window.__copied.includes("/guest/")`)
	// The address of the page, which went to a wrong mailbox, is made anew: the one before opens nothing.
	page := `window.__copied.match(/http\S+\/guest\/\S+/)[0]`
	before := value[string](dispatch, page)
	dispatch.press("Withdraw and make anew")
	dispatch.sees("its address is new; the one in their mail no longer opens")
	dispatch.press("Copy link")
	dispatch.holds(`window.__copied.includes("/guest/") && !window.__copied.includes("Kiln shelves")`)
	guest := newPage(t)
	guest.open(before)
	guest.sees("This invitation is not there any more")
	guest.open(value[string](dispatch, page))
	guest.sees("Kiln shelves")
	dispatch.press("Mark as told")
	day.holds(`!` + day.end("hours.later@njoro.example"))
	dispatch.lacks("not reached")

	// Next time the known address is offered at one press.
	sends(t, by, "2026-12-01T09:00", "2026-12-01T09:30", func(d *meeting.Draft) { to(d, "Kiln doors", "nobody.kiln@njoro.example") })
	day.mends("nobody.kiln@njoro.example never got “Kiln doors”", "Use kiln@…")
	again := mails(t, "kiln@njoro.example", "Kiln doors", 1)[0]
	require.NoError(t, running.World.Post.Answer(again.Message, "ACCEPTED", ""))
	dispatch.open(running.BaseURL + "/dispatch?to=nobody.kiln")
	dispatch.sees("Kiln doors")
	dispatch.holds(`[...document.querySelectorAll("summary")].every(s => s.innerText.includes("all reached"))`)
	dispatch.do("unfold it", clickOn(`[...document.querySelectorAll("summary")].find(s => s.innerText.includes("Kiln doors"))`))
	dispatch.sees("kiln@njoro.example", "accepted")
}

// TestAMorningOnToday: five loose ends, mended without leaving the page.
func TestAMorningOnToday(t *testing.T) {
	const by = "gil.tavares@marrowby.example"
	exec := func(query string, args ...any) {
		t.Helper()
		_, err := running.Program.Pool.Exec(t.Context(), query, args...)
		require.NoError(t, err)
	}
	var room string
	require.NoError(t, running.Program.Pool.QueryRow(t.Context(), "SELECT id::text FROM room WHERE name = 'Print Cabinet'").Scan(&room))
	sends(t, by, "2026-11-25T18:00", "2026-11-25T18:30", func(d *meeting.Draft) {
		to(d, "Dye samples", "nobody.dye@njoro.example", "silent.dye@njoro.example")
	})
	mails(t, "silent.dye@njoro.example", "Dye samples", 1)
	exec("UPDATE dispatch d SET queued_at = d.queued_at - interval '3 hours' FROM participant p WHERE p.id = d.participant_id AND p.email = 'silent.dye@njoro.example'")
	loom := sends(t, by, "2026-11-26T18:00", "2026-11-26T18:30", func(d *meeting.Draft) {
		to(d, "Loom repair", "rui.calado@marrowby.example")
		d.NoRoom, d.RoomID = false, room
	})
	sends(t, by, "2026-11-25T19:00", "2026-11-25T19:15", func(d *meeting.Draft) {
		to(d, "Late round")
		d.Repeat = &meeting.DraftRepeat{Rule: "FREQ=WEEKLY", Ends: "after", Count: 3}
	})
	sends(t, by, "2026-11-27T18:00", "2026-11-27T18:30", func(d *meeting.Draft) { to(d, "Thread order", "order.thread@njoro.example") })
	mail := mails(t, "order.thread@njoro.example", "Thread order", 1)[0]
	require.NoError(t, running.World.Post.AnswerFrom(mail.Message, "o.thread@njoro.example", "ACCEPTED", ""))

	p := signIn(t, by)
	// The work that books what is missing by itself runs at the start of the program.
	exec("DELETE FROM booking WHERE meeting_id = $1", loom)
	p.open(running.BaseURL + "/today")
	p.sees("Tuesday 24 November")
	p.mends("nobody.dye@njoro.example never got", "Mark as told")
	p.mends("silent.dye@njoro.example has not answered", "Ask again")
	mails(t, "silent.dye@njoro.example", "Dye samples", 2)
	p.mends("Loom repair, 26 Nov, 18:00, has no room", "Take ")
	p.mends("“Late round” ends", "Extend to")
	p.mends("“Thread order”", "Count it for")
	p.sees("Nothing is loose.")
	assert.Equal(t, "/today", value[string](p, `location.pathname`))
	assert.True(t, slices.Contains(strings.Fields(value[string](p, `document.querySelector("nav").innerText`)), "Today"))
	rui := withSession(t, running.BaseURL, "rui.calado@marrowby.example")
	rui.open(running.BaseURL + "/today")
	rui.sees("Loom repair")
}

// TestAnotherTimeIsProposed: by mail, and taken on Today; on the guest's page, and kept with a word;
// by a colleague.
func TestAnotherTimeIsProposed(t *testing.T) {
	const by = "sigrid.aune@marrowby.example"
	id := sends(t, by, "2026-12-10T19:00", "2026-12-10T20:00", func(d *meeting.Draft) {
		to(d, "Frame restoring", "frames@njoro.example", "gold@njoro.example", "joana.bras@marrowby.example")
	})
	mail := mails(t, "frames@njoro.example", "Frame restoring", 1)[0]
	began := time.Now()
	require.NoError(t, running.World.Post.Counter(mail.Message, time.Date(2026, 12, 10, 20, 30, 0, 0, time.UTC), "The glue dries until eight"))
	sigrid := withSession(t, running.BaseURL, by)
	sigrid.open(running.BaseURL + "/today")
	sigrid.sees("frames@njoro.example proposes another time for “Frame restoring”", "The glue dries until eight")
	t.Logf("on Today within %v of the mail", time.Since(began).Round(10*time.Millisecond))
	sigrid.press("Who can, and where")
	sigrid.sees("Thursday 10 December 2026, 20:30 – 21:30", "You work other hours (60 min outside); Joana Brás works other hours (60 min outside)", "1 person’s time cannot be seen")
	sigrid.axe("Today with a proposal")
	sigrid.press("Take an opening instead…")
	sigrid.sees("Send changes", "Openings")
	sigrid.open(running.BaseURL + "/today")
	sigrid.press("Who can, and where")
	sigrid.press("Move it there")
	sigrid.lacks("proposes another time for “Frame restoring”")
	assert.Equal(t, "REQUEST", mails(t, "gold@njoro.example", "Frame restoring", 2)[1].Method)

	gold := mails(t, "gold@njoro.example", "Frame restoring", 2)[1]
	guest := newPage(t)
	guest.open(fmt.Sprintf("%s/post/messages/%d", running.WorldURL, gold.ID))
	guest.press("Answer")
	guest.press("Propose another time…")
	guest.set(`input[type=date]`, "2026-12-09")
	guest.press("Propose it to Sigrid Aune")
	guest.sees("You proposed another time: Wed 9 Dec", "Sigrid Aune decides about it.")
	guest.press("Propose another time…")
	guest.set(`input[type=date]`, "2026-11-02")
	guest.press("Propose it to Sigrid Aune")
	guest.sees("This time has passed. Propose a later one.")
	guest.axe("the guest page while proposing")

	joana := withSession(t, running.BaseURL, "joana.bras@marrowby.example")
	joana.open(running.BaseURL + "/meeting/" + id.String())
	joana.press("Propose another time…")
	joana.set(`input[type=date]`, "2026-12-11")
	joana.press("Propose it to Sigrid Aune")
	joana.sees("You proposed another time: Fri 11 Dec")

	sigrid.open(running.BaseURL + "/meeting/" + id.String())
	sigrid.sees("Other times proposed", "proposed by gold@njoro.example", "proposed by Joana Brás")
	sigrid.axe("the meeting page with proposals")
	sigrid.do("with a word", clickOn(`[...document.querySelectorAll("section[aria-label='Other times proposed'] li")].find(li => li.innerText.includes("gold@")).querySelector("button.text-small")`))
	sigrid.write("A word to gold@njoro.example (optional)", "Thursday is the courier’s day.")
	sigrid.do("keep it", clickOn(`[...[...document.querySelectorAll("section[aria-label='Other times proposed'] li")].find(li => li.innerText.includes("gold@")).querySelectorAll("button")].find(b => b.textContent === "Keep the time")`))
	sigrid.lacks("proposed by gold@njoro.example")
	kept := mails(t, "gold@njoro.example", "Frame restoring", 3)[2]
	assert.Equal(t, "DECLINECOUNTER", kept.Method)
	assert.Contains(t, kept.Text, "Thursday is the courier’s day.")
	guest.do("look again", chromedp.Reload())
	guest.sees("The time is kept. You had proposed Wed 9 Dec")
}

// TestSomebodyElseComes: a delegate is invited at one press, an answer in plain words is a yes,
// and an alias is known the next time.
func TestSomebodyElseComes(t *testing.T) {
	const by = "lazaro.pinho@marrowby.example"
	post := running.World.Post
	sends(t, by, "2026-12-08T19:00", "2026-12-08T20:00", func(d *meeting.Draft) {
		to(d, "Humidity report", "chief@njoro.example", "plain@njoro.example", "office.alias@njoro.example")
	})
	require.NoError(t, post.Delegate(mails(t, "chief@njoro.example", "Humidity report", 1)[0].Message, "deputy@njoro.example", ""))
	require.NoError(t, post.Write(mails(t, "plain@njoro.example", "Humidity report", 1)[0].Message, "Count me in, with the sensors."))
	require.NoError(t, post.AnswerFrom(mails(t, "office.alias@njoro.example", "Humidity report", 1)[0].Message, "private.alias@njoro.example", "ACCEPTED", ""))
	p := withSession(t, running.BaseURL, by)
	p.open(running.BaseURL + "/today")
	p.mends("chief@njoro.example sends somebody else", "Invite deputy@njoro.example")
	p.mends("plain@njoro.example wrote about “Humidity report”: is it a yes?", "It is a yes")
	p.set(`select[aria-label="Whose answer is it?"]`, value[string](p, `[...document.querySelectorAll("option")].find(o => o.textContent === "office.alias@njoro.example").value`))
	p.mends("private.alias@njoro.example answered", "Count it")
	deputy := mails(t, "deputy@njoro.example", "Humidity report", 1)[0]
	require.NoError(t, post.Answer(deputy.Message, "ACCEPTED", ""))
	id := sends(t, by, "2026-12-09T19:00", "2026-12-09T20:00", func(d *meeting.Draft) { to(d, "Humidity again", "office.alias@njoro.example") })
	require.NoError(t, post.AnswerFrom(mails(t, "office.alias@njoro.example", "Humidity again", 1)[0].Message, "private.alias@njoro.example", "ACCEPTED", ""))
	p.open(running.BaseURL + "/meeting/" + id.String())
	p.sees("1 accepted")
	p.open(running.BaseURL + "/weeks?from=2026-12-07")
	p.press("Humidity report")
	p.press("Open")
	p.sees("sends deputy@njoro.example", "in place of chief@njoro.example", "“Count me in, with the sensors.”")
}

// TestInvitedByPeopleOutside: it stands in the week, is changed, answered and called off; what
// somebody else says about it is asked about.
func TestInvitedByPeopleOutside(t *testing.T) {
	const by = "yara.mendonca@marrowby.example"
	id, err := whoIs(t, by)
	require.NoError(t, err)
	p := withSession(t, running.BaseURL, by)
	p.open(running.BaseURL + "/account")
	address := running.Program.Deeds.Invitations.Address(schedule.Self(id))
	p.sees("Invitations from outside", address)
	start := time.Date(2026, 12, 3, 13, 0, 0, 0, time.UTC)
	o := standin.Outside{UID: "e2e@veerhaven.example", Title: "Berth for the crane", From: "noor@veerhaven.example", Name: "Noor de Waal", To: address, Invited: by, Start: start,
		Length: time.Hour, Text: "Join: https://calls.veerhaven.example/j/551-204"}
	p.open(running.BaseURL + "/weeks?from=2026-11-30")
	p.sees("Week 49")
	began := time.Now()
	require.NoError(t, running.World.Post.InviteHouse(o))
	p.sees("Berth for the crane")
	t.Logf("in the week within %v", time.Since(began).Round(10*time.Millisecond))
	p.holds(`[...document.querySelectorAll("button")].some(b => b.textContent.includes("Berth for the crane") && b.textContent.includes("you have not answered"))`)
	p.press("Berth for the crane")
	p.sees("Noor de Waal", "invites you", "Thu 3 Dec, 13:00", "calls.veerhaven.example/j/551-204", "It came by mail for "+by)
	p.axe("an invitation from outside")
	p.press("Accept")
	p.sees("✓ Accept", "Your answer went to noor@veerhaven.example")
	reply := mails(t, "noor@veerhaven.example", "Berth for the crane", 1)[0]
	assert.Equal(t, "REPLY", reply.Method)
	assert.Contains(t, string(reply.Calendar), "PARTSTAT=ACCEPTED")

	later := o
	later.Sequence, later.Start = 1, start.Add(2*time.Hour)
	require.NoError(t, running.World.Post.InviteHouse(later))
	p.sees("Thu 3 Dec, 15:00")
	p.lacks("✓ Accept")
	other := later
	other.Sequence, other.From, other.Start = 2, "noor@elsewhere.example", start.Add(4*time.Hour)
	require.NoError(t, running.World.Post.InviteHouse(other))
	p.sees("noor@elsewhere.example says that this meeting is another one now", "Thu 3 Dec, 15:00")
	p.open(running.BaseURL + "/today")
	p.sees("Berth for the crane", "Somebody else says that it changed.")
	p.open(running.BaseURL + "/weeks?from=2026-11-30")
	p.press("Berth for the crane")
	p.press("Forget it")
	p.lacks("says that this meeting is another one now")
	off := later
	off.Sequence, off.Off = 3, true
	require.NoError(t, running.World.Post.InviteHouse(off))
	p.sees("This meeting has been called off by Noor de Waal")
	p.open(running.BaseURL + "/weeks?from=2026-11-30")
	p.sees("Week 49")
	p.lacks("Berth for the crane")
}

// TestMeetingsAsFiles: a week goes out as a file; a file that comes in becomes a sheet with its
// call, and what cannot be kept is said.
func TestMeetingsAsFiles(t *testing.T) {
	p := signIn(t, "ines.cordeiro@marrowby.example")
	file := value[string](p, `(() => { const r = new XMLHttpRequest(); r.open("GET", [...document.querySelectorAll("a")].find(a => a.textContent.trim() === ".ics").href, false); r.send(); return r.responseText })()`)
	assert.True(t, strings.HasPrefix(file, "BEGIN:VCALENDAR"), file)
	p.open(running.BaseURL + "/drafts")
	p.sees("Drop a calendar file (.ics) here")
	p.axe("sheets and files in")
	give := func(name, text string) {
		t.Helper()
		p.holds(fmt.Sprintf(`(() => { const d = new DataTransfer(); d.items.add(new File([%q], %q, {type: "text/calendar"}));
			const e = document.querySelector("input[type=file]"); if (!e) return false; e.files = d.files; e.dispatchEvent(new Event("change", {bubbles: true})); return true })()`, text, name))
	}
	give("page.ics", "<html>")
	p.sees("This file holds no meetings in iCalendar form (.ics).")
	give("meeting.ics", "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:f1\r\nDTSTART:20270112T100000Z\r\nDTEND:20270112T110000Z\r\nRRULE:FREQ=WEEKLY;COUNT=3\r\nSUMMARY:From a file\r\n"+
		"DESCRIPTION:Join: https://calls.veerhaven.example/j/551\r\nATTENDEE:mailto:filed@njoro.example\r\nATTACH:https://x.example/plan.pdf\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n")
	p.sees("From a file", "not taken over: what is attached")
	p.press("From a file")
	p.sees("When", "filed@njoro.example", "calls.veerhaven.example/j/551")
	assert.Equal(t, "From a file", value[string](p, `document.querySelector("input[aria-label=Title]").value`))
	p.sees("3 dates")
}

// TestAReminderStandsInTheHead of every page when it is time, with Join, and stays closed.
func TestAReminderStandsInTheHead(t *testing.T) {
	const by = "oluwaseun.ade@marrowby.example"
	soon := running.Program.Deeds.Now().Add(12 * time.Minute).Truncate(time.Minute)
	sends(t, by, soon.Format("2006-01-02T15:04"), soon.Add(20*time.Minute).Format("2006-01-02T15:04"), func(d *meeting.Draft) {
		to(d, "Short round")
		d.Zone, d.RemindBefore = "UTC", 15
	})
	p := signIn(t, by)
	p.holds(`document.querySelector("[aria-label=Reminder]")?.innerText.includes("Short round")`)
	p.axe("Weeks with a reminder")
	other := p.second()
	other.open(running.BaseURL + "/rooms")
	other.holds(`document.querySelector("[aria-label=Reminder]")?.innerText.includes("Short round")`)
	p.press("Close the reminder")
	p.holds(`!document.querySelector("[aria-label=Reminder]")`)
	other.do("reload", chromedp.Reload())
	other.sees("Rooms")
	other.holds(`!document.querySelector("[aria-label=Reminder]")`)

	// One that comes a day before, of what is tomorrow.
	sends(t, by, "2026-11-25T09:30", "2026-11-25T10:00", func(d *meeting.Draft) {
		to(d, "Long foreseen")
		d.Reminders = []meeting.Reminder{{Before: 1440}}
	})
	p.holds(`document.querySelector("[aria-label=Reminder]")?.innerText.includes("tomorrow 9:30")`)
	p.holds(`document.querySelector("[aria-label=Reminder]")?.innerText.includes("Long foreseen")`)
	p.lacks("Not sent yet")
}

// TestOnesOwnReminders: a colleague sets, changes and takes off reminders of their own.
func TestOnesOwnReminders(t *testing.T) {
	const by = "lazaro.pinho@marrowby.example"
	id := sends(t, "gil.tavares@marrowby.example", "2026-12-16T18:00", "2026-12-16T18:30", func(d *meeting.Draft) { to(d, "Varnish tests", by) })
	p := withSession(t, running.BaseURL, by)
	p.open(running.BaseURL + "/meeting/" + id.String())
	p.sees("Varnish tests")
	p.press("Remind me…")
	p.sees("Reminds you")
	p.press("Remind me again…")
	p.holds(`document.querySelectorAll("section[aria-label='Reminders for you'] fieldset").length === 2`)
	p.do("by mail", chromedp.SendKeys(`//fieldset[@aria-label="Your reminder 2"]//select[@aria-label="How"]`, "by mail"))
	p.axe("reminders of one's own")
	p.press("Take your reminder 1 off")
	p.holds(`document.querySelectorAll("section[aria-label='Reminders for you'] fieldset").length === 1`)
	p.do("reload", chromedp.Reload())
	p.holds(`document.querySelector("section[aria-label='Reminders for you'] select[aria-label=How]")?.value === "mail"`)
}

// TestAGuestLooksAgain: what changed is said until the page is left, and not a second time.
func TestAGuestLooksAgain(t *testing.T) {
	by := "marta.quental@marrowby.example"
	id := sends(t, by, "2026-12-11T18:00", "2026-12-11T18:30", func(d *meeting.Draft) { to(d, "Loom parts", "loom@njoro.example") })
	marta, err := whoIs(t, by)
	require.NoError(t, err)
	moves := func(start, end string) {
		require.NoError(t, running.Program.Deeds.Sheets.ChangeAtOnce(t.Context(), schedule.Self(marta), id, sheets.Opening{}, func(d *meeting.Draft) error {
			d.Start, d.End = start, end
			return nil
		}))
	}
	mail := mails(t, "loom@njoro.example", "Loom parts", 1)[0]
	address := regexp.MustCompile(`http\S+/guest/\w+`).FindString(mail.Text)
	require.NotEmpty(t, address)
	guest := newPage(t)
	seen := func(open func()) {
		t.Helper()
		assert.Contains(t, strings.Join(guest.asked(open), " "), "/seen")
	}
	seen(func() {
		guest.open(address)
		guest.sees("Loom parts")
	})
	guest.lacks("since you last looked")
	moves("2026-12-11T19:00", "2026-12-11T19:30")
	seen(func() {
		guest.open(address)
		guest.sees("Changed since you last looked: the time. It was Friday 11 December, 18:00 – 18:30.")
	})
	guest.axe("what changed for a guest")
	guest.open(address)
	guest.sees("Loom parts")
	guest.lacks("since you last looked")
}

// undoFor has what is sent be taken back for so long, until the test is over.
func undoFor(t *testing.T, d time.Duration) {
	of := running.Program.Deeds
	of.Undo, of.Sheets.Undo = d, d
	t.Cleanup(func() { of.Undo, of.Sheets.Undo = 0, 0 })
}

// TestASendIsTakenBack: for ten seconds, by keys alone; and a sheet waits until a moment.
func TestASendIsTakenBack(t *testing.T) {
	undoFor(t, 10*time.Second)
	p := signIn(t, demo.Ilse)
	begins := func(title, guest string) {
		p.keys("m" + title)
		p.write("Day", "21 dec")
		p.write("Starts", "17:00")
		p.keys(kb.Tab)
		p.write("Add a person", guest)
		p.keys(kb.Enter)
		p.tick("no link needed")
		p.tick("no room needed")
		p.sees("Goes to " + guest)
	}
	begins("Taken back at once", "undo@njoro.example")
	p.keys(kb.Enter, chromedp.ModifierCtrl)
	p.sees("Goes out in", "Taken back at once", "Goes to undo@njoro.example.")
	p.axe("a send that can be taken back")
	p.holds(`document.activeElement?.innerText === "Take it back"`)
	p.keys(kb.Enter)
	p.holds(`document.querySelector("input[aria-label=Title]")?.value === "Taken back at once"`)
	p.keys(kb.Enter, chromedp.ModifierCtrl)
	began := time.Now()
	p.sees("Goes out in")
	assert.Empty(t, running.World.Post.Box("undo@njoro.example"))
	p.holds(`location.pathname.startsWith("/meeting/")`)
	assert.Greater(t, time.Since(began), 8*time.Second)
	p.sees("1 silent")
	mails(t, "undo@njoro.example", "Taken back at once", 1)

	// Nobody has to keep the window open.
	p.keys("w")
	begins("Goes by itself", "alone@njoro.example")
	p.press("Send")
	p.sees("Goes out in")
	p.open("about:blank")
	require.Eventually(t, func() bool { return len(running.World.Post.Box("alone@njoro.example")) == 1 }, 30*time.Second, 200*time.Millisecond)

	// Until a moment.
	p.open(running.BaseURL + "/weeks")
	p.sees("Week 48")
	begins("Waits until Monday", "monday@njoro.example")
	p.press("Later…")
	p.sees("Send later")
	p.write("When, by your clock", "whenever")
	p.keys(kb.Enter)
	p.sees("“whenever” is no time.")
	p.axe("when to send")
	p.write("When, by your clock", "yesterday 8:00")
	p.keys(kb.Enter)
	p.sees("That moment is over.")
	p.press("Monday 8:00")
	p.sees("Goes out Monday 30 November, 8:00", "Take it back to change it")
	p.axe("a sheet that waits")
	p.open(running.BaseURL + "/drafts")
	p.sees("Waits until Monday", "goes out 30 Nov 8:00")
	p.press("Go on with Waits until Monday")
	p.sees("Goes out Monday 30 November, 8:00")
	other := p.second()
	other.open(value[string](p, `location.href`))
	other.press("Take it back")
	p.holds(`document.querySelector("input[aria-label=Title]")?.value === "Waits until Monday"`)
	p.throwAway()
}

// TestOneDateFromOutsideIsDeclined: chosen among the dates, answered alone, and told so.
func TestOneDateFromOutsideIsDeclined(t *testing.T) {
	const by = "nadia.okonjo@marrowby.example"
	id, err := whoIs(t, by)
	require.NoError(t, err)
	o := standin.Outside{UID: "onedate@veerhaven.example", Title: "Tide tables", From: "tides@veerhaven.example", Name: "Tide Office", To: running.Program.Deeds.Invitations.Address(schedule.Self(id)),
		Invited: by, Start: time.Date(2026, 12, 9, 6, 0, 0, 0, time.UTC), Length: time.Hour, Rule: "FREQ=WEEKLY;COUNT=5"}
	require.NoError(t, running.World.Post.InviteHouse(o))
	p := withSession(t, running.BaseURL, by)
	p.open(running.BaseURL + "/today")
	p.sees("Tide tables")
	p.do("open it", clickOn(`[...document.querySelectorAll("a")].find(a => a.innerText.includes("Tide tables"))`))
	p.sees("Dates")
	p.do("choose the third", clickOn(`document.querySelectorAll("ul[aria-label=Dates] button")[2]`))
	p.sees("for Wed 23 Dec only")
	p.press("Decline")
	p.holds(`document.querySelectorAll("ul[aria-label=Dates] li")[2].innerText.includes("declined")`)
	p.axe("the dates of an invitation from outside")
	p.sees("Your answer went to tides@veerhaven.example.")
	m := mails(t, "tides@veerhaven.example", "Tide tables", 1)[0]
	assert.Contains(t, string(m.Calendar), "RECURRENCE-ID:20261223T060000Z")
	assert.Contains(t, string(m.Calendar), "PARTSTAT=DECLINED")
}
