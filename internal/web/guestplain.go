package web

import (
	"bytes"
	"context"
	"errors"
	"html/template"
	"io/fs"
	"slices"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/web/api"
)

// plainGuest is the page of a guest whose browser runs no script: the same, to be read and
// answered.
var plainGuest = template.Must(template.New("").Parse(`<noscript><main lang="{{.T.Code}}">
<p>{{.T.Say "%[1]s, %[2]s, invites %[3]s" .Organiser .House .Guest}}</p>
<h1>{{.Title}}</h1>
<p><b>{{.When}}</b> {{.Zone}}</p>
{{with .Where}}<p>{{.}}</p>{{end}}
{{if .Off}}<p><b>{{.T.Say "This meeting has been called off."}}</b></p>{{else}}
{{with .Since}}<p><b>{{$.T.Say "Changed since you last looked:"}}</b> {{.}}.</p>{{end}}
{{with .Said}}<p role="status"><b>{{$.T.Say .}}</b></p>{{end}}
{{with .Given}}<p>{{$.T.Say .}} {{$.T.Say "You can change it."}}</p>{{end}}
<form method="post" action="/guest/{{.Token}}/answer"><input type="hidden" name="sequence" value="{{.Sequence}}">
<p><label for="word">{{.T.Say "A word with it (optional)"}}</label><br><input id="word" name="comment" maxlength="1000" value="{{.Comment}}"></p>
<p><button name="answer" value="accepted">{{.T.Say "Accept"}}</button> <button name="answer" value="maybe">{{.T.Say "Maybe"}}</button> <button name="answer" value="declined">{{.T.Say "Decline"}}</button></p></form>
{{with .Card}}<pre>{{.}}</pre>{{end}}{{end}}
{{with .Text}}<p class="whitespace-pre-line">{{.}}</p>{{end}}
{{with .Files}}<p>{{$.T.Say "Files:"}}{{range .}}<br><a href="/api/guest/{{$.Token}}/files/{{.ID}}">{{.Name}}</a> {{.Words}}{{end}}</p>{{end}}
<p>{{.T.Say "Who: %s" .Names}}</p>
<p><a href="/api/guest/{{.Token}}/file">{{.T.Say "Calendar file (.ics)"}}</a></p>
</main></noscript>`))

// givenTo is what a guest is told of their answer.
var givenTo = map[meeting.Answer]string{meeting.Accepted: "You accepted.", meeting.Maybe: "You answered maybe.", meeting.Declined: "You declined."}

// saidTo is what a guest is told after a form, by the word in the address.
var saidTo = map[string]string{
	"answered": "Your answer was taken.",
	"changed":  "The meeting has changed since that page was opened. Look at it again and answer then.",
	"refused":  "That was no answer that can be taken. Choose one of the three.",
}

// guestView is the interface, with the guest's page in it for browsers without script.
func (h *handlers) guestView(ctx fiber.Ctx, files fs.FS) error {
	token := ctx.Params("token")
	v, err := h.deeds.Meetings.Guest(ctx.Context(), token)
	if err != nil {
		return view(ctx, files) // which says so
	}
	index, err := fs.ReadFile(files, "index.html")
	if err != nil {
		return view(ctx, files)
	}
	m, id, t := v.Content, v.Guest.ID.String(), v.Tongue
	zone := m.StartIn().Zone
	if z, err := when.LoadZone(v.Guest.Zone); err == nil {
		zone = z
	}
	page := map[string]any{"T": t, "Organiser": m.Organiser.Name, "House": h.deeds.House.Name, "Guest": v.Guest.Name, "Title": m.Title, "When": words.When(t, m, m.SpanFor(id), zone),
		"Zone": t.Say("%s time", t.City(zone)), "Off": v.CalledOffAt != nil, "Said": saidTo[ctx.Query("said")], "Token": token, "Sequence": v.Guest.SentSequence, "Comment": v.Guest.Comment,
		"Text": m.Text, "Since": sinceWords(v.Since), "Files": each(m.Files, toFile), "Names": strings.Join(h.guest(v).Names, ", ")}
	if m.AllDay {
		page["Zone"] = ""
	}
	if series := h.deeds.Meetings.GuestSeries(v); series != nil && series.Words != "" {
		page["When"] = t.Say("%[1]s, first %[2]s", series.Words, page["When"])
	}
	if m.Room != nil {
		page["Where"] = m.Room.Name + ", " + m.Room.Place
	}
	if v.Guest.Answer != meeting.NoAnswer {
		page["Given"] = givenTo[v.Guest.Answer]
	}
	if m.Card != nil {
		page["Card"] = m.Card.Text(join.Reader{Country: when.CountryOf(v.Guest.Zone), Outside: v.Guest.PersonID == nil, Tongue: t})
	}
	return withPlain(ctx, index, plainGuest, page)
}

// GetWords are the sentences of these pages in a language.
func (h *handlers) GetWords(_ context.Context, r api.GetWordsRequestObject) (api.GetWordsResponseObject, error) {
	all := tongue.In(r.Language).Messages()
	if all == nil {
		return nil, schedule.ErrNotFound
	}
	return api.GetWords200JSONResponse{Messages: all}, nil
}

// withPlain is the interface with a page in it for browsers without script.
func withPlain(ctx fiber.Ctx, index []byte, is *template.Template, page any) error {
	var plain bytes.Buffer
	if err := is.Execute(&plain, page); err != nil {
		return err
	}
	ctx.Set("Cache-Control", "no-store")
	ctx.Set("Referrer-Policy", "no-referrer") // the address is a secret: nobody hears of it by a link
	body, end, _ := bytes.Cut(index, []byte("</body>"))
	return ctx.Type("html", "utf-8").Send(slices.Concat(body, plain.Bytes(), []byte("</body>"), end))
}

func sinceWords(s *meetings.GuestSince) string {
	if s == nil {
		return ""
	}
	return s.Words
}

// guestForm takes an answer from such a page.
func (h *handlers) guestForm(ctx fiber.Ctx) error {
	seen, _ := strconv.Atoi(ctx.FormValue("sequence"))
	given := meetings.Given{Answer: fromAnswer(api.GiveAnswerAnswer(ctx.FormValue("answer"))), Comment: ctx.FormValue("comment"), Seen: max(seen, 0)}
	err := h.deeds.Meetings.GuestAnswer(ctx.Context(), ctx.Params("token"), given)
	said := "answered"
	var changed *schedule.VersionError
	var invalid *schedule.InvalidError
	switch {
	case errors.As(err, &changed), errors.Is(err, schedule.ErrCalledOff):
		said = "changed"
	case errors.As(err, &invalid):
		said = "refused"
	case err != nil:
		return err
	}
	return ctx.Redirect().Status(fiber.StatusSeeOther).To("/guest/" + ctx.Params("token") + "?said=" + said)
}

// guestCalendar is the meeting of a guest as a calendar to subscribe to: it follows every change.
func (h *handlers) guestCalendar(ctx fiber.Ctx) error {
	file, err := h.deeds.Meetings.GuestCalendar(ctx.Context(), ctx.Params("token"))
	if err != nil {
		return err
	}
	ctx.Set(fiber.HeaderContentType, "text/calendar; charset=utf-8")
	ctx.Set("Cache-Control", "no-cache")
	return ctx.Send(file)
}
