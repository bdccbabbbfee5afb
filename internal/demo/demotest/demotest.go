// Package demotest runs a demo for the tests of a package: the real PostgreSQL,
// real SMTP, the stand-ins, and the demo house on a Tuesday morning.
package demotest

import (
	"context"
	"fmt"
	"io/fs"
	"net"
	"os"
	"testing"
	"testing/fstest"

	"jembro/internal/demo"
)

// Now is when the demo house begins its day: Tuesday, a week with meetings
// before and after.
const Now = "2026-11-24T10:12:00Z"

// Run starts a demo, gives it to use, runs the tests, and stops it. It returns
// the exit code. Without files there is no interface.
func Run(m *testing.M, files fs.FS, use func(*demo.Running)) int {
	if files == nil {
		files = fstest.MapFS{"index.html": {Data: []byte("<!doctype html><title>Jembro</title>")}}
	}
	dir, err := os.MkdirTemp("/tmp", "jembro-test-")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer os.RemoveAll(dir)
	if err := os.Chmod(dir, 0o755); err != nil { // PostgreSQL's account has to get in
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	running, err := start(dir, files)
	if err != nil {
		fmt.Fprintln(os.Stderr, "start the demo:", err)
		return 1
	}
	defer running.Stop()
	use(running)
	return m.Run()
}

// start tries other ports when another test was faster with the first.
func start(dir string, files fs.FS) (r *demo.Running, err error) {
	for base := 21000 + os.Getpid()%500*20; base < 40000; base += 20 {
		if !free(base) {
			continue
		}
		r, err = demo.Start(context.Background(), demo.Options{Port: base, Data: dir, Now: Now, Files: files, Say: func(string, ...any) {}})
		if err == nil || free(base) { // an error that is not about the ports
			return r, err
		}
	}
	return nil, fmt.Errorf("no free ports: %w", err)
}

func free(base int) bool {
	for p := base; p < base+8; p++ {
		l, err := net.Listen("tcp", fmt.Sprintf("127.0.0.1:%d", p))
		if err != nil {
			return false
		}
		l.Close()
	}
	return true
}
