package e2e_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/schedule"
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

	// One is delayed, which mends itself.
	dispatch.sees("delayed 4.4.1")
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
	rui := signIn(t, "rui.calado@marrowby.example")
	rui.open(running.BaseURL + "/today")
	rui.sees("Loom repair")
}
