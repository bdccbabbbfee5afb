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

	"jembro/internal/demo"
	"jembro/internal/standin"
)

// mails waits until a mailbox holds as many mails about a subject.
func mails(t *testing.T, address, about string, count int) []standin.Read {
	t.Helper()
	var found []standin.Read
	for end := time.Now().Add(patience); time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
		found = nil
		for _, m := range running.World.Post.Box(address) {
			read, err := standin.ReadMail(m)
			require.NoError(t, err)
			if strings.Contains(read.Subject, about) {
				found = append(found, read)
			}
		}
		if len(found) >= count {
			break
		}
	}
	require.Len(t, found, count, "mails to %s about %s", address, about)
	return found
}

// addPerson finds somebody in the directory by a part of the name.
func (p *page) addPerson(part, name string) {
	p.t.Helper()
	p.write("Add a person", part)
	p.press(name)
	p.holds(fmt.Sprintf(`[...document.querySelectorAll("section[aria-label=Who] li")].some(li => li.innerText.includes(%q))`, name))
}

// makeLink attaches a link, and signs in at Ostrel when it asks for that.
func (p *page) makeLink() {
	p.t.Helper()
	p.press("Make a link at Ostrel")
	p.holds(`document.body.innerText.includes("Let Jembro make gatherings") || !!document.querySelector("section[aria-label=Link] .border-l-fig")`)
	if value[bool](p, `document.body.innerText.includes("Let Jembro make gatherings")`) {
		p.press("Allow")
	}
	p.holds(`!!document.querySelector("section[aria-label=Link] .border-l-fig")`)
}

func (p *page) settledAs() string {
	return value[string](p, `document.querySelector("footer").innerText`)
}

