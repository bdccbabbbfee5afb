package e2e_test

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
	"jembro/internal/standin"
)

// axe finds what keeps people with disabilities from using the page (WCAG 2.2
// A and AA, and axe's best practices).
func (p *page) axe(what string) {
	p.t.Helper()
	if !value[bool](p, `!!window.axe`) {
		source, err := os.ReadFile("../../web/node_modules/axe-core/axe.min.js")
		require.NoError(p.t, err)
		p.do("load axe", chromedp.Evaluate[chromedp.Void](string(source)))
	}
	p.do("run axe", chromedp.Evaluate[chromedp.Void](`window.__axe = null; axe.run(document, {iframes: false, resultTypes: ["violations"]}).then(r => { window.__axe = r.violations.map(v => v.id + ": " + v.help + "\n" + v.nodes.map(n => "  " + n.target + " " + n.failureSummary).join("\n")).join("\n") }); undefined`))
	p.holds(`window.__axe !== null`)
	assert.Empty(p.t, value[string](p, `window.__axe`), "axe on %s", what)
	p.reaches(what)
}

// reaches checks that the pointer gets at every control of the page: that none lies
// under something else but an open list.
func (p *page) reaches(what string) {
	p.t.Helper()
	assert.Empty(p.t, value[string](p, `(() => {
		const within = document.querySelector("[role=dialog]") ?? document;
		const scrolled = window.scrollY, covered = [];
		for (const e of within.querySelectorAll("button, select, input, textarea, a[href]")) {
			if (e.disabled || !e.checkVisibility({visibilityProperty: true}) || e.closest("[inert], .sr-only")) continue;
			e.scrollIntoView({block: "center", behavior: "instant"});
			const b = e.getBoundingClientRect();
			if (b.width < 4 || b.height < 4) continue;
			const on = document.elementFromPoint(b.left + b.width / 2, b.top + b.height / 2);
			if (on !== e && !e.contains(on) && !on?.closest("label")?.contains(e) && !on?.closest("[role=listbox]"))
				covered.push((e.ariaLabel ?? e.innerText ?? e.id) + " lies under " + on?.outerHTML.slice(0, 200));
		}
		window.scrollTo(0, scrolled);
		return covered.join("\n");
	})()`), "covered on %s", what)
}

// sound holds what is shown against axe at 200 % of 1280 by 800, on a phone and at 1280 by 800, and that
// nothing is wider than the window.
func (p *page) sound(what string) {
	p.t.Helper()
	for _, size := range [][2]int64{{640, 400}, {390, 844}, {1280, 800}} {
		p.do("make it so wide", chromedp.EmulateViewport(size[0], size[1]))
		p.holds(fmt.Sprintf(`innerWidth === %d`, size[0]))
		p.axe(fmt.Sprintf("%s at %d", what, size[0]))
		p.fits(what, size[0])
	}
}

