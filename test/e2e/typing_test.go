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
	p := signIn(t, demo.Ilse)
	p.open(running.BaseURL + "/sheet/" + s.ID.String())
	p.sees("Volunteer 50")
	return p
}

// asked are the requests that the page makes meanwhile, until it is quiet.
func (p *page) asked(meanwhile func()) []string {
	p.t.Helper()
	const quiet = 1500 * time.Millisecond
	time.Sleep(quiet)
	value[bool](p, `(performance.clearResourceTimings(), true)`)
	meanwhile()
	time.Sleep(quiet)
	return value[[]string](p, `performance.getEntriesByType("resource").map(e => e.name).filter(n => n.includes("/api/"))`)
}

// TestElevenLettersAskTwice: what is typed is saved once it rests, and one look
// follows. How long a letter takes to be drawn is logged.
func TestElevenLettersAskTwice(t *testing.T) {
	p := largeSheet(t)
	value[bool](p, `(() => { window.drawn = []; addEventListener("input", () => { const t = performance.now();
		requestAnimationFrame(() => { const c = new MessageChannel(); c.port1.onmessage = () => window.drawn.push(performance.now() - t); c.port2.postMessage(0) }) }, true); return true })()`)
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
	drawn := value[[]float64](p, `window.drawn`)
	require.Len(t, drawn, 11)
	slices.Sort(drawn)
	t.Logf("from a letter to its picture, the browser's frame included: %.1f ms mostly, %.1f ms at the most", drawn[5], drawn[10])
}

// TestDraggingTheTimeAsksOnceItRests: nothing is asked for while the pointer is down.
func TestDraggingTheTimeAsksOnceItRests(t *testing.T) {
	p := largeSheet(t)
	requests := p.asked(func() { p.drag("[role=slider]", 0.5, 2.5, 0.02) })
	assert.NotEmpty(t, requests, "it is saved")
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
