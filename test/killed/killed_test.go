// Package killed_test kills the relay, the database and the program in turn while a thousand
// messages go out: the real program as processes of its own, which end without a word.
package killed_test

import (
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"math/rand/v2"
	"net"
	"net/mail"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/ical"
	"jembro/internal/postgres"
	"jembro/internal/postgres/cluster"
	"jembro/internal/program"
	"jembro/internal/schedule"
	"jembro/internal/schedule/deeds"
	"jembro/internal/standin"
)

const (
	secret                = "a secret of this test alone"
	domain                = "meet.marrowby.example"
	meetings, guestsOfOne = 20, 50
	// settled is how long it may take after the last death until everything is handed over.
	settled = 3 * time.Minute
)

func TestMain(m *testing.M) {
	slog.SetDefault(slog.New(slog.DiscardHandler))
	os.Exit(m.Run())
}

// free is a port that nobody listens on, and that nobody's way out gets by chance while what listens
// there is dead: below those that the system gives (32768 and up).
func free(t *testing.T) int {
	t.Helper()
	for range 1000 {
		port := 10000 + rand.IntN(10000)
		if l, err := net.Listen("tcp", fmt.Sprintf("127.0.0.1:%d", port)); err == nil {
			l.Close()
			return port
		}
	}
	require.Fail(t, "no free port")
	return 0
}

// line is a way to the relay that can be cut: for a while, or after the message and before the
// answer, so that nobody knows whether it was taken.
type line struct {
	to       string
	cut      atomic.Bool
	hangsUp  atomic.Int64 // of a hundred conversations
	hungUpOn atomic.Int64
}

func (l *line) serve(t *testing.T) (port int) {
	t.Helper()
	in, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { in.Close() })
	go func() {
		for {
			c, err := in.Accept()
			if err != nil {
				return
			}
			go l.carry(c)
		}
	}()
	return in.Addr().(*net.TCPAddr).Port
}

func (l *line) carry(from net.Conn) {
	defer from.Close()
	to, err := net.Dial("tcp", l.to)
	if err != nil || l.cut.Load() {
		return
	}
	defer to.Close()
	hang := rand.Int64N(100) < l.hangsUp.Load()
	done := make(chan struct{})
	ended := atomic.Bool{}
	go func() {
		defer close(done)
		buffer := make([]byte, 4096)
		for {
			n, err := to.Read(buffer)
			if err != nil || l.cut.Load() {
				return
			}
			if hang && ended.Load() { // it was taken, and nobody hears of it
				l.hungUpOn.Add(1)
				return
			}
			if _, err := from.Write(buffer[:n]); err != nil {
				return
			}
		}
	}()
	go func() {
		buffer := make([]byte, 32<<10)
		for {
			n, err := from.Read(buffer)
			if err != nil || l.cut.Load() {
				to.Close()
				return
			}
			if strings.HasSuffix(string(buffer[:n]), "\r\n.\r\n") {
				ended.Store(true)
			}
			if _, err := to.Write(buffer[:n]); err != nil {
				return
			}
		}
	}()
	<-done
}

// child is the program as a process.
type child struct {
	bin   string
	env   []string
	cmd   *exec.Cmd
	ended chan struct{}
}

func (c *child) start(t *testing.T) {
	t.Helper()
	c.cmd = exec.Command(c.bin, "serve")
	c.cmd.Env = append(os.Environ(), c.env...)
	c.cmd.Stdout, c.cmd.Stderr = io.Discard, io.Discard
	require.NoError(t, c.cmd.Start())
	c.ended = make(chan struct{})
	go func(cmd *exec.Cmd, ended chan struct{}) {
		cmd.Wait()
		close(ended)
	}(c.cmd, c.ended)
}

func (c *child) kill() {
	c.cmd.Process.Kill() // SIGKILL: nothing is tidied up
	<-c.ended
}

// alive starts it again where it ended by itself, because the database was not there.
func (c *child) alive(t *testing.T) {
	t.Helper()
	select {
	case <-c.ended:
		c.start(t)
	default:
	}
}

