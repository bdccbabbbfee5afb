package e2e_test

import (
	"bytes"
	"os/exec"
	"regexp"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
	"jembro/internal/postgres"
)

// lapse lets the time be over for which the sheet that a page shows holds rooms.
func (p *page) lapse() {
	p.t.Helper()
	id, err := uuid.Parse(value[string](p, `location.pathname.split("/")[2]`))
	require.NoError(p.t, err)
	require.NoError(p.t, running.Program.Store.InTx(p.t.Context(), func(tx *postgres.Tx) error {
		return tx.ProlongHolds(p.t.Context(), id, running.Program.Deeds.Now().Add(-time.Second))
	}))
}

// TestARoomThatAsksItsKeeper: asked for, refused with a word, another taken.
func TestARoomThatAsksItsKeeper(t *testing.T) {
	ilse := signIn(t, demo.Ilse)
	ilse.keys("mMoving the hoist")
	ilse.write("Day", "11 dec")
	ilse.write("Starts", "13:00")
	ilse.keys(kb.Tab)
	ilse.addPerson("tome", "Tomé Akande")
	ilse.tick("no link needed")
	ilse.takeRoom("Rope Loft")
	ilse.sees("Rope Loft asks its keeper every time. Send asks; you hear of the answer.", "held for you until", "asks for Rope Loft")
	ilse.axe("a room that asks")
	ilse.press("Send")
	ilse.sees("1 silent", "asked", "its keeper is asked; no answer until")
	ilse.do("back", chromedp.Evaluate[chromedp.Void](`history.back()`))
	ilse.sees("Week 48") // not to the sheet, which is gone
	ilse.do("forward", chromedp.Evaluate[chromedp.Void](`history.forward()`))
	ilse.sees("its keeper is asked; no answer until")

	marta := signIn(t, "marta.quental@marrowby.example")
	marta.press("New")
	marta.shows("Waits for your answer", "Ilse Marrant asks for Rope Loft")
	marta.press("Decide")
	marta.sees("Rope Loft", "Asked of you", "Moving the hoist", "Ilse Marrant, 2 people")
	marta.axe("a room's page with what is asked")
	marta.press("No, because…")
	marta.keys("The hoist hangs there until Monday." + kb.Enter)
	marta.sees("Nothing waits for your answer.")
	marta.press("New")
	marta.shows("What happened", "Ilse Marrant asks for Rope Loft")

	ilse.sees("refused", "Marta Quental refused it: The hoist hangs there until Monday.")
	ilse.press("New")
	ilse.shows("What happened", "Marta Quental refused Rope Loft: The hoist hangs there until Monday.")
	ilse.do("back", chromedp.Evaluate[chromedp.Void](`history.back()`))
	ilse.press("Take another room")
	ilse.sees("The keeper of Rope Loft has refused that time.")
	ilse.takeRoom("Loft Studio")
	ilse.sees("held for you until")
	ilse.press("Send changes")
	ilse.sees("Loft Studio", "booked", "Rope Loft given back")
	ilse.lacks("refused it")
}

