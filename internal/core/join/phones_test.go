package join_test

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/nyaruka/phonenumbers"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/join"
)

// TestPhonesAsAnotherLibraryReadsThem: the number and the country of every phone of the
// corpus, and of an example from every country there is, agree with libphonenumber-js of npm.
func TestPhonesAsAnotherLibraryReadsThem(t *testing.T) {
	texts, err := os.ReadFile("testdata/texts.jsonl")
	require.NoError(t, err)
	var phones []join.Phone
	for line := range strings.Lines(string(texts)) {
		var c struct{ Card *join.Pasted }
		require.NoError(t, json.Unmarshal([]byte(line), &c))
		if c.Card != nil {
			phones = append(phones, c.Card.Phones...)
		}
	}
	var regions []string
	for region := range phonenumbers.GetSupportedRegions() {
		regions = append(regions, region)
	}
	slices.Sort(regions)
	for _, region := range regions {
		for _, kind := range []phonenumbers.PhoneNumberType{phonenumbers.FIXED_LINE, phonenumbers.MOBILE} {
			if n := phonenumbers.GetExampleNumberForType(region, kind); n != nil {
				phone, err := join.ReadPhone(phonenumbers.Format(n, phonenumbers.INTERNATIONAL), "", "")
				require.NoError(t, err, region)
				phones = append(phones, phone)
			}
		}
	}
	numbers := make([]string, len(phones))
	for i, p := range phones {
		numbers[i] = p.Number
	}
	in, err := json.Marshal(numbers)
	require.NoError(t, err)
	library, err := filepath.Abs("../../../web/node_modules/libphonenumber-js/max/index.js")
	require.NoError(t, err)
	cmd := exec.CommandContext(t.Context(), "node", "testdata/phones.mjs", library)
	cmd.Stdin = strings.NewReader(string(in))
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, "%s", out)
	var theirs []*struct{ Number, Country, Words string }
	require.NoError(t, json.Unmarshal(out, &theirs), "%s", out)
	require.Len(t, theirs, len(phones))
	written := 0
	for i, p := range phones {
		if !assert.NotNil(t, theirs[i], p.Number) {
			continue
		}
		assert.Equal(t, p.Number, theirs[i].Number)
		// In a range that is not given out nobody knows the country but by its code.
		if theirs[i].Country != "" {
			assert.Equal(t, theirs[i].Country, p.Country, p.Number)
		}
		if p.Words() == theirs[i].Words {
			written++
		}
	}
	t.Logf("%d phones; %d written alike", len(phones), written)
	assert.Greater(t, written, len(phones)*9/10)
}
