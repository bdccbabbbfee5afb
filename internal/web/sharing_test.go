package web_test

import (
	"compress/gzip"
	"io"
	"net/http"
	"slices"
	"sort"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/web/api"
)

// TestNothingLeaksAtAnySharingLevel walks all operations of the contract as a colleague who
// is not invited, for every level of what is shared with them: no title but where titles
// are shared, never that of a private meeting, and never a place, a person, a text or a link
// of a meeting. With nothing shared, no answer says that the owner is taken, or has a room.
func TestNothingLeaksAtAnySharingLevel(t *testing.T) {
	owner, viewer := signedIn(t, "beatriz.lomba@marrowby.example"), signedIn(t, "joana.bras@marrowby.example")
	_, b := owner.call("GET", "/api/me", nil, nil)
	me := as[api.Me](t, b)
	_, b = viewer.call("GET", "/api/me", nil, nil)
	viewerID := as[api.Me](t, b).ID.String()
	cabinet := ""
	_, b = viewer.call("GET", "/api/rooms?limit=200", nil, nil)
	for _, r := range as[api.Rooms](t, b).Items {
		if r.Name == "Print Cabinet" {
			cabinet = r.ID.String()
		}
	}
	meet := func(title, start, end string, private bool) string {
		s := owner.sheet(func(d *api.Draft) {
			d.Title, d.Text, d.Private, d.Start, d.End = title, "quokkatext", private, start, end
			d.RoomID, d.NoRoom = cabinet, false
			d.People = []api.DraftPerson{{Name: "Quokkaguest", Email: "quokkaguest@kirisame.example", Needed: true}}
		})
		status, b := owner.send(s)
		require.Equal(t, 200, status, "%s", b)
		id := as[api.Sent](t, b).MeetingID
		_, err := running.Program.Pool.Exec(t.Context(), `UPDATE meeting_version SET content = jsonb_set(content, '{card}', '{"provider":"ostrel","name":"Ostrel","remoteId":"x","url":"https://ostrel.example/quokkalink"}') WHERE meeting_id = $1`, id)
		require.NoError(t, err)
		return id.String()
	}
	id := meet("Quokkaopen", "2027-05-25T09:30", "2027-05-25T10:30", false)
	meet("Quokkasecret", "2027-05-25T11:00", "2027-05-25T12:00", true)

	// A standing room that both use: the owner's meetings are in it.
	room := uuid.New()
	status, b := viewer.call("PUT", "/api/standing/"+room.String(), map[string]any{"name": "Shared", "group": true, "sharedWith": []any{me.ID}, "text": "https://kestle.example/r/shared"}, nil)
	require.Equal(t, 204, status, "%s", b)
	_, err := running.Program.Pool.Exec(t.Context(), `UPDATE meeting SET standing_id = $1 WHERE id IN (SELECT meeting_id FROM meeting_version WHERE content ->> 'title' LIKE 'Quokka%')`, room)
	require.NoError(t, err)

	// A sheet of the viewer with the owner on it, at the same time in the same room: what
	// stands against it must not say more than it may.
	person := api.DraftPerson{PersonID: me.ID.String(), Name: me.Name, Email: me.Email, Needed: true}
	mine := func(change func(*api.Draft)) api.Sheet {
		return viewer.sheet(func(d *api.Draft) {
			d.Start, d.End, d.People = "2027-05-25T09:30", "2027-05-25T10:30", []api.DraftPerson{person}
			d.RoomID, d.NoRoom = cabinet, false
			change(d)
		})
	}
	one := mine(func(*api.Draft) {})
	series := mine(func(d *api.Draft) {
		d.Repeat = &api.DraftRepeat{Rule: "every week", Ends: "after", Count: 3, Days: []string{}, Added: []string{}}
	})
	people := []any{map[string]any{"personId": me.ID, "name": me.Name, "email": me.Email, "needed": true, "dates": []any{}}}
	about := func(extra map[string]any) map[string]any {
		for name, v := range map[string]any{"zone": "Europe/Lisbon", "people": people, "roomId": cabinet, "wantRoom": true, "equipment": []any{}, "siteId": "", "meetingId": id} {
			extra[name] = v
		}
		return extra
	}
	type ask struct {
		operation, method, path string
		body                    any
	}
	sheet, dates := "/api/sheets/"+one.ID.String(), "/api/sheets/"+series.ID.String()
	inRoom := mine(func(d *api.Draft) { d.NoLink = false })
	status, b = viewer.call("POST", "/api/sheets/"+inRoom.ID.String()+"/link", map[string]any{"standing": room}, nil)
	require.Equal(t, 200, status, "%s", b)
	require.Len(t, as[api.Sheet](t, b).Link.Overlaps, 1)
	standing := "/api/sheets/" + inRoom.ID.String()
	asks := []ask{
		{"getMe", "GET", "/api/me", nil}, {"getWeek", "GET", "/api/weeks?from=2027-05-24", nil}, {"weekFile", "GET", "/api/weeks/file?from=2027-05-24", nil}, {"getMonth", "GET", "/api/month?from=2027-05-24&days=42", nil},
		{"findPeople", "GET", "/api/directory?q=lomba", nil}, {"findMeetings", "GET", "/api/find?q=Quokkaopen", nil}, {"listNews", "GET", "/api/news", nil},
		{"listRooms", "GET", "/api/rooms?limit=200", nil}, {"getRoomsDay", "GET", "/api/rooms/day?day=2027-05-25", nil}, {"getRoom", "GET", "/api/rooms/" + cabinet + "?from=2027-05-24", nil},
		{"getRoomFeed", "GET", "/api/rooms/" + cabinet + "/feed", nil}, {"getDay", "POST", "/api/day", about(map[string]any{"day": "2027-05-25", "start": "2027-05-25T09:30", "end": "2027-05-25T10:30"})},
		{"findOpenings", "POST", "/api/openings", about(map[string]any{"first": "2027-05-25", "days": 2, "minutes": 60, "from": 480, "to": 1140})},
		{"listSheets", "GET", "/api/sheets", nil}, {"freshSheet", "GET", "/api/sheets/fresh", nil}, {"getSheet", "GET", sheet, nil}, {"getSheetDates", "GET", sheet + "/dates", nil},
		{"getSheetDates", "GET", dates + "/dates", nil}, {"findSeriesOpenings", "GET", dates + "/openings?from=480&to=1140", nil}, {"previewSheet", "GET", sheet + "/preview", nil},
		{"previewLetter", "GET", sheet + "/preview/0", nil}, {"previewPage", "GET", sheet + "/preview/0/page", nil}, {"holdRooms", "POST", sheet + "/hold", nil},
		{"waitForRoom", "POST", sheet + "/wait", nil}, {"stopWaiting", "DELETE", sheet + "/wait", nil},
		{"getMeeting", "GET", "/api/meetings/" + id, nil}, {"meetingFile", "GET", "/api/meetings/" + id + "/file", nil}, {"whatCallingOffDoes", "GET", "/api/meetings/" + id + "/calloff", nil},
		{"changeMeeting", "POST", "/api/meetings/" + id + "/sheet", map[string]any{}}, {"getHours", "GET", "/api/hours", nil}, {"hoursFile", "GET", "/api/hours/file", nil},
		{"getWatched", "GET", "/api/watched?from=2027-05-24", nil}, {"getRoomTable", "GET", "/api/rooms.csv", nil}, {"getCalls", "GET", sheet + "/calls", nil}, {"getSheet", "GET", standing, nil}, {"getSheetCard", "GET", standing + "/card", nil},
		{"listStanding", "GET", "/api/standing", nil}, {"listDispatches", "GET", "/api/dispatches", nil}, {"getToday", "GET", "/api/today", nil},
	}
	// These give nothing back, or what their caller wrote, or are about somebody's own things
	// that TestEveryOperationByEverybody holds against others.
	quiet := strings.Fields("sheetsFromFile sendLater takeBack signIn signOut signOutOthers changePassword live openSheet saveSheet attachLink dropLink rebaseSheet discardSheet discardSheets changeRoom answerRoomRequest " +
		"takeRoomTable decideRoom readNews setNewsMail answerMeeting callOffMeeting startConnecting finishConnecting decideLetter getGuestMeeting answerAsGuest sawAsGuest readAsGuest giveAddress withdrawAddress getAtAddress getWords joinAtAddress remindMe bring bringAsGuest guestFile addFile attachment guestAttachment getInvitationAddress getInvitation answerInvitation believeInvitation invitationFile proposeTime proposeTimeAsGuest listProposals decideProposal setHours takeHoursFile " +
		"setOtherDay dropOtherDay enterLeave getLeave settleLeave takeLeaveBack addCalendar changeCalendar readCalendar removeCalendar setSharing giveBusyTimes withdrawBusyTimes giveRoomTimes " +
		"withdrawRoomTimes setWatched keepTheirAddress forgetTheirAddress settleWay setDoor splitSheet readCard keepStanding dropStanding getDispatch dispatchMessage sendAgain renewPage markTold letBe takeRoom extendSeries askAgain " +
		"listProviders addProvider getProviderSchema checkProvider getProvider writeProvider useProvider restoreProvider giveSecrets tryProvider stopProvider listRoomsAt")
	spec, err := api.GetSpec()
	require.NoError(t, err)
	var missing []string
	for _, item := range spec.Paths.Map() {
		for _, o := range item.Operations() {
			is := func(name string) bool { return strings.EqualFold(name, o.OperationID) }
			if !slices.ContainsFunc(quiet, is) && o.OperationID != "" && !slices.ContainsFunc(asks, func(a ask) bool { return is(a.operation) }) && !is("sendSheet") {
				missing = append(missing, o.OperationID)
			}
		}
	}
	sort.Strings(missing)
	require.Empty(t, missing, "every operation of the contract is asked")
	status, b = viewer.call("PUT", "/api/watched", map[string]any{"items": []any{map[string]any{"personId": me.ID}, map[string]any{"roomId": cabinet}}}, nil)
	require.Equal(t, 204, status, "%s", b)

	secret := []string{"Quokkasecret", "quokkatext", "quokkaguest", "Quokkaguest", "quokkalink"}
	for _, level := range []string{"nothing", "busy", "titles"} {
		everybody := map[string]string{"nothing": "titles", "busy": "nothing", "titles": "nothing"}[level] // one colleague sees what is theirs, not what others do
		status, b := owner.call("PUT", "/api/sharing", map[string]any{"everybody": everybody, "with": []any{map[string]any{"personId": viewerID, "level": level}}}, nil)
		require.Equal(t, 204, status, "%s", b)
		titled := 0
		for _, a := range asks {
			_, b := viewer.call(a.method, a.path, a.body, nil)
			text := string(b)
			for _, s := range secret {
				assert.NotContains(t, text, s, "%s at %s", a.operation, level)
			}
			if level == "nothing" { // not even that they are the reason why something does not fit
				for _, reason := range []string{me.Name + " is busy", me.Name + " cannot", "without " + me.Name, me.Name + " not clear", me.Name + " outside", "taken by " + me.Name, "by\":\"" + me.Name} {
					assert.NotContains(t, text, reason, a.operation)
				}
			}
			if strings.Contains(text, "Quokkaopen") {
				titled++
				assert.Equal(t, "titles", level, "%s tells the title", a.operation)
			}
		}
		// Sending into the taken room is refused, by its name where that may be known.
		h := ifMatch(one.Version)
		h["Idempotency-Key"] = "leak-" + level
		status, b = viewer.call("POST", sheet+"/send", nil, h)
		require.Equal(t, 409, status, "%s", b)
		assert.NotContains(t, string(b), "Quokka")
		assert.Equal(t, level != "nothing", strings.Contains(string(b), me.Name), "who has the room, at %s: %s", level, b)
		if level == "titles" {
			assert.Equal(t, 5, titled, "the week watched, the room's page, the rooms of the day, and a sheet in the same standing room with its calls")
		}
		day := func() api.Day {
			_, b := viewer.call("POST", "/api/day", asks[slices.IndexFunc(asks, func(a ask) bool { return a.operation == "getDay" })].body, nil)
			return as[api.Day](t, b)
		}()
		lane := day.Lanes[slices.IndexFunc(day.Lanes, func(l api.Lane) bool { return l.Email == me.Email })]
		if level == "nothing" {
			assert.Empty(t, lane.Busy)
			assert.Empty(t, lane.Off)
			assert.False(t, lane.TimeKnown)
			assert.False(t, slices.ContainsFunc(day.Troubles, func(x api.Trouble) bool { return x.Email == me.Email }), "%+v", day.Troubles)
			for _, path := range []string{"/api/rooms/day?day=2027-05-25", "/api/rooms/" + cabinet + "?from=2027-05-24"} {
				_, b := viewer.call("GET", path, nil, nil)
				assert.NotContains(t, string(b), me.Name, path)
			}
			_, b := viewer.call("GET", "/api/watched?from=2027-05-24", nil, nil)
			assert.True(t, as[api.Watched](t, b).Items[0].Hidden)
		} else {
			assert.Len(t, lane.Busy, 2)
		}
	}
	owner.call("PUT", "/api/sharing", map[string]any{"everybody": "busy", "with": []any{}}, nil)
	viewer.call("PUT", "/api/watched", map[string]any{"items": []any{}}, nil)
}

