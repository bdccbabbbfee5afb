package e2e_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
	"jembro/internal/ical/icaltest"
)

// pressIn presses a button in the line of a list that has these words.
func (p *page) pressIn(line, button string) {
	p.t.Helper()
	path := fmt.Sprintf(`//li[contains(normalize-space(.), %q)]//button[contains(normalize-space(.), %q)]`, line, button)
	p.do("press "+button+" at "+line, chromedp.WaitVisible(path), chromedp.Click(path))
}

// shows waits until the part of the page with that label has all words.
func (p *page) shows(label string, words ...string) {
	p.t.Helper()
	for _, w := range words {
		p.holds(fmt.Sprintf(`(document.querySelector('section[aria-label=%q]')?.innerText ?? "").includes(%q)`, label, w))
	}
}

// meeting is the number of the meeting that a page shows.
func (p *page) meeting() string {
	p.t.Helper()
	p.holds(`location.pathname.startsWith("/meeting/")`)
	return strings.TrimPrefix(value[string](p, `location.pathname`), "/meeting/")
}

// heldDates are the starts of all dates that Jembro has of some series.
func (p *page) heldDates(ids ...string) (starts []string) {
	p.t.Helper()
	for _, id := range ids {
		raw := value[string](p, fmt.Sprintf(`(() => { const r = new XMLHttpRequest(); r.open("GET", "/api/meetings/%s", false); r.send(); return r.responseText })()`, id))
		var m struct {
			Series struct {
				Dates []struct{ State, Start string }
			}
		}
		require.NoError(p.t, json.Unmarshal([]byte(raw), &m), raw)
		for _, d := range m.Series.Dates {
			if d.State != "off" {
				starts = append(starts, d.Start)
			}
		}
	}
	slices.Sort(starts)
	return starts
}

// mailboxAgrees: a calendar built from the messages to an address alone shows
// the dates that Jembro has.
func mailboxAgrees(t *testing.T, p *page, address, title string, count int, ids ...string) {
	t.Helper()
	var messages [][]byte
	for _, m := range mails(t, address, title, count) {
		messages = append(messages, m.Calendar)
	}
	for _, library := range icaltest.Libraries {
		var theirs []string
		for _, s := range icaltest.Rebuild(t, library, messages...) {
			theirs = append(theirs, s.Start)
		}
		require.Equal(t, p.heldDates(ids...), theirs, library)
	}
}

