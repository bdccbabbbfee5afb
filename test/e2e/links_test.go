package e2e_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"regexp"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/join"
	"jembro/internal/demo"
	"jembro/internal/standin"
)

// onSheet waits for words in the part of the sheet about its link.
func (p *page) onSheet(words ...string) { p.t.Helper(); p.shows("Link", words...) }

// takeCall chooses a call in the panel of calls.
func (p *page) takeCall(name string) {
	p.t.Helper()
	p.holds(fmt.Sprintf(`!!document.querySelector('[aria-busy=false] [role=radio][aria-label=%q]')`, name))
	p.do("take "+name, clickOn(fmt.Sprintf(`document.querySelector('[role=radio][aria-label=%q]')`, name)))
}

// joinLink is the link that the sheet has.
func (p *page) joinLink() string {
	return value[string](p, `document.querySelector("aside[aria-label='What they see'] dd a")?.href ?? ""`)
}

// set gives a field a value at once, as a paste does.
func (p *page) set(selector, text string) {
	p.t.Helper()
	p.holds(fmt.Sprintf(`(() => { const a = document.querySelector(%q); if (!a) return false;
		Object.getOwnPropertyDescriptor(Object.getPrototypeOf(a), "value").set.call(a, %q);
		a.dispatchEvent(new Event(a.tagName === "SELECT" ? "change" : "input", { bubbles: true })); return true })()`, selector, text))
}

// guestPage is where a guest answers, which is no way into a call.
var guestPage = regexp.MustCompile(`http://127\.0\.0\.1:\d+/guest/\w+`)

var dialled = regexp.MustCompile(`(?m)^CONFERENCE;[^:]*:tel:(\+\d+)`)

var video = regexp.MustCompile(`(?m)^CONFERENCE;[^:]*FEATURE="?AUDIO[^:]*:(.*)$`)

// oneWayIn holds that an invitation has one link into a call, everywhere the same.
func oneWayIn(t *testing.T, mail standin.Read, link string) {
	t.Helper()
	calendar := strings.ReplaceAll(strings.ReplaceAll(string(mail.Calendar), "\r\n ", ""), "\r\n", "\n")
	ways := video.FindAllStringSubmatch(calendar, -1)
	require.Len(t, ways, 1, calendar)
	assert.Equal(t, link, ways[0][1])
	assert.Contains(t, mail.Text, link)
	own := &join.Card{URL: link}
	for _, phone := range dialled.FindAllStringSubmatch(calendar, -1) {
		own.Phones = append(own.Phones, join.Phone{Number: phone[1]})
	}
	assert.Empty(t, join.OtherWays(mail.Text, own, guestPage.FindAllString(mail.Text, -1)), "no other way in")
}

// TestTheSameMeetingWithEveryCall: from each provider, a standing room, what somebody else
// wrote, none, and back; with repetition on and off.
func TestTheSameMeetingWithEveryCall(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.sheetFor("Every call", "everycall@kirisame.example")
	p.makeLink()
	p.onSheet("Ostrel · fresh link")
	p.press("Other calls")
	p.sees("Where the call is", "At the door", "guests from outside")
	first := p.joinLink()
	require.Contains(t, first, "http://ostrel.localhost")

	p.takeCall("Tamberline")
	p.onSheet("Tamberline · fresh link", "+351\u00a021\u00a0000\u00a05506")
	p.sees("13 more countries", "Organiser's PIN")
	bridge := p.joinLink()
	p.press("Let it repeat…")
	p.press("every 2nd")
	p.press("Other calls")
	p.onSheet("Same link on all 6 dates")
	assert.Equal(t, bridge, p.joinLink(), "the call stays when it repeats")
	p.takeCall("My standing room")
	p.onSheet("Kestle · standing link", "/r/ilse")
	p.write("The invitation or the link that you were given", "We meet in our room: https://quay.example/meet/48-2190-77, passcode: reed-31")
	p.press("Take this call")
	p.onSheet("Link of somebody else", "quay.example/meet/48-2190-77", "reed-31")
	p.takeCall("No call")
	p.holds(`!document.querySelector("section[aria-label=Link] .border-l-fig")`)
	p.takeCall("Ostrel")
	p.onSheet("Ostrel · fresh link")
	last := p.joinLink()
	assert.NotEqual(t, first, last, "the first one was withdrawn")
	p.press("Every 2nd")
	p.press("Only once")
	p.press("Other calls")
	p.sees("Let it repeat…")
	assert.Equal(t, last, p.joinLink(), "and when it does not any more")
	p.press("Send")
	p.sees("e-mail in the mailbox")
	mail := mails(t, "everycall@kirisame.example", "Every call", 1)[0]
	oneWayIn(t, mail, last)
	gone := first[strings.LastIndex(first, "/")+1:]
	assert.Eventually(t, func() bool { g, _ := running.World.Ostrel.Gathering(gone); return g.Withdrawn }, patience, patience/100)
	closed := bridge[strings.LastIndex(bridge, "/")+1:]
	assert.Eventually(t, func() bool { b, _ := running.World.Tamberline.Bridge(closed); return b.Closed }, patience, patience/100)
}

