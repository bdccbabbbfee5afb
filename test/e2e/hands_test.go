package e2e_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/demo"
	"jembro/internal/schedule"
)

// lasts waits until the sheet says that it lasts so long.
func (p *page) lasts(words string) {
	p.t.Helper()
	p.holds(fmt.Sprintf(`document.querySelector("input[aria-label=Length]").value === %q`, words))
}

// whenIs is what stands in the fields for the time.
func (p *page) whenIs() string {
	return value[string](p, `[...document.querySelectorAll("section[aria-label=When] input")].slice(0, 3).map(e => e.value).join(" ")`)
}

// paste puts text into the field that has the focus as a hand does.
func (p *page) paste(text string) {
	p.t.Helper()
	value[bool](p, fmt.Sprintf(`(() => { const d = new DataTransfer(); d.setData("text", %q);
		document.activeElement.dispatchEvent(new ClipboardEvent("paste", {clipboardData: d, bubbles: true, cancelable: true})); return true })()`, text))
}

func (p *page) throwAway() {
	p.t.Helper()
	p.press("Throw this sheet away")
	p.press("Throw away")
	p.sees("Week ")
}

// TestWhatIsTypedAsPeopleCounts: a name that was typed and not chosen, a list pasted, an
// address of a room and one's own.
func TestWhatIsTypedAsPeopleCounts(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.keys("m")
	p.write("Title", "Typed and not chosen")
	p.write("Day", "2 mar 2027")
	p.keys(kb.Tab)
	p.tick("no link needed")
	p.tick("no room needed")
	p.write("Add a person", "Lázaro Pin")
	p.asked(func() {
		p.keys("\r", chromedp.ModifierCtrl) // Send, while the name stands in the field
		p.sees("People", "1 silent", "Lázaro Pinho")
	})
	assert.Empty(t, value[[]string](p, `performance.getEntriesByType("resource").filter(e => e.responseStatus >= 400).map(e => e.name)`), "nothing is asked about the sheet that is gone")

	p.keys("m")
	p.write("Title", "A list")
	p.write("Day", "2 mar 2027")
	p.write("Add a person", "")
	p.paste("Tomé Akande\n\"Calado, R.\" <rui.calado@marrowby.example>; mailto:list@kirisame.example\nloft.studio@rooms.marrowby.example\n" + demo.Ilse + "\nOnari")
	p.sees("Loft Studio is taken as the room", "You organise it and need no invitation")
	p.holds(`[...document.querySelectorAll("ul[aria-label=People] li")].length === 4`)
	p.write("Add a person", "to")
	p.keys(kb.Tab)
	p.sees("“to” could be")
	p.press("Send")
	p.sees("Who: say who is meant")
	p.do("say who", clickOn(`[...document.querySelectorAll("ul[aria-label='Who is meant'] button")].find(b => b.innerText.includes("Hanna Tomic"))`))
	p.holds(`[...document.querySelectorAll("ul[aria-label=People] li")].some(l => l.innerText.includes("Hanna Tomic"))`)
	p.sees("Goes to 5 people (2 outside)")
	p.throwAway()
}