func TestNothingIsLostWhenEverythingDies(t *testing.T) {
	if testing.Short() {
		t.Skip("it takes minutes")
	}
	dir := t.TempDir()
	require.NoError(t, os.Chmod(dir, 0o711))
	require.NoError(t, os.Chmod(filepath.Dir(dir), 0o711))
	bin := filepath.Join(dir, "jembro")
	out, err := exec.Command("go", "build", "-o", bin, "jembro/cmd/jembro").CombinedOutput()
	require.NoError(t, err, string(out))

	options := cluster.Options{Dir: filepath.Join(dir, "pg"), Durable: true, Port: free(t)}
	db, err := cluster.Start(t.Context(), options)
	require.NoError(t, err)
	t.Cleanup(func() { db.Stop() })
	require.NoError(t, db.Create(t.Context(), "jembro", ""))
	pool, err := program.Connect(t.Context(), db.URL("jembro"))
	require.NoError(t, err)
	t.Cleanup(pool.Close)
	require.NoError(t, postgres.Migrate(t.Context(), pool))
	store, err := postgres.NewStore(pool)
	require.NoError(t, err)
	raw, err := os.ReadFile("../../internal/demo/house.json")
	require.NoError(t, err)
	var house postgres.House
	require.NoError(t, json.Unmarshal(raw, &house))
	require.NoError(t, store.Import(t.Context(), house))

	world, err := standin.New(standin.Config{Now: time.Now})
	require.NoError(t, err)
	post, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { post.Close() })
	go world.Post.Serve(post)
	relay := &line{to: post.Addr().String()}
	relay.hangsUp.Store(15)

	p := &child{bin: bin, env: []string{"JEMBRO_DATABASE_URL=" + db.URL("jembro"), "JEMBRO_SECRET=" + secret, "JEMBRO_BASE_URL=http://127.0.0.1:1", "JEMBRO_HOUSE=Marrowby Museums",
		fmt.Sprintf("JEMBRO_LISTEN=127.0.0.1:%d", free(t)), fmt.Sprintf("JEMBRO_MAIL_LISTEN=127.0.0.1:%d", free(t)), "JEMBRO_MAIL_DOMAIN=" + domain,
		"JEMBRO_RELAY_HOST=127.0.0.1", fmt.Sprintf("JEMBRO_RELAY_PORT=%d", relay.serve(t)), "JEMBRO_RELAY_PLAIN=true", "JEMBRO_INSECURE_MEANT=true"}}
	p.start(t)
	t.Cleanup(func() { p.kill() })

	// A hand that sends, whatever dies meanwhile: with the same key until it succeeds.
	seal, err := program.Seal(secret, nil)
	require.NoError(t, err)
	set := schedule.Setting{House: schedule.House{Name: "Marrowby Museums", BaseURL: "http://127.0.0.1:1", MailDomain: domain}, Seal: seal, Clock: time.Now}
	do := deeds.New(set, store, deeds.Outside{Format: ical.Calendars{}}).Sheets
	var ilse uuid.UUID
	require.NoError(t, pool.QueryRow(t.Context(), "SELECT id FROM person WHERE email = 'ilse.marrant@marrowby.example'").Scan(&ilse))
	me := schedule.Self(ilse)
	until := func(what string, try func() error) {
		t.Helper()
		var err error
		for range 200 {
			if err = try(); err == nil {
				return
			}
			time.Sleep(50 * time.Millisecond)
		}
		require.NoError(t, err, what)
	}
	sent := make(chan struct{})
	go func() {
		defer close(sent)
		for n := range meetings {
			var s schedule.Sheet
			until("open", func() (err error) { s, err = do.OpenSheet(t.Context(), me, "", ""); return err })
			d := s.Draft
			day := time.Now().AddDate(0, 1, n).Format(time.DateOnly)
			d.Title, d.Start, d.End, d.NoRoom, d.NoLink, d.People = fmt.Sprintf("Round %d", n), day+"T10:00", day+"T11:00", true, true, nil
			for g := range guestsOfOne {
				d.People = append(d.People, meeting.DraftPerson{Email: fmt.Sprintf("m%d.g%d@f%d.example", n, g, g%17), Needed: true})
			}
			until("save", func() (err error) {
				if s, err = do.OpenSheet(t.Context(), me, "", ""); err == nil {
					s, _, err = do.SaveSheet(t.Context(), me, s.ID, s.Version, d, "")
				}
				return err
			})
			key := uuid.NewString()
			until("send", func() error { _, err := do.Send(t.Context(), me, s.ID, s.Version, key); return err })
			time.Sleep(400 * time.Millisecond)
		}
	}()

	deaths := map[string]int{}
	for round, going := 0, true; going; round++ {
		select {
		case <-sent:
			going = false
		case <-time.After(500 * time.Millisecond):
		}
		switch round % 3 {
		case 0:
			relay.cut.Store(true)
			time.Sleep(400 * time.Millisecond)
			relay.cut.Store(false)
			deaths["relay"]++
		case 1:
			p.kill()
			p.start(t)
			deaths["program"]++
		case 2:
			db.Crash()
			time.Sleep(200 * time.Millisecond)
			db, err = cluster.Start(t.Context(), options)
			require.NoError(t, err)
			deaths["database"]++
		}
		p.alive(t)
	}
	relay.hangsUp.Store(0)

	count := func(state string) (n int) {
		pool.QueryRow(t.Context(), "SELECT count(*) FROM dispatch WHERE state = $1", state).Scan(&n)
		return n
	}
	began := time.Now()
	for time.Since(began) < settled && count("handed") < meetings*guestsOfOne {
		p.alive(t)
		time.Sleep(200 * time.Millisecond)
	}
	require.Equal(t, meetings*guestsOfOne, count("handed"), "queued: %d, failed: %d", count("queued"), count("failed"))

	doubles := 0
	for n := range meetings {
		for g := range guestsOfOne {
			ids := map[string]bool{}
			box := world.Post.Box(fmt.Sprintf("m%d.g%d@f%d.example", n, g, g%17))
			for _, m := range box {
				read, err := mail.ReadMessage(strings.NewReader(string(m.Raw)))
				require.NoError(t, err)
				ids[read.Header.Get("Message-ID")] = true
			}
			assert.NotEmpty(t, box, "m%d.g%d has nothing", n, g)
			assert.LessOrEqual(t, len(ids), 1, "m%d.g%d has two messages: %v", n, g, ids)
			doubles += max(len(box)-1, 0)
		}
	}
	t.Logf("%d messages, deaths: %v, %d times the relay hung up after the message; %d came twice, each under its own Message-ID; all handed over %v after the last death",
		meetings*guestsOfOne, deaths, relay.hungUpOn.Load(), doubles, time.Since(began).Round(time.Second))
	assert.Positive(t, relay.hungUpOn.Load())
	for _, what := range []string{"relay", "program", "database"} {
		assert.GreaterOrEqual(t, deaths[what], 3, what)
	}
}