// TestTheSecretAddressOverHTTP: packed, not sent again to who has it, and gone when it is
// withdrawn.
func TestTheSecretAddressOverHTTP(t *testing.T) {
	gil := signedIn(t, "gil.tavares@marrowby.example")
	status, b := gil.call("PUT", "/api/feed", map[string]any{"titles": false}, nil)
	require.Equal(t, 204, status, "%s", b)
	_, b = gil.call("GET", "/api/hours", nil, nil)
	url := *as[api.HoursPage](t, b).FeedURL
	path := strings.TrimPrefix(url, running.BaseURL)
	anybody := newClient(t)
	anybody.http.Transport = &http.Transport{DisableCompression: true}
	for _, path := range []string{path, strings.Replace(path, ".ics", ".ifb", 1)} {
		res := anybody.do("GET", path, nil, map[string]string{"Accept-Encoding": "gzip"})
		require.Equal(t, 200, res.StatusCode)
		assert.Equal(t, "text/calendar; charset=utf-8", res.Header.Get("Content-Type"))
		assert.Equal(t, "gzip", res.Header.Get("Content-Encoding"))
		unpacked, err := gzip.NewReader(res.Body)
		require.NoError(t, err)
		body, err := io.ReadAll(unpacked)
		require.NoError(t, err)
		res.Body.Close()
		assert.Contains(t, string(body), "BEGIN:VCALENDAR")
		etag, modified := res.Header.Get("ETag"), res.Header.Get("Last-Modified")
		require.NotEmpty(t, etag)
		require.NotEmpty(t, modified)
		for _, have := range []map[string]string{{"If-None-Match": etag}, {"If-Modified-Since": modified}} {
			res := anybody.do("GET", path, nil, have)
			res.Body.Close()
			assert.Equal(t, 304, res.StatusCode, have)
		}
		res = anybody.do("GET", path, nil, map[string]string{"If-None-Match": `"another"`, "If-Modified-Since": modified})
		res.Body.Close()
		assert.Equal(t, 200, res.StatusCode, "the tag goes before the date")
	}
	status, _ = gil.call("DELETE", "/api/feed", nil, nil)
	require.Equal(t, 204, status)
	for _, gone := range []string{path, "/busy/nonsense.ics", "/busy/nonsense", "/busy/" + strings.Repeat("a", 45) + ".ifb"} {
		status, _ = anybody.call("GET", gone, nil, nil)
		assert.Equal(t, 404, status, gone)
	}
}