// TestAxeFindsNoViolation in any view, in three sizes.
func TestAxeFindsNoViolation(t *testing.T) {
	const about = "Varnish tests"
	p := newPage(t)
	p.open(running.BaseURL + "/sign-in")
	p.sees("Sign in")
	p.sound("sign-in")
	p = signIn(t, demo.Ilse)
	p.pressMark("Crate sizes, loan 14")
	p.sees("People")
	p.sound("Weeks")
	p.press("Open")
	p.sees("What happened")
	p.sound("the meeting page")
	p.press("Call off…")
	p.sees("hear of it now")
	p.sound("calling off")
	p.press("Keep it")
	p.press("Change")
	p.sees("Rooms that fit", "Saved as it is written.")
	p.sound("the sheet")
	p.write("Add a person", "tom")
	p.sees("Hanna Tomic")
	p.sound("the sheet, choosing from a list")
	p.write("Title", "")
	p.write("Ends", "8")
	p.keys(kb.Tab)
	p.sees("Ends before it starts.")
	p.sound("the sheet with faults")
	p.press("Throw these changes away")
	p.press("Throw away")
	p.sees("Week 48")

	ilse := signIn(t, demo.Ilse)
	guestOf(t, ilse, about, "axe@kirisame.example")
	ilse.press("Change")
	ilse.sees("Fits")
	ilse.write("Title", "Varnish tests again")
	ilse.press("Let it repeat…")
	ilse.sees("Every")
	ilse.sound("a repetition")
	ilse.press("Only once")
	ilse.press("Other calls")
	ilse.sees("Where the call is", "At the door")
	ilse.sound("where the call is")
	ilse.press("Other calls")
	ilse.press("See the invitation")
	ilse.sees("What each person will get", "Changed: Varnish tests again", "Close")
	ilse.holds(`!!document.querySelector("iframe[data-loaded]")`)
	ilse.sound("what each person will get")
	ilse.press("Close")
	ilse.lacks("What each person will get")
	ilse.write("Add a person", "to")
	ilse.keys(kb.Tab)
	ilse.sees("“to” could be")
	ilse.sound("who is meant")
	ilse.open(running.BaseURL + "/standing")
	ilse.sees("Loans desk")
	ilse.sound("standing rooms")
	ilse.press("Add a standing room")
	ilse.sees("Keep it")
	ilse.sound("adding a standing room")
	ilse.open(running.BaseURL + "/providers/tamberline")
	ilse.sees("Put into use")
	ilse.sound("a provider")
	ilse.open(running.BaseURL + "/providers/fields")
	ilse.sees("calls.make")
	ilse.sound("the fields of a description")
	ilse.open(running.BaseURL + "/hours")
	ilse.sees("When I work", "Given to others")
	ilse.sound("hours")
	ilse.open(running.BaseURL + "/today")
	ilse.sees("Loose ends", "Waits for your answer")
	ilse.sound("Today")
	ilse.open(running.BaseURL + "/dispatch")
	ilse.sees("Crate sizes, loan 14")
	ilse.press("Other ways for Freight desk")
	ilse.sees("Freight desk was not reached")
	ilse.sound("Dispatch")
	ilse.open(running.BaseURL + "/today")
	ilse.press("Handover at the quay")
	ilse.sees("invites you")
	ilse.sound("an invitation from outside")
	ilse.open(running.BaseURL + "/account")
	ilse.sees("Invitations from outside", "Those who do not answer")
	ilse.sound("the account page")
	ilse.open(running.BaseURL + "/drafts")
	ilse.sees("Drop a calendar file")
	ilse.sound("sheets and files in")
	ilse.open(running.BaseURL + "/new")
	ilse.sees("What happened")
	ilse.sound("what is new")
	ilse.keys("f")
	ilse.write("Find", "loan")
	ilse.holds(`document.querySelectorAll("[role=option]").length > 2`)
	ilse.sound("finding")
	mail := mails(t, "axe@kirisame.example", about, 1)[0]
	guest := newPage(t)
	guest.open(fmt.Sprintf("%s/post/messages/%d", running.WorldURL, mail.ID))
	guest.press("Answer")
	guest.sees("Put it in your calendar")
	guest.sound("the guest page")
}

// sheetFor begins a sheet with one person outside and without a room.
func (p *page) sheetFor(title, address string) {
	p.t.Helper()
	p.keys("m")
	p.write("Title", title)
	p.write("Add a person", address)
	p.press("invite " + address + " by mail")
	p.tick("no room needed")
}

// guestOf sends a meeting to one address outside.
func guestOf(t *testing.T, p *page, title, address string) {
	t.Helper()
	p.sheetFor(title, address)
	p.write("Day", "15 dec")
	p.makeLink()
	p.sees("Goes to " + address)
	p.press("Send")
	p.sees("People")
}

