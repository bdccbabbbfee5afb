package e2e_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/demo"
	"jembro/internal/schedule"
)

// largeSheet is a sheet of Ilse's with fifty people, opened in a window.
func largeSheet(t *testing.T) *page {
	t.Helper()
	me, err := whoIs(t, demo.Ilse)
	require.NoError(t, err)
	deeds := running.Program.Deeds
	s, err := deeds.Sheets.OpenSheet(t.Context(), schedule.Self(me), "2027-01-12T09:30", "2027-01-12T10:30")
	require.NoError(t, err)
	for i := range 50 {
		s.Draft.People = append(s.Draft.People, meeting.DraftPerson{Name: fmt.Sprintf("Volunteer %d", i+1), Email: fmt.Sprintf("v%d@njoro.example", i+1), Needed: true})
	}
	s.Draft.NoRoom, s.Draft.NoLink = true, true
	s, _, err = deeds.Sheets.SaveSheet(t.Context(), schedule.Self(me), s.ID, s.Version, s.Draft, "")
	require.NoError(t, err)
	p := withSession(t, running.BaseURL, demo.Ilse)
	p.open(running.BaseURL + "/sheet/" + s.ID.String())
	p.sees("Volunteer 50")
	return p
}

// countAsking is what a page begins with: what it asks is counted, and when it or a hand did something last.
const countAsking = `(() => {
	window.asking = { open: 0, at: performance.now() };
	const ask = window.fetch, now = () => { asking.at = performance.now() };
	window.fetch = (...what) => { asking.open++; now(); return ask(...what).finally(() => { asking.open--; now() }) };
	for (const type of ["keydown", "pointerdown", "pointermove", "pointerup"]) addEventListener(type, now, true);
})()`

// rests waits until the page has asked nothing for a second, which is longer than anything rests before it is asked.
func (p *page) rests() {
	p.t.Helper()
	p.holds(`!window.asking || asking.open === 0 && performance.now() - asking.at > 1000`) // an empty window asks nothing
}

// asked are the requests that the page makes meanwhile, until it rests.
func (p *page) asked(meanwhile func()) []string {
	p.t.Helper()
	p.rests()
	value[bool](p, `(performance.clearResourceTimings(), true)`)
	meanwhile()
	p.rests()
	return value[[]string](p, `performance.getEntriesByType("resource").map(e => e.name).filter(n => n.includes("/api/"))`)
}

// timesWork has the page time what it does from an event on until its picture is made,
// without the wait for the browser's next frame in between.
func (p *page) timesWork(event string) {
	p.t.Helper()
	value[bool](p, fmt.Sprintf(`(() => { window.worked = []; addEventListener(%q, () => { const t = performance.now();
		const after = (then) => { const c = new MessageChannel(); c.port1.onmessage = then; c.port2.postMessage(0) };
		after(() => { const handled = performance.now() - t;
			requestAnimationFrame(() => { const frame = performance.now(); after(() => window.worked.push(handled + performance.now() - frame)) }) }) }, true); return true })()`, event))
}

// logWork logs the times, and tells how many there are.
func (p *page) logWork(what string) int {
	p.t.Helper()
	worked := value[[]float64](p, `window.worked`)
	slices.Sort(worked)
	if n := len(worked); n > 0 {
		p.t.Logf("what %s makes to do, up to its picture: %.1f ms mostly, %.1f ms at the most", what, worked[n/2], worked[n-1])
	}
	return len(worked)
}

// TestElevenLettersAskTwice: what is typed is saved once it rests, and one look
// follows. How long a letter takes to be drawn is logged.
func TestElevenLettersAskTwice(t *testing.T) {
	p := largeSheet(t)
	p.timesWork("input")
	p.focus(`input[aria-label=Title]`)
	requests := p.asked(func() {
		for _, letter := range "Crate sizes" {
			p.keys(string(letter))
			time.Sleep(60 * time.Millisecond)
		}
	})
	assert.Equal(t, "Crate sizes", value[string](p, `document.querySelector("input[aria-label=Title]").value`))
	assert.NotEmpty(t, requests, "it is saved")
	assert.LessOrEqual(t, len(requests), 2, "%v", requests)
	assert.Equal(t, 11, p.logWork("a letter"))
}

// TestDraggingTheTimeAsksOnceItRests: nothing is asked for while the pointer is down.
func TestDraggingTheTimeAsksOnceItRests(t *testing.T) {
	p := largeSheet(t)
	p.timesWork("pointermove")
	requests := p.asked(func() { p.drag("[role=slider]", 0.5, 2.5, 0.02) })
	assert.NotEmpty(t, requests, "it is saved")
	assert.NotZero(t, p.logWork("a move"))
	assert.LessOrEqual(t, len(requests), 3, "%v", requests)
}

// TestAQuickHandIsNotAheadOfTheTime: where the pointer is let go counts, though no
// move was drawn before.
func TestAQuickHandIsNotAheadOfTheTime(t *testing.T) {
	p := largeSheet(t)
	p.do("press and let go elsewhere", chromedp.WaitVisible(chromedp.CSS(`[role=slider]`)))
	box := value[struct{ X, Y, Width float64 }](p, `(() => { const b = document.querySelector("[role=slider]").getBoundingClientRect(); return {X: b.x, Y: b.y, Width: b.width} })()`)
	x, y := box.X+box.Width/2, box.Y+20
	p.do("press and let go elsewhere",
		chromedp.MouseEvent(chromedp.MousePressed, x, y, chromedp.ButtonLeft, chromedp.ClickCount(1)),
		chromedp.MouseEvent(chromedp.MouseReleased, x+2*box.Width, y, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	p.holds(`document.querySelector("[role=slider]").getAttribute("aria-valuetext").includes("11:30 to 12:30")`)
}