// TestTimesAreReadWhileTheyAreTyped and become part of the sheet when their field is left;
// what cannot be read stays, also over a reload.
func TestTimesAreReadWhileTheyAreTyped(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.keys("m")
	p.write("Title", "Typed as people type")
	p.write("Starts", "12:00")
	p.write("Day", "next tue")
	p.sees("Tue 1 Dec 2026, 12:00 – 13:00, 1 h")
	p.write("Starts", "2pm")
	p.sees("Tue 1 Dec 2026, 14:00 – 15:00, 1 h")
	p.holds(`document.querySelector("input[aria-label=Day]").value === "Tue 1 Dec"`)
	p.write("Ends", "for 1 h 30")
	p.sees("14:00 – 15:30, 1 h 30")
	p.keys(kb.Tab)
	p.holds(`document.querySelector("input[aria-label=Ends]").value === "15:30"`)
	p.write("Starts", "+45")
	p.keys(kb.Enter)
	p.holds(`document.querySelector("input[aria-label=Starts]").value === "14:45"`)
	assert.Equal(t, "Tue 1 Dec 14:45 16:15", p.whenIs())

	p.write("Ends", "when it is done")
	p.keys(kb.Tab)
	p.sees("“when it is done” is no time.")
	p.sees("Saved as it is written.")
	p.open(value[string](p, `location.href`))
	p.holds(`document.querySelector("input[aria-label=Ends]")?.value === "when it is done"`)
	p.sees("“when it is done” is no time.", "Rooms that fit")
	p.do("come back to the field", chromedp.Focus(field("Ends")))
	assert.Equal(t, "when it is done", value[string](p, `getSelection().toString()`), "its content is selected")
	p.keys(kb.Escape)
	p.holds(`document.querySelector("input[aria-label=Ends]").value === "16:15"`)

	// The end that jumps a day, and the one that only seems to.
	p.write("Starts", "23:00")
	p.keys(kb.Tab)
	p.write("Ends", "0:30")
	p.keys(kb.Tab)
	p.lasts("1 h 30")
	p.sees("ends on")
	p.write("Ends", "23:45")
	p.keys(kb.Tab)
	p.lasts("45 min")
	p.lacks("ends on")
	p.write("Ends", "2 dec 23:45")
	p.keys(kb.Tab)
	p.sees("This lasts 24 h 45.")
	p.press("Use it")
	p.lacks("This lasts")

	// The nights on which the clocks are changed.
	p.write("Day", "28 mar 2027")
	p.write("Starts", "0:30")
	p.write("Ends", "2:30")
	p.keys(kb.Tab)
	p.lasts("1 h")
	p.sees("On 28 Mar clocks in Lisbon go forward, from 1:00 to 2:00.")
	p.write("Starts", "1:30")
	p.write("Ends", "2:00")
	p.keys(kb.Tab)
	p.sees("1:30 is not on the clock that night, so it starts at 2:30")
	p.sees("Rooms that fit")
	p.throwAway()
}

// TestWeeksOverMidnight: rows say from when and until when, and the hours grow only where
// something begins or ends.
func TestWeeksOverMidnight(t *testing.T) {
	p := signIn(t, demo.Ilse)
	for _, m := range []struct{ title, start, end string }{{"Night watch at the lantern house", "2027-05-03T23:00", "2027-05-04T02:30"}, {"Fair in Rotterdam", "2027-05-05T15:00", "2027-05-07T11:00"},
		{strings.Repeat("A title that goes on and on ", 7), "2027-05-08T17:00", "2027-05-08T18:00"}} {
		me, err := whoIs(t, demo.Ilse)
		require.NoError(t, err)
		sheetsOf := running.Program.Deeds.Sheets
		s, err := sheetsOf.OpenSheet(t.Context(), schedule.Self(me), m.start, m.end)
		require.NoError(t, err)
		d := s.Draft
		d.Title, d.NoRoom, d.NoLink, d.LongMeant = m.title, true, true, 44*60
		s, _, err = sheetsOf.SaveSheet(t.Context(), schedule.Self(me), s.ID, s.Version, d, "")
		require.NoError(t, err)
		_, err = sheetsOf.Send(t.Context(), schedule.Self(me), s.ID, s.Version, s.ID.String())
		require.NoError(t, err)
	}
	p.open(running.BaseURL + "/weeks?from=2027-05-03")
	p.sees("3 – 9 May 2027", "Night watch")
	row := func(day, words string) {
		t.Helper()
		p.holds(fmt.Sprintf(`document.querySelector("section[aria-label='%s']").innerText.replaceAll("\n", " ").includes(%q)`, day, words))
	}
	row("Monday 3 May", "23:00 Night watch")
	row("Tuesday 4 May", "until 2:30 Night watch")
	row("Wednesday 5 May", "15:00 Fair")
	row("Thursday 6 May", "from Wed 15:00 Fair")
	row("Friday 7 May", "until 11:00 Fair")
	hours := value[string](p, `[...document.querySelectorAll("main [aria-hidden] > span.absolute")].map(e => e.innerText).join(" ")`)
	assert.Equal(t, "8 9 10 11 12 13 14 15 16 17 18 19 20 21 22 23", hours)
	assert.LessOrEqual(t, value[int](p, `document.documentElement.scrollWidth`), 1280, "a long title widens nothing")

	p.open(running.BaseURL + "/weeks?from=9999-12-31")
	p.sees("lies outside the years 1900 to 2199", "Go to this week")
	p.press("Go to this week")
	p.sees("Crate sizes, loan 14")
}

