package program_test

import (
	"bufio"
	"context"
	"crypto/tls"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
	"jembro/internal/program"
)

func TestTheFrontSpeaksHTTP2(t *testing.T) {
	inner := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/api/live" {
			w.Header().Set("Content-Type", "text/event-stream")
			fmt.Fprint(w, "data: now\n\n")
			w.(http.Flusher).Flush()
			<-r.Context().Done()
			return
		}
		fmt.Fprintf(w, "%s %s %s", r.Host, r.Header.Get("X-Real-IP"), r.Header.Get("Cookie"))
	}))
	defer inner.Close()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	cert, err := demo.Certificate(time.Now())
	require.NoError(t, err)
	f := program.ServeTLS(l, cert, inner.Listener.Addr().String(), func(err error) { t.Error(err) })
	defer f.Stop(t.Context())
	client := &http.Client{Transport: &http.Transport{ForceAttemptHTTP2: true, TLSClientConfig: &tls.Config{InsecureSkipVerify: true}}}
	ask := func(path string) *http.Response {
		r, err := http.NewRequestWithContext(t.Context(), "GET", "https://"+l.Addr().String()+path, nil)
		require.NoError(t, err)
		r.Header.Set("X-Real-IP", "192.0.2.66")
		r.Header.Set("Cookie", "a=b")
		res, err := client.Do(r)
		require.NoError(t, err)
		return res
	}
	res := ask("/")
	body, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	assert.Equal(t, "HTTP/2.0", res.Proto)
	assert.Equal(t, l.Addr().String()+" 127.0.0.1 a=b", string(body), "a client cannot say where it comes from")

	// Twelve streams, told at once, and still there is room to ask.
	for range 12 {
		stream := ask("/api/live")
		defer stream.Body.Close()
		line, err := bufio.NewReader(stream.Body).ReadString('\n')
		require.NoError(t, err)
		assert.Equal(t, "data: now\n", line)
	}
	within, cancel := context.WithTimeout(t.Context(), 5*time.Second)
	defer cancel()
	r, err := http.NewRequestWithContext(within, "GET", "https://"+l.Addr().String()+"/", nil)
	require.NoError(t, err)
	res, err = client.Do(r)
	require.NoError(t, err)
	res.Body.Close()
}
