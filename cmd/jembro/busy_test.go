package main

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestBusyBatchAnswersEveryLine(t *testing.T) {
	ics := "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTART:20260706T090000\r\nDURATION:PT1H\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
	good, err := json.Marshal(map[string]string{"ics": ics, "from": "2026-07-01T00:00:00Z", "to": "2026-08-01T00:00:00Z", "zone": "Europe/Lisbon"})
	require.NoError(t, err)
	in := strings.Join([]string{string(good), `nonsense`, `{"ics":"` + strings.Repeat("x", longestBusyLine) + `"}`, strings.Replace(string(good), "Europe/Lisbon", "Asia/Tokyo", 1)}, "\n")
	var out strings.Builder
	require.NoError(t, busyBatch(strings.NewReader(in), &out))
	lines := strings.Split(strings.TrimSpace(out.String()), "\n")
	require.Len(t, lines, 4)
	assert.JSONEq(t, `{"busy":[["2026-07-06T08:00:00Z","2026-07-06T09:00:00Z","busy"]]}`, lines[0])
	assert.Contains(t, lines[1], `{"error":"`)
	assert.Contains(t, lines[2], "longer than a question")
	assert.JSONEq(t, `{"busy":[["2026-07-06T00:00:00Z","2026-07-06T01:00:00Z","busy"]]}`, lines[3])
}
