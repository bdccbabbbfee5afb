package e2e_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
)

const rui = "rui.calado@marrowby.example"

// titled waits until the window's title begins so.
func (p *page) titled(words string) {
	p.t.Helper()
	p.holds(fmt.Sprintf(`document.title.startsWith(%q)`, words))
}

// TestAColleagueHearsWhatIsNew: an invitation weeks ahead, a new time and a cancellation
// with its word are one press from everywhere, and are answered there.
func TestAColleagueHearsWhatIsNew(t *testing.T) {
	person := signIn(t, "sigrid.aune@marrowby.example")
	person.press("New")
	person.sees("Waits for your answer", "What happened")
	if value[bool](person, `document.body.innerText.includes("Mark all as read")`) {
		person.press("Mark all as read")
	}
	person.sees("all read")
	person.titled("New")
	person.press("Weeks")
	person.titled("Week 48")

	ilse := signIn(t, demo.Ilse)
	ilse.keys("m")
	ilse.write("Title", "Glaze samples")
	ilse.write("Day", "12 jan 2027")
	ilse.write("Starts", "12:00")
	ilse.keys(kb.Tab)
	ilse.addPerson("sigrid", "Sigrid Aune")
	ilse.tick("no room needed")
	ilse.tick("no link needed")
	ilse.sees("Goes to Sigrid Aune")
	ilse.press("Send")
	ilse.sees("1 silent")

	person.titled("(1) Week 48")
	person.press("New")
	person.sees("Ilse Marrant asks you to come", "Tue 12 Jan 2027, 12:00 – 13:00")
	person.axe("what is new")
	row := func(words string) string {
		return fmt.Sprintf(`[...document.querySelectorAll("main li")].find(l => l.innerText.includes("Glaze samples") && l.innerText.includes(%q))`, words)
	}
	person.holds(row("asks you") + `.innerText.includes("new")`)
	person.do("answer there", clickOn(row("asks you")+`.querySelector("[role=group] button")`))
	person.holds(`!document.querySelector("section[aria-label='Waits for your answer']").innerText.includes("Glaze samples")`)
	person.titled("New") // looked at, it is read
	ilse.sees("1 accepted")
	ilse.press("New")
	ilse.sees("Sigrid Aune answered: accepted")

	ilse.open(running.BaseURL + "/weeks?from=2027-01-11")
	ilse.press("Glaze samples")
	ilse.press("Open")
	ilse.press("Change")
	ilse.write("Starts", "2pm")
	ilse.keys(kb.Tab)
	ilse.sees("Goes to Sigrid Aune")
	ilse.press("Send changes")
	ilse.sees("What happened", "14:00")
	person.sees("Ilse Marrant changed it", "12:00 – 13:00", "14:00 – 15:00")
	ilse.press("Call off…")
	ilse.write("A word to them (optional)", "The kiln broke")
	ilse.press("Call off and tell 1 person")
	ilse.sees("This meeting has been called off.")
	ilse.lacks("Calendar file")
	person.sees("called it off", "“The kiln broke”")
	person.lacks("asks you to come “") // nothing of it waits any more
	person.holds(`!document.querySelector("section[aria-label='Waits for your answer']").innerText.includes("Glaze samples")`)
	person.do("open it", clickOn(row("called it off")+`.querySelector("a")`))
	person.sees("This meeting has been called off.", "Glaze samples")
}