// TestASecondLinkIsTakenOver: it is noticed as it is written, keeps the sheet from being sent,
// and is settled at one press.
func TestASecondLinkIsTakenOver(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.sheetFor("Second link", "second@kirisame.example")
	p.makeLink()
	p.write("Text", "See https://wiki.example/pages/crates first. Call: kestle.example/r/freight-desk")
	p.sees("A second way in stands in the text.", "https://kestle.example/r/freight-desk", "Link: two ways in", "Not ready to send")
	p.press("It is no join link")
	p.lacks("A second way in")
	p.sees("Link: over the plan")
	p.write("Text", "See https://wiki.example/pages/crates first. Call: https://kestle.example/r/other-desk")
	p.sees("A second way in stands in the text.")
	p.press("Use this one instead of Ostrel")
	p.onSheet("kestle.example/r/other-desk")
	p.lacks("A second way in")
	p.holds(`document.querySelector("textarea[aria-label=Text]").value === "See https://wiki.example/pages/crates first."`)
	p.write("Title", "Second link https://quay.example/meet/3")
	p.sees("A second way in stands in the title.")
	p.press("Take it out")
	p.lacks("A second way in")
	p.holds(`document.querySelector("input[aria-label=Title]").value === "Second link"`)
	p.press("Send")
	p.sees("e-mail in the mailbox")
	oneWayIn(t, mails(t, "second@kirisame.example", "Second link", 1)[0], "https://kestle.example/r/other-desk")
}

// TestThePlanOf45MinutesIsMended at one press: by a shorter meeting, or another provider.
func TestThePlanOf45MinutesIsMended(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.sheetFor("Forty-five", "fortyfive@kirisame.example")
	p.makeLink()
	p.onSheet("The plan at Ostrel ends a call after 45 minutes; this meeting runs 60.")
	p.sees("Link: over the plan")
	p.press("45 min instead")
	p.sees("✓ Link")
	p.lasts("45 min")
	p.write("Length", "1 h")
	p.keys(kb.Tab)
	p.onSheet("this meeting runs 60.")
	p.press("Use Tamberline")
	p.onSheet("Tamberline · fresh link")
	p.sees("✓ Link")
	p.throwAway()
}

// TestAProviderThatIsAwayAtSend: everything goes on, the link follows, and each guest ends
// with one right card.
func TestAProviderThatIsAwayAtSend(t *testing.T) {
	t.Cleanup(func() { running.World.Switch("tamberline", standin.Working) })
	p := signIn(t, demo.Ilse)
	p.sheetFor("Link follows", "follows@kirisame.example")
	running.World.Switch("tamberline", standin.Away)
	p.press("Other calls")
	p.takeCall("Tamberline")
	p.onSheet("The link follows as soon as Tamberline answers.")
	p.sees("Tamberline does not answer.", "Link: follows")
	p.press("Send")
	p.sees("e-mail in the mailbox", "follows by itself")
	before := mails(t, "follows@kirisame.example", "Link follows", 1)[0]
	assert.Contains(t, before.Text, "Link: follows by itself; you get it as soon as it is made")
	assert.NotContains(t, string(before.Calendar), "CONFERENCE")
	running.World.Switch("tamberline", standin.Working)
	p.sees("13 more countries")
	link := value[string](p, `document.querySelector("section[aria-label='Join card'] dd a").href`)
	all := mails(t, "follows@kirisame.example", "Link follows", 2)
	assert.Contains(t, all[1].Text, "Changed: the link to join by")
	oneWayIn(t, all[1], link)
	p.sees("Link made at Tamberline")
}