func TestWrongInputIsSaidAtItsFieldAndKept(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.keys("m")
	p.sees("Kept from the first thing you write.")
	at := func(part, words string) {
		t.Helper()
		p.holds(fmt.Sprintf(`document.querySelector("section[aria-label=%s]").innerText.includes(%q)`, part, words))
	}
	p.press("Send")
	p.sees("Give the meeting a title.")
	long := strings.Repeat("crates ", 300)
	p.do("write a long title", chromedp.SendKeys(field("Title"), "x"), chromedp.Evaluate[chromedp.Void](fmt.Sprintf(
		`(() => { const e = document.querySelector("input[aria-label=Title]"); Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(e, %q); e.dispatchEvent(new Event("input", {bubbles: true})) })()`, long)))
	p.sees("A title has room for 200 characters")
	assert.Len(t, value[string](p, `document.querySelector("input[aria-label=Title]").value`), len(long), "nothing is cut off")
	p.write("Title", "Crates; \\n, \"quoted\" <b>")
	p.lacks("A title has room")

	p.write("Day", "23 nov 2026")
	p.keys(kb.Tab)
	at("When", "This day has passed. Did you mean Tue 23 Nov 2027")
	p.write("Day", "3 dec")
	p.write("Starts", "half nine")
	p.keys(kb.Tab)
	at("When", "“half nine” is no time. Type it like 9:30")
	p.sees("Rooms that fit") // a slip leaves the rest of the sheet where it is
	assert.Equal(t, "half nine", value[string](p, `document.querySelector("input[aria-label=Starts]").value`))
	p.write("Starts", "9")
	p.write("Ends", "8:30")
	p.keys(kb.Tab)
	at("When", "Ends before it starts. Did you mean Fri 4 Dec 8:30?")
	p.press("Use it")
	p.sees("23 h 30")
	at("When", "This lasts 23 h 30.")
	p.press("It does last that long")
	p.lacks("This lasts 23 h 30.")
	p.write("Last day", "3 dec")
	p.write("Ends", "10")
	p.keys(kb.Tab)
	p.lacks("Ends before it starts")

	p.write("Add a person", "tom@@firm")
	p.press("invite tom@@firm by mail")
	at("Who", `"tom@@firm" is not an e-mail address.`)
	p.press("Take tom@@firm off the list")
	p.addPerson("akande", "Tomé Akande")
	p.write("Add a person", "akande")
	p.sees("on the list")
	p.keys(kb.Enter) // it cannot be taken a second time
	assert.Equal(t, 1, value[int](p, `document.querySelectorAll("section[aria-label=Who] li").length`))

	for _, n := range []string{"a", "b", "c", "d"} {
		p.write("Add a person", n+"@veerhaven.example")
		p.press("invite " + n + "@veerhaven.example by mail")
	}
	p.holds(`![...document.querySelectorAll("label")].some(l => l.innerText.includes("Reading Bay"))`)
	p.tick("Print Cabinet")
	p.write("Add a person", "A@veerhaven.example")
	p.sees("A@veerhaven.example is on the list already.")
	p.write("Add a person", "e@veerhaven.example")
	p.press("invite e@veerhaven.example by mail")
	at("Where", "Print Cabinet seats 6, and 7 people are to come.")
	p.press("Give back")
	p.tick("no room needed")
	p.write("Text", "BEGIN:VEVENT <script>alert(1)</script>")
	p.sees("Saved as it is written.", "Goes to 6 people (5 outside)")
	p.press("Send")
	p.sees("People", "Crates; \\n, \"quoted\" <b>", "BEGIN:VEVENT <script>alert(1)</script>")
	mail := mails(t, "a@veerhaven.example", "Crates; ", 1)[0]
	assert.Equal(t, 1, strings.Count(string(mail.Calendar), "\r\nBEGIN:VEVENT\r\n"))
}

func TestWritingOnWhileALinkIsMade(t *testing.T) {
	p := signIn(t, demo.Ilse)
	guestOf(t, p, "Signed in there before", "before@kirisame.example")
	p.keys("m")
	p.write("Title", "Both at once")
	p.sees("Saved as it is written.")
	for range 3 {
		p.press("Make a link at Ostrel")
		p.write("Text", "Written while the link is made.")
		p.sees("Ostrel · fresh link", "Saved as it is written.")
		p.press("Take off")
		p.write("Text", "And while it is taken off.")
		p.sees("Make a link at Ostrel", "Saved as it is written.")
	}
	require.NotContains(t, p.says(), "Another window saved this sheet.")
	assert.Equal(t, "And while it is taken off.", value[string](p, `document.querySelector("textarea").value`))
	p.press("Throw this sheet away")
	p.press("Throw away")
	p.sees("Week 48")
}

func TestOstrelAwayKeepsTheSheetAndGoesOn(t *testing.T) {
	p := signIn(t, demo.Ilse)
	guestOf(t, p, "Signed in there", "ready@kirisame.example") // she has an account there now
	t.Cleanup(func() { running.World.Switch("ostrel", standin.Working) })
	for _, mode := range []standin.Mode{standin.Away, standin.Failing} {
		running.World.Switch("ostrel", standin.Working)
		p.keys("m")
		p.write("Title", "Without a link")
		running.World.Switch("ostrel", mode)
		p.press("Make a link at Ostrel")
		p.sees("Ostrel does not answer", "The sheet is kept", "the link follows")
		assert.Equal(t, "Without a link", value[string](p, `document.querySelector("input[aria-label=Title]").value`))
		running.World.Switch("ostrel", standin.Working)
		p.press("Try again")
		p.sees("Ostrel · fresh link")
		p.press("Take off")
		p.sees("Make a link at Ostrel")
		running.World.Switch("ostrel", mode)
		p.press("Make a link at Ostrel")
		p.sees("Ostrel does not answer")
		p.press("take another call")
		p.takeCall("No call")
		p.sees("✓ Link")
		p.press("Throw this sheet away")
		p.press("Throw away")
		p.sees("Week 48")
	}
}

func TestThePostOfficeAwayIsSaidAndMadeGood(t *testing.T) {
	p := signIn(t, demo.Ilse)
	running.World.Switch("post", standin.Away)
	t.Cleanup(func() { running.World.Switch("post", standin.Working) })
	p.sheetFor("Slow post", "slow@kirisame.example")
	p.tick("no link needed")
	p.sees("Goes to slow@kirisame.example")
	p.press("Send")
	p.sees("People", "not yet handed over", "it is tried again by itself")
	running.World.Switch("post", standin.Working)
	p.sees("e-mail in the mailbox")
}

