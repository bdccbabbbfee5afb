package typed_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"jembro/internal/core/typed"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
)

func TestStretchesAsPeopleWriteThem(t *testing.T) {
	r := typed.Reader{Words: words.Typed}
	span := func(h1, m1, h2, m2 int) when.ClockSpan {
		return when.ClockSpan{Start: when.ClockOf(h1, m1), End: when.ClockOf(h2, m2)}
	}
	for text, want := range map[string][]when.ClockSpan{
		"":                            nil,
		"–":                           nil,
		"9-17":                        {span(9, 0, 17, 0)},
		"9:00 – 12:30, 13:30 – 18:00": {span(9, 0, 12, 30), span(13, 30, 18, 0)},
		"8h30 to 12 and 1pm to 5pm":   {span(8, 30, 12, 0), span(13, 0, 17, 0)},
		"20–24":                       {span(20, 0, 24, 0)},
		"22:00 – 0:00;":               {span(22, 0, 24, 0)},
	} {
		got, err := r.Stretches(text)
		assert.NoError(t, err, text)
		assert.Equal(t, want, got, text)
	}
	for _, text := range []string{"9", "morning", "9-", "9-17-20", "25-26", "9 to 17, x"} {
		_, err := r.Stretches(text)
		assert.Error(t, err, text)
	}
}