// TestASeriesFromTheSentenceToItsExtension makes a fortnightly series that meets
// a holiday and a taken room, mends both, and changes it in every way.
func TestASeriesFromTheSentenceToItsExtension(t *testing.T) {
	const address, title = "fortnight@kirisame.example", "Glaze loan, couriers"
	rui := signIn(t, "rui.calado@marrowby.example")
	rui.keys("m")
	rui.write("Title", "Boiler review")
	rui.write("Day", "22 dec")
	rui.write("Starts", "9:00")
	rui.tick("no link needed")
	rui.takeRoom("Map Room")
	rui.sees("books Map Room")
	rui.press("Send")
	rui.sees("Map Room booked")

	ilse := signIn(t, demo.Ilse)
	ilse.keys("m")
	ilse.write("Title", title)
	ilse.write("Day", "8 dec")
	ilse.write("Starts", "9:30")
	ilse.addPerson("tome", "Tomé Akande")
	ilse.write("Add a person", address)
	ilse.press("invite " + address + " by mail")
	ilse.takeRoom("Map Room")
	ilse.makeLink()
	link := value[string](ilse, `document.querySelector("section[aria-label=Link] .break-words").innerText`)

	// The sentence; the link is the same with repetition on, off, and on again.
	ilse.press("Let it repeat…")
	ilse.press("every 2nd Tuesday")
	ilse.do("say how it ends", selectOption("How the series ends", "for"))
	ilse.write("Number of dates", "6")
	ilse.shows("Repeats", "6 dates", "8 Dec, 22 Dec, 5 Jan, 19 Jan, 2 Feb, 16 Feb")
	ilse.sees("Same link on all 6 dates")
	assert.True(t, strings.HasPrefix(value[string](ilse, `document.querySelector("section[aria-label=Link] .break-words").innerText`), link))
	ilse.press("Only once")
	ilse.lacks("Same link on all")
	assert.Equal(t, link, value[string](ilse, `document.querySelector("section[aria-label=Link] .break-words").innerText`))
	ilse.press("Let it repeat…")
	ilse.press("own rule…")
	ilse.write("Own rule", "every blue moon")
	ilse.keys(kb.Tab)
	ilse.shows("Repeats", "Say it like “every 2nd Tuesday until 15 December”")
	ilse.write("Own rule", "every 2nd Tuesday")
	ilse.keys(kb.Tab)
	ilse.do("say how it ends", selectOption("How the series ends", "for"))
	ilse.write("Number of dates", "6")
	ilse.shows("Dates", "holiday: Imaculada Conceição", "Map Room taken by Rui Calado", "2 to mend")
	assert.Equal(t, link, value[string](ilse, `document.querySelector("section[aria-label=Link] .break-words").innerText`))
	ilse.axe("the sheet of a series")
	ilse.press("Done")
	assert.Contains(t, ilse.settledAs(), "Where: 1 date without a room")

	// Sent as it is it is refused, with the date; both are mended at one press each.
	ilse.press("Send")
	ilse.sees("Map Room is taken on 22 December by Rui Calado.")
	ilse.pressIn("Tue 22 Dec", "use ")
	ilse.shows("Dates", "in Reading Bay")
	ilse.pressIn("Tue 8 Dec", "move to ")
	ilse.shows("Dates", "moved from 8 Dec")
	ilse.holds(`!document.querySelector("footer").innerText.includes("without a room")`)
	ilse.press("Send")
	ilse.sees("People", "e-mail in the mailbox")
	first := ilse.meeting()
	mailboxAgrees(t, ilse, address, title, 1, first)
	assert.Len(t, ilse.heldDates(first), 6)
	ilse.shows("Dates", "moved from 8 Dec", "Reading Bay")
	ilse.axe("the page of a series")

	// One date to another hour: only that one, by the key.
	ilse.press("19 Jan")
	ilse.sees("Tue 19 Jan 2027, 9:30")
	ilse.press("Change")
	ilse.shows("Dates", "Which dates?", "Who hears what")
	ilse.keys("1")
	ilse.write("Starts", "11")
	ilse.keys(kb.Tab)
	ilse.shows("Dates", "19 January", "stays as it is")
	ilse.holds(`[...document.querySelectorAll("section[aria-label=Dates] dd")].some(d => d.innerText === "19 January")`)
	ilse.axe("the bracket")
	ilse.press("Send changes")
	ilse.sees("People", "Tue 19 Jan 2027, 11:00")
	mailboxAgrees(t, ilse, address, title, 2, first)

	// This and later to another hour: the old series ends, the new one keeps the
	// people, the room and the link.
	ilse.press("2 Feb")
	ilse.sees("Tue 2 Feb 2027, 9:30")
	ilse.press("Change")
	ilse.shows("Dates", "Which dates?")
	ilse.keys("2") // from here on
	ilse.write("Starts", "14")
	ilse.keys(kb.Tab)
	ilse.shows("Dates", "the old dates end with 19 January; 2 dates from 2 February at 14:00", "become a series of their own")
	assert.Contains(t, ilse.settledAs(), "Goes to 2 people, 4 messages")
	ilse.press("Send changes")
	ilse.sees("The dates before", "Tue 2 Feb 2027, 14:00")
	second := ilse.meeting()
	require.NotEqual(t, first, second)
	mailboxAgrees(t, ilse, address, title, 4, first, second)
	assert.Contains(t, ilse.says(), strings.ReplaceAll(strings.Split(link, " · ")[1], "\u00a0", " "), "the same link")

	// One date is called off.
	ilse.press("16 Feb")
	ilse.sees("Tue 16 Feb 2027, 14:00")
	ilse.press("Call off…")
	ilse.sees("Which dates?", "The link stays as it is for the other dates.")
	ilse.axe("calling off dates")
	ilse.write("A word to them (optional)", "The kiln is away.")
	ilse.press("Call off 1 date and tell 2 people")
	ilse.shows("Dates", "called off")
	mailboxAgrees(t, ilse, address, title, 5, first, second)

	// The end is near: it is extended, and looked at first.
	ilse.sees("One date is left.")
	ilse.press("Extend…")
	ilse.shows("Dates", "called off", "Who hears what")
	ilse.press("Send changes")
	ilse.sees("People")
	ilse.holds(`document.querySelector("section[aria-label=Dates]").innerText.includes("to come")`)
	mailboxAgrees(t, ilse, address, title, 6, first, second)
	assert.Greater(t, len(ilse.heldDates(second)), 1)

	// The guest answers one date only; Ilse sees to which.
	guest := newPage(t)
	guest.open(fmt.Sprintf("%s/post/messages/%d", running.WorldURL, mails(t, address, title, 6)[5].ID))
	guest.press("Answer")
	guest.sees("Every 2nd Tuesday", "Put it in your calendar")
	guest.axe("the guest page of a series")
	guest.tick("for Tue 2 Feb only")
	guest.press("Decline")
	guest.sees("You declined.")
	ilse.sees("2 Feb: declined")
}