func TestTwoWindowsOfOnePersonOverwriteNothing(t *testing.T) {
	one := signIn(t, demo.Ilse)
	one.keys("m")
	one.write("Title", "Shared sheet")
	one.sees("Saved as it is written.")
	two := one.second()
	two.open(value[string](one, `location.href`))
	two.holds(`document.querySelector("input[aria-label=Title]")?.value === "Shared sheet"`)
	// What one writes shows in the other.
	one.write("Text", "From the first window.")
	two.holds(`document.querySelector("textarea").value === "From the first window."`)
	// While one is being written, another saves: nothing is lost, and it is said.
	url := value[string](one, `location.pathname`)
	id, err := uuid.Parse(url[strings.LastIndex(url, "/")+1:])
	require.NoError(t, err)
	one.sees("Saved as it is written.")
	service := running.Program.Deeds
	me, err := whoIs(t, demo.Ilse)
	require.NoError(t, err)
	sheet, err := service.Sheets.Sheet(t.Context(), schedule.Self(me), id, "")
	require.NoError(t, err)
	two.write("Title", "Second title")
	sheet.Draft.Title = "First title"
	_, _, err = service.Sheets.SaveSheet(t.Context(), schedule.Self(me), id, sheet.Version, sheet.Draft, "")
	require.NoError(t, err)
	two.sees("Another window saved this sheet.", "First title")
	assert.Equal(t, "Second title", value[string](two, `document.querySelector("input[aria-label=Title]").value`))
	two.press("Keep what is here")
	two.lacks("Another window saved this sheet.")
	one.holds(`document.querySelector("input[aria-label=Title]").value === "Second title"`)
}

func whoIs(t *testing.T, email string) (id uuid.UUID, err error) {
	err = running.Program.Store.Look(t.Context(), func(tx *postgres.Tx) error {
		p, err := tx.PersonByEmail(t.Context(), email)
		id = p.ID
		return err
	})
	return id, err
}

// TestByKeyboardAlone settles and sends a meeting, and answers it, without a
// pointer.
func TestByKeyboardAlone(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.keys("?")
	p.sees("copy the join card of the meeting in view")
	p.keys(kb.Escape)
	p.lacks("copy the join card of the meeting in view")
	p.keys("m")
	p.holds(`document.activeElement.getAttribute("aria-label") === "Title"`)
	p.keys("Keyboard round")
	tabTo := func(label string) {
		t.Helper()
		for range 80 {
			p.keys(kb.Tab)
			if value[bool](p, fmt.Sprintf(`(() => { const e = document.activeElement; return e.getAttribute("aria-label") === %[1]q || e.innerText?.trim().startsWith(%[1]q) || !!e.closest("label")?.innerText.includes(%[1]q) })()`, label)) {
				require.NotEqual(t, "none", value[string](p, `getComputedStyle(document.activeElement).outlineStyle`), "focus is seen on %s", label)
				return
			}
		}
		t.Fatalf("the tab key does not reach %s", label)
	}
	tabTo("Day")
	p.keys(kb.ArrowRight)
	p.write("Day", "16 dec")
	tabTo("Add a person")
	p.keys("tome")
	p.sees("Registrar")
	p.keys(kb.ArrowDown)
	p.keys(kb.Enter)
	p.holds(`document.querySelectorAll("section[aria-label=Who] li").length === 1`)
	tabTo("no room needed")
	p.keys(" ")
	tabTo("no link needed")
	p.keys(" ")
	tabTo("Chosen time")
	p.keys(kb.ArrowRight)
	p.keys(kb.PageDown)
	p.holds(`document.querySelector("[role=slider]").getAttribute("aria-valuetext").startsWith("Thursday 17 December")`)
	p.sees("Goes to Tomé Akande")
	p.keys(kb.Enter, chromedp.ModifierCtrl)
	p.sees("People", "1 silent")
}

// TestAtTwiceTheSize: at 200 % zoom on a small screen nothing is wider than the
// window.
func TestAtTwiceTheSize(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.do("zoom", chromedp.EmulateViewport(640, 400))
	wide := func(what string) {
		t.Helper()
		p.holds(`document.documentElement.scrollWidth <= window.innerWidth + 1`)
		p.sees(what)
	}
	wide("Week 48")
	p.keys("m")
	p.write("Title", "Twice the size")
	wide("Fits")
	p.sees("Saved as it is written.")
	p.open(running.BaseURL + "/weeks")
	p.sees("Not sent yet", "Crate sizes, loan 14")
	p.pressMark("Crate sizes, loan 14")
	p.press("Open")
	wide("What happened")
}