// TestAStandingRoomInUse: two meetings in one room are said by name, and its link can be
// replaced in all meetings to come.
func TestAStandingRoomInUse(t *testing.T) {
	p := signIn(t, demo.Ilse)
	write := func(title, address string) {
		p.sheetFor(title, address)
		p.write("Day", "14 jun 2027")
		p.write("Starts", "9:00")
		p.keys(kb.Tab)
		p.press("Other calls")
		p.takeCall("Loans desk")
		p.onSheet("Kestle · standing link")
	}
	write("Desk hour one", "desk-one@kirisame.example")
	p.press("Send")
	p.sees("e-mail in the mailbox")
	write("Desk hour two", "desk-two@kirisame.example")
	p.onSheet("14 Jun, 9:00: in use by “Desk hour one”; both would be in one call")
	p.sees("Link: room in use")
	p.throwAway()
	p.open(running.BaseURL + "/standing")
	p.sees("Loans desk", "in 1 meeting to come")
	p.pressIn("Loans desk", "Change")
	p.sees("Change “Loans desk”")
	p.set("#standing-from", "kestle")
	p.holds(`[...document.querySelectorAll("select[aria-label=Room] option")].some(o => o.textContent === "Press room")`)
	p.set("select[aria-label=Room]", running.World.Kestle.Room("press"))
	p.sees("everybody invited is told once for each")
	p.press("Keep it")
	p.sees("/r/press")
	all := mails(t, "desk-one@kirisame.example", "Desk hour one", 2)
	assert.Contains(t, all[1].Text, "/r/press")
	assert.NotContains(t, all[1].Text, "/r/loans")
}

// lune is a provider that nobody has described: its page of documentation says POST /rooms
// with {"subject", "when"} and the header X-Token, answered by {"room": {"ref", "join_url", "code"}}.
func lune(t *testing.T) string {
	made := 0
	mux := http.NewServeMux()
	mux.HandleFunc("POST /rooms", func(rw http.ResponseWriter, r *http.Request) {
		if r.Header.Get("X-Token") != "lune-token-77" {
			rw.WriteHeader(http.StatusUnauthorized)
			return
		}
		made++
		fmt.Fprintf(rw, `{"room":{"ref":"l%d","join_url":"https://lune.example/j/l%d-4821","code":"dune-%d"}}`, made, made, made)
	})
	mux.HandleFunc("DELETE /rooms/{ref}", func(rw http.ResponseWriter, _ *http.Request) { rw.WriteHeader(http.StatusNoContent) })
	server := httptest.NewServer(mux)
	t.Cleanup(server.Close)
	return server.URL
}

// TestAFourthProvider: who keeps the providers describes one from its page, mends the mistake
// that the trial shows, and a colleague uses it.
func TestAFourthProvider(t *testing.T) {
	base := lune(t)
	p := signIn(t, demo.Ilse)
	p.press("Ilse Marrant ▾")
	p.press("Providers")
	p.sees("Choose a provider", "Tamberline")
	p.press("How to write one")
	p.sees("calls.make.card.link", "needed", "oauth2_code, oauth2_client, api_key, basic, none")
	p.press("Describe another")
	p.press("Begin")
	p.sees("Say what people call it.")
	p.write("What people call it", "Lune")
	p.press("Begin")
	p.sees("not in use yet", "Put into use")
	description := "name: Lune\nsign_in: {kind: api_key, in: header, field: X-Token}\ncan: [fresh, passcode, withdraw]\ncalls:\n  make:\n    post: " + base +
		"/rooms\n    json: {subject: title, when: rfc3339(start)}\n    card:\n      link: room.join_uri\n      passcode: room.code\n    keep: {ref: room.ref}\n  withdraw: {delete: '" + base + "/rooms/{ref}'}\n"
	describe := func(text string) { p.set("textarea[aria-label=Description]", text) }
	describe(strings.Replace(description, "title,", "titel,", 1))
	p.press("Check")
	p.sees("Line 7", "Nothing is called “titel” here. Near it: title.")
	describe(description)
	p.press("Try it")
	p.sees("The house has not given Lune its “key” yet.")
	p.write("Key, missing", "lune-token-77")
	p.press("Seal them")
	p.sees("Key, given")
	p.press("Try it")
	p.sees("The answer has no room.join_uri.", "Near it: room.join_url", "dune-1", "missing")
	p.lacks("lune-token-77")
	p.holds(`(() => { const a = document.querySelector("textarea[aria-label=Description]"); return a.value.slice(a.selectionStart, a.selectionEnd).includes("room.join_uri") })()`)
	describe(strings.Replace(description, "join_uri", "join_url", 1))
	p.press("Try it")
	p.sees("lune.example/j/l2-4821")
	p.press("Put into use")
	p.sees("Lune is in use as version 1")

	tome := signIn(t, "tome.akande@marrowby.example")
	tome.sheetFor("By Lune", "lune@kirisame.example")
	tome.press("Other calls")
	tome.sees("Where the call is", "house account")
	tome.takeCall("Lune")
	tome.onSheet("Lune · fresh link", "dune-3")
	tome.press("Send")
	tome.sees("e-mail in the mailbox")
	oneWayIn(t, mails(t, "lune@kirisame.example", "By Lune", 1)[0], "https://lune.example/j/l3-4821")

	// Out of use, nobody can choose it, and the meeting keeps its call.
	p.press("Take out of use")
	p.sees("Take Lune out of use?")
	p.do("take it out of use", clickOn(`document.querySelector("[role=dialog] button")`))
	p.sees("out of use")
	tome.sees("Join card", "lune.example/j/l3-4821")
	tome.sheetFor("Another", "another-call@kirisame.example")
	tome.press("Other calls")
	tome.sees("Tamberline")
	tome.holds(`!document.querySelector("[role=radio][aria-label=Lune]")`)
	tome.throwAway()
}

