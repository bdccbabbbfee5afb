package schedule_test

import (
	"context"
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/demo"
	"jembro/internal/demo/demotest"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
	"jembro/internal/schedule/deeds"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
	"jembro/internal/standin"
)

var running *demo.Running

func TestMain(m *testing.M) {
	os.Exit(demotest.Run(m, nil, func(r *demo.Running) { running = r }))
}

func service() *deeds.Deeds { return running.Program.Deeds }

// who finds somebody of the demo house.
func who(t testing.TB, email string) (p schedule.Person) {
	t.Helper()
	require.NoError(t, running.Program.Store.Look(t.Context(), func(tx *postgres.Tx) (err error) {
		p, err = tx.PersonByEmail(t.Context(), email)
		return err
	}))
	return p
}

func room(t testing.TB, name string) schedule.Room {
	t.Helper()
	rooms, err := service().Directory.Rooms(t.Context(), schedule.Page{Most: 100})
	require.NoError(t, err)
	for _, r := range rooms {
		if r.Name == name {
			return r
		}
	}
	require.Fail(t, "no room "+name)
	return schedule.Room{}
}

// slot counts days far ahead, so that no test meets another's meetings.
var slot atomic.Int32

// slotsOf2027 are those before the days that tests choose by hand.
const slotsOf2027 = 60

// draft is a sheet that can be sent, on a day of its own.
func draft(change func(*meeting.Draft)) meeting.Draft {
	n := slot.Add(1) // working days: so many from Monday, 1 February 2027, and then of the next year
	first, from := time.Date(2027, 2, 1, 0, 0, 0, 0, time.UTC), n
	if n >= slotsOf2027 {
		first, from = time.Date(2028, 2, 7, 0, 0, 0, 0, time.UTC), n-slotsOf2027
	}
	day := first.AddDate(0, 0, int(from/5*7+from%5)).Format(time.DateOnly)
	d := meeting.Draft{Title: "Crate sizes", Start: day + "T09:30", End: day + "T10:30", Zone: "Europe/Lisbon",
		People: []meeting.DraftPerson{{Name: "S. Onari", Email: "s.onari@kirisame.example", Needed: true}}, NoRoom: true, NoLink: true}
	if change != nil {
		change(&d)
	}
	if !strings.HasPrefix(d.Start, day) { // it has another day, and the next one takes this
		slot.CompareAndSwap(n, n-1)
	}
	return d
}

func open(t testing.TB, me uuid.UUID, d meeting.Draft) schedule.Sheet {
	t.Helper()
	s, err := service().Sheets.OpenSheet(t.Context(), schedule.Self(me), "", "")
	require.NoError(t, err)
	s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(me), s.ID, s.Version, d, "")
	require.NoError(t, err)
	return s
}

func send(t testing.TB, me uuid.UUID, s schedule.Sheet) sheets.Sent {
	t.Helper()
	sent, err := service().Sheets.Send(t.Context(), schedule.Self(me), s.ID, s.Version, uuid.NewString())
	require.NoError(t, err)
	return sent
}

// change sends changes to a meeting.
func change(t testing.TB, me, id uuid.UUID, alter func(*meeting.Draft)) sheets.Sent {
	t.Helper()
	s, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(me), id, sheets.Opening{})
	require.NoError(t, err)
	alter(&s.Draft)
	s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(me), s.ID, s.Version, s.Draft, "")
	require.NoError(t, err)
	return send(t, me, s)
}

// look is a meeting as somebody sees it.
func look(t testing.TB, person, id uuid.UUID) meetings.Detail {
	t.Helper()
	d, err := service().Meetings.Meeting(t.Context(), schedule.Self(person), id)
	require.NoError(t, err)
	return d
}

func eventually(t testing.TB, what string, is func() bool) {
	t.Helper()
	require.Eventually(t, is, 15*time.Second, 20*time.Millisecond, what)
}

// box waits until a mailbox holds as many mails as wanted.
func box(t testing.TB, address string, want int) []standin.Read {
	t.Helper()
	eventually(t, fmt.Sprintf("%d mails for %s", want, address), func() bool { return len(running.World.Post.Box(address)) >= want })
	var reads []standin.Read
	for _, m := range running.World.Post.Box(address) {
		r, err := standin.ReadMail(m)
		require.NoError(t, err)
		reads = append(reads, r)
	}
	require.Equal(t, want, len(reads), "mails for %s", address)
	return reads
}

// connect signs somebody in at Ostrel as a browser would.
func connect(t testing.TB, p schedule.Person) {
	t.Helper()
	sheet := open(t, p.ID, callDraft(nil))
	to, err := service().Links.StartConnecting(t.Context(), schedule.Self(p.ID), "ostrel", sheet.ID)
	require.NoError(t, err)
	u, err := url.Parse(to)
	require.NoError(t, err)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	client := http.Client{Jar: jar, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	q := u.Query()
	res, err := client.PostForm(strings.Replace(u.Scheme+"://"+u.Host, "ostrel.localhost", "127.0.0.1", 1)+"/oauth/authorize", url.Values{"do": {"allow"}, "account": {p.Name},
		"redirect": {q.Get("redirect_uri")}, "state": {q.Get("state")}, "challenge": {q.Get("code_challenge")}})
	require.NoError(t, err)
	res.Body.Close()
	back, err := url.Parse(res.Header.Get("Location"))
	require.NoError(t, err)
	_, err = service().Links.FinishConnecting(context.Background(), schedule.Self(p.ID), "ostrel", back.Query().Get("state"), back.Query().Get("code"))
	require.NoError(t, err)
}

// refusedWith holds an error against a part of what it says.
func refusedWith(t testing.TB, err error, part string, told ...any) {
	t.Helper()
	require.Error(t, err, told...)
	assert.Contains(t, words.Error(tongue.Tongue{}, err), part, told...)
}
