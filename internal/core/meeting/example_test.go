package meeting_test

import (
	"fmt"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
)

func ExampleDraft_Settle() {
	now, err := when.ParseLocal("2026-11-24T10:12")
	if err != nil {
		panic(err)
	}
	zone, err := when.LoadZone("Europe/Lisbon")
	if err != nil {
		panic(err)
	}
	at, _ := zone.Resolve(now)
	draft := meeting.Draft{Title: "Crate sizes", Start: "2026-12-03T09:30", End: "2026-12-03T09:00", Zone: "Europe/Lisbon",
		People: []meeting.DraftPerson{{Email: "s.onari@kirisame"}}, NoRoom: true, NoLink: true}
	_, faults := draft.Settle(meeting.Surroundings{Now: at, Holiday: func(when.Day) string { return "" }})
	for _, f := range faults {
		fmt.Println(f.Field+":", words.English(f.What))
	}
	// Output:
	// end: Ends before it starts.
	// people.0: "s.onari@kirisame" is not an e-mail address. It looks like name@firm.example.
}