// TestCallsByKeys: arrows go from place to place without taking any, and the space bar takes
// the one that is reached.
func TestCallsByKeys(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.sheetFor("By keys", "by-keys@kirisame.example")
	p.press("Other calls")
	p.holds(`!!document.querySelector('[role=radio][aria-label="My standing room"]')`)
	p.focus(`[role=radio][aria-label=Tamberline]`)
	p.keys(kb.ArrowDown)
	p.keys(kb.ArrowDown)
	p.holds(`document.activeElement.getAttribute("aria-label") === "My standing room"`)
	assert.Equal(t, 0.0, value[float64](p, `document.querySelectorAll("[role=radio][aria-checked=true]").length`), "nothing was taken on the way")
	p.keys(" ")
	p.onSheet("Kestle · standing link", "/r/ilse")
	p.holds(`document.activeElement.getAttribute("aria-label") === "My standing room" && document.activeElement.getAttribute("aria-checked") === "true"`)
	p.keys(kb.ArrowUp)
	p.keys(" ")
	p.holds(`document.querySelector('[role=radio][aria-label="Loans desk"]').getAttribute("aria-checked") === "true"`)
	p.throwAway()
}

// TestAMailWithAnotherWayIn: what comes in by mail is looked at as well, and taken over at
// one press.
func TestAMailWithAnotherWayIn(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.sheetFor("Mailed link", "mailed@kirisame.example")
	p.makeLink()
	p.press("Send")
	p.sees("e-mail in the mailbox")
	invitation := mails(t, "mailed@kirisame.example", "Mailed link", 1)[0]
	writeTo(t, "mailed@kirisame.example", organizerOf(t, invitation.Calendar), "From: mailed@kirisame.example\nSubject: Re: Mailed link\n\nLet us join here instead: https://quay.example/meet/48-2190-77\n")
	p.sees("It holds another way into a call than the meeting:", "quay.example/meet/48-2190-77")
	p.press("Use this one for the meeting")
	p.onSheet("Link of somebody else", "quay.example/meet/48-2190-77")
	p.press("Send changes")
	p.sees("e-mail in the mailbox")
	oneWayIn(t, mails(t, "mailed@kirisame.example", "Mailed link", 2)[1], "https://quay.example/meet/48-2190-77")
}

// TestTwoWindowsDescribeAProvider: what the second writes is not lost to the first, nor the
// other way round.
func TestTwoWindowsDescribeAProvider(t *testing.T) {
	one := withSession(t, running.BaseURL, demo.Ilse)
	one.open(running.BaseURL + "/providers")
	one.press("Describe another")
	one.write("What people call it", "Both windows")
	one.press("Begin")
	one.sees("not in use yet")
	two := one.second()
	two.open(value[string](one, `location.href`))
	two.sees("not in use yet")
	two.set("textarea[aria-label=Description]", "name: Written by two\n")
	two.press("Check")
	two.sees("needs “sign_in”")
	one.set("textarea[aria-label=Description]", "name: Written by one\n")
	one.press("Check")
	one.sees("Another window wrote this description.")
	assert.Contains(t, value[string](one, `document.querySelector("textarea[aria-label=Description]").value`), "Written by one")
	one.press("Keep what is here")
	one.sees("needs “sign_in”")
	one.lacks("Another window wrote this description.")
	two.do("reload", chromedp.Reload())
	two.holds(`document.querySelector("textarea[aria-label=Description]")?.value.includes("Written by one")`)
	two.press("Forget this description")
	two.press("Forget it")
	two.holds(`location.pathname.startsWith("/providers")`)
	two.sees("There is no such provider")
}