// TestManyTabsOfOneBrowser: they share one stream, each is told, and whoever holds it lets
// go when it is closed.
func TestManyTabsOfOneBrowser(t *testing.T) {
	streams := func() int { return running.Program.Streams() }
	before := streams()
	first := signIn(t, demo.Ilse)
	tabs := []*page{first}
	for range 8 {
		tab := first.second()
		tab.open(running.BaseURL + "/weeks")
		tab.sees("Week 48", "Crate sizes, loan 14")
		tabs = append(tabs, tab)
	}
	assert.LessOrEqual(t, streams(), before+1, "one of all these")
	// Back and forth, a hundred pages on.
	for range 10 {
		tabs[3].open(running.BaseURL + "/account")
		tabs[3].sees("Password")
		tabs[3].open(running.BaseURL + "/weeks")
		tabs[3].sees("Week 48")
	}
	assert.LessOrEqual(t, streams(), before+1)
	told := func(p *page, title string) {
		t.Helper()
		start := time.Now()
		p.sees(title)
		assert.Less(t, time.Since(start), patience)
	}
	last := tabs[len(tabs)-1]
	last.keys("m")
	last.write("Title", "Told to every tab")
	last.sees("Saved as it is written.")
	last.open(running.BaseURL + "/weeks")
	for _, tab := range tabs[:len(tabs)-1] {
		told(tab, "Told to every tab")
	}
	// The one that holds the stream goes; another takes over.
	first.open("about:blank")
	last.press("Told to every tab")
	last.write("Title", "And still told")
	last.sees("Saved as it is written.")
	told(tabs[1], "And still told")
	last.press("Throw this sheet away")
	last.press("Throw away")
}

// TestSignedOutInAnotherTab: the sheet asks for the sign-in and is as it was after it.
func TestSignedOutInAnotherTab(t *testing.T) {
	p := signIn(t, rui)
	p.keys("m")
	p.write("Title", "Kept over the sign-in")
	p.sees("Saved as it is written.")
	other := p.second()
	other.open(running.BaseURL + "/weeks")
	other.press("Rui Calado")
	other.press("Sign out")
	other.sees("Password")
	p.sees("Sign in")
	p.write("E-mail address", rui)
	p.write("Password", demo.Password)
	p.press("Sign in")
	p.holds(`document.querySelector("input[aria-label=Title]")?.value === "Kept over the sign-in"`)
	other.sees("Loose ends") // and the other one is signed in as well

	// What is written in the moment in which somebody signs out elsewhere is not lost. One
	// task, so that the window cannot hear of it in between.
	p.holds(`!!document.querySelector("textarea[aria-label=Text]")`)
	value[int](p, `(() => { const r = new XMLHttpRequest(); r.open("DELETE", "/api/session", false); r.send();
		const text = document.querySelector("textarea[aria-label=Text]");
		Object.getOwnPropertyDescriptor(HTMLTextAreaElement.prototype, "value").set.call(text, "Written after the sign-out");
		text.dispatchEvent(new Event("input", {bubbles: true})); return r.status })()`)
	p.holds(`location.pathname === "/sign-in"`)
	p.write("E-mail address", rui)
	p.write("Password", demo.Password)
	p.press("Sign in")
	p.holds(`document.querySelector("textarea[aria-label=Text]")?.value === "Written after the sign-out"`)
	p.sees("Saved as it is written.")
	p.press("Throw this sheet away")
	p.press("Throw away")
}

// TestASilentServerIsSaid after two seconds, with what is kept, and that it is over.
func TestASilentServerIsSaid(t *testing.T) {
	w := newWay(t)
	p := signInAt(t, w.url, rui)
	p.keys("m")
	p.write("Title", "Patience")
	p.sees("Saved as it is written.")
	letGo := w.hold()
	p.write("Title", "Patience is a room")
	p.sees("Jembro has not answered for two seconds.", "kept in this window")
	letGo()
	p.lacks("has not answered")
	p.sees("Saved as it is written.")
	w.breakOff()
	p.write("Title", "Patience is a room with no door")
	p.sees("Jembro does not answer.", "Not saved.")
	w.mend()
	p.lacks("does not answer")
	p.sees("Saved as it is written.")
	require.True(t, strings.HasSuffix(value[string](p, `document.querySelector("input[aria-label=Title]").value`), "with no door"))
	p.press("Throw this sheet away")
	p.press("Throw away")
}
