package e2e_test

import (
	"regexp"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"

	"jembro/internal/demo"
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
