package e2e_test

import (
	"context"
	"regexp"
	"testing"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/demo"
	"jembro/internal/demo/demotest"
	"jembro/internal/schedule"
)

// TestALetterIsWrittenInPortuguese: chosen beside the letter that shows it, and by its reader.
func TestALetterIsWrittenInPortuguese(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.keys("mCaixas de madeira")
	p.write("Day", "18 dec")
	p.write("Starts", "8:00")
	p.keys(kb.Tab)
	p.write("Add a person", "oficina@alvor.example")
	p.keys(kb.Enter)
	p.tick("no link needed")
	p.tick("no room needed")
	p.sees("Goes to oficina@alvor.example")
	p.press("See the invitation")
	p.holds(`!!document.querySelector("iframe[title^='Mail to oficina'][data-loaded]")`)
	p.do("choose Portuguese", selectOption("written in", "português"))
	p.holds(`document.querySelector("[role=dialog]").innerText.includes("Convite: Caixas de madeira, sexta-feira, 18 de dezembro de 2026")`)
	p.holds(`!!document.querySelector("iframe[title^='Mail to oficina'][data-loaded]")`)
	assert.Contains(t, p.frame("Mail to oficina"), "Não precisa de conta.")
	p.axe("a letter in Portuguese")
	p.do("send it", clickOn(`[...document.querySelectorAll("[role=dialog] button")].find(b => b.innerText.startsWith("Send"))`))
	p.sees("1 silent")
	m := mails(t, "oficina@alvor.example", "Caixas de madeira", 1)[0]
	assert.Contains(t, m.Text, "convida-o(a)")
	guest := newPage(t)
	guest.open(regexp.MustCompile(`http\S+/guest/\w+`).FindString(m.Text))
	guest.sees("Aceitar", "sexta-feira, 18 de dezembro", "hora de Lisboa", "Uma mensagem (facultativa)", "Ficheiro de calendário (.ics)")
	guest.axe("a guest's page in Portuguese")
	guest.press("Propor outra hora…")
	guest.write("Das", "nunca")
	guest.press("Propor a Ilse Marrant")
	guest.sees("Indique a hora a que começa, como 14:00.")
	guest.press("Deixar estar")
	guest.press("Talvez")
	guest.sees("Respondeu talvez.", "Ilse Marrant vê a resposta.")
	guest.write("Uma mensagem (facultativa)", "De comboio")
	guest.do("choose English", selectOption("Esta página, e os e-mails para si", "English"))
	guest.sees("You answered maybe.", "Friday 18 December, 8:00 – 9:00", "Lisbon time")
	guest.holds(`[...document.querySelectorAll("input")].some(i => i.value === "De comboio")`) // what is typed stays
	guest.open(value[string](guest, `location.href`))
	guest.write("A word with it (optional)", "By train")
	guest.do("choose Portuguese", selectOption("This page, and mails to you, are in", "português"))
	guest.sees("Respondeu talvez.")
	guest.holds(`[...document.querySelectorAll("input")].some(i => i.value === "By train")`) // also while its sentences are fetched
	guest.axe("the language of a guest")
}

// TestAShortAddressInTheLanguageOfTheBrowser: read, refused and asked at in Portuguese; the
// invitation comes in it.
func TestAShortAddressInTheLanguageOfTheBrowser(t *testing.T) {
	ilse, err := whoIs(t, demo.Ilse)
	require.NoError(t, err)
	id := sends(t, demo.Ilse, "2026-12-18T07:00", "2026-12-18T07:30", func(d *meeting.Draft) { to(d, "Vernizes", "verniz@alvor.example") })
	a, err := running.Program.Deeds.Meetings.GiveAddress(t.Context(), schedule.Self(ilse), id, true)
	require.NoError(t, err)
	p := newPage(t)
	p.do("read Portuguese", chromedp.Func(func(ctx context.Context, tab *chromedp.Target) error {
		_, err := cdp.Call(ctx, tab, emulation.SetUserAgentOverride, emulation.SetUserAgentOverrideParams{UserAgent: "Reader", AcceptLanguage: "pt-PT"})
		return err
	}))
	p.open(running.Program.Deeds.Meetings.ShortURL(a))
	p.sees("Uma reunião de Ilse Marrant", "Vernizes", "sexta-feira, 18 de dezembro", "Vem?")
	p.axe("a short address in Portuguese")
	p.write("O seu endereço de e-mail", "ninguém")
	p.press("Quero um convite")
	p.sees("não é um endereço de e-mail")
	p.write("O seu endereço de e-mail", "pincel@alvor.example")
	p.press("Quero um convite")
	p.sees("Um convite vai a caminho de pincel@alvor.example.")
	assert.Contains(t, mails(t, "pincel@alvor.example", "Vernizes", 1)[0].Subject, "Convite: ")
	p.open(running.BaseURL + "/m/none")
	p.sees("Já não há nenhuma reunião neste endereço")
}