// TestTheRulesOfARoom: its keeper changes them on its page, what is wrong is said at its
// field, and a sheet follows them.
func TestTheRulesOfARoom(t *testing.T) {
	rui := signIn(t, "rui.calado@marrowby.example")
	rui.keys("r")
	rui.sees("Rooms", "Tide Office", "Table")
	rui.press("Tide Office")
	rui.sees("Everybody books it", "Two weeks")
	rui.press("Change the room")
	rui.write("Longest booking", "a while")
	rui.write("Days ahead", "soon")
	rui.write("Monday", "9-8")
	rui.press("Keep")
	rui.sees("“a while” is no length. Type it like 45 min, 1h30 or 2 days.", "Give a number of days up to 3660, or none.")
	rui.write("Longest booking", "45")
	rui.write("Days ahead", "")
	rui.press("Keep")
	rui.sees("Give hours that end after they begin and do not overlap.")
	for _, day := range []string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday"} {
		rui.write(day, "8-12, 13h-6pm")
	}
	rui.axe("the form of a room")
	rui.press("Keep")
	rui.sees("At most 45 min at a time", "Monday to Friday 8:00 – 12:00 and 13:00 – 18:00", "closed")

	ilse := signIn(t, demo.Ilse)
	ilse.keys("mToo long for it")
	ilse.write("Day", "11 dec")
	ilse.write("Starts", "11:30")
	ilse.keys(kb.Tab)
	ilse.takeRoom("Tide Office")
	ilse.sees("Tide Office can be booked for 45 min at a time and is open 8:00 – 12:00 and 13:00 – 18:00 on Fridays.", "Not ready to send")
	ilse.write("Starts", "11:00")
	ilse.write("Ends", "11:45")
	ilse.keys(kb.Tab)
	ilse.sees("held for you until", "books Tide Office")
	ilse.throwAway()

	rui.press("Change the room")
	rui.write("Longest booking", "")
	for _, day := range []string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday"} {
		rui.write(day, "")
	}
	rui.press("Keep")
	rui.lacks("At most 45 min")
}

// TestARoomsOwnPage: two weeks of it, by keys; a stretch drawn in a row starts a sheet.
func TestARoomsOwnPage(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.keys("r")
	p.press("Courtyard Hall")
	p.sees("Courtyard Hall", "60 seats", "keepers Ilse Marrant, Rui Calado", "Getting there", "The lift key is at the desk.", "How it is booked", "For people of Main building; others ask its keeper")
	p.sees("Asked of you", "Night opening, rehearsal", "Choir", "Yes to 11")
	p.axe("a room's page")
	p.do("narrow", chromedp.EmulateViewport(390, 844))
	p.holds(`innerWidth === 390`)
	p.fits("a room's page", 390)
	p.do("wide", chromedp.EmulateViewport(1280, 800))
	p.keys(kb.ArrowRight)
	p.holds(`location.search.startsWith("?from=")`)
	p.drag(`section[aria-label="Thu 10 December"] .cursor-crosshair`, 0.2, 0.3, 0.5)
	p.holds(`!!document.querySelector("input[aria-label=Title]")`)
	p.sees("Courtyard Hall", "Give back", "Thursday 10 December")
	p.throwAway()
	p.open(running.BaseURL + "/room/00000000-0000-0000-0000-000000000001")
	p.sees("This room is not there")
}

// TestWaitingForARoom: taken, waited for, given back, held for who waited, and booked.
func TestWaitingForARoom(t *testing.T) {
	at := func(p *page, title string) {
		p.keys("m" + title)
		p.write("Day", "16 dec")
		p.write("Starts", "14:00")
		p.keys(kb.Tab)
		p.tick("no link needed")
		p.takeRoom("Lens Room")
	}
	rui := signIn(t, "rui.calado@marrowby.example")
	at(rui, "Lamp parts")
	rui.sees("books Lens Room")
	rui.press("Send")
	rui.sees("Lens Room booked")

	ilse := signIn(t, demo.Ilse)
	at(ilse, "Lens grinding")
	ilse.sees("Lens Room was taken", "by Rui Calado")
	ilse.press("Tell me when it is clear")
	ilse.sees("You wait for this room and are told when it is clear.", "Stop waiting")
	ilse.axe("a sheet that waits")
	sheet := value[string](ilse, `location.pathname`)
	ilse.press("Weeks")

	rui.open(running.BaseURL + "/rooms?day=2026-12-16")
	rui.press("Lens Room")
	rui.sees("Waiting for it", "14:00 – 15:00: Ilse Marrant")
	rui.open(running.BaseURL + "/weeks?from=2026-12-14")
	rui.press("Lamp parts")
	rui.press("Open")
	rui.press("Call off…")
	rui.sees("Lens Room becomes clear.")
	rui.do("call it off", clickOn(`[...document.querySelectorAll("[role=dialog] button")].find(b => b.innerText.startsWith("Call off"))`))
	rui.sees("This meeting has been called off.")

	ilse.press("New")
	ilse.sees("Lens Room is clear now and held for you for 30 min")
	ilse.press("Open Lens grinding")
	ilse.holds(`location.pathname === "` + sheet + `"`)
	ilse.sees("It is your turn: held for you until", "held for you until", "books Lens Room")
	ilse.press("Send")
	ilse.sees("Lens Room", "booked")
}

