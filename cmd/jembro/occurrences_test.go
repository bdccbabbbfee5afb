package main

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestBatchAnswersEveryLine(t *testing.T) {
	in := strings.Join([]string{
		`{"rrule":"FREQ=WEEKLY;COUNT=3","dtstart":"20260105T093000","tzid":"Europe/Lisbon","limit":2,"exdates":["20260112T093000"]}`,
		`{"rrule":"FREQ=MONTHLY","dtstart":"20260131","tzid":null,"limit":2}`,
		`{"rrule":"FREQ=DAILY;COUNT=1","dtstart":"20260105T093000Z","tzid":null,"limit":5}`,
		`{"rrule":"FREQ=DAILY;INTERVAL=0","dtstart":"20260105","limit":5}`,
		`{"rrule":"FREQ=DAILY","dtstart":"20260105T093000","tzid":"Mars/Olympus","limit":5}`,
		`{"rrule":"FREQ=DAILY","dtstart":"20260105","limit":0}`,
		`nonsense`,
	}, "\n")
	var out strings.Builder
	require.NoError(t, occurrencesBatch(strings.NewReader(in), &out))
	lines := strings.Split(strings.TrimSpace(out.String()), "\n")
	require.Len(t, lines, 7)
	assert.JSONEq(t, `{"instances":["20260105T093000","20260119T093000"],"utc":["20260105T093000Z","20260119T093000Z"],"complete":true}`, lines[0])
	assert.JSONEq(t, `{"instances":["20260131","20260331"],"utc":null,"complete":false}`, lines[1])
	assert.JSONEq(t, `{"instances":["20260105T093000Z"],"utc":["20260105T093000Z"],"complete":true}`, lines[2])
	for i, part := range map[int]string{3: "INTERVAL", 4: "Mars/Olympus", 5: "limit", 6: "invalid character"} {
		assert.Contains(t, lines[i], `{"error":"`)
		assert.Contains(t, lines[i], part)
	}
}
