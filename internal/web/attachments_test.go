package web_test

import (
	"bytes"
	"io"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/attachment"
	"jembro/internal/demo"
	"jembro/internal/web/api"
)

// TestFilesComeAsTheyAre: whatever is in one, and it goes back to be kept, not to be shown.
func TestFilesComeAsTheyAre(t *testing.T) {
	ilse := signedIn(t, demo.Ilse)
	page := []byte("<html><script>alert(1)</script>\x00\xff\xfe")
	for _, c := range []struct {
		case_, path  string
		body         []byte
		header       map[string]string
		status       int
		says         string
		disposition  string
		needsContent bool
	}{
		{"any octets", "/api/files?name=a.html", page, nil, 201, `"name":"a.html"`, `attachment; filename=a.html`, true},
		{"a name in many letters", "/api/files?name=M%C3%A4rz%20%E2%80%9C2%E2%80%9D.pdf", page, nil, 201, "März", `attachment; filename*=utf-8''M%C3%A4rz%20%E2%80%9C2%E2%80%9D.pdf`, true},
		{"a name with a path", "/api/files?name=..%2F..%2Fetc%2Fpasswd", page, nil, 201, `"passwd"`, "attachment; filename=passwd", true},
		{"said to be JSON", "/api/files?name=a.json", []byte(`{"a":"\u0000"}`), map[string]string{"Content-Type": "application/json"}, 201, "a.json", "attachment; filename=a.json", true},
		{"as large as can be", "/api/files?name=a.bin", bytes.Repeat([]byte{1}, attachment.FileLimit), nil, 201, "25 MB", "attachment; filename=a.bin", false},
		{"larger", "/api/files?name=a.bin", bytes.Repeat([]byte{1}, attachment.FileLimit+1), nil, 422, "25 MB", "", false},
		{"nothing in it", "/api/files?name=a.bin", nil, nil, 400, "missing", "", false},
		{"a NUL in its name", "/api/files?name=a%00.bin", page, nil, 422, "NUL", "", false},
		{"no name", "/api/files", page, nil, 400, "name is missing", "", false},
		{"packed on the way", "/api/files?name=a.bin", page, map[string]string{"Content-Encoding": "gzip"}, 415, "Content-Encoding", "", false},
	} {
		t.Run(c.case_, func(t *testing.T) {
			ilse.t = t
			status, b := ilse.raw("POST", c.path, c.body, c.header)
			require.Equal(t, c.status, status, b)
			assert.Contains(t, b, c.says)
			if status != 201 {
				return
			}
			res := ilse.do("GET", "/api/files/"+as[api.File](t, []byte(b)).ID.String(), nil, map[string]string{"Accept-Encoding": "br, gzip"})
			defer res.Body.Close()
			got, err := io.ReadAll(res.Body)
			require.NoError(t, err)
			assert.Equal(t, 200, res.StatusCode)
			assert.Equal(t, c.disposition, res.Header.Get("Content-Disposition"))
			assert.Equal(t, "default-src 'none'; sandbox", res.Header.Get("Content-Security-Policy"))
			assert.Empty(t, res.Header.Get("Content-Encoding"), "it goes as it came")
			assert.Equal(t, "nosniff", res.Header.Get("X-Content-Type-Options"))
			assert.Len(t, got, len(c.body))
			if c.needsContent {
				assert.Equal(t, c.body, got)
			}
		})
	}

	ilse.t = t
	// What a sheet says of a file is not believed: it is what it is.
	status, b := ilse.raw("POST", "/api/files?name=Plan.pdf", []byte("%PDF-1.7"), nil)
	require.Equal(t, 201, status, b)
	f := as[api.File](t, []byte(b))
	s := ilse.sheet(func(d *api.Draft) {
		d.People = []api.DraftPerson{{Email: "plan@kirisame.example", Needed: true}}
		d.Files = &[]api.File{{ID: f.ID, Name: "Plan.exe", Size: 1, Words: "nothing"}}
	})
	status, sent := ilse.send(s)
	require.Equal(t, 200, status, "%s", sent)
	_, got := ilse.call("GET", "/api/meetings/"+as[api.Sent](t, sent).MeetingID.String(), nil, nil)
	assert.Equal(t, []api.File{{ID: f.ID, Name: "Plan.pdf", Size: 8, Words: "8 bytes"}}, *as[api.Meeting](t, got).Files)

	status, b = ilse.raw("GET", "/api/files/"+uuid.NewString(), nil, nil)
	assert.Equal(t, 404, status, b)
}