// TestASheetBeginsAtOnce: the letters after the key are its title, and a look leaves
// nothing.
func TestASheetBeginsAtOnce(t *testing.T) {
	p := signIn(t, "marta.quental@marrowby.example")
	p.sees("Week 48")
	p.rests() // until all is there
	value[bool](p, `(() => { document.body.dispatchEvent(new KeyboardEvent("keydown", {key: "m", bubbles: true}));
		requestAnimationFrame(() => { window.inTheFirstFrame = !!document.querySelector("input[aria-label=Title]") }); return true })()`)
	p.holds(`window.inTheFirstFrame !== undefined`)
	assert.True(t, value[bool](p, `window.inTheFirstFrame`), "the sheet is there with the first picture after the key")
	p.open(running.BaseURL + "/weeks")
	p.sees("Week 48")
	requests := p.asked(func() {
		p.keys("mWeaving room, new floor")
		assert.True(t, value[bool](p, `location.pathname.startsWith("/sheet/")`))
		p.sees("Saved as it is written.")
	})
	assert.Equal(t, "Weaving room, new floor", value[string](p, `document.querySelector("input[aria-label=Title]").value`))
	saves := 0
	for _, r := range requests {
		if strings.Contains(r, "/api/sheets/") {
			saves++
		}
	}
	assert.Equal(t, 1, saves, "one save for all letters: %v", requests)
	p.sees("Saved as it is written.")
	p.open(running.BaseURL + "/weeks")
	p.sees("Not sent yet: Weaving room, new floor")
	p.keys("m")
	p.sees("Kept from the first thing you write.")
	p.do("go back", chromedp.Evaluate[chromedp.Void](`history.back()`))
	p.sees("Not sent yet: Weaving room, new floor")
	p.lacks("untitled")
	p.keys("m")
	p.sees("Kept from the first thing you write.")
	p.open(value[string](p, `location.href`))
	p.sees("Kept from the first thing you write.") // a reload begins it again

	marta := schedule.Self(personOf(t, "marta.quental@marrowby.example").ID)
	for i := range 12 {
		s, err := running.Program.Deeds.Sheets.OpenSheet(t.Context(), marta, "2026-12-17T09:30", "2026-12-17T10:30")
		require.NoError(t, err)
		s.Draft.Title = fmt.Sprintf("Draft %d", i)
		_, _, err = running.Program.Deeds.Sheets.SaveSheet(t.Context(), marta, s.ID, s.Version, s.Draft, "")
		require.NoError(t, err)
	}
	p.open(running.BaseURL + "/weeks")
	p.press("all of them")
	p.sees("Draft 0", "Draft 11", "Weaving room, new floor", "2026", "nobody else")
	p.axe("all drafts")
	p.tick("all of them")
	p.press("Throw 13 away")
	p.sees("Everything is sent or thrown away.")
}

// TestRoomsAreChosenByArrowKeys: the list keeps its order meanwhile.
func TestRoomsAreChosenByArrowKeys(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.keys("m")
	p.write("Title", "By arrow keys")
	p.write("Day", "3 mar 2027")
	p.keys(kb.Tab)
	p.sees("Rooms that fit", "Wednesday 3 March")
	order := func() string {
		return value[string](p, `[...document.querySelectorAll("input[name=room]")].map(e => e.closest("label").querySelector("span").innerText).join(",")`)
	}
	p.rests()
	before := order()
	p.do("go to the rooms", chromedp.Focus(chromedp.CSS("input[name=room]")))
	for range 4 {
		p.keys(kb.ArrowDown)
		p.rests()
	}
	names := strings.Split(before, ",")
	p.holds(fmt.Sprintf(`document.querySelector("section[aria-label=Where]").innerText.includes(%q)`, names[4]))
	assert.Equal(t, before, order())
	p.throwAway()
}