// TestWholeDaysInTheBrowser: three whole days, sent, seen in Weeks and by the guest, and
// dates in the two libraries of Debian.
func TestWholeDaysInTheBrowser(t *testing.T) {
	const address = "stocktaking@kirisame.example"
	p := signIn(t, demo.Ilse)
	p.keys("mStocktaking")
	p.write("Day", "17 dec")
	p.keys(kb.Tab)
	p.tick("all day")
	p.write("Length", "3 days")
	p.keys(kb.Tab)
	p.holds(`document.querySelector("input[aria-label='Last day']").value === "Sat 19 Dec"`)
	p.write("Last day", "16 dec")
	p.keys(kb.Tab)
	p.sees("Ends before it starts.", "Make it one day?")
	p.write("Last day", "19 dec")
	p.keys(kb.Tab)
	p.write("Add a person", address)
	p.press("invite " + address + " by mail")
	p.tick("no link needed")
	p.tick("no room needed")
	p.lacks("Openings")
	p.axe("a sheet of whole days")
	p.press("Send")
	p.sees("Thu 17 Dec – Sat 19 Dec, 3 days")
	p.axe("a meeting of whole days")

	mail := mails(t, address, "Stocktaking", 1)[0]
	for _, library := range []string{"icalendar", "libical"} {
		cmd := exec.CommandContext(t.Context(), "/usr/bin/python3", "../../internal/mail/testdata/read_dates.py", library)
		cmd.Stdin = bytes.NewReader(mail.Raw)
		out, err := cmd.Output()
		require.NoError(t, err, library)
		assert.JSONEq(t, `[{"start": "2026-12-17", "end": "2026-12-20", "days": [], "own": "", "free": false}]`, string(out), library)
	}
	guest := newPage(t)
	guest.open(regexp.MustCompile(`http\S+/guest/\S+`).FindString(mail.Text))
	guest.sees("17 December", "Sat 19 Dec, 3 days")
	guest.axe("the guest page of whole days")

	p.open(running.BaseURL + "/weeks?from=2026-12-14")
	p.sees("Stocktaking · day 1 of 3", "day 2 of 3", "day 3 of 3")
	p.axe("weeks with whole days")

	// A time on the clock again: what was there before.
	p.press("Stocktaking")
	p.press("Open")
	p.press("Change")
	p.sees("all day")
	p.tick("leaves time clear")
	p.press("Send changes")
	p.sees("leaves time clear", "changed whether it takes time")
}

// TestOpeningsForAllDates: a series takes the best time for all its dates at one press.
func TestOpeningsForAllDates(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.keys("mLamp rota")
	p.write("Day", "12 jan")
	p.write("Starts", "14:00")
	p.keys(kb.Tab)
	p.addPerson("tome", "Tomé Akande")
	p.addPerson("gil tav", "Gil Tavares")
	p.press("Let it repeat…")
	p.press("every Tuesday")
	p.do("say how it ends", selectOption("How the series ends", "for"))
	p.write("Number of dates", "8")
	p.press("Done")
	p.sees("Openings for all dates", "all 8 dates")
	p.axe("openings for all dates")
	head := value[string](p, `document.querySelector("section[aria-label='Openings for all dates'] li button b").innerText`)
	p.do("take the best", clickOn(`document.querySelector("section[aria-label='Openings for all dates'] li button")`))
	p.holds(`document.querySelector("section[aria-label='Openings for all dates'] li button").getAttribute("aria-pressed") === "true"`)
	p.sees("held for you until", "8 dates")
	p.tick("no link needed")
	p.press("Send")
	p.sees("2 silent", "booked", "8 dates")
	assert.Contains(t, head, " – ")
}
