package e2e_test

import (
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"jembro/internal/demo"
)

func TestShots(t *testing.T) {
	shot := func(p *page, name string) { time.Sleep(500 * time.Millisecond); p.shot("/tmp/shots/" + name + ".png") }
	ilse := signIn(t, demo.Ilse)
	ilse.sees("Weekly plan")
	ilse.press("Lacquer loan: packing, courier")
	ilse.sees("Who is coming")
	shot(ilse, "01-weeks")
	ilse.press("Open")
	ilse.sees("What happened")
	shot(ilse, "02-meeting")
	ilse.press("Call off…")
	shot(ilse, "03-calloff")
	ilse.press("Keep it")
	ilse.press("Change")
	ilse.sees("Who hears what")
	shot(ilse, "04-change")
	ilse.write("Starts", "10:00")
	ilse.keys("\t")
	ilse.sees("Saved as it is written.")
	time.Sleep(time.Second)
	ilse.do("scroll", chromedp.Evaluate[chromedp.Void](`document.querySelector("section[aria-label=Dates]").scrollIntoView()`))
	shot(ilse, "05-change-time")
	ilse.press("Throw these changes away")
	ilse.press("Throw away")
	ilse.sees("Week 48")
	ilse.keys("m")
	ilse.write("Title", "Loan 31, crates")
	ilse.write("Day", "3 dec")
	ilse.write("Starts", "9:30")
	ilse.addPerson("tome", "Tomé Akande")
	ilse.addPerson("onari", "S. Onari")
	ilse.takeRoom("Map Room")
	ilse.press("Let it repeat…")
	ilse.sees("Only once")
	shot(ilse, "06-repeat")
	ilse.press("every 2nd Thursday")
	ilse.write("Last day", "25 feb")
	ilse.keys("\t")
	ilse.sees("7 dates")
	time.Sleep(time.Second)
	shot(ilse, "07-repeat2")
	ilse.press("Done")
	ilse.do("scroll", chromedp.Evaluate[chromedp.Void](`window.scrollTo(0, 10000)`))
	shot(ilse, "08-dates")
}
