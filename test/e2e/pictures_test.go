package e2e_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"jembro/internal/demo"
)

// TestPictures takes the pictures of docs/screenshots when JEMBRO_PICTURES
// names a directory for them (make pictures).
func TestPictures(t *testing.T) {
	dir := os.Getenv("JEMBRO_PICTURES")
	if dir == "" {
		t.Skip("JEMBRO_PICTURES names no directory")
	}
	shot := func(p *page, name string) { p.shot(filepath.Join(dir, name+".png")) }
	fromTop := func(p *page, name string) { // what has the focus is not always in view then
		p.do("scroll to the top", chromedp.Evaluate[chromedp.Void](`window.scrollTo(0, 0)`))
		shot(p, name)
	}

	ilse := signIn(t, demo.Ilse)
	ilse.pressMark("Crate sizes, loan 14")
	ilse.sees("People")
	shot(ilse, "weeks")
	ilse.press("New")
	ilse.sees("What happened", "Ilse Marrant", "asks you to come")
	shot(ilse, "new")
	ilse.press("Weeks")
	ilse.keys("f")
	ilse.write("Find", "loan")
	ilse.holds(`document.querySelectorAll("[role=option]").length > 2`)
	shot(ilse, "find")
	ilse.keys(kb.Escape)
	ilse.pressMark("Crate sizes, loan 14")
	ilse.press("Open")
	ilse.sees("What happened")
	fromTop(ilse, "meeting")

	ilse.open(running.BaseURL + "/today")
	ilse.sees("Loose ends", "Crate sizes, loan 14", "Waits for your answer")
	shot(ilse, "today")
	ilse.open(running.BaseURL + "/dispatch")
	ilse.sees("Crate sizes, loan 14", "4 of 5 reached")
	ilse.press("Other ways for Freight desk")
	ilse.sees("Freight desk was not reached", "ops@veerhaven.example")
	shot(ilse, "dispatch")
	ilse.open(running.BaseURL + "/hours")
	ilse.sees("When I work", "Lisbon archive group", "Given to others")
	shot(ilse, "hours")
	ilse.press("Leave")
	ilse.write("First day", "1 dec")
	ilse.write("Last day", "11 dec")
	ilse.press("Enter leave")
	ilse.sees("Meetings in your leave")
	ilse.do("hand one over", clickOn(`[...document.querySelectorAll("[role=dialog] li button")].find(b => b.innerText === "Hand over")`))
	ilse.holds(`!!document.querySelector("[aria-label^='Who takes']")`)
	shot(ilse, "leave")
	ilse.press("Later")
	ilse.holds(`!document.querySelector("[role=dialog]")`)
	ilse.do("take it back", clickOn(`[...document.querySelectorAll("[data-other='2026-12-01'] button")].find(b => b.innerText.startsWith("take back"))`))
	ilse.keys("r")
	ilse.sees("Map Room", "clear now")
	shot(ilse, "rooms")
	ilse.press("Courtyard Hall")
	ilse.sees("Asked of you", "How it is booked")
	shot(ilse, "room")

	// A telephone bridge, and the description of a provider with a line that does not fit.
	ilse.open(running.BaseURL + "/weeks")
	ilse.press("Loan agreement, São Paulo")
	ilse.press("Open")
	ilse.sees("13 more countries", "What happened")
	ilse.press("13 more countries")
	ilse.sees("Organiser's PIN")
	shot(ilse, "telephone")
	ilse.open(running.BaseURL + "/providers/tamberline")
	ilse.sees("Put into use")
	ilse.set("textarea[aria-label=Description]", strings.Replace(value[string](ilse, `document.querySelector("textarea[aria-label=Description]").value`), "/conference/web", "/conference/page", 1))
	ilse.press("Try it")
	ilse.sees("The answer has no /conference/page.", "Near it")
	shot(ilse, "providers")

	// A running series, and a change to it.
	ilse.open(running.BaseURL + "/weeks")
	ilse.press("Lacquer loan: packing, courier")
	ilse.press("Open")
	ilse.sees("What happened", "to come")
	fromTop(ilse, "series")
	ilse.press("10 Dec")
	ilse.press("Change")
	ilse.sees("Which dates?")
	ilse.keys("2")
	ilse.write("Starts", "9:30")
	ilse.keys(kb.Tab)
	ilse.shows("Dates", "become a series of their own")
	ilse.press("Throw these changes away")
	ilse.press("Throw away")
	ilse.sees("Week 48")

	ilse.keys("m")
	ilse.write("Title", "Crate list, loan 31")
	ilse.write("Day", "3 dec")
	ilse.write("Starts", "9:00")
	ilse.addPerson("tome", "Tomé Akande")
	ilse.addPerson("pinho", "Lázaro Pinho")
	ilse.addPerson("onari", "S. Onari")
	ilse.addPerson("holm", "Freya Holm")
	ilse.do("make Freya optional", selectOption("Freya Holm is", "optional"))
	ilse.takeRoom("Map Room")
	ilse.makeLink()
	ilse.write("Text", "Final crate list and the courier’s flight. Bring the humidity log.")
	ilse.sees("Saved as it is written.", "Goes to 4 people (1 outside)", "Rooms that fit", "Openings")
	fromTop(ilse, "sheet")
	ilse.press("Other calls")
	ilse.sees("Where the call is", "At the door")
	ilse.takeCall("Tamberline")
	ilse.onSheet("Tamberline · fresh link")
	ilse.write("Text", "Final crate list and the courier’s flight. Bring the humidity log. Call: kestle.example/r/freight-desk")
	ilse.sees("A second way in", "Saved as it is written.")
	ilse.set("aside[aria-label='What they see'] select", "2")
	ilse.sees("Japan")
	shot(ilse, "link")
	ilse.press("Take it out")
	ilse.takeCall("Ostrel")
	ilse.onSheet("Ostrel · fresh link")
	ilse.press("Other calls")
	ilse.press("Let it repeat…")
	ilse.press("every 2nd Thursday")
	ilse.write("Last day of the series", "25 feb")
	ilse.keys(kb.Tab)
	ilse.shows("Repeats", "7 dates")
	ilse.press("Done")
	ilse.shows("Dates", "2 to mend")
	shot(ilse, "dates")
	ilse.pressIn("Thu 31 Dec", "leave it out")
	ilse.pressIn("Thu 14 Jan", "use ")
	ilse.shows("Dates", "6 dates")
	ilse.press("See the invitation")
	ilse.holds(`[...document.querySelectorAll("[role=dialog] button")].some((b) => b.textContent.includes("S. Onari") && (b.click(), true))`)
	ilse.holds(`!!document.querySelector("iframe[title='Mail to S. Onari'][data-loaded]")`)
	shot(ilse, "preview")
	ilse.press("Close")
	ilse.press("Send")
	ilse.sees("People", "e-mail in the mailbox")

	mail := mails(t, "s.onari@kirisame.example", "Crate list", 1)[0]
	guest := newPage(t)
	guest.open(fmt.Sprintf("%s/post/messages/%d", running.WorldURL, mail.ID))
	guest.sees("SIMULATED POST OFFICE")
	shot(guest, "post-office")
	guest.press("Answer")
	guest.sees("Put it in your calendar")
	shot(guest, "guest")
}
