package web

import (
	"reflect"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"

	"jembro/internal/core/attachment"
	"jembro/internal/core/meeting"
	"jembro/internal/everyfield"
)

// TestEveryFieldOfADraftPassesTheContract: what a window saves is what it is shown again.
func TestEveryFieldOfADraftPassesTheContract(t *testing.T) {
	var d meeting.Draft
	everyfield.Fill(t, &d, everyfield.With{
		reflect.TypeFor[attachment.File](): attachment.File{ID: uuid.NewString(), Name: "plan.txt", Size: 7}, // its type is known by its ID
	})
	assert.Equal(t, d, fromDraft(toDraft(d)))
}
