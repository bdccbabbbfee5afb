package e2e_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/demo"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
	"jembro/internal/standin"
)

func personOf(t *testing.T, email string) (p schedule.Person) {
	t.Helper()
	require.NoError(t, running.Program.Store.Look(t.Context(), func(tx *postgres.Tx) (err error) {
		p, err = tx.PersonByEmail(t.Context(), email)
		return err
	}))
	return p
}

// sent is a meeting that somebody sent without a room and a link.
func sent(t *testing.T, by schedule.Person, title, start, end string, people ...string) uuid.UUID {
	t.Helper()
	do, me := running.Program.Deeds.Sheets, schedule.Self(by.ID)
	s, err := do.OpenSheet(t.Context(), me, start, end)
	require.NoError(t, err)
	s.Draft.Title, s.Draft.NoRoom, s.Draft.NoLink = title, true, true
	for _, p := range people {
		s.Draft.People = append(s.Draft.People, meeting.DraftPerson{Email: p, Needed: true})
	}
	s, _, err = do.SaveSheet(t.Context(), me, s.ID, s.Version, s.Draft, "")
	require.NoError(t, err)
	out, err := do.Send(t.Context(), me, s.ID, s.Version, uuid.NewString())
	require.NoError(t, err)
	return out.MeetingID
}

// due has the program look at somebody's calendars again at once.
func due(t *testing.T, p schedule.Person) {
	t.Helper()
	_, err := running.Program.Pool.Exec(t.Context(), "UPDATE calendar SET next_at = $2 WHERE person_id = $1", p.ID, running.Program.Deeds.Now().Add(-time.Minute))
	require.NoError(t, err)
}

// long waits longer than a page usually takes: for what the program does by itself.
func (p *page) long(script string) {
	p.t.Helper()
	if p.within(45*time.Second, script) {
		return
	}
	p.t.Fatalf("it does not come true: %s\nthe page says:\n%s", script, p.says())
}

// TestAnotherCalendar: subscribed, it makes somebody busy; it changes, breaks, comes back.
func TestAnotherCalendar(t *testing.T) {
	yara := personOf(t, "yara.mendonca@marrowby.example")
	lesson := standin.Event{UID: "1@lessons.example", Title: "Language class", Start: time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC), Length: time.Hour}
	name := "yara-" + uuid.NewString() + ".ics"
	publish := func() { running.World.Calendars.Publish(name, standin.Calendar("Lessons", 0, lesson)) }
	publish()
	p := signIn(t, yara.Email)
	p.press("Yara Mendonça")
	p.press("Hours and calendars")
	p.sees("When I work", "Calendars that count", "Nobody outside gets your busy times")
	p.write("Address of a calendar", "nonsense")
	p.press("Add")
	p.sees("This is no address of a calendar.")
	p.write("Address of a calendar", running.WorldURL+"/calendars/page.ics")
	p.press("Add")
	p.sees("There is a page, but no calendar.")
	p.write("Address of a calendar", running.WorldURL+"/calendars/"+name)
	p.press("Add")
	p.sees("Lessons", "127.0.0.1 · 1 entry")
	p.axe("hours")

	weeks := p.second()
	weeks.open(running.BaseURL + "/weeks")
	weeks.sees("Language class")
	other := signIn(t, "piet.roelofs@marrowby.example")
	other.keys("mWith Yara")
	other.write("Day", "25 nov")
	other.keys(kb.Tab)
	other.addPerson("yara", "Yara Mendonça")
	other.sees("busy 10:00 to 11:00")
	other.lacks("Language")

	lesson.Start = lesson.Start.Add(5 * time.Hour)
	publish()
	due(t, yara)
	weeks.long(`[...document.querySelectorAll("[data-beside=entry]")].some(e => e.title.includes("Language class, 15:00 – 16:00"))`)

	running.World.Calendars.Publish(name, "")
	due(t, yara)
	p.long(`document.body.innerText.includes("Nothing is there any more (404)")`)
	p.sees("What was known until then counts.", "Try now")
	weeks.sees("Language class")
	publish()
	p.press("Try now")
	p.lacks("(404)")
	p.press("counts")
	p.press("Show only, make me not busy")
	p.sees("shown only")
	p.press("shown only")
	p.press("Call it something else")
	p.write("Another name for Lessons", "")
	p.press("Use it")
	p.sees("Give it a name to know it by.")
	p.write("Another name for Lessons", "Portuguese, evenings")
	p.press("Use it")
	p.sees("Portuguese, evenings")
	p.press("shown only")
	p.press("Remove Portuguese, evenings")
	p.lacks("Portuguese, evenings")
	other.throwAway()

	// A secret address, and gone again.
	p.press("Make a secret address")
	p.press("copy address")
	p.sees("copied")
	p.tick("with the titles of meetings")
	p.press("withdraw")
	p.sees("Nobody outside gets your busy times")
}

