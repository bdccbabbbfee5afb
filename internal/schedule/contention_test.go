package schedule_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strconv"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/demo"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
)

// rounds is how often things happen at the same moment: a few times in the tests, a
// thousand in make soak.
func rounds(usual int) int {
	if n, err := strconv.Atoi(os.Getenv("JEMBRO_SOAK")); err == nil && n > 0 {
		return n
	}
	return usual
}

// atOnce does things at the same moment and gives their errors.
func atOnce(deeds ...func() error) []error {
	errs := make([]error, len(deeds))
	gate := make(chan struct{})
	var wait sync.WaitGroup
	for i, deed := range deeds {
		wait.Go(func() {
			<-gate
			errs[i] = deed()
		})
	}
	close(gate)
	wait.Wait()
	return errs
}

// oneOf tells whether an error is one that the deed may end with.
func oneOf(t testing.TB, err error, may ...any) {
	t.Helper()
	if err == nil {
		return
	}
	for _, m := range may {
		switch m := m.(type) {
		case error:
			if errors.Is(err, m) {
				return
			}
		default:
			if errors.As(err, m) {
				return
			}
		}
	}
	assert.NoError(t, err)
}

// crowd is a meeting with colleagues, and their participant ids.
func crowd(t testing.TB, change func(*meeting.Draft)) (id uuid.UUID, colleagues []schedule.Person) {
	ilse := who(t, demo.Ilse)
	for _, email := range []string{"tome.akande@marrowby.example", "rui.calado@marrowby.example", "freya.holm@marrowby.example"} {
		colleagues = append(colleagues, who(t, email))
	}
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
		d.People = nil
		for _, p := range colleagues {
			d.People = append(d.People, meeting.DraftPerson{PersonID: p.ID.String(), Email: p.Email, Needed: true})
		}
		if change != nil {
			change(d)
		}
	})))
	return sent.MeetingID, colleagues
}

// answersKept counts the answers to a meeting that its history tells of.
func answersKept(t testing.TB, id uuid.UUID) (n int) {
	for _, h := range look(t, who(t, demo.Ilse).ID, id).Happenings {
		if h.Kind == meeting.EventAnswered {
			n++
		}
	}
	return n
}

// TestAnswersWhileAChangeIsSent: no answer is lost, nobody is told that there is
// nothing, and the change gets through.
func TestAnswersWhileAChangeIsSent(t *testing.T) {
	ilse := who(t, demo.Ilse)
	for range rounds(6) {
		id, colleagues := crowd(t, nil)
		s, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), id, sheets.Opening{})
		require.NoError(t, err)
		s.Draft.Title = "Another title"
		s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, s.Draft, "")
		require.NoError(t, err)
		deeds := []func() error{func() error {
			_, err := service().Sheets.Send(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, uuid.NewString())
			return err
		}}
		for _, p := range colleagues {
			deeds = append(deeds, func() error {
				return service().Meetings.Answer(t.Context(), schedule.Self(p.ID), id, meetings.Given{Answer: meeting.Accepted})
			})
		}
		for _, err := range atOnce(deeds...) {
			require.NoError(t, err)
		}
		require.Equal(t, len(colleagues), answersKept(t, id))
		d := look(t, ilse.ID, id)
		require.Equal(t, "Another title", d.Content.Title)
		for _, i := range d.Invited {
			require.Equal(t, meeting.Accepted, i.Answer)
		}
	}
}

// TestAnswersWhileItIsCalledOff: an answer is taken, or told that it was called off.
func TestAnswersWhileItIsCalledOff(t *testing.T) {
	ilse := who(t, demo.Ilse)
	for range rounds(6) {
		id, colleagues := crowd(t, nil)
		deeds := []func() error{func() error { return service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), id, 1, nil, "") }}
		for _, p := range colleagues {
			deeds = append(deeds, func() error {
				return service().Meetings.Answer(t.Context(), schedule.Self(p.ID), id, meetings.Given{Answer: meeting.Maybe})
			})
		}
		errs := atOnce(deeds...)
		require.NoError(t, errs[0])
		taken := 0
		for _, err := range errs[1:] {
			oneOf(t, err, schedule.ErrCalledOff)
			if err == nil {
				taken++
			}
		}
		require.Equal(t, taken, answersKept(t, id), "an answer that was taken is there")
	}
}

