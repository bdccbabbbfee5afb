package main

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestCardBatchAnswersEveryLine(t *testing.T) {
	in := strings.Join([]string{
		`{"text":"Join: https://ostrel.example/j/48?a=1&b=2\nPasscode: veld-31\nDial +351 300 505 620, PIN 48219077#"}`,
		`{"text":"The list is at https://docs.example/d/31"}`,
		`nonsense`,
	}, "\n")
	var out strings.Builder
	require.NoError(t, cardBatch(strings.NewReader(in), &out))
	lines := strings.Split(strings.TrimSpace(out.String()), "\n")
	require.Len(t, lines, 3)
	assert.JSONEq(t, `{"card":{"url":"https://ostrel.example/j/48?a=1&b=2","passcode":"veld-31","phones":[{"number":"+351300505620","country":"PT","pin":"48219077"}]}}`, lines[0])
	assert.JSONEq(t, `{"card":null}`, lines[1])
	assert.Contains(t, lines[2], `{"error":"`)
}