// TestHoursMoveTheOpenings: mornings that are not worked, and leave.
func TestHoursMoveTheOpenings(t *testing.T) {
	piet := personOf(t, "piet.roelofs@marrowby.example")
	p := withSession(t, running.BaseURL, piet.Email)
	p.open(running.BaseURL + "/hours")
	p.write("Hours on Monday", "17 - 9")
	p.keys(kb.Tab)
	p.sees("does not end after it begins")
	for _, day := range []string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday"} {
		p.write("Hours on "+day, "13-17")
		p.keys(kb.Enter)
		p.holds(fmt.Sprintf(`document.querySelector("[aria-label='Hours on %s']").value === "13:00 – 17:00"`, day))
	}
	p.drag(`[data-weekday="6"] [role=img]`, 0.2, 0.5, 0.5)
	p.holds(`/^\d+:\d\d – \d+:\d\d$/.test(document.querySelector("[aria-label='Hours on Saturday']").value)`)
	p.write("Hours on Saturday", "")
	p.keys(kb.Enter)
	p.holds(`document.querySelector("[data-weekday=\"6\"]").innerText.includes("off")`)

	// Two windows: the second is told, and nothing is overwritten.
	second := p.second()
	second.open(running.BaseURL + "/hours")
	second.sees("When I work")
	p.press("Other hours on one day")
	p.write("Day", "someday")
	p.write("Hours", "10-12")
	p.press("Keep")
	p.holds(`!!document.querySelector("#fault-asked-day")`)
	p.write("Day", "27 nov")
	p.press("Keep")
	p.sees("10:00 – 12:00")
	second.sees("10:00 – 12:00")

	ilse := signIn(t, demo.Ilse)
	ilse.keys("mWith Piet")
	ilse.addPerson("piet", "Piet Roelofs")
	ilse.sees("Openings", "All 2 needed")
	first := func() string {
		return value[string](ilse, `document.querySelector("section[aria-label=Openings] li button b").innerText`)
	}
	was := first()
	assert.Regexp(t, `1[3-6]:`, was, "after noon")
	p.press("Leave")
	p.write("First day", "today")
	p.write("Last day", "2 dec")
	p.press("Enter leave")
	p.sees("leave, ")
	ilse.sees("Saved as it is written.")
	ilse.do("reload", chromedp.Reload()) // it is asked again every minute by itself
	ilse.sees("Piet Roelofs is on leave then")
	ilse.holds(`/ [3-9] Dec/.test(document.querySelector("section[aria-label=Openings] li button b")?.innerText)`) // after the leave
	ilse.throwAway()
}

// TestWatchedNotInvited: a colleague is watched, and nothing is sent; then invited. Titles
// are for one colleague only.
func TestWatchedNotInvited(t *testing.T) {
	hanna := personOf(t, "hanna.tomic@marrowby.example")
	sent(t, hanna, "Varnish trial", "2026-11-25T15:00", "2026-11-25T16:00")
	joana := signIn(t, "joana.bras@marrowby.example")
	joana.press("+ a colleague or a room")
	joana.write("Watch a colleague or a room", "hanna")
	joana.press("Hanna Tomic")
	joana.sees("Hanna busy")
	joana.lacks("Varnish trial")
	joana.press("+ add")
	joana.write("Watch a colleague or a room", "map room")
	joana.press("Map Room")
	joana.holds(`[...document.querySelectorAll("[data-beside=watched]")].some(e => e.innerText.startsWith("Map Room"))`)
	joana.axe("weeks with watched rows")
	joana.keys("m")
	joana.sees("Who")
	assert.False(t, value[bool](joana, `!!document.querySelector("[aria-label='Hanna Tomic is']")`), "watched is not invited")
	joana.open(running.BaseURL + "/weeks")
	joana.sees("Hanna busy")

	h := withSession(t, running.BaseURL, hanna.Email)
	h.open(running.BaseURL + "/hours")
	h.press("+ somebody")
	h.write("A colleague who sees something else", "joana")
	h.press("Joana Brás")
	h.holds(`document.querySelector("[aria-label='What Joana Brás sees']")?.value === "titles"`)
	joana.open(running.BaseURL + "/weeks")
	joana.sees("Hanna: Varnish trial")
	emile := signIn(t, "emile.vautrin@marrowby.example")
	emile.press("+ a colleague or a room")
	emile.write("Watch a colleague or a room", "hanna")
	emile.press("Hanna Tomic")
	emile.sees("Hanna busy")
	emile.lacks("Varnish trial")
	h.do("show everybody nothing", selectOption("What everybody in the house sees", "nothing"))
	h.holds(`document.querySelector("[aria-label='What everybody in the house sees']").value === "nothing"`)
	emile.open(running.BaseURL + "/weeks")
	emile.sees("shows nothing")

	joana.press("Hanna")
	joana.press("Invite Hanna to a new meeting")
	joana.holds(`!!document.querySelector("[aria-label='Hanna Tomic is']")`)
	joana.write("Title", "After all")
	joana.tick("no room needed")
	joana.tick("no link needed")
	joana.sees("Goes to Hanna Tomic")
	joana.throwAway()
	h.do("as before", selectOption("What everybody in the house sees", "busy"))
	h.holds(`document.querySelector("[aria-label='What everybody in the house sees']").value === "busy"`)
}

