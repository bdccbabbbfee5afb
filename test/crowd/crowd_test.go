// Package crowd_test has a crowd answer at once, in the whole program with a real SMTP conversation for
// each answer.
package crowd_test

import (
	"fmt"
	"os"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/demo"
	"jembro/internal/demo/demotest"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
	"jembro/internal/standin"
)

var running *demo.Running

func TestMain(m *testing.M) {
	os.Exit(demotest.Run(m, nil, func(r *demo.Running) { running = r }))
}

// TestAThousandAnswersAtOnce come by mail, as after an invitation to everybody, and are all
// counted.
func TestAThousandAnswersAtOnce(t *testing.T) {
	const meetingsOf, guests = 5, 200
	var organiser schedule.Person
	require.NoError(t, running.Program.Store.Look(t.Context(), func(tx *postgres.Tx) (err error) {
		organiser, err = tx.PersonByEmail(t.Context(), demo.Ilse)
		return err
	}))
	me, do := schedule.Self(organiser.ID), running.Program.Deeds
	var ids []uuid.UUID
	var mails []standin.Message
	for n := range meetingsOf {
		s, err := do.Sheets.OpenSheet(t.Context(), me, fmt.Sprintf("2027-05-0%dT09:30", n+3), fmt.Sprintf("2027-05-0%dT10:30", n+3))
		require.NoError(t, err)
		s.Draft.Title, s.Draft.NoRoom, s.Draft.NoLink = "Everybody", true, true
		for g := range guests {
			s.Draft.People = append(s.Draft.People, meeting.DraftPerson{Email: fmt.Sprintf("crowd%d.%d@f%d.example", n, g, g%31), Needed: true})
		}
		s, _, err = do.Sheets.SaveSheet(t.Context(), me, s.ID, s.Version, s.Draft, "")
		require.NoError(t, err)
		sent, err := do.Sheets.Send(t.Context(), me, s.ID, s.Version, uuid.NewString())
		require.NoError(t, err)
		ids = append(ids, sent.MeetingID)
		for _, p := range s.Draft.People {
			require.Eventually(t, func() bool { return len(running.World.Post.Box(p.Email)) == 1 }, time.Minute, 5*time.Millisecond, p.Email)
			mails = append(mails, running.World.Post.Box(p.Email)[0])
		}
	}
	work, began := make(chan standin.Message), time.Now()
	var hands sync.WaitGroup
	for range 16 {
		hands.Go(func() {
			for m := range work {
				assert.NoError(t, running.World.Post.Answer(m, "ACCEPTED", "All of us"))
			}
		})
	}
	for _, m := range mails {
		work <- m
	}
	close(work)
	hands.Wait()
	took := time.Since(began)
	for _, id := range ids {
		d, err := do.Meetings.Meeting(t.Context(), me, id)
		require.NoError(t, err)
		accepted := 0
		for _, i := range d.Invited {
			if i.Answer == meeting.Accepted {
				accepted++
			}
		}
		assert.Equal(t, guests, accepted)
	}
	t.Logf("%d answers, all counted %v after the first", len(mails), took.Round(10*time.Millisecond))
}
