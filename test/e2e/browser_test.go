package e2e_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	cdppage "github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// patience is how long a page may take for one step.
const patience = 15 * time.Second

// unhurried looks for an element twenty-five times a second, not two hundred times: the pages need the time.
var unhurried = chromedp.RetryInterval(40 * time.Millisecond)

// newBrowser starts headless Chromium, Debian's: the one without windows where it is there, which needs
// two thirds of the time.
func newBrowser() (context.Context, context.CancelFunc) {
	program := "/usr/bin/chromium-headless-shell"
	if _, err := os.Stat(program); err != nil {
		program = "/usr/bin/chromium"
	}
	options := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath(program), chromedp.WindowSize(1280, 800), chromedp.DisableGPU,
		chromedp.Flag("disable-quic", true), chromedp.Flag("force-device-scale-factor", "1"), chromedp.Flag("hide-scrollbars", false),
		chromedp.Flag("lang", "en-GB"), chromedp.Env("TZ=Europe/Lisbon", "LANG=en_GB.UTF-8", "LANGUAGE=en_GB", "LC_ALL=en_GB.UTF-8"))
	if os.Geteuid() == 0 {
		options = append(options, chromedp.NoSandbox)
	}
	allocator, stop := chromedp.NewExecAllocator(context.Background(), options...)
	browser, closeBrowser := chromedp.NewContext(allocator)
	return browser, func() { closeBrowser(); stop() }
}

// page is one window of one person, with cookies of its own.
type page struct {
	t   *testing.T
	ctx context.Context
	// errors are what the page's scripts threw.
	errors []string
}

func newPage(t *testing.T) *page {
	t.Helper()
	ctx, cancel := chromedp.NewContext(browser, chromedp.WithNewBrowserContext())
	t.Cleanup(cancel)
	p := &page{t: t, ctx: ctx}
	begin(t, ctx)
	require.NoError(t, chromedp.Listen(ctx, func(ev any) {
		if e, ok := ev.(*runtime.EventExceptionThrown); ok {
			p.errors = append(p.errors, fmt.Sprintf("%s %+v", e.ExceptionDetails.Text, e.ExceptionDetails.Exception))
		}
	}))
	t.Cleanup(func() {
		if t.Failed() {
			p.shot(filepath.Join(os.TempDir(), "jembro-failed-"+strings.ReplaceAll(t.Name(), "/", "-")+".png"))
		}
		require.Empty(t, p.errors, "script errors")
	})
	return p
}

// begin makes a window as large as the smallest that Jembro is drawn for, and has its pages count what they ask.
func begin(t *testing.T, ctx context.Context) {
	t.Helper()
	require.NoError(t, chromedp.Do(ctx, chromedp.EmulateViewport(1280, 800), chromedp.Func(func(ctx context.Context, tab *chromedp.Target) error {
		_, err := cdp.Call(ctx, tab, cdppage.AddScriptToEvaluateOnNewDocument, cdppage.AddScriptToEvaluateOnNewDocumentParams{Source: countAsking})
		return err
	})))
}

// second is another window of the same person.
func (p *page) second() *page {
	p.t.Helper()
	ctx, cancel := chromedp.NewContext(p.ctx)
	p.t.Cleanup(cancel)
	begin(p.t, ctx)
	return &page{t: p.t, ctx: ctx}
}

func (p *page) do(what string, steps ...chromedp.Action[chromedp.Void]) {
	p.t.Helper()
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	if err := chromedp.Do(ctx, steps...); err != nil {
		p.t.Fatalf("%s: %v\nthe page says:\n%s", what, err, p.says())
	}
}

func (p *page) open(url string) {
	p.t.Helper()
	p.do("open "+url, chromedp.Navigate(url))
}

func (p *page) says() string {
	ctx, cancel := context.WithTimeout(p.ctx, 2*time.Second)
	defer cancel()
	text, err := chromedp.Run(ctx, chromedp.Evaluate[string](`document.body.innerText`))
	if err != nil {
		return err.Error()
	}
	return text
}

// value is what a script gives.
func value[T any](p *page, script string) T {
	p.t.Helper()
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	v, err := chromedp.Run(ctx, chromedp.Evaluate[T](script))
	require.NoError(p.t, err, script)
	return v
}

// whenTrue has the page itself look, as soon as something changes in it: asking it from here again and
// again would lay the page out each time. It gives up after two seconds, so that a page that is left is asked anew.
const whenTrue = `new Promise((done) => {
	const is = () => { try { return !!(%s) } catch { return false } };
	if (is()) return done(true);
	let due = 0;
	const over = (found) => { watch.disconnect(); clearInterval(beat); clearTimeout(end); clearTimeout(due); done(found) };
	const look = () => { due = 0; if (is()) over(true) };
	const watch = new MutationObserver(() => { due ||= setTimeout(look, 20) });
	watch.observe(document, { subtree: true, childList: true, attributes: true, characterData: true });
	const beat = setInterval(look, 100); // an address, a field, a size change nothing in it
	const end = setTimeout(() => over(is()), 2000);
})`