// TestFromAnEmptySheetToAccepted is the journey of the first slice.
func TestFromAnEmptySheetToAccepted(t *testing.T) {
	ilse := signIn(t, demo.Ilse)
	// She drags over Thursday 9:30 to 10:30 of next week.
	ilse.press("Week after")
	ilse.sees("Week 49", "Kyoto handover")
	from, until := 2.5/12, 3.5/12 // the row shows 7 to 19
	ilse.drag(`section[aria-label="Thursday 3 December"] .hour-lines`, from, until, 0.9)
	ilse.sees("When", "Link")
	assert.Equal(t, "Thu 3 Dec 9:30 10:30 1 h Lisbon time", value[string](ilse, `[...document.querySelectorAll("section[aria-label=When] input:not([type=checkbox])")].map(e => e.value).join(" ")`))

	// Nothing is settled but the time; the foot says so.
	assert.Contains(t, ilse.settledAs(), "Not ready to send")
	ilse.write("Title", "Lacquer loan: packing, courier")
	ilse.addPerson("tome", "Tomé Akande") // accents do not matter
	ilse.addPerson("calad", "Rui Calado")
	ilse.addPerson("holm", "Freya Holm")
	ilse.write("Add a person", "guest@kirisame.example")
	ilse.press("invite guest@kirisame.example by mail")
	ilse.sees("Goes to 4 people (1 outside)")

	// Everybody's day is on the right; the band moves by arrow keys.
	ilse.sees("Fits", "Rooms that fit", "their calendar cannot be seen from here")
	ilse.focus(`[role=slider]`)
	ilse.keys(kb.ArrowRight)
	ilse.keys(kb.ArrowRight, chromedp.ModifierShift)
	ilse.holds(`document.querySelector("[role=slider]").getAttribute("aria-valuetext") === "Thursday 3 December, 9:45 to 11:00"`)
	ilse.drag(`[role=slider]`, 0.5, 0.5-0.25/1.25, 0.2) // back by a quarter with the pointer
	ilse.holds(`document.querySelector("[role=slider]").getAttribute("aria-valuetext") === "Thursday 3 December, 9:30 to 10:45"`)
	ilse.focus(`[role=slider]`)
	ilse.keys(kb.ArrowLeft, chromedp.ModifierShift)
	ilse.holds(`document.querySelector("[role=slider]").getAttribute("aria-valuetext") === "Thursday 3 December, 9:30 to 10:30"`)

	// A room, and a link that is made at this moment.
	ilse.takeRoom("Map Room")
	ilse.sees("books Map Room")
	ilse.makeLink()
	ilse.sees("Ostrel · fresh link", "Guests from outside wait until the organiser lets them in", "ends a call after 45 minutes")
	link := value[string](ilse, `document.querySelector("section[aria-label=Link] .break-words").innerText`)
	ilse.write("Text", "Final crate list and the courier’s flight.")
	ilse.sees("Saved as it is written.")

	// A reload loses nothing, the link included.
	ilse.do("reload", chromedp.Reload())
	ilse.sees("Tomé Akande", "guest@kirisame.example", "Map Room")
	assert.Equal(t, "Lacquer loan: packing, courier", value[string](ilse, `document.querySelector("input[aria-label=Title]").value`))
	assert.Equal(t, link, value[string](ilse, `document.querySelector("section[aria-label=Link] .break-words").innerText`))

	// She looks at what each person will get.
	ilse.press("See the invitation")
	ilse.sees("What each person will get", "Invitation: Lacquer loan: packing, courier", "in Jembro", "by mail")
	ilse.do("look at the guest's", clickOn(`[...document.querySelectorAll("[role=dialog] button")].find(b => b.textContent.includes("guest@kirisame.example"))`))
	ilse.holds(`!!document.querySelector("iframe[title='Mail to guest@kirisame.example'][data-loaded]")`)
	assert.Contains(t, ilse.frame("Mail to guest"), "No account needed. Your calendar program can answer too.")

	// Words before it, a slip in them, and the letter that follows as they are written.
	ilse.write("Subject of the mail", strings.Repeat("Lacquer ", 20))
	ilse.sees("A subject has room for 150 characters, this one has 159.")
	ilse.write("Subject of the mail", "Lacquer loan: your flight, please read")
	ilse.write("To guest@kirisame.example alone", "I meet you at the airport.")
	ilse.write("Words to everybody", "The crates are measured.")
	ilse.sees("subject Lacquer loan: your flight, please read")
	ilse.holds(`!!document.querySelector("iframe[title='Mail to guest@kirisame.example'][data-loaded]")`)
	require.Eventually(t, func() bool { // the letter follows what is written, some moments later
		framed := ilse.frame("Mail to guest")
		return strings.Contains(framed, "The crates are measured.") && strings.Contains(framed, "I meet you at the airport.")
	}, 20*time.Second, 200*time.Millisecond)
	ilse.axe("the words before it")
	ilse.press("Close")
	ilse.sees("Goes with words to everybody, words to one alone, a subject of its own.")

	tome := signIn(t, "tome.akande@marrowby.example")
	tome.press("Week after")
	tome.sees("Week 49")
	tome.lacks("Lacquer loan: packing")

	ilse.sees("4 people (1 outside)")
	ilse.keys(kb.Enter, chromedp.ModifierCtrl)
	ilse.sees("People", "4 silent", "Map Room")
	ilse.sees("e-mail in the mailbox", "in Jembro, today", "Ilse Marrant sent 4 invitations", "Map Room booked")

	// A colleague sees it in the week, unanswered, without loading anew.
	began := time.Now()
	tome.sees("Lacquer loan: packing, courier")
	t.Logf("the colleague's window showed it within %v of being looked at", time.Since(began).Round(10*time.Millisecond))
	tome.holds(`[...document.querySelectorAll("button")].some(b => b.textContent.includes("Lacquer loan: packing, courier") && b.textContent.includes("you have not answered"))`)
	tome.press("Lacquer loan: packing, courier")
	tome.press("Accept")
	tome.sees("✓ Accept")
	ilse.sees("1 accepted · 3 silent")

	// The guest opens the page from the mail and accepts.
	mail := mails(t, "guest@kirisame.example", "Lacquer loan: your flight, please read", 1)[0]
	guest := newPage(t)
	guest.open(fmt.Sprintf("%s/post/messages/%d", running.WorldURL, mail.ID))
	guest.sees("SIMULATED POST OFFICE", "Lacquer loan: packing, courier")
	guest.press("Answer")
	guest.sees("invites guest@kirisame.example", "Thursday 3 December", "Put it in your calendar", "You wait until the organiser lets you in")
	guest.write("A word with it (optional)", "From the airport")
	guest.press("Accept")
	guest.sees("You accepted.")
	ilse.sees("2 accepted · 2 silent", "“From the airport”", "guest@kirisame.example answered: accepted (on the guest page)")

	// She copies the join card at one press.
	ilse.keys("c")
	ilse.sees("Join card copied")
}