// TestTheInterfaceIsOfTheCatalogue: whoever reads the marked language reads nothing else in any view, but
// what the database holds: no label, title or sentence stands outside the catalogue.
func TestTheInterfaceIsOfTheCatalogue(t *testing.T) {
	demotest.ReadsMarked(t, running, demo.Ilse)
	l := demotest.NewListener(running, nil)
	p := signIn(t, demo.Ilse)
	hear := func(view string) {
		p.holds(`![...document.querySelectorAll("[aria-label*=Loading]")].some(e => e.checkVisibility()) && document.body.innerText.includes("⟦")`)
		l.Hear("page "+view, []byte(value[string](p, allWords)))
	}
	visit := func(path string, sees ...string) {
		p.open(running.BaseURL + path)
		p.sees(sees...)
		hear(path)
	}
	id := func(title string) string {
		var id string
		require.NoError(t, running.Program.Pool.QueryRow(t.Context(), "SELECT m.id FROM meeting m JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version WHERE v.content->>'title' = $1", title).Scan(&id))
		return id
	}
	visit("/today", "Loose ends", "Crate sizes, loan 14")
	visit("/new", "What happened")
	visit("/weeks", "Week 48", "Crate sizes, loan 14")
	p.do("look at a meeting", clickOn(`[...document.querySelectorAll("[data-mark]")].find(b => b.innerText.includes("Crate sizes, loan 14"))`))
	p.sees("⟦Open⟧")
	hear("a meeting in the week")
	visit("/dispatch", "Crate sizes, loan 14")
	p.press("for Freight desk")
	p.sees("was not reached")
	hear("other ways")
	visit("/rooms", "Map Room")
	visit("/drafts", "Not sent yet")
	visit("/hours", "When I work", "Given to others")
	visit("/standing", "Loans desk")
	visit("/providers/tamberline", "Put into use")
	visit("/account", "Those who do not answer")
	p.press("Ilse Marrant")
	p.press("What the shapes mean")
	p.sees("Other people and rooms")
	hear("shapes")
	p.keys(kb.Escape)
	p.keys("?")
	p.sees("Everywhere")
	hear("keys")
	p.keys(kb.Escape)
	visit("/meeting/"+id("Crate sizes, loan 14"), "What happened")
	p.press("Call off")
	p.sees("Keep it")
	hear("calling off")
	visit("/meeting/"+id("Lacquer loan: packing, courier"), "to come")
	p.press("Change")
	p.sees("Which dates?", "Fits")
	hear("a series on a sheet")
	p.press("Throw these changes away")
	p.sees("The meeting stays")
	hear("thrown away")
	p.press("Throw away")
	p.sees("Week 48")
	p.keys("m")
	p.keys("Varnish")
	p.sees("Saved as")
	hear("an empty sheet")
	p.press("Other calls")
	p.sees("Where the call is")
	hear("other calls")
	p.press("Let it repeat")
	p.sees("Every")
	hear("a repetition")
	l.Check(t, 1000)
}

// allWords are the texts of a page, as a list: what stands in it, and what is said of it.
const allWords = `(() => {
	const all = new Set();
	const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
	for (let n; (n = walker.nextNode()); )
		if (!n.parentElement.closest("script, style, noscript, code, kbd, pre, textarea, svg")) all.add(n.textContent.trim());
	for (const e of document.querySelectorAll("body *"))
		for (const a of ["aria-label", "title", "placeholder", "alt", "aria-valuetext"]) if (e.getAttribute(a)) all.add(e.getAttribute(a));
	return JSON.stringify([...all]);
})()`