// holds waits until a script is true.
func (p *page) holds(script string) {
	p.t.Helper()
	if !p.within(patience, script) {
		p.t.Fatalf("it does not come true: %s\nthe page says:\n%s", script, p.says())
	}
}

func (p *page) within(patience time.Duration, script string) bool {
	for end := time.Now().Add(patience); time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
		ctx, cancel := context.WithTimeout(p.ctx, patience)
		v, err := chromedp.Run(ctx, chromedp.Evaluate[bool](fmt.Sprintf(whenTrue, script), chromedp.EvalAwaitPromise))
		cancel()
		if err == nil && v { // a page under way to another one fails for a moment
			return true
		}
	}
	return false
}

// sees waits until all words stand on the page.
func (p *page) sees(words ...string) {
	p.t.Helper()
	for _, w := range words {
		p.holds(fmt.Sprintf(`document.body.innerText.includes(%q)`, w))
	}
}

// lacks waits until words are gone.
func (p *page) lacks(words string) {
	p.t.Helper()
	p.holds(fmt.Sprintf(`!document.body.innerText.includes(%q)`, words))
}

// frame is what a frame of the page shows; scripts cannot look into a sandboxed
// one, so its address is asked again.
func (p *page) frame(title string) string {
	p.t.Helper()
	return value[string](p, fmt.Sprintf(`(() => { const r = new XMLHttpRequest(); r.open("GET", document.querySelector("iframe[title^='%s']").src, false); r.send(); return r.responseText })()`, title))
}

// aim has the pointer press nothing but what is at a path: Chromium is told a place to press at, and
// where an answer moves things in the moment before, something else is there.
const aim = `((path) => {
	window.aimedAt = path;
	if (window.aims) return true;
	window.aims = true;
	const meant = (target) => {
		const all = document.evaluate(window.aimedAt, document, null, XPathResult.UNORDERED_NODE_SNAPSHOT_TYPE, null);
		return Array.from({ length: all.snapshotLength }, (_, i) => all.snapshotItem(i))
			.some((n) => [n, ...(n.labels ?? [])].some((part) => part.contains(target)));
	};
	for (const type of ["pointerdown", "mousedown", "pointerup", "mouseup", "click"])
		window.addEventListener(type, (e) => {
			if (!window.aimedAt) return;
			if (type === "pointerdown") window.missed = !meant(e.target);
			if (!window.missed) return;
			e.stopImmediatePropagation();
			e.preventDefault();
		}, true);
	return true;
})(%q)`

// click clicks what is at a path, and again where it moved away from under the pointer.
func (p *page) click(what, path string) {
	p.t.Helper()
	for end := time.Now().Add(patience); time.Now().Before(end); time.Sleep(40 * time.Millisecond) {
		p.do(what, chromedp.WaitVisible(path, unhurried))
		value[bool](p, fmt.Sprintf(aim, path))
		p.do(what, chromedp.Click(path, unhurried))
		ctx, cancel := context.WithTimeout(p.ctx, patience)
		missed, err := chromedp.Run(ctx, chromedp.Evaluate[bool](`(() => { const missed = !!window.missed; window.aimedAt = null; window.missed = false; return missed })()`))
		cancel()
		if err != nil || !missed { // an error is of a document that is left
			return
		}
	}
	p.t.Fatalf("%s: it does not hold still", what)
}

// press clicks the button or link of that name.
func (p *page) press(name string) {
	p.t.Helper()
	path := fmt.Sprintf(`//*[self::button or self::a or @role="option" or @role="menuitem"][contains(normalize-space(.), %[1]q) or @aria-label=%[1]q][not(@disabled)]`, name)
	p.click("press "+name, path)
}

// pressMark clicks a meeting in the weeks; the head may speak of it as well.
func (p *page) pressMark(title string) {
	p.t.Helper()
	path := fmt.Sprintf(`//*[@data-mark][contains(normalize-space(.), %q)]`, title)
	p.click("press the mark of "+title, path)
}

// field is the field of that label.
func field(label string) string {
	return fmt.Sprintf(`//*[self::input or self::textarea or self::select][@aria-label=%[1]q or @id=//label[normalize-space(.)=%[1]q]/@for or ancestor::label[contains(normalize-space(.), %[1]q)]]`, label)
}

