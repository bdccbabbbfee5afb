// Package deeds puts the subjects together: everything that a user can do.
package deeds

import (
	"time"

	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/account"
	"jembro/internal/schedule/availability"
	"jembro/internal/schedule/calendars"
	"jembro/internal/schedule/directory"
	"jembro/internal/schedule/dispatch"
	"jembro/internal/schedule/invitations"
	"jembro/internal/schedule/kernel"
	"jembro/internal/schedule/links"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/news"
	"jembro/internal/schedule/rooms"
	"jembro/internal/schedule/sheets"
	"jembro/internal/schedule/today"
)

// Deeds are the deeds of all subjects.
type Deeds struct {
	schedule.Setting
	Account      *account.Deeds
	Directory    *directory.Deeds
	Availability *availability.Deeds
	Meetings     *meetings.Deeds
	Sheets       *sheets.Deeds
	Links        *links.Deeds
	Dispatch     *dispatch.Deeds
	News         *news.Deeds
	Rooms        *rooms.Deeds
	Calendars    *calendars.Deeds
	Today        *today.Deeds
	Invitations  *invitations.Deeds
	Files        Files
}

// Stores keeps what each subject needs.
type Stores interface {
	Account() schedule.Store[account.Tx]
	Directory() schedule.Store[directory.Tx]
	Availability() schedule.Store[availability.Tx]
	Meetings() schedule.Store[meetings.Tx]
	Sheets() schedule.Store[sheets.Tx]
	Links() schedule.Store[links.Tx]
	Dispatch() schedule.Store[dispatch.Tx]
	News() schedule.Store[news.Tx]
	RoomKeeping() schedule.Store[rooms.Tx]
	Calendars() schedule.Store[calendars.Tx]
	Today() schedule.Store[today.Tx]
	Invitations() schedule.Store[invitations.Tx]
}

// Outside is what the deeds reach beyond the database.
type Outside struct {
	Post         schedule.Post
	Descriptions links.Descriptions
	Fetcher      calendars.Fetcher
	Format       Format
}

// Format is the form of calendars of others.
type Format interface {
	calendars.Format
	invitations.Format
	Files
}

// Files are calendar files as people hand them in and out.
type Files interface {
	// ReadFile makes of a file what sheets can hold; it fails with the errors of core/calendar.
	ReadFile(raw []byte, zone when.Zone) ([]schedule.Filed, error)
	// MergeFiles joins files of meetings into one.
	MergeFiles(all ...[]byte) []byte
}

// waitForProviders is how long somebody waits for a conferencing provider.
const waitForProviders = 15 * time.Second

// hashesAtATime bounds the memory that signing in takes: 64 MiB each.
const hashesAtATime = 4

// calendarsAtATime bounds the memory that reading calendars of others takes.
const calendarsAtATime = 2

// New puts the deeds together.
func New(set schedule.Setting, stores Stores, out Outside) *Deeds {
	writes := kernel.Kernel{Setting: set}
	d := &Deeds{Setting: set, Files: out.Format,
		Account:      &account.Deeds{Setting: set, Store: stores.Account(), Hasher: account.NewHasher(hashesAtATime)},
		Directory:    &directory.Deeds{Store: stores.Directory()},
		Availability: &availability.Deeds{Setting: set, Store: stores.Availability()},
		Meetings:     &meetings.Deeds{Kernel: writes, Store: stores.Meetings(), Post: out.Post},
		Dispatch:     &dispatch.Deeds{Setting: set, Store: stores.Dispatch(), Post: out.Post},
		News:         &news.Deeds{Setting: set, Store: stores.News(), Post: out.Post},
	}
	d.Rooms = &rooms.Deeds{Kernel: writes, Store: stores.RoomKeeping()}
	d.Sheets = &sheets.Deeds{Kernel: writes, Store: stores.Sheets(), Post: out.Post, Meetings: d.Meetings, Availability: d.Availability}
	d.Today = &today.Deeds{Setting: set, Store: stores.Today(), Post: out.Post, Sheets: d.Sheets, Meetings: d.Meetings}
	d.Invitations = &invitations.Deeds{Setting: set, Store: stores.Invitations(), Post: out.Post, Format: out.Format}
	d.Links = &links.Deeds{Kernel: writes, Store: stores.Links(), Descriptions: out.Descriptions, Sheets: d.Sheets, WaitFor: waitForProviders}
	d.Calendars = &calendars.Deeds{Setting: set, Store: stores.Calendars(), Meetings: d.Meetings, Fetcher: out.Fetcher, Format: out.Format,
		Reading: make(chan struct{}, calendarsAtATime)}
	return d
}