// TestChangesWhileItIsCalledOff: sending or beginning anew changes to a meeting that
// is being called off ends in what is true.
func TestChangesWhileItIsCalledOff(t *testing.T) {
	ilse := who(t, demo.Ilse)
	var version *schedule.VersionError
	for i := range rounds(6) {
		id, _ := crowd(t, nil)
		s, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), id, sheets.Opening{})
		require.NoError(t, err)
		s.Draft.Title = "Another title"
		s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, s.Draft, "")
		require.NoError(t, err)
		change := func() error {
			if i%2 == 0 {
				_, err := service().Sheets.RebaseSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version)
				return err
			}
			_, err := service().Sheets.Send(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, uuid.NewString())
			return err
		}
		errs := atOnce(change, func() error { return service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), id, 1, nil, "") })
		// Called off: the sheet with the changes is gone, which is the truth then.
		oneOf(t, errs[0], schedule.ErrCalledOff, schedule.ErrNotFound, &version)
		oneOf(t, errs[1], &version)
		if errs[1] != nil {
			require.NoError(t, errs[0], "one of both gets through")
		}
	}
}

// TestTwoWindowsBeginToChangeOneMeeting: both get the same sheet, and of two that
// send one gets through.
func TestTwoWindowsBeginToChangeOneMeeting(t *testing.T) {
	ilse := who(t, demo.Ilse)
	var version *schedule.VersionError
	for range rounds(6) {
		id, _ := crowd(t, nil)
		got := make([]schedule.Sheet, 2)
		begin := func(i int) func() error {
			return func() (err error) {
				got[i], err = service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), id, sheets.Opening{})
				return err
			}
		}
		for _, err := range atOnce(begin(0), begin(1)) {
			require.NoError(t, err)
		}
		require.Equal(t, got[0].ID, got[1].ID)
		save := func(title string) func() error {
			return func() error {
				d := got[0].Draft
				d.Title = title
				_, _, err := service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), got[0].ID, 1, d, "")
				return err
			}
		}
		errs := atOnce(save("One"), save("Two"))
		lost := 0
		for _, err := range errs {
			oneOf(t, err, &version)
			if err != nil {
				lost++
			}
		}
		require.Equal(t, 1, lost, "the second is shown the difference")
	}
}

// TestNobodyIsToldThatThereIsNothing: whoever waited for a change reads what holds
// after it.
func TestNobodyIsToldThatThereIsNothing(t *testing.T) {
	ilse := who(t, demo.Ilse)
	for range rounds(4) {
		id, colleagues := crowd(t, nil)
		guest := look(t, ilse.ID, id).Invited[0]
		var deeds []func() error
		for i := range 12 {
			deeds = append(deeds, func() error {
				reply := meeting.Reply{Answer: meeting.Accepted, Comment: fmt.Sprint(i), Stamp: time.Now().Unix() + int64(i)}
				_, err := service().Meetings.TakeReply(t.Context(), guest.ID, 0, reply, schedule.ViaMail)
				return err
			})
		}
		deeds = append(deeds, func() error {
			return service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), id, 1, nil, "")
		})
		_ = colleagues
		for _, err := range atOnce(deeds...) {
			oneOf(t, err, schedule.ErrCalledOff)
		}
	}
}

// TestTheClockOfAnotherInstance: an answer on a page counts, though another instance
// whose clock is ahead took one before.
func TestTheClockOfAnotherInstance(t *testing.T) {
	ilse := who(t, demo.Ilse)
	id, colleagues := crowd(t, nil)
	ahead := *service().Meetings
	ahead.Clock = func() time.Time { return service().Now().Add(20 * time.Second) }
	require.NoError(t, ahead.Answer(t.Context(), schedule.Self(colleagues[0].ID), id, meetings.Given{Answer: meeting.Accepted}))
	require.NoError(t, service().Meetings.Answer(t.Context(), schedule.Self(colleagues[0].ID), id, meetings.Given{Answer: meeting.Declined}))
	for _, i := range look(t, ilse.ID, id).Invited {
		if i.Email == colleagues[0].Email {
			assert.Equal(t, meeting.Declined, i.Answer)
		}
	}
}

// TestATransactionThatWasBrokenRunsAgain: the database breaks one of two that wait
// for each other; neither caller hears of it.
func TestATransactionThatWasBrokenRunsAgain(t *testing.T) {
	one, _ := crowd(t, nil)
	two, _ := crowd(t, nil)
	first := make(chan struct{}, 2)
	both := func(a, b uuid.UUID) func() error {
		tries := 0
		return func() error {
			return running.Program.Store.InTx(context.Background(), lockBoth(a, b, &tries, first))
		}
	}
	for _, err := range atOnce(both(one, two), both(two, one)) {
		require.NoError(t, err)
	}
}

// lockBoth locks one meeting, waits for the other to be locked too at the first try,
// and locks that.
func lockBoth(a, b uuid.UUID, tries *int, first chan struct{}) func(*postgres.Tx) error {
	return func(tx *postgres.Tx) error {
		if _, err := tx.LockMeeting(context.Background(), a); err != nil {
			return err
		}
		if *tries++; *tries == 1 {
			first <- struct{}{}
			for len(first) < 2 {
				time.Sleep(time.Millisecond)
			}
		}
		_, err := tx.LockMeeting(context.Background(), b)
		return err
	}
}