// TestMeetingsAreFound by words, people and months, and dates are jumped to.
func TestMeetingsAreFound(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.keys("f")
	p.write("Find", "condition hanna")
	p.sees("Lacquer loan, condition notes", "Mon 23 Nov 2026, 11:00")
	p.axe("finding")
	p.keys(kb.Enter)
	p.sees("Hanna Tomic asks you to come.")
	p.keys("f")
	p.write("Find", "week 12")
	p.sees("Go to the week of Mon 22 Mar 2027")
	p.keys(kb.Enter)
	p.sees("Week 12", "22 – 28 March 2027")
	p.keys("t")
	p.sees("Week 48")
	p.press("Month")
	p.sees("November 2026")
	p.axe("a month at a glance")
	p.press("Month after")
	p.press("Week of Monday 14 December 2026")
	p.sees("Week 51")
	// What is news meanwhile may have it looked at again, but not at every week.
	var again []string
	for _, week := range []struct{ name, first string }{{"Week 52", "2026-12-21"}, {"Week 53", "2026-12-28"}, {"Week 1", "2027-01-04"}} {
		p.rests()
		for _, r := range p.asked(func() { p.press("Week after"); p.sees(week.name) }) {
			if strings.Contains(r, "/weeks?from="+week.first) {
				again = append(again, r)
			}
		}
	}
	assert.Less(t, len(again), 3, "the next week was there before it was asked for")
	p.keys("f")
	p.write("Find", "zzzz qqqq")
	p.sees("Nothing of that name.")
}

// TestWithTheKeyboardAlone: from the sign-in through a meeting with people, room and link
// to an answer, with at most sixty presses besides what is typed.
func TestWithTheKeyboardAlone(t *testing.T) {
	pressed := 0
	var p *page
	press := func(keys string, modifiers ...chromedp.Modifier) {
		t.Helper()
		pressed++
		p.keys(keys, modifiers...)
	}
	typed := func(text string) { p.keys(text) }
	on := func(name string) {
		t.Helper()
		p.holds(fmt.Sprintf(`document.activeElement?.getAttribute("aria-label") === %[1]q || document.activeElement?.innerText?.includes(%[1]q)`, name))
	}
	enter := func(who string) {
		t.Helper()
		p = newPage(t)
		p.open(running.BaseURL)
		p.holds(`document.activeElement?.id === "email"`)
		typed(who)
		press(kb.Tab)
		typed(demo.Password)
		press(kb.Enter)
		p.sees("Loose ends")
	}
	enter(demo.Ilse)
	press("m")
	on("Title")
	typed("By keyboard alone")
	press(kb.Tab)
	on("Day")
	typed("4 mar 2027")
	press(kb.Tab)
	on("Starts")
	typed("2pm")
	press(kb.Tab)
	on("Ends")
	typed("45 min")
	press(kb.ArrowDown, chromedp.ModifierCtrl)
	on("Add a person")
	typed("gil tav")
	p.sees("Gil Tavares")
	press(kb.Enter)
	typed("keys@kirisame.example")
	p.sees("invite keys@kirisame.example by mail")
	press(kb.Enter)
	p.sees("Goes to Gil Tavares, keys@kirisame.example (outside)", "Thursday 4 March")
	press(kb.ArrowDown, chromedp.ModifierCtrl) // from people to rooms in one
	p.holds(`document.activeElement?.name === "room"`)
	press(" ")
	p.sees("Give back")
	press(kb.ArrowDown, chromedp.ModifierCtrl)
	on("Make a link at Ostrel")
	press(kb.Enter)
	p.holds(`document.body.innerText.includes("Let Jembro make gatherings") || !!document.querySelector("section[aria-label=Link] .border-l-fig")`)
	if value[bool](p, `document.body.innerText.includes("Let Jembro make gatherings")`) {
		for !value[bool](p, `document.activeElement?.innerText === "Allow" || document.activeElement?.value === "allow"`) {
			press(kb.Tab)
			require.Less(t, pressed, 60)
		}
		press(kb.Enter)
	}
	p.holds(`!!document.querySelector("section[aria-label=Link] .border-l-fig")`)
	press(kb.Enter, chromedp.ModifierCtrl)
	p.sees("By keyboard alone", "2 silent")

	enter("gil.tavares@marrowby.example")
	press("n")
	p.sees("By keyboard alone", "Ilse Marrant asks you to come")
	for !value[bool](p, `document.activeElement?.innerText === "Accept" && document.activeElement.closest("li").innerText.includes("By keyboard alone")`) {
		press(kb.Tab)
		require.Less(t, pressed, 60)
	}
	press(kb.Enter)
	p.holds(`!document.querySelector("section[aria-label='Waits for your answer']").innerText.includes("By keyboard alone")`)
	t.Logf("%d presses besides what is typed", pressed)
	assert.LessOrEqual(t, pressed, 60)
}

