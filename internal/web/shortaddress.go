package web

import (
	"cmp"
	"context"
	"errors"
	"html/template"
	"io/fs"

	"github.com/gofiber/fiber/v3"

	"jembro/internal/core/join"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/sheets"
	"jembro/internal/web/api"
)

func (h *handlers) shortAddress(a schedule.ShortAddress) *api.ShortAddress {
	return &api.ShortAddress{URL: h.deeds.Meetings.ShortURL(a), Asks: a.Asks}
}

func (h *handlers) GiveAddress(ctx context.Context, r api.GiveAddressRequestObject) (api.GiveAddressResponseObject, error) {
	a, err := h.deeds.Meetings.GiveAddress(ctx, actor(ctx), r.ID, r.Body.Asks)
	return api.GiveAddress200JSONResponse(*h.shortAddress(a)), err
}

func (h *handlers) WithdrawAddress(ctx context.Context, r api.WithdrawAddressRequestObject) (api.WithdrawAddressResponseObject, error) {
	return api.WithdrawAddress204Response{}, h.deeds.Meetings.WithdrawAddress(ctx, actor(ctx), r.ID)
}

// GetAtAddress is what a short address shows to anybody who has it.
func (h *handlers) GetAtAddress(ctx context.Context, r api.GetAtAddressRequestObject) (api.GetAtAddressResponseObject, error) {
	v, err := h.deeds.Meetings.ByAddress(ctx, r.Code)
	if err != nil {
		return nil, err
	}
	m, d, t := v.Content, v.Next, h.readIn(deref(r.Params.AcceptLanguage))
	out := api.GetAtAddress200JSONResponse{Language: t.Code(), House: h.deeds.House.Name, Title: d.Title, Text: d.Text, Start: d.Span.Start.Time(), End: d.Span.End.Time(), AllDay: orNil(m.AllDay), Zone: m.Zone,
		Organiser: m.Organiser.Name, CalledOff: v.CalledOffAt != nil, Room: toMeetingRoom(d.Room), Asks: v.Asks}
	if m.Repeats() {
		out.Repeats = orNil(words.Series(t, m.Plan()))
	}
	if v.CalledOffAt == nil {
		out.Card = toCard(m.Card, join.Reader{Outside: true, Tongue: t})
	}
	return out, nil
}

func (h *handlers) JoinAtAddress(ctx context.Context, r api.JoinAtAddressRequestObject) (api.JoinAtAddressResponseObject, error) {
	return api.JoinAtAddress204Response{}, h.deeds.Sheets.Join(ctx, r.Code, sheets.Brings{Name: r.Body.Name, Email: r.Body.Email, Language: tongue.Match(deref(r.Params.AcceptLanguage))})
}

// readIn is the language of a page for somebody whose program says what they read, or else that of
// the house.
func (h *handlers) readIn(accept string) tongue.Tongue {
	return tongue.In(cmp.Or(tongue.Match(accept), h.deeds.Sheets.Language))
}

// plainAddress is a meeting at its short address for browsers without script.
var plainAddress = template.Must(template.New("").Parse(`<noscript><main lang="{{.T.Code}}">
<p>{{.T.Say "A meeting of %[1]s, %[2]s" .Organiser .House}}</p>
<h1>{{.Title}}</h1>
{{with .Repeats}}<p>{{$.T.Say "%s; the next date is" .}}</p>{{end}}
<p><b>{{.When}}</b> {{.Zone}}</p>
{{with .Where}}<p>{{.}}</p>{{end}}
{{if .Off}}<p><b>{{.T.Say "This meeting has been called off."}}</b></p>{{end}}
{{with .Said}}<p role="status"><b>{{$.T.Say .}}</b></p>{{end}}
{{if .Asks}}<form method="post" action="/m/{{.Code}}/join">
<p><label for="name">{{.T.Say "Your name (optional)"}}</label><br><input id="name" name="name" maxlength="200" autocomplete="name"></p>
<p><label for="email">{{.T.Say "Your e-mail address"}}</label><br><input id="email" name="email" type="email" maxlength="300" autocomplete="email" required></p>
<p><button>{{.T.Say "Invite me"}}</button></p></form>{{end}}
{{with .Text}}<p class="whitespace-pre-line">{{.}}</p>{{end}}
{{with .Card}}<pre>{{.}}</pre>{{end}}
</main></noscript>`))

// saidToAsker is what who asks for an invitation is told after a form, by the word in the address.
var saidToAsker = map[string]string{
	"joined":  "An invitation is on its way to you. If you had been invited before, answer in the mail that you have.",
	"refused": "That is no address that an invitation can go to. It looks like name@firm.example.",
}

// addressView is the interface, with the page of a short address in it.
func (h *handlers) addressView(ctx fiber.Ctx, files fs.FS) error {
	v, err := h.deeds.Meetings.ByAddress(ctx.Context(), ctx.Params("code"))
	if err != nil {
		return view(ctx, files) // which says so
	}
	index, err := fs.ReadFile(files, "index.html")
	if err != nil {
		return view(ctx, files)
	}
	m, zone, t := v.Content, v.Content.StartIn().Zone, h.readIn(ctx.Get(fiber.HeaderAcceptLanguage))
	page := map[string]any{"T": t, "Organiser": m.Organiser.Name, "House": h.deeds.House.Name, "Title": v.Next.Title, "Text": v.Next.Text, "Zone": t.Say("%s time", t.City(zone)), "Off": v.CalledOffAt != nil,
		"When": words.When(t, m, v.Next.Span, zone), "Asks": v.Asks, "Code": ctx.Params("code"), "Said": saidToAsker[ctx.Query("said")]}
	if m.AllDay {
		page["Zone"] = ""
	}
	if m.Repeats() {
		page["Repeats"] = words.Series(t, m.Plan())
	}
	if r := v.Next.Room; r != nil {
		page["Where"] = r.Name + ", " + r.Place
	}
	if m.Card != nil && v.CalledOffAt == nil {
		page["Card"] = m.Card.Text(join.Reader{Outside: true, Tongue: t})
	}
	return withPlain(ctx, index, plainAddress, page)
}

// joinForm takes a wish for an invitation from such a page.
func (h *handlers) joinForm(ctx fiber.Ctx) error {
	err := h.deeds.Sheets.Join(ctx.Context(), ctx.Params("code"), sheets.Brings{Name: ctx.FormValue("name"), Email: ctx.FormValue("email"), Language: tongue.Match(ctx.Get(fiber.HeaderAcceptLanguage))})
	said := "joined"
	var invalid *schedule.InvalidError
	if errors.As(err, &invalid) {
		said = "refused"
	} else if err != nil {
		return err
	}
	return ctx.Redirect().Status(fiber.StatusSeeOther).To("/m/" + ctx.Params("code") + "?said=" + said)
}
