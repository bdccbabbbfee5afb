package web_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"path"
	"sort"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
	"jembro/internal/demo/demotest"
	"jembro/internal/schedule"
	"jembro/internal/standin"
	"jembro/internal/web/api"
)

// TestEveryOperationByEverybody walks all operations of the contract as the organiser,
// somebody invited, somebody removed, a stranger, a guest and nobody: what each may
// do is in this table, and nobody learns of a meeting that is not theirs.
func TestEveryOperationByEverybody(t *testing.T) {
	ilse, rui := signedIn(t, demo.Ilse), signedIn(t, "rui.calado@marrowby.example")
	removed, stranger := signedIn(t, "freya.holm@marrowby.example"), signedIn(t, "joana.bras@marrowby.example")
	nobody := newClient(t)
	secret := "Secret of the kiln"
	person := func(email string) api.DraftPerson { return api.DraftPerson{Email: email, Needed: true} }
	_, b := ilse.call("POST", "/api/files?name=Kiln.txt", secret, nil)
	filed := as[api.File](t, b)
	sheet := func() api.Sheet {
		return ilse.sheet(func(d *api.Draft) {
			d.Title, d.Text, d.Private, d.Files = secret, secret, true, &[]api.File{filed}
			d.People = []api.DraftPerson{person("rui.calado@marrowby.example"), person("freya.holm@marrowby.example"), person("walk@kirisame.example")}
		})
	}
	sent := func() (id string, version int) {
		status, b := ilse.send(sheet())
		require.Equal(t, 200, status, "%s", b)
		id = as[api.Sent](t, b).MeetingID.String()
		_, b = ilse.call("POST", "/api/meetings/"+id+"/sheet", map[string]any{}, nil)
		s := as[api.Sheet](t, b)
		s.Draft.People = append(s.Draft.People[:1], s.Draft.People[2:]...)
		status, b = ilse.call("PUT", "/api/sheets/"+s.ID.String(), s.Draft, ifMatch(s.Version))
		require.Equal(t, 200, status, "%s", b)
		status, b = ilse.send(as[api.Sheet](t, b))
		require.Equal(t, 200, status, "%s", b)
		return id, 2
	}
	id, version := sent()
	token := running.Program.Deeds.Seal.GuestToken(guestOf(t, id, "walk@kirisame.example"), 0)
	goneToken := running.Program.Deeds.Seal.GuestToken(uuid.New(), 0)
	_, b = ilse.call("PUT", "/api/meetings/"+id+"/address", map[string]any{"asks": true}, nil)
	short := path.Base(as[api.ShortAddress](t, b).URL)
	s := sheet()
	sheetPath, meetingPath := "/api/sheets/"+s.ID.String(), "/api/meetings/"+id
	answer := map[string]any{"answer": "accepted", "comment": "", "sequence": 5}
	day := map[string]any{"day": "2027-05-03", "zone": "Europe/Lisbon", "start": "2027-05-03T09:30", "end": "2027-05-03T10:30",
		"people": []any{}, "roomId": "", "wantRoom": true, "equipment": []any{}, "siteId": "", "meetingId": id}

	_, b = rui.call("GET", "/api/rooms?limit=200", nil, nil)
	loft := ""
	for _, r := range as[api.Rooms](t, b).Items {
		if r.Name == "Rope Loft" {
			loft = "/api/rooms/" + r.ID.String()
		}
	}
	_, b = rui.call("GET", loft+"?from=2027-05-03", nil, nil)
	roomChange := as[api.RoomPage](t, b).Settings

	_, b = ilse.call("GET", "/api/hours", nil, nil)
	hours := as[api.HoursPage](t, b)
	leave, calendar := hours.Leave[0].ID.String(), hours.Calendars[0].ID.String()

	_, b = ilse.call("GET", "/api/standing", nil, nil)
	standing := "/api/standing/" + as[api.StandingLinks](t, b).Items[0].ID.String()

	var message string
	require.NoError(t, running.Program.Pool.QueryRow(t.Context(), "SELECT '/api/dispatches/' || id FROM dispatch WHERE participant_id = $1", guestOf(t, id, "walk@kirisame.example")).Scan(&message))

	// What each gets: organiser, invited, removed, stranger, nobody; 0 is left out
	// because it would end what the others ask about.
	type row struct {
		operation, method, path string
		body                    any
		header                  map[string]string
		want                    [5]int
	}
	key := ifMatch(1)
	key["Idempotency-Key"] = uuid.NewString()
	own, signed := [5]int{200, 404, 404, 404, 401}, [5]int{200, 200, 200, 200, 401}
	invitation := "/api/invitations/" + invitedFromOutside(t, demo.Ilse).String()
	proposed := map[string]any{"day": "2026-11-02", "from": "10:00", "to": "11:00", "zone": "Europe/Lisbon", "comment": "", "sequence": 9}
	rows := []row{
		{"getMe", "GET", "/api/me", nil, nil, signed},
		{"changePassword", "PUT", "/api/me/password", map[string]string{"current": "wrong", "fresh": "kiln lantern otter brisk"}, nil, [5]int{422, 422, 422, 422, 401}},
		{"getWeek", "GET", "/api/weeks?from=2027-05-03", nil, nil, signed},
		{"findPeople", "GET", "/api/directory?q=tom", nil, nil, signed},
		{"listRooms", "GET", "/api/rooms", nil, nil, signed},
		{"getDay", "POST", "/api/day", day, nil, signed},
		{"listSheets", "GET", "/api/sheets", nil, nil, signed},
		{"openSheet", "POST", "/api/sheets", map[string]any{}, nil, [5]int{201, 201, 201, 201, 401}},
		{"getSheet", "GET", sheetPath, nil, nil, own},
		{"getSheetDates", "GET", sheetPath + "/dates", nil, nil, own},
		{"saveSheet", "PUT", sheetPath, s.Draft, ifMatch(s.Version + 7), [5]int{412, 404, 404, 404, 401}},
		{"attachLink", "POST", sheetPath + "/link", map[string]string{"provider": "ostrel"}, nil, [5]int{409, 404, 404, 404, 401}},
		{"dropLink", "DELETE", sheetPath + "/link", nil, nil, own},
		{"getCalls", "GET", sheetPath + "/calls", nil, nil, own},
		{"getSheetCard", "GET", sheetPath + "/card", nil, nil, [5]int{404, 404, 404, 404, 401}}, // it has none
		{"settleWay", "POST", sheetPath + "/way", map[string]string{"field": "text", "address": "https://a.example/j/1", "what": "out"}, nil, own},
		{"splitSheet", "POST", sheetPath + "/split", map[string]int{"parts": 1}, nil, [5]int{422, 422, 422, 422, 401}},
		{"setDoor", "PUT", sheetPath + "/door", map[string]string{"waits": "all"}, nil, [5]int{422, 404, 404, 404, 401}},
		{"readCard", "POST", "/api/card", map[string]string{"text": "https://kestle.example/r/ilse"}, nil, signed},
		{"listStanding", "GET", "/api/standing", nil, nil, signed},
		{"getToday", "GET", "/api/today", nil, nil, signed},
		{"letBe", "POST", "/api/today/let-be", map[string]any{"key": "ends x"}, nil, [5]int{204, 204, 204, 204, 401}},
		{"takeRoom", "POST", meetingPath + "/take-room", map[string]any{"roomId": uuid.NewString()}, nil, [5]int{422, 404, 404, 404, 401}},
		{"extendSeries", "POST", meetingPath + "/extend", nil, nil, [5]int{422, 404, 404, 404, 401}},
		{"askAgain", "POST", "/api/participants/" + guestOf(t, id, "walk@kirisame.example").String() + "/ask-again", nil, nil, [5]int{422, 404, 404, 404, 401}},
		{"listDispatches", "GET", "/api/dispatches", nil, nil, signed},
		{"getDispatch", "GET", message, nil, nil, [5]int{200, 404, 404, 404, 401}},
		{"dispatchMessage", "GET", message + "/message", nil, nil, [5]int{200, 404, 404, 404, 401}},
		{"sendAgain", "POST", message + "/again", map[string]any{}, nil, [5]int{0, 404, 404, 404, 401}},
		{"markTold", "POST", message + "/told", map[string]any{"how": "told"}, nil, [5]int{204, 404, 404, 404, 401}},
		{"keepStanding", "PUT", standing, map[string]any{"name": "My standing room", "group": false, "sharedWith": []any{}}, nil, [5]int{204, 404, 404, 404, 401}},
		{"dropStanding", "DELETE", standing, nil, nil, [5]int{0, 404, 404, 404, 401}},
		{"listProviders", "GET", "/api/providers", nil, nil, own}, // Ilse keeps them
		{"addProvider", "POST", "/api/providers", map[string]string{"name": ""}, nil, [5]int{422, 422, 422, 422, 401}},
		{"getProviderSchema", "GET", "/api/providers/schema", nil, nil, signed},
		{"checkProvider", "POST", "/api/providers/check", map[string]string{"description": "name: x"}, nil, own},
		{"getProvider", "GET", "/api/providers/ostrel", nil, nil, own},
		{"writeProvider", "PUT", "/api/providers/ostrel", map[string]string{"description": "name: x"}, ifMatch(999), [5]int{412, 404, 404, 404, 401}},
		{"useProvider", "POST", "/api/providers/ostrel/use", nil, ifMatch(999), [5]int{412, 404, 404, 404, 401}},
		{"restoreProvider", "POST", "/api/providers/ostrel/restore", map[string]int{"version": 1}, ifMatch(999), [5]int{412, 404, 404, 404, 401}},
		{"giveSecrets", "PUT", "/api/providers/ostrel/secrets", map[string]any{"secrets": map[string]string{"client_id": "a\nb"}}, nil, [5]int{422, 422, 422, 422, 401}},
		{"tryProvider", "POST", "/api/providers/ostrel/try", nil, nil, own},
		{"stopProvider", "DELETE", "/api/providers/ostrel", nil, nil, [5]int{0, 404, 404, 404, 401}},
		{"listRoomsAt", "GET", "/api/providers/kestle/rooms", nil, nil, signed},
		{"rebaseSheet", "POST", sheetPath + "/rebase", nil, ifMatch(s.Version), [5]int{404, 404, 404, 404, 401}},
		{"previewSheet", "GET", sheetPath + "/preview", nil, nil, own},
		{"previewLetter", "GET", sheetPath + "/preview/0", nil, nil, own},
		{"previewPage", "GET", sheetPath + "/preview/0/page", nil, nil, own},
		{"sendLater", "POST", sheetPath + "/later", map[string]any{}, ifMatch(s.Version + 7), [5]int{412, 404, 404, 404, 401}},
		{"takeBack", "DELETE", sheetPath + "/later", nil, nil, own},
		{"sendSheet", "POST", sheetPath + "/send", nil, key, [5]int{412, 404, 404, 404, 401}},
		{"discardSheet", "DELETE", sheetPath, nil, nil, [5]int{0, 404, 404, 404, 401}},
		{"getRoomsDay", "GET", "/api/rooms/day?day=2027-05-03&seats=2", nil, nil, signed},
		{"findOpenings", "POST", "/api/openings", map[string]any{"first": "2027-05-03", "days": 14, "zone": "Europe/Lisbon", "minutes": 60, "from": 480, "to": 1140,
			"people": []any{}, "roomId": "", "wantRoom": true, "equipment": []any{}, "siteId": "", "meetingId": id}, nil, signed},
		{"getRoom", "GET", loft + "?from=2027-05-03", nil, nil, signed},
		{"changeRoom", "PUT", loft, roomChange, ifMatch(999), [5]int{404, 412, 404, 404, 401}}, // Rui keeps all rooms
		{"answerRoomRequest", "POST", "/api/room-requests/" + uuid.NewString(), map[string]any{"yes": true, "word": ""}, nil, [5]int{404, 404, 404, 404, 401}},
		{"getRoomTable", "GET", "/api/rooms.csv", nil, nil, [5]int{404, 200, 404, 404, 401}},
		{"takeRoomTable", "POST", "/api/room-table", map[string]any{"csv": "email,seats\r\n", "try": true}, nil, [5]int{404, 200, 404, 404, 401}},
		{"waitForRoom", "POST", sheetPath + "/wait", nil, nil, own}, // she has something herself then
		{"stopWaiting", "DELETE", sheetPath + "/wait", nil, nil, own},
		{"decideRoom", "POST", meetingPath + "/room", map[string]any{"on": "2027-05-03", "needed": true}, nil, [5]int{204, 404, 404, 404, 401}},
		{"holdRooms", "POST", sheetPath + "/hold", nil, nil, own},
		{"findSeriesOpenings", "GET", sheetPath + "/openings?from=480&to=1140", nil, nil, own},
		{"freshSheet", "GET", "/api/sheets/fresh", nil, nil, signed},
		{"discardSheets", "POST", "/api/sheets/discard", map[string]any{"ids": []string{uuid.NewString()}}, nil, [5]int{204, 204, 204, 204, 401}},
		{"findMeetings", "GET", "/api/find?q=Secret%20kiln", nil, nil, signed},
		{"getMonth", "GET", "/api/month?from=2027-05-03&days=42", nil, nil, signed},
		{"listNews", "GET", "/api/news", nil, nil, [5]int{200, 200, 0, 200, 401}}, // who was taken off heard of it by its title
		{"readNews", "POST", "/api/news/read", map[string]any{"meetingId": id}, nil, [5]int{204, 204, 204, 204, 401}},
		{"setNewsMail", "PUT", "/api/me/news-mail", map[string]string{"newsMail": "away"}, nil, [5]int{204, 204, 204, 204, 401}},
		{"getMeeting", "GET", meetingPath, nil, nil, [5]int{200, 200, 404, 404, 401}},
		{"changeMeeting", "POST", meetingPath + "/sheet", map[string]any{}, nil, own},
		{"answerMeeting", "POST", meetingPath + "/answer", answer, nil, [5]int{422, 204, 404, 404, 401}},
		{"whatCallingOffDoes", "GET", meetingPath + "/calloff", nil, nil, own},
		{"callOffMeeting", "POST", meetingPath + "/calloff", map[string]string{"word": ""}, ifMatch(version - 1), [5]int{409, 404, 404, 404, 401}},
		{"meetingFile", "GET", meetingPath + "/file", nil, nil, [5]int{200, 200, 404, 404, 401}},
		{"startConnecting", "GET", "/api/connect/ostrel/start?sheet=" + s.ID.String(), nil, nil, [5]int{303, 404, 404, 404, 401}},
		{"finishConnecting", "GET", "/api/connect/ostrel/callback?state=none&code=none", nil, nil, [5]int{404, 404, 404, 404, 401}},
		{"decideLetter", "POST", meetingPath + "/letters/" + uuid.NewString(), map[string]any{}, nil, [5]int{404, 404, 404, 404, 401}},
		{"getGuestMeeting", "GET", "/api/guest/" + token, nil, nil, [5]int{200, 200, 200, 200, 200}},
		{"answerAsGuest", "POST", "/api/guest/" + token + "/answer", answer, nil, [5]int{204, 204, 204, 204, 204}},
		{"weekFile", "GET", "/api/weeks/file?from=2027-05-03", nil, nil, signed},
		{"sheetsFromFile", "POST", "/api/sheets/from-file", map[string]any{"b64": "aGVsbG8="}, nil, [5]int{422, 422, 422, 422, 401}},
		{"getInvitationAddress", "GET", "/api/invitations/address", nil, nil, signed},
		{"getInvitation", "GET", invitation, nil, nil, own},
		{"answerInvitation", "POST", invitation + "/answer", map[string]any{"answer": "maybe", "comment": "", "version": 77}, nil, [5]int{409, 404, 404, 404, 401}},
		{"believeInvitation", "POST", invitation + "/believe", map[string]any{"believe": true}, nil, [5]int{404, 404, 404, 404, 401}},
		{"invitationFile", "GET", invitation + "/file", nil, nil, own},
		{"proposeTimeAsGuest", "POST", "/api/guest/" + token + "/propose", proposed, nil, [5]int{422, 422, 422, 422, 422}},
		{"proposeTimeAsGuest", "POST", "/api/guest/" + goneToken + "/propose", proposed, nil, [5]int{404, 404, 404, 404, 404}},
		{"proposeTime", "POST", meetingPath + "/propose", proposed, nil, [5]int{422, 422, 404, 404, 401}},
		{"listProposals", "GET", meetingPath + "/proposals", nil, nil, own},
		{"decideProposal", "POST", meetingPath + "/proposals/" + uuid.NewString(), map[string]any{"move": false}, nil, [5]int{404, 404, 404, 404, 401}},
		{"addFile", "POST", "/api/files?name=plan.txt", "what the kiln needs", nil, [5]int{201, 201, 201, 201, 401}},
		{"addFile", "POST", "/api/files?name=setup.exe", "MZ", nil, [5]int{422, 422, 422, 422, 401}},
		{"attachment", "GET", "/api/files/" + filed.ID.String(), nil, nil, [5]int{200, 200, 404, 404, 401}},
		{"guestAttachment", "GET", "/api/guest/" + token + "/files/" + filed.ID.String(), nil, nil, [5]int{200, 200, 200, 200, 200}},
		{"guestAttachment", "GET", "/api/guest/" + goneToken + "/files/" + filed.ID.String(), nil, nil, [5]int{404, 404, 404, 404, 404}},
		{"guestAttachment", "GET", "/api/guest/" + token + "/files/" + uuid.NewString(), nil, nil, [5]int{404, 404, 404, 404, 404}},
		{"remindMe", "PUT", meetingPath + "/reminders", map[string]any{"reminders": []any{map[string]any{"before": 30, "mail": false}}}, nil, [5]int{422, 204, 404, 404, 401}},
		{"remindMe", "PUT", meetingPath + "/reminders", map[string]any{"reminders": []any{map[string]any{"before": 0, "mail": true}}}, nil, [5]int{422, 422, 422, 422, 401}},
		{"bring", "POST", meetingPath + "/bring", map[string]any{"name": "", "email": "walkalong@kirisame.example"}, nil, [5]int{422, 422, 404, 404, 401}},
		{"bringAsGuest", "POST", "/api/guest/" + token + "/bring", map[string]any{"name": "", "email": "walkalong@kirisame.example"}, nil, [5]int{422, 422, 422, 422, 422}},
		{"bringAsGuest", "POST", "/api/guest/" + goneToken + "/bring", map[string]any{"name": "", "email": "walkalong@kirisame.example"}, nil, [5]int{404, 404, 404, 404, 404}},
		{"giveAddress", "PUT", meetingPath + "/address", map[string]any{"asks": true}, nil, own},
		{"getAtAddress", "GET", "/api/guest/at/" + short, nil, nil, [5]int{200, 200, 200, 200, 200}},
		{"getAtAddress", "GET", "/api/guest/at/none", nil, nil, [5]int{404, 404, 404, 404, 404}},
		{"getWords", "GET", "/api/guest/words/pt", nil, nil, [5]int{200, 200, 200, 200, 200}},
		{"getWords", "GET", "/api/guest/words/xx", nil, nil, [5]int{404, 404, 404, 404, 404}},
		{"joinAtAddress", "POST", "/api/guest/at/" + short + "/join", map[string]any{"name": "", "email": "walk@kirisame.example"}, nil, [5]int{204, 204, 204, 204, 204}},
		{"joinAtAddress", "POST", "/api/guest/at/none/join", map[string]any{"name": "", "email": "walk@kirisame.example"}, nil, [5]int{404, 404, 404, 404, 404}},
		{"withdrawAddress", "DELETE", meetingPath + "/address", nil, nil, [5]int{204, 404, 404, 404, 401}},
		{"readAsGuest", "POST", "/api/guest/" + token + "/language", map[string]any{"language": "xx"}, nil, [5]int{422, 422, 422, 422, 422}},
		{"readAsGuest", "POST", "/api/guest/" + goneToken + "/language", map[string]any{"language": "pt"}, nil, [5]int{404, 404, 404, 404, 404}},
		{"sawAsGuest", "POST", "/api/guest/" + token + "/seen", map[string]any{"version": 1}, nil, [5]int{204, 204, 204, 204, 204}},
		{"guestFile", "GET", "/api/guest/" + token + "/file", nil, nil, [5]int{200, 200, 200, 200, 200}},
		{"renewPage", "POST", message + "/page", nil, nil, [5]int{204, 404, 404, 404, 401}},
		{"getGuestMeeting", "GET", "/api/guest/" + goneToken, nil, nil, [5]int{404, 404, 404, 404, 404}},
		{"answerAsGuest", "POST", "/api/guest/" + goneToken + "/answer", answer, nil, [5]int{404, 404, 404, 404, 404}},
		{"guestFile", "GET", "/api/guest/" + goneToken + "/file", nil, nil, [5]int{404, 404, 404, 404, 404}},
		{"getHours", "GET", "/api/hours", nil, nil, signed},
		{"setHours", "PUT", "/api/hours", map[string]any{"zone": "Europe/Lisbon", "week": []string{"", "", "", "", "", "", ""}}, ifMatch(999), [5]int{409, 409, 409, 409, 401}},
		{"hoursFile", "GET", "/api/hours/file", nil, nil, signed},
		{"takeHoursFile", "POST", "/api/hours/file", map[string]any{"b64": "eA=="}, ifMatch(1), [5]int{422, 422, 422, 422, 401}},
		{"setOtherDay", "PUT", "/api/hours/days/2027-05-04", map[string]any{"hours": "9-12", "word": ""}, ifMatch(999), [5]int{409, 409, 409, 409, 401}},
		{"dropOtherDay", "DELETE", "/api/hours/days/2027-05-04", nil, ifMatch(999), [5]int{409, 409, 409, 409, 401}},
		{"enterLeave", "POST", "/api/leave", map[string]any{"first": "never", "last": "", "word": ""}, nil, [5]int{422, 422, 422, 422, 401}},
		{"getLeave", "GET", "/api/leave/" + leave, nil, nil, own},
		{"settleLeave", "POST", "/api/leave/" + leave + "/settle", map[string]any{"items": []any{}, "word": ""}, nil, own},
		{"takeLeaveBack", "DELETE", "/api/leave/" + leave, nil, nil, [5]int{0, 404, 404, 404, 401}},
		{"addCalendar", "POST", "/api/calendars", map[string]any{"address": "http://10.0.0.1/x.ics", "counts": true}, nil, [5]int{422, 422, 422, 422, 401}},
		{"changeCalendar", "PATCH", "/api/calendars/" + calendar, map[string]any{}, nil, [5]int{204, 404, 404, 404, 401}},
		{"readCalendar", "POST", "/api/calendars/" + calendar + "/read", nil, nil, [5]int{204, 404, 404, 404, 401}},
		{"removeCalendar", "DELETE", "/api/calendars/" + calendar, nil, nil, [5]int{0, 404, 404, 404, 401}},
		{"setSharing", "PUT", "/api/sharing", map[string]any{"everybody": "all", "with": []any{}}, nil, [5]int{422, 422, 422, 422, 401}},
		{"giveBusyTimes", "PUT", "/api/feed", map[string]any{"titles": false}, nil, [5]int{204, 204, 204, 204, 401}},
		{"withdrawBusyTimes", "DELETE", "/api/feed", nil, nil, [5]int{204, 204, 204, 204, 401}},
		{"getRoomFeed", "GET", loft + "/feed", nil, nil, [5]int{404, 200, 404, 404, 401}}, // Rui keeps all rooms
		{"giveRoomTimes", "PUT", loft + "/feed", nil, nil, [5]int{404, 200, 404, 404, 401}},
		{"withdrawRoomTimes", "DELETE", loft + "/feed", nil, nil, [5]int{404, 204, 404, 404, 401}},
		{"getWatched", "GET", "/api/watched?from=2027-05-03", nil, nil, signed},
		{"setWatched", "PUT", "/api/watched", map[string]any{"items": []any{map[string]any{}}}, nil, [5]int{422, 422, 422, 422, 401}},
		{"keepTheirAddress", "PUT", "/api/outside/busy", map[string]any{"email": "walk@kirisame.example", "name": "Walk", "address": "http://10.0.0.1/x.ifb"}, nil, [5]int{422, 422, 422, 422, 401}},
		{"forgetTheirAddress", "DELETE", "/api/outside/busy?email=nobody@kirisame.example", nil, nil, [5]int{404, 404, 404, 404, 401}},
		{"signIn", "POST", "/api/session", map[string]string{"email": "none@marrowby.example", "password": "x"}, nil, [5]int{0, 0, 0, 0, 401}},
		{"signOut", "DELETE", "/api/session", nil, nil, [5]int{0, 0, 0, 0, 204}},
		{"signOutOthers", "DELETE", "/api/sessions", nil, nil, [5]int{0, 0, 0, 204, 401}},
		{"live", "GET", "/api/live", nil, nil, [5]int{0, 0, 0, 0, 401}},
	}
	clients := []client{ilse, rui, removed, stranger, nobody}
	names := []string{"organiser", "invited", "removed", "stranger", "nobody"}
	walked := map[string]bool{}
	heard := newListener()
	demotest.ReadsMarked(t, running, demo.Ilse, "rui.calado@marrowby.example", "freya.holm@marrowby.example", "joana.bras@marrowby.example")
	for _, r := range rows {
		walked[strings.ToLower(r.operation)] = true
		for i, c := range clients {
			if r.want[i] == 0 {
				continue
			}
			t.Run(r.operation+" as "+names[i], func(t *testing.T) {
				c.t = t
				status, b := c.call(r.method, r.path, r.body, r.header)
				assert.Equal(t, r.want[i], status, "%s", b)
				if i < 4 { // whose language is not known is answered in that of their browser
					heard.Hear(r.path, b)
				}
				if i >= 2 && !strings.HasPrefix(r.path, "/api/guest/"+token) && !strings.HasPrefix(r.path, "/api/guest/at/"+short) {
					assert.NotContains(t, string(b), secret, "what is private to others")
				}
			})
		}
	}
	spec, err := api.GetSpec()
	require.NoError(t, err)
	var missing []string
	for _, item := range spec.Paths.Map() {
		for _, o := range item.Operations() {
			if !walked[strings.ToLower(o.OperationID)] {
				missing = append(missing, o.OperationID)
			}
		}
	}
	heard.Check(t, 200)
	sort.Strings(missing)
	assert.Empty(t, missing, "every operation of the contract is walked")

	// Whose time a private meeting takes is not to be found out by leaving it out.
	busy := func(c client, but string) int {
		day["meetingId"], day["people"] = but, []any{map[string]any{"personId": "", "name": "", "email": "rui.calado@marrowby.example", "needed": true, "dates": []any{}}}
		_, b := c.call("POST", "/api/day", day, nil)
		for _, l := range as[api.Day](t, b).Lanes {
			if l.Email == "rui.calado@marrowby.example" {
				return len(l.Busy)
			}
		}
		return -1
	}
	assert.Less(t, busy(ilse, id), busy(ilse, ""), "the organiser's own meeting can be left out")
	assert.Equal(t, busy(stranger, ""), busy(stranger, id))

	// A colleague's file opens nothing to whoever it is handed to.
	for _, c := range []client{ilse, rui} {
		_, b := c.call("GET", meetingPath+"/file", nil, nil)
		unfolded := bytes.ReplaceAll(b, []byte("\r\n "), nil)
		assert.NotContains(t, string(unfolded), "/guest/")
	}
	// The organiser's own file asks nobody for anything (RFC 5546, 3.2.1).
	_, file := ilse.call("GET", meetingPath+"/file", nil, nil)
	assert.Contains(t, string(file), "METHOD:PUBLISH")
	assert.NotContains(t, string(file), "ATTENDEE")
	assert.Contains(t, string(bytes.ReplaceAll(file, []byte("\r\n "), nil)), ":mailto:ilse.marrant@marrowby.example")
}