// TestThePanelOfWeeksByKeys: Enter goes into it, Escape back to the meeting, and then it
// closes.
func TestThePanelOfWeeksByKeys(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.sees("Crate sizes, loan 14")
	mark := `[...document.querySelectorAll("[data-mark]")].find(m => m.innerText.includes("Crate sizes, loan 14"))`
	value[bool](p, `(`+mark+`.focus(), true)`)
	p.keys(kb.Enter)
	p.holds(`document.activeElement?.getAttribute("aria-label") === "Chosen meeting"`)
	p.sees("Join card")
	p.keys(kb.Escape)
	p.holds(`document.activeElement === ` + mark)
	p.keys(kb.Escape)
	p.holds(`!document.querySelector("aside")`)
}

// TestThirtyPeople: the line of what fits, rooms, link and text stay in sight.
func TestThirtyPeople(t *testing.T) {
	me, err := whoIs(t, demo.Ilse)
	require.NoError(t, err)
	sheetsOf := running.Program.Deeds.Sheets
	s, err := sheetsOf.OpenSheet(t.Context(), schedule.Self(me), "2027-01-13T09:30", "2027-01-13T10:30")
	require.NoError(t, err)
	for i := range 30 {
		s.Draft.People = append(s.Draft.People, meeting.DraftPerson{Name: fmt.Sprintf("Volunteer %d", i+1), Email: fmt.Sprintf("v%d@njoro.example", i+1), Needed: true})
	}
	s.Draft.Title = "Thirty people"
	s, _, err = sheetsOf.SaveSheet(t.Context(), schedule.Self(me), s.ID, s.Version, s.Draft, "")
	require.NoError(t, err)
	p := withSession(t, running.BaseURL, demo.Ilse)
	p.open(running.BaseURL + "/sheet/" + s.ID.String())
	p.sees("All 30 people", "more people are clear then")
	inSight := func(selector string) {
		t.Helper()
		p.holds(fmt.Sprintf(`(() => { const b = document.querySelector(%q)?.getBoundingClientRect(); return !!b && b.top >= 0 && b.bottom <= innerHeight - 56 })()`, selector))
	}
	for _, part := range []string{"section[aria-label=Where]", "section[aria-label=Link]", "textarea[aria-label=Text]", "input[name=room]"} {
		inSight(part)
	}
	p.press("All 30 people")
	p.sees("Volunteer 1", "Volunteer 30")
	p.throwAway()
}

// TestOnAPhone: everything fits the width of 390 pixels, and at 200 % of 1280.
func TestOnAPhone(t *testing.T) {
	ilse := signIn(t, demo.Ilse)
	guestOf(t, ilse, "On a narrow screen with a title that is longer than the screen is wide", "narrow@kirisame.example")
	id := ilse.meeting()
	mail := mails(t, "narrow@kirisame.example", "On a narrow screen", 1)[0]
	link := ""
	for _, l := range strings.Fields(mail.Text) {
		if strings.Contains(l, "/guest/") {
			link = l
		}
	}
	require.NotEmpty(t, link)
	for _, size := range [][2]int64{{390, 844}, {640, 400}} {
		p := ilse
		p.do("make it narrow", chromedp.EmulateViewport(size[0], size[1]))
		for _, view := range []struct{ path, sees string }{{"/weeks", "Week 48"}, {"/weeks?from=2026-12-14", "On a narrow"}, {"/new", "What happened"}, {"/drafts", "Not sent yet"},
			{"/meeting/" + id, "What happened"}, {"/account", "Password"}} {
			p.open(running.BaseURL + view.path)
			p.sees(view.sees)
			p.fits(view.path, size[0])
			p.axe(fmt.Sprintf("%s at %d", view.path, size[0]))
		}
		p.open(running.BaseURL + "/weeks")
		p.sees("Week 48")
		p.keys("m")
		p.write("Title", "On a phone")
		p.sees("Rooms that fit", "Saved as it is written.")
		p.fits("the sheet", size[0])
		if size[0] == 390 {
			assert.LessOrEqual(t, value[float64](p, `document.querySelector("footer").getBoundingClientRect().height`), 84.4, "a tenth of the height")
		}
		p.axe(fmt.Sprintf("the sheet at %d", size[0]))
		p.throwAway()
		p.open(link)
		p.sees("Put it in your calendar")
		p.fits("the guest page", size[0])
		p.axe(fmt.Sprintf("the guest page at %d", size[0]))
	}
}

