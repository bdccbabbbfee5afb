// Package icaltest builds calendars from messages alone, with libraries that are
// not Jembro's: Debian's python3-icalendar with python3-dateutil, libical, and
// ical.js of npm.
package icaltest

import (
	"bytes"
	_ "embed"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// Libraries are those that Rebuild knows.
var Libraries = []string{"icalendar", "libical", "ical.js"}

// Shown is a meeting, or one date of a series, as the calendar shows it.
type Shown struct {
	UID        string `json:"uid"`
	Start      string `json:"start"` // RFC 3339 in UTC
	End        string `json:"end"`
	Summary    string `json:"summary"`
	Location   string `json:"location"`
	Conference string `json:"conference"`
	Text       string `json:"text"`
	Answers    string `json:"answers"` // "s.onari@kirisame.example:ACCEPTED ..." by address
}

// Step is what calendars show after some messages: one that keeps what it knows of
// single dates when a new whole arrives, and one that takes each whole as all there
// is.
type Step struct{ Keep, Whole []Shown }

// Box is the messages to one person, by steps.
type Box [][][]byte

var (
	//go:embed rebuild.py
	python string
	//go:embed rebuild.mjs
	javascript string
)

// Until is the end of what is shown.
const Until = "2028-12-01"

// Rebuild is what a calendar shows that has got these messages, in their order, and
// nothing else; both kinds of calendars show the same.
func Rebuild(t testing.TB, library string, messages ...[]byte) []Shown {
	t.Helper()
	got := Steps(t, library, Box{messages})[0][0]
	require.Equal(t, got.Keep, got.Whole, "what is kept of single dates is not said again")
	return got.Whole
}

// Steps is what calendars show that have got the messages of each mailbox and
// nothing else, after each step.
func Steps(t testing.TB, library string, boxes ...Box) (steps [][]Step) {
	t.Helper()
	asked := struct {
		Until string       `json:"until"`
		Boxes [][][]string `json:"boxes"`
	}{Until: Until}
	for _, box := range boxes {
		texts := [][]string{}
		for _, step := range box {
			messages := []string{}
			for _, m := range step {
				messages = append(messages, string(m))
			}
			texts = append(texts, messages)
		}
		asked.Boxes = append(asked.Boxes, texts)
	}
	in, err := json.Marshal(asked)
	require.NoError(t, err)
	cmd := exec.CommandContext(t.Context(), "/usr/bin/python3", "-c", python, library)
	if library == "ical.js" {
		cmd = exec.CommandContext(t.Context(), "node", "--input-type=module", "-e", javascript, filepath.Join(root(t), "web/node_modules/ical.js/dist/ical.js"))
	}
	cmd.Stdin = bytes.NewReader(in)
	var stderr bytes.Buffer
	cmd.Stderr = &stderr
	out, err := cmd.Output()
	require.NoError(t, err, "%s: %s", library, stderr.String())
	require.NoError(t, json.Unmarshal(out, &steps), "%s", out)
	return steps
}

// root is where the module lies.
func root(t testing.TB) string {
	dir, err := os.Getwd()
	require.NoError(t, err)
	for ; dir != "/"; dir = filepath.Dir(dir) {
		if _, err := os.Stat(filepath.Join(dir, "go.mod")); err == nil {
			break
		}
	}
	return dir
}