// guestOf is the participant of a meeting with an address.
func guestOf(t testing.TB, meetingID, email string) (id uuid.UUID) {
	require.NoError(t, running.Program.Pool.QueryRow(t.Context(), "SELECT id FROM participant WHERE meeting_id = $1 AND email = $2", meetingID, email).Scan(&id))
	return id
}

// TestGuestsOfOneDateLearnOfThatDate: not of the rule, the first date, or people on
// other dates; and who may not open the series that goes on does not learn its id.
func TestGuestsOfOneDateLearnOfThatDate(t *testing.T) {
	ilse := signedIn(t, demo.Ilse)
	s := ilse.sheet(func(d *api.Draft) {
		d.Start, d.End = "2027-05-03T06:15", "2027-05-03T07:00"
		d.Repeat = &api.DraftRepeat{Rule: "FREQ=WEEKLY", Ends: "after", Count: 5, Days: []string{}, Added: []string{}}
		only := func(day string) []api.DraftRange { return []api.DraftRange{{From: day, To: day}} }
		d.People = []api.DraftPerson{
			{Name: "Always Here", Email: "always@kirisame.example", Needed: true},
			{Name: "Second Only", Email: "second@kirisame.example", Needed: true, Dates: only("2027-05-10")},
			{Name: "Third Only", Email: "third@kirisame.example", Needed: true, Dates: only("2027-05-17")},
			{Name: "Tomé Akande", Email: "tome.akande@marrowby.example", Needed: true, Dates: only("2027-05-10")},
		}
	})
	status, b := ilse.send(s)
	require.Equal(t, 200, status, "%s", b)
	id := as[api.Sent](t, b).MeetingID.String()
	token := running.Program.Deeds.Seal.GuestToken(guestOf(t, id, "second@kirisame.example"), 0)
	_, b = newClient(t).call("GET", "/api/guest/"+token, nil, nil)
	guest := as[api.GuestMeeting](t, b)
	assert.Equal(t, "2027-05-10T05:15:00Z", guest.Start.Format("2006-01-02T15:04:05Z07:00"))
	require.NotNil(t, guest.Series)
	assert.Len(t, guest.Series.Dates, 1)
	assert.Equal(t, 1, guest.Series.Count)
	for _, hidden := range []string{"Third Only", "every", "week", "2027-05-03", "2027-05-17", "2027-05-31", "third@"} {
		assert.NotContains(t, string(b), hidden)
	}
	assert.Contains(t, string(b), "Always Here")

	tome := signedIn(t, "tome.akande@marrowby.example")
	_, b = tome.call("GET", "/api/meetings/"+id, nil, nil)
	for _, hidden := range []string{"Third Only", "every", "2027-05-03", "2027-05-17", "third@"} {
		assert.NotContains(t, string(b), hidden)
	}
	_, b = ilse.call("GET", "/api/meetings/"+id, nil, nil)
	var whole map[string]any
	require.NoError(t, json.Unmarshal(b, &whole))
	assert.Len(t, whole["participants"], 4, "the organiser sees all")

	// From the third date on at another hour: a series of its own, without Tomé.
	_, b = ilse.call("POST", "/api/meetings/"+id+"/sheet", map[string]any{"at": "2027-05-24"}, nil)
	c := as[api.Sheet](t, b)
	c.Draft.Start, c.Draft.End = "2027-05-24T08:00", "2027-05-24T08:45"
	status, b = ilse.call("PUT", "/api/sheets/"+c.ID.String(), c.Draft, ifMatch(c.Version))
	require.Equal(t, 200, status, "%s", b)
	status, b = ilse.send(as[api.Sheet](t, b))
	require.Equal(t, 200, status, "%s", b)
	next := as[api.Sent](t, b).MeetingID.String()
	require.NotEqual(t, id, next)
	_, b = ilse.call("GET", "/api/meetings/"+id, nil, nil)
	assert.Contains(t, string(b), next)
	_, b = tome.call("GET", "/api/meetings/"+id, nil, nil)
	assert.NotContains(t, string(b), next)
	assert.NotContains(t, string(b), fmt.Sprintf("%q", "goesOnIn"))
}

// invitedFromOutside is an invitation of somebody outside to somebody inside.
func invitedFromOutside(t *testing.T, email string) (id uuid.UUID) {
	t.Helper()
	ask := func(query string, args ...any) error {
		return running.Program.Pool.QueryRow(t.Context(), query, args...).Scan(&id)
	}
	require.NoError(t, ask("SELECT id FROM person WHERE email = $1", email))
	person := id
	require.NoError(t, running.World.Post.InviteHouse(standin.Outside{UID: "walk-" + uuid.NewString(), Title: "Outside", From: "noor@veerhaven.example", Name: "Noor",
		To: running.Program.Deeds.Invitations.Address(schedule.Self(person)), Invited: email, Start: time.Date(2027, 5, 3, 20, 0, 0, 0, time.UTC), Length: time.Hour}))
	require.NoError(t, ask("SELECT id FROM invitation WHERE person_id = $1 AND uid LIKE 'walk-%'", person))
	return id
}