// fits holds the page against the width of the window.
func (p *page) fits(what string, width int64) {
	p.t.Helper()
	wide := value[[]string](p, fmt.Sprintf(`document.documentElement.scrollWidth <= %[1]d ? [] : [...document.querySelectorAll("body *")].filter(e => e.getBoundingClientRect().right > %[1]d + 1).map(e => e.tagName + " " + e.className + " " + e.innerText?.slice(0, 40)).slice(-4)`, width))
	assert.Empty(p.t, wide, "%s at %d", what, width)
}

// TestTheDirectoryIsAskedAfterAPause, and not where those who match are among those known.
func TestTheDirectoryIsAskedAfterAPause(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.keys("mDirectory")
	p.sees("Saved as it is written.")
	p.focus(`input[aria-label="Add a person"]`)
	directory := func(requests []string) (n int) {
		for _, r := range requests {
			if strings.Contains(r, "/api/directory") {
				n++
			}
		}
		return n
	}
	requests := p.asked(func() { p.keys("tava"); p.sees("Gil Tavares") })
	assert.Equal(t, 1, directory(requests), "%v", requests)
	requests = p.asked(func() { p.keys("res"); time.Sleep(time.Second); p.sees("Gil Tavares") })
	assert.Zero(t, directory(requests), "%v", requests)
	p.throwAway()
}

// TestOnTheWayThroughASheet: the foot leads to its parts, arrow keys move the time from
// anywhere, the invitation is sent from where it is looked at, and addresses in a text can
// be pressed.
func TestOnTheWayThroughASheet(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.keys("mOn the way")
	p.write("Day", "9 mar 2027")
	p.write("Starts", "9")
	p.keys(kb.Tab)
	p.sees("Tuesday 9 March 2027")
	p.press("Who: only you")
	p.holds(`document.activeElement?.getAttribute("aria-label") === "Add a person"`)
	p.press("Where: no room yet")
	p.holds(`document.activeElement?.name === "room"`)
	p.press("Link: none yet")
	p.holds(`document.activeElement?.innerText?.includes("Make a link")`)
	p.keys(kb.ArrowRight)
	p.holds(`document.querySelector("input[aria-label=Starts]").value === "9:15"`)
	p.keys(kb.ArrowRight, chromedp.ModifierShift)
	p.lasts("1 h 15")
	p.keys(kb.PageDown)
	p.sees("Wednesday 10 March 2027")
	p.write("Text", "See https://kirisame.example/log, please.")
	p.keys(kb.ArrowLeft) // in a field it moves the cursor
	p.addPerson("gil tav", "Gil Tavares")
	p.tick("no room needed")
	p.tick("no link needed")
	p.press("See the invitation")
	p.sees("What each person will get", "Gil Tavares")
	p.axe("what each person will get")
	p.do("send it from there", clickOn(`[...document.querySelectorAll("[role=dialog] button")].find(b => b.innerText.startsWith("Send"))`))
	p.sees("1 silent", "9:15 – 10:30")
	p.holds(`document.querySelector("main a[href='https://kirisame.example/log']")?.rel === "noreferrer"`)
	p.press("Ilse Marrant")
	p.press("What the shapes mean")
	p.sees("yours, somebody was not reached", "outside working hours")
	p.axe("what the shapes mean")
	p.keys(kb.Escape)
	p.keys("?")
	p.sees("the next part, the part before")
	p.axe("the keys")
}

