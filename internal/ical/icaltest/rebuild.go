// Package icaltest builds a calendar from messages alone, with libraries that
// are not Jembro's: Debian's python3-icalendar with python3-dateutil, and
// libical.
package icaltest

import (
	"bytes"
	_ "embed"
	"encoding/json"
	"os/exec"
	"testing"

	"github.com/stretchr/testify/require"
)

// Libraries are those that Rebuild knows.
var Libraries = []string{"icalendar", "libical"}

// Shown is a meeting, or one date of a series, as the calendar shows it.
type Shown struct {
	UID        string `json:"uid"`
	Start      string `json:"start"` // RFC 3339 in UTC
	End        string `json:"end"`
	Summary    string `json:"summary"`
	Location   string `json:"location"`
	Conference string `json:"conference"`
}

//go:embed rebuild.py
var script string

// Rebuild is what a calendar shows that has got these iCalendar objects, in
// their order, and nothing else, up to November 2028.
func Rebuild(t testing.TB, library string, messages ...[]byte) (shown []Shown) {
	t.Helper()
	texts := make([]string, len(messages))
	for i, m := range messages {
		texts[i] = string(m)
	}
	in, err := json.Marshal(texts)
	require.NoError(t, err)
	cmd := exec.CommandContext(t.Context(), "/usr/bin/python3", "-c", script, library)
	cmd.Stdin = bytes.NewReader(in)
	var stderr bytes.Buffer
	cmd.Stderr = &stderr
	out, err := cmd.Output()
	require.NoError(t, err, "%s: %s\n%s", library, stderr.String(), bytes.Join(messages, []byte("\n")))
	require.NoError(t, json.Unmarshal(out, &shown), "%s", out)
	return shown
}
