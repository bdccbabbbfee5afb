package web

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"

	"jembro/internal/schedule"
)

// TestAWindowThatDoesNotKeepUpMissesForItselfAlone: the others are told what changed.
func TestAWindowThatDoesNotKeepUpMissesForItselfAlone(t *testing.T) {
	hub := NewHub()
	slow, quick := uuid.New(), uuid.New()
	behind, ahead := hub.open(slow, uuid.Nil), hub.open(quick, uuid.Nil)
	n := schedule.Notice{People: []uuid.UUID{slow, quick}, Topic: schedule.AboutMeeting, ID: uuid.New()}
	for range 40 {
		hub.Tell(n)
		assert.Contains(t, string(<-ahead.notices), n.ID.String())
	}
	var last []byte
	for len(behind.notices) > 0 {
		last = <-behind.notices
	}
	assert.Equal(t, missed, last)
}