// write replaces what a field holds: put there at once but for the last letter, which a key writes. What each
// letter does is tried where letters are typed.
func (p *page) write(label, text string) {
	p.t.Helper()
	all := []rune(text)
	last := max(len(all)-1, 0)
	p.do("write into "+label, chromedp.WaitVisible(field(label), unhurried), chromedp.Focus(field(label), unhurried),
		chromedp.KeyEvent("a", chromedp.KeyModifiers(chromedp.ModifierCtrl)), chromedp.KeyEvent(kb.Delete), put(string(all[:last])), chromedp.KeyEvent(string(all[last:])))
}

// put writes into the field that has the focus, as pasting does.
func put(text string) chromedp.Action[chromedp.Void] {
	return chromedp.Func(func(ctx context.Context, tab *chromedp.Target) error {
		if text == "" {
			return nil
		}
		_, err := cdp.Call(ctx, tab, input.InsertText, input.InsertTextParams{Text: text})
		return err
	})
}

// tick presses a box or a round one.
func (p *page) tick(label string) {
	p.t.Helper()
	p.click("tick "+label, field(label)+"[not(@disabled)]") // it is while what was chosen before is written
}

// takeRoom takes one of the rooms on a sheet; some come only on demand, and the list changes
// until the sheet has been checked.
func (p *page) takeRoom(name string) {
	p.t.Helper()
	p.sees("Rooms that fit")
	look := fmt.Sprintf(`(() => {
		if ([...document.querySelectorAll("fieldset label")].some(l => l.innerText.includes(%q))) return true;
		[...document.querySelectorAll("button")].find(b => /more rooms?$/.test(b.innerText))?.click();
		return false;
	})()`, name)
	for began, there := time.Now(), 0; there < 3; there++ {
		time.Sleep(100 * time.Millisecond)
		if !value[bool](p, look) {
			there = 0
		}
		require.Less(p.t, time.Since(began), patience, "%s is not among the rooms", name)
	}
	p.tick(name)
}

// selectOption picks an option of a select as a hand would.
func selectOption(label, option string) chromedp.Action[chromedp.Void] {
	return chromedp.SendKeys(field(label), option)
}

// clickOn clicks what a script finds, as soon as it does.
func clickOn(script string) chromedp.Action[chromedp.Void] {
	return chromedp.Poll[chromedp.Void](`(() => {
		let e;
		try { e = `+script+` } catch { return false } // what it is found in is not there yet
		e?.scrollIntoView({block: "center"});
		e?.click();
		return !!e;
	})()`, chromedp.WithPollingInterval(40*time.Millisecond))
}

func (p *page) keys(keys string, modifiers ...chromedp.Modifier) {
	p.t.Helper()
	p.do("keys", chromedp.KeyEvent(keys, chromedp.KeyModifiers(modifiers...)))
}

func (p *page) focus(selector string) {
	p.t.Helper()
	p.do("focus "+selector, chromedp.WaitVisible(chromedp.CSS(selector)), chromedp.Focus(chromedp.CSS(selector)))
}

// drag pulls the pointer over an element; from, to and y are parts of its width
// and height.
func (p *page) drag(selector string, from, to, y float64) {
	p.t.Helper()
	p.do("find "+selector, chromedp.WaitVisible(chromedp.CSS(selector)))
	box := value[struct{ Left, Top, Width, Height float64 }](p, fmt.Sprintf(
		`(() => { const e = document.querySelector(%q); e.scrollIntoView({block: "nearest"}); const b = e.getBoundingClientRect(); return {Left: b.left, Top: b.top, Width: b.width, Height: b.height} })()`, selector))
	x0, x1, at := box.Left+from*box.Width, box.Left+to*box.Width, box.Top+y*box.Height
	held := chromedp.MouseOption(func(m *input.DispatchMouseEventParams) { m.Buttons = 1 })
	steps := []chromedp.Action[chromedp.Void]{chromedp.MouseEvent(chromedp.MousePressed, x0, at, chromedp.ButtonLeft, chromedp.ClickCount(1))}
	const moves = 12
	for i := 1.0; i <= moves; i++ {
		steps = append(steps, chromedp.MouseEvent(chromedp.MouseMoved, x0+(x1-x0)*i/moves, at, chromedp.ButtonLeft, held))
	}
	p.do("drag "+selector, append(steps, chromedp.MouseEvent(chromedp.MouseReleased, x1, at, chromedp.ButtonLeft, chromedp.ClickCount(1)))...)
}

func (p *page) shot(name string) {
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	for end := time.Now().Add(3 * time.Second); time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
		if ready, err := chromedp.Run(ctx, chromedp.Evaluate[bool](`document.fonts.status === "loaded"`)); err == nil && ready {
			break
		}
	}
	png, err := chromedp.Run(ctx, chromedp.CaptureScreenshot())
	if err == nil {
		err = os.WriteFile(name, png, 0o644)
	}
	if err != nil {
		p.t.Logf("no picture: %v", err)
	}
}