// TestTheBracket is drawn by pointer and by keys, and a date is dragged in Weeks.
func TestTheBracket(t *testing.T) {
	ilse := signIn(t, demo.Ilse)
	ilse.keys("m")
	ilse.write("Title", "Kiln watch")
	ilse.write("Day", "7 dec")
	ilse.write("Starts", "17:15")
	ilse.tick("no room needed")
	ilse.tick("no link needed")
	ilse.press("Let it repeat…")
	ilse.do("say how it ends", selectOption("How the series ends", "for"))
	ilse.write("Number of dates", "5")
	ilse.shows("Repeats", "5 dates")
	ilse.press("Send")
	ilse.sees("Nobody else is invited")
	id := ilse.meeting()

	// From the date that is looked at on; a drag of the right end leaves the last
	// two out, an arrow key one more.
	ilse.press("14 Dec")
	ilse.press("Change")
	ilse.shows("Dates", "Which dates?")
	meant := func(want string) {
		t.Helper()
		ilse.holds(fmt.Sprintf(`[...document.querySelectorAll("section[aria-label=Dates] ol > li")].filter(l => l.innerText.includes("meant")).map(l => l.querySelector("b").innerText.trim().split(" ").slice(0, 2).join(" ")).join(", ") === %q`, want))
	}
	meant("14 Dec")
	ilse.sees("Only Mon 14 Dec")
	ilse.keys("2")
	meant("14 Dec, 21 Dec, 28 Dec, 4 Jan")
	ilse.sees("From Mon 14 Dec on")
	box := func(selector string) (x, y float64) {
		b := value[struct{ X, Y float64 }](ilse, fmt.Sprintf(`(() => { const b = %s.getBoundingClientRect(); return {X: b.left + b.width / 2, Y: b.top + b.height / 2} })()`, selector))
		return b.X, b.Y
	}
	x0, y0 := box(`document.querySelector("[aria-label='Last date meant']")`)
	x1, y1 := box(`[...document.querySelectorAll("section[aria-label=Dates] ol > li")].find(l => l.innerText.includes("28 Dec"))`)
	held := chromedp.MouseOption(func(m *input.DispatchMouseEventParams) { m.Buttons = 1 })
	ilse.do("drag the bracket",
		chromedp.MouseEvent(chromedp.MousePressed, x0, y0, chromedp.ButtonLeft, chromedp.ClickCount(1)),
		chromedp.MouseEvent(chromedp.MouseMoved, (x0+x1)/2, y1, chromedp.ButtonLeft, held),
		chromedp.MouseEvent(chromedp.MouseMoved, x1, y1, chromedp.ButtonLeft, held),
		chromedp.MouseEvent(chromedp.MouseReleased, x1, y1, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	meant("14 Dec, 21 Dec, 28 Dec")
	ilse.focus(`[aria-label='Last date meant']`)
	ilse.keys(kb.ArrowLeft)
	meant("14 Dec, 21 Dec")
	ilse.focus(`[aria-label='First date meant']`)
	ilse.keys(kb.ArrowRight)
	meant("21 Dec")
	ilse.do("let go", chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	ilse.keys("3")
	meant("7 Dec, 14 Dec, 21 Dec, 28 Dec, 4 Jan")
	ilse.keys("1")
	meant("14 Dec")
	ilse.keys("2")
	meant("14 Dec, 21 Dec, 28 Dec, 4 Jan")

	// Three in the middle are moved; the others stay.
	ilse.focus(`[aria-label='Last date meant']`)
	ilse.keys(kb.ArrowLeft)
	meant("14 Dec, 21 Dec, 28 Dec")
	ilse.write("Starts", "8")
	ilse.keys(kb.Tab)
	ilse.sees("Saved as it is written.", "14 Dec 8:00", "28 Dec 8:00")
	ilse.press("Send changes")
	ilse.sees("Nobody else is invited")
	assert.Equal(t, []string{"2026-12-07T17:15:00Z", "2026-12-14T08:00:00Z", "2026-12-21T08:00:00Z", "2026-12-28T08:00:00Z", "2027-01-04T17:15:00Z"}, ilse.heldDates(id))

	// Dragged by an hour in Weeks, a date moves alone at first.
	ilse.open(running.BaseURL + "/weeks?from=2027-01-04")
	ilse.sees("Kiln watch")
	time.Sleep(200 * time.Millisecond) // the marks are placed when the fonts are there
	mark := `section[data-row="2027-01-04"] button[title*="drag to move"]`
	x, y := box(fmt.Sprintf("document.querySelector(%q)", mark))
	hour := value[float64](ilse, `document.querySelector('section[data-row="2027-01-04"] .hour-lines').getBoundingClientRect().width / 12`)
	ilse.do("drag the mark",
		chromedp.MouseEvent(chromedp.MousePressed, x, y, chromedp.ButtonLeft, chromedp.ClickCount(1)),
		chromedp.MouseEvent(chromedp.MouseMoved, x-hour, y, chromedp.ButtonLeft, held),
		chromedp.MouseEvent(chromedp.MouseMoved, x-2*hour, y, chromedp.ButtonLeft, held),
		chromedp.MouseEvent(chromedp.MouseReleased, x-2*hour, y, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	ilse.shows("Dates", "Which dates?", "4 Jan 15:15")
	meant("4 Jan")
	ilse.press("Send changes")
	ilse.sees("Nobody else is invited")
	assert.Contains(t, ilse.heldDates(id), "2027-01-04T15:15:00Z")
}

// TestCallingOffFromADateThatWasHeld means the next one then, not none.
func TestCallingOffFromADateThatWasHeld(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.press("Weekly plan")
	p.press("Open")
	p.sees("People", "11 to come")
	p.press("Call off…")
	p.sees("Call off 1 date and tell 2 people", "The link stays as it is for the other dates.")
	p.keys("3")
	p.sees("Call off 11 dates and tell 2 people", "No date is left then; those held stay as they are.")
	p.press("Keep it")
}