// TestTheirBusyAddress: where somebody outside publishes when they are busy is kept with
// them, and their lane shows it with its age.
func TestTheirBusyAddress(t *testing.T) {
	name := "theirs-" + uuid.NewString() + ".ifb"
	running.World.Calendars.Publish(name, "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VFREEBUSY\r\nUID:1@casaipe.example\r\nDTSTAMP:20261124T000000Z\r\nFREEBUSY:20261202T140000Z/PT2H\r\nEND:VFREEBUSY\r\nEND:VCALENDAR\r\n")
	p := signIn(t, demo.Ilse)
	p.keys("mWith Ipanaque")
	p.write("Day", "2 dec")
	p.keys(kb.Tab)
	p.addPerson("ipanaque", "C. Ipanaque")
	p.sees("their calendar cannot be seen from here")
	p.press("they publish it")
	p.write("The address at which they publish it (.ifb or .ics)", running.WorldURL+"/calendars/locked.ics")
	p.press("Keep it")
	p.sees("It asks for a sign-in.")
	p.write("The address at which they publish it (.ifb or .ics)", running.WorldURL+"/calendars/"+name)
	p.press("Keep it")
	p.sees("1 min old", "busy 14:00 to 16:00")
	p.lacks("their calendar cannot be seen")
	p.press("1 min old")
	p.press("Forget theirs")
	p.sees("their calendar cannot be seen from here")
	p.throwAway()
}

// TestLeaveWithThreeMeetings: one handed over, one declined, one called off, each at a
// press; who organises the declined one hears once.
func TestLeaveWithThreeMeetings(t *testing.T) {
	rosa, bruno, ilse := personOf(t, "rosa.weidmann@marrowby.example"), personOf(t, "bruno.medeiros@marrowby.example"), personOf(t, demo.Ilse)
	over := sent(t, rosa, "Shelf survey", "2026-12-15T10:00", "2026-12-15T11:00", "survey@kirisame.example")
	sent(t, rosa, "Reading list", "2026-12-16T10:00", "2026-12-16T11:00", bruno.Email)
	sent(t, ilse, "Loan papers, Rosa", "2026-12-17T10:00", "2026-12-17T11:00", rosa.Email)
	p := withSession(t, running.BaseURL, rosa.Email)
	p.open(running.BaseURL + "/hours")
	p.press("Leave")
	p.press("Enter leave")
	p.holds(`!!document.querySelector("#fault-asked-first")`)
	p.write("First day", "14 dec")
	p.write("Last day", "10 dec")
	p.press("Enter leave")
	p.sees("Leave ends on the day it begins, or later.")
	p.write("Last day", "18 dec")
	p.press("Enter leave")
	p.sees("Meetings in your leave", "Shelf survey", "Reading list", "Loan papers, Rosa")
	p.axe("meetings in a leave")
	choose := func(meeting, what string) {
		t.Helper()
		p.do(what, clickOn(fmt.Sprintf(`[...document.querySelectorAll("li[aria-label='%s'] button")].find(b => b.innerText === %q)`, meeting, what)))
	}
	choose("Shelf survey", "Hand over")
	p.press("Settle one")
	p.sees("Choose who takes “Shelf survey” over.")
	p.write("Who takes Shelf survey over", "bruno")
	p.press("Bruno Medeiros")
	choose("Reading list", "Call off")
	choose("Loan papers, Rosa", "Decline")
	p.write("A word to those who hear of it", "Back on the 21st")
	p.press("Settle 3")
	p.lacks("Shelf survey")
	p.lacks("Loan papers")
	p.press("decline what I am invited to") // what the demo has her in
	p.press("Settle ")
	p.sees("Nothing lies in it any more.")
	p.press("Close")
	p.lacks("lie in it")

	i := signIn(t, demo.Ilse)
	i.press("New")
	i.sees("Rosa Weidmann is away from 14 December to 18 December and declined “Loan papers, Rosa”")
	v := withSession(t, running.BaseURL, bruno.Email)
	v.open(running.BaseURL + "/meeting/" + over.String())
	v.sees("Rosa Weidmann handed it over to Bruno Medeiros", "declined")
	letter := mails(t, "survey@kirisame.example", "Shelf survey", 2)
	assert.Contains(t, letter[1].Text, "who organises it")
}
