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
	guest.do("choose English", selectOption("Esta página, e os e-mails para si", "English"))
	guest.sees("You answered maybe.", "Friday 18 December, 8:00 – 9:00", "Lisbon time")
	guest.holds(`document.querySelector("select[class*=text-ink]").value === "en"`)
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