// TestMailProgramAnswersByItself accepts through an iTIP REPLY over SMTP.
func TestMailProgramAnswersByItself(t *testing.T) {
	ilse := signIn(t, demo.Ilse)
	ilse.sheetFor("Glaze samples", "lab@kirisame.example")
	ilse.tick("no link needed")
	ilse.sees("Goes to lab@kirisame.example (outside)", "✓ Where")
	ilse.press("Send")
	ilse.sees("People", "e-mail in the mailbox")

	mail := mails(t, "lab@kirisame.example", "Glaze samples", 1)[0]
	post := newPage(t)
	post.open(fmt.Sprintf("%s/post/messages/%d", running.WorldURL, mail.ID))
	post.write("Comment", "Gladly")
	post.press("maybe")
	post.sees("The mail program answered TENTATIVE.")
	ilse.sees("1 maybe", "“Gladly”", "lab@kirisame.example answered: maybe (by mail)")
	post.press("accept")
	post.sees("The mail program answered ACCEPTED.")
	ilse.sees("1 accepted", "lab@kirisame.example answered: accepted (by mail)")

	// A new hour asks again, and an answer to the old one changes nothing.
	ilse.press("Change")
	ilse.sees("Send changes")
	ilse.focus(`[role=slider]`)
	ilse.keys(kb.ArrowRight)
	ilse.sees("Goes to lab@kirisame.example (outside)")
	ilse.press("Send changes")
	ilse.sees("1 silent", "changed time and told 1 person", "change e-mail in the mailbox")
	changed := mails(t, "lab@kirisame.example", "Glaze samples", 2)[1]
	assert.True(t, strings.HasPrefix(changed.Subject, "Changed: "), changed.Subject)
	require.NoError(t, running.World.Post.Answer(mail.Message, "DECLINED", ""))
	ilse.sees("an older answer, it changes nothing", "1 silent")
	require.NoError(t, running.World.Post.Answer(changed.Message, "ACCEPTED", ""))
	ilse.sees("1 accepted")

	// Called off, with a word.
	ilse.press("Call off…")
	ilse.sees("lab@kirisame.example hears of it now.")
	ilse.write("A word to them (optional)", "The kiln is broken.")
	ilse.press("Call off and tell 1 person")
	ilse.sees("This meeting has been called off.")
	off := mails(t, "lab@kirisame.example", "Glaze samples", 3)[2]
	assert.Equal(t, "CANCEL", off.Method)
	assert.Contains(t, off.Text, "The kiln is broken.")
}

// TestATakenRoomIsSaidAndAnotherTaken books a room that somebody was faster with: it is
// said while the sheet is open, and again at Send.
func TestATakenRoomIsSaidAndAnotherTaken(t *testing.T) {
	sheet := func(p *page, title string) {
		p.keys("m")
		p.write("Title", title)
		p.write("Day", "10 dec")
		p.write("Starts", "16")
		p.keys(kb.Tab)
		p.holds(`document.querySelector("[role=slider]").getAttribute("aria-valuetext") === "Thursday 10 December, 16:00 to 17:00"`)
		p.tick("no link needed")
		p.takeRoom("Founders Table")
		p.sees("books Founders Table")
	}
	ilse := signIn(t, demo.Ilse)
	rui := signIn(t, "rui.calado@marrowby.example")
	sheet(ilse, "Trustees")
	ilse.sees("held for you until")
	sheet(rui, "Boiler review")
	rui.sees("Founders Table is held by Ilse Marrant until")
	rui.press("Send")
	rui.sees("Founders Table is held by Ilse Marrant until", "Take ")

	// She looks at something else for long enough; he sends again and has it.
	ilse.lapse()
	rui.press("Send")
	rui.sees("Founders Table booked")
	ilse.press("Send")
	ilse.sees("Founders Table was taken", "by Rui Calado, for 10 December from 16:00 until 17:00.")
	assert.Equal(t, "Trustees", value[string](ilse, `document.querySelector("input[aria-label=Title]").value`))
	take := value[string](ilse, `[...document.querySelectorAll("section[aria-label=Where] [role=alert] button")][0].innerText`)
	require.True(t, strings.HasPrefix(take, "Take "), take)
	ilse.press(take)
	ilse.sees("books "+strings.TrimPrefix(take, "Take "), "held for you until")
	ilse.press("Send")
	ilse.sees("People", strings.TrimPrefix(take, "Take ")+" booked")
}