// TestThroughAnOpening: from the names to a sent meeting in at most four presses.
func TestThroughAnOpening(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.keys("mThrough an opening")
	p.addPerson("tome", "Tomé Akande")
	p.addPerson("gil tav", "Gil Tavares")
	p.sees("Openings", "All 3 needed")
	p.axe("openings")
	p.do("take the best", clickOn(`document.querySelector("section[aria-label=Openings] li button")`)) // 1
	best := value[string](p, `document.querySelector("section[aria-label=Openings] li button b").innerText`)
	p.holds(`document.querySelector("section[aria-label=Openings] li button").getAttribute("aria-pressed") === "true"`)
	p.sees("Give back")
	p.tick("no link needed") // 2
	p.sees("Goes to Tomé Akande, Gil Tavares; books")
	p.press("Send") // 3
	p.sees("2 silent", "booked", best)

	// By key, the next and the one before.
	p.keys("mBy key")
	p.addPerson("tome", "Tomé Akande")
	p.sees("Openings", "All 2 needed")
	p.holds(fmt.Sprintf(`document.querySelector("section[aria-label=Openings] li button b").innerText !== %q`, best)) // that is taken now
	value[bool](p, `(document.activeElement.blur(), true)`)
	chosen := func(n int) {
		t.Helper()
		p.holds(fmt.Sprintf(`[...document.querySelectorAll("section[aria-label=Openings] li button")].findIndex(b => b.getAttribute("aria-pressed") === "true") === %d`, n))
	}
	p.keys("o")
	chosen(0)
	p.keys("o")
	chosen(1)
	p.keys("O", chromedp.ModifierShift)
	chosen(0)
	p.throwAway()
}

// TestSignInGoesOnce: a window does not hear itself that it signed in, and from "/" there is a way whatever comes when.
func TestSignInGoesOnce(t *testing.T) {
	p := newPage(t)
	p.open(running.BaseURL)
	p.write("E-mail address", demo.Ilse)
	p.write("Password", demo.Password)
	requests := p.asked(func() {
		p.press("Sign in")
		p.sees("Tuesday 24 November", "Loose ends")
	})
	for _, r := range requests {
		assert.False(t, strings.HasSuffix(r, "/api/me"), "who signed in is known")
	}
	assert.NotEmpty(t, requests)
	for range 3 {
		p.open(running.BaseURL)
		p.sees("Tuesday 24 November", "Loose ends")
		p.holds(`location.pathname === "/today"`)
	}
}

// TestFromARoom: a room first, then who comes; by the pointer and by the keyboard.
func TestFromARoom(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.keys("r")
	p.sees("Rooms", "clear now", "Map Room", "Main building")
	p.axe("rooms")
	p.do("tomorrow", chromedp.Navigate(running.BaseURL+"/rooms?day="+time.Now().AddDate(0, 0, 6).Format(time.DateOnly)))
	p.drag(`section[aria-label="Rope Loft"] .cursor-crosshair`, 0.71, 0.79, 0.5)
	p.holds(`!!document.querySelector("input[aria-label=Title]")`)
	p.sees("Rope Loft", "Give back")
	p.throwAway()

	// The keyboard alone: the room's own "meet at", who comes, Send.
	p.keys("wr")
	p.sees("Rooms", "clear now")
	p.keys(kb.ArrowRight)
	p.holds(`location.search.startsWith("?day=")`)
	p.lacks("clear now")
	p.holds(`!!document.querySelector("section[aria-label='Print Cabinet'] button")`)
	value[bool](p, `([...document.querySelectorAll("section[aria-label='Print Cabinet'] button")].find(b => b.innerText.startsWith("meet at")).focus(), true)`)
	p.keys(kb.Enter)
	p.holds(`!!document.querySelector("input[aria-label=Title]")`)
	p.sees("Print Cabinet", "Give back")
	p.write("Title", "From a room")
	p.addPerson("tome", "Tomé Akande")
	p.tick("no link needed")
	p.sees("Goes to Tomé Akande; books Print Cabinet")
	p.press("Send")
	p.sees("1 silent", "booked")

	// What fits, kept in the address.
	p.open(running.BaseURL + "/rooms")
	p.write("Seats", "1000")
	p.sees("No room has all of that.")
	p.holds(`location.search.includes("seats=1000")`)
	p.axe("no room")
}
