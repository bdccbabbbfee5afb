package e2e_test

import (
	"testing"

	"jembro/internal/demo"
)

// TestAPasswordIsChangedAndOthersAreSignedOut goes wrong in each field first.
func TestAPasswordIsChangedAndOthersAreSignedOut(t *testing.T) {
	const ivo = "ivo.camara@marrowby.example"
	elsewhere, p := withSession(t, running.BaseURL, ivo), signIn(t, ivo)
	p.open(running.BaseURL + "/account")
	change := func(current, fresh string) {
		p.write("The one that holds now", current)
		p.write("The new one, 12 characters or more", fresh)
		p.press("Change it")
	}
	change("wrong", "granite kettle morning")
	p.holds(`document.getElementById("fault-current")?.innerText.length > 0`)
	change(demo.Password, "password1234")
	p.holds(`document.getElementById("fault-fresh")?.innerText.length > 0`)
	change(demo.Password, "granite kettle morning")
	p.sees("The new password holds; everywhere else you are signed out")
	elsewhere.open(running.BaseURL + "/weeks")
	elsewhere.write("E-mail address", ivo)
	elsewhere.write("Password", demo.Password)
	elsewhere.press("Sign in")
	elsewhere.sees("Address or password is wrong.")
	elsewhere.write("Password", "granite kettle morning")
	elsewhere.press("Sign in")
	elsewhere.sees("Week 48")
	p.press("Sign out everywhere else")
	p.sees("Signed out everywhere else")
	elsewhere.open(running.BaseURL + "/weeks")
	elsewhere.sees("E-mail address")
	p.open(running.BaseURL + "/weeks")
	p.sees("Week 48")
}
