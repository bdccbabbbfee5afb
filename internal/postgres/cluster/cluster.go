// Package cluster runs a private PostgreSQL server on loopback, from Debian's
// packages: for the demo and the tests. It never touches a cluster that is there
// already. Other users of the machine cannot use it: it asks for a password that
// only who may read the directory knows (SCRAM), and the program works in it as a
// role that owns its database and nothing else.
package cluster

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"sort"
	"strconv"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
)

// Cluster is a running server.
type Cluster struct {
	Dir  string
	Port int
	cmd  *exec.Cmd
	log  *os.File
	// secret is the password of both roles.
	secret string
}

// The roles of the server: one that sets it up, and one that the program works as.
const (
	roleAdmin = "jembro_admin"
	role      = "jembro"
)

// Options say how a cluster is kept.
type Options struct {
	Dir string // made when it is not there
	// Durable waits for the disk; tests do not.
	Durable bool
	Port    int // 0 for one that is free
}

// Binaries is the directory of the newest PostgreSQL that is installed.
func Binaries() (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/postgres")
	if len(found) == 0 {
		return "", errors.New("PostgreSQL is not installed: apt-get install postgresql")
	}
	sort.Slice(found, func(i, j int) bool { return version(found[i]) < version(found[j]) })
	return filepath.Dir(found[len(found)-1]), nil
}

func version(path string) int {
	n, _ := strconv.Atoi(filepath.Base(filepath.Dir(filepath.Dir(path))))
	return n
}

// Start brings a cluster up and waits until it answers. As root it runs as the
// user postgres, because PostgreSQL refuses to run as root.
func Start(ctx context.Context, o Options) (*Cluster, error) {
	bin, err := Binaries()
	if err != nil {
		return nil, err
	}
	dir, err := filepath.Abs(o.Dir)
	if err != nil {
		return nil, err
	}
	as, err := account()
	if err != nil {
		return nil, err
	}
	if err := as.own(dir); err != nil {
		return nil, err
	}
	if err := removeStale(dir); err != nil {
		return nil, err
	}
	if _, err := os.Stat(filepath.Join(dir, "PG_VERSION")); errors.Is(err, os.ErrNotExist) {
		if err := initialise(as, bin, dir); err != nil {
			return nil, err
		}
	}
	secret, err := os.ReadFile(secretFile(dir))
	if err != nil {
		return nil, fmt.Errorf("%s holds a database of an earlier version, without a password: start over with RESET=1, or another DATA directory (%w)", dir, err)
	}
	port := o.Port
	if port == 0 {
		if port, err = freePort(); err != nil {
			return nil, err
		}
	}
	args := []string{"-D", dir, "-p", strconv.Itoa(port), "-c", "listen_addresses=127.0.0.1", "-c", "unix_socket_directories=", "-c", "log_file_mode=0600", "-c", "password_encryption=scram-sha-256",
		"-c", "max_connections=200", "-c", "shared_buffers=128MB"}
	if !o.Durable {
		args = append(args, "-c", "fsync=off", "-c", "synchronous_commit=off", "-c", "full_page_writes=off")
	}
	c := &Cluster{Dir: dir, Port: port, secret: string(secret), cmd: as.command(filepath.Join(bin, "postgres"), args...)}
	if c.log, err = os.OpenFile(dir+".log", os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o600); err != nil {
		return nil, err
	}
	c.cmd.Stdout, c.cmd.Stderr = c.log, c.log
	if err := c.cmd.Start(); err != nil {
		return nil, err
	}
	if err = c.await(ctx); err == nil {
		err = c.makeRole(ctx)
	}
	if err != nil {
		c.Stop()
		return nil, err
	}
	return c, nil
}

func secretFile(dir string) string { return dir + ".password" }

// initialise makes the cluster, with a password of its own.
func initialise(as owner, bin, dir string) error {
	secret := rand.Text()
	if err := os.WriteFile(secretFile(dir), []byte(secret), 0o600); err != nil {
		return err
	}
	// A copy that the server's account can read, for this moment only.
	handed := dir + ".initial"
	if err := os.WriteFile(handed, []byte(secret+"\n"), 0o600); err != nil {
		return err
	}
	defer os.Remove(handed)
	if as.credential != nil {
		if err := os.Chown(handed, int(as.credential.Uid), int(as.credential.Gid)); err != nil {
			return err
		}
	}
	cmd := as.command(filepath.Join(bin, "initdb"), "-D", dir, "-U", roleAdmin, "--pwfile="+handed, "-A", "scram-sha-256",
		"-E", "UTF8", "--locale=C.UTF-8", "--no-sync")
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("make a database cluster in %s: %w\n%s", dir, err, out)
	}
	return nil
}

// makeRole makes the role that the program works as. Extensions that a database
// needs are made by the one that sets it up.
func (c *Cluster) makeRole(ctx context.Context) error {
	return c.admin(ctx, "postgres", func(conn *pgx.Conn) error {
		var there bool
		if err := conn.QueryRow(ctx, "SELECT EXISTS (SELECT 1 FROM pg_roles WHERE rolname = $1)", role).Scan(&there); err != nil || there {
			return err
		}
		// The password is letters and digits.
		_, err := conn.Exec(ctx, fmt.Sprintf("CREATE ROLE %s LOGIN PASSWORD '%s'", role, c.secret))
		return err
	})
}

// admin does something as the role that sets the server up.
func (c *Cluster) admin(ctx context.Context, database string, do func(*pgx.Conn) error) error {
	conn, err := pgx.Connect(ctx, c.url(roleAdmin, database))
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	return do(conn)
}

// URL is where a database of the cluster is reached.
func (c *Cluster) URL(database string) string { return c.url(role, database) }

func (c *Cluster) url(as, database string) string {
	return fmt.Sprintf("postgres://%s:%s@127.0.0.1:%d/%s?sslmode=disable", as, c.secret, c.Port, database)
}

// Create makes a database that the program owns, from a template unless that is
// empty. One that is there already stays.
func (c *Cluster) Create(ctx context.Context, name, template string) error {
	made := false
	err := c.admin(ctx, "postgres", func(conn *pgx.Conn) error {
		var there bool
		if err := conn.QueryRow(ctx, "SELECT EXISTS (SELECT 1 FROM pg_database WHERE datname = $1)", name).Scan(&there); err != nil || there {
			return err
		}
		sql := "CREATE DATABASE " + pgx.Identifier{name}.Sanitize() + " OWNER " + role
		if template != "" {
			sql += " TEMPLATE " + pgx.Identifier{template}.Sanitize()
		}
		made = true
		_, err := conn.Exec(ctx, sql)
		return err
	})
	if err != nil || !made || template != "" {
		return err
	}
	return c.admin(ctx, name, func(conn *pgx.Conn) error {
		_, err := conn.Exec(ctx, "CREATE EXTENSION IF NOT EXISTS btree_gist")
		return err
	})
}

// Stop ends the server and waits for it.
func (c *Cluster) Stop() {
	c.cmd.Process.Signal(syscall.SIGINT) // "fast": open connections are ended
	done := make(chan struct{})
	go func() { c.cmd.Wait(); close(done) }()
	select {
	case <-done:
	case <-time.After(20 * time.Second):
		c.cmd.Process.Signal(syscall.SIGQUIT)
		<-done
	}
	c.log.Close()
}

// Crash ends the server at once, as if it were killed: the next one recovers what was kept.
func (c *Cluster) Crash() {
	c.cmd.Process.Signal(syscall.SIGQUIT)
	c.cmd.Wait()
	c.log.Close()
}

func (c *Cluster) await(ctx context.Context) error {
	var last error
	for range 300 {
		conn, err := pgx.Connect(ctx, c.url(roleAdmin, "postgres"))
		if err == nil {
			return conn.Close(ctx)
		}
		last = err
		if c.cmd.Process.Signal(syscall.Signal(0)) != nil {
			break
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(100 * time.Millisecond):
		}
	}
	log, _ := os.ReadFile(c.log.Name())
	return fmt.Errorf("PostgreSQL does not come up: %w\n%s", last, log)
}

// removeStale takes away the lock file of a server that was killed. One that
// still runs is an error.
func removeStale(dir string) error {
	name := filepath.Join(dir, "postmaster.pid")
	b, err := os.ReadFile(name)
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	var pid int
	fmt.Sscan(string(b), &pid)
	if pid > 0 && syscall.Kill(pid, 0) == nil {
		return fmt.Errorf("a database server already runs in %s (process %d); stop it, or use another DATA directory", dir, pid)
	}
	return os.Remove(name)
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// owner is whom the server runs as; nil is the present user.
type owner struct{ credential *syscall.Credential }

func account() (owner, error) {
	if os.Geteuid() != 0 {
		return owner{}, nil
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		return owner{}, fmt.Errorf("PostgreSQL does not run as root, and there is no user postgres: %w", err)
	}
	uid, _ := strconv.Atoi(u.Uid)
	gid, _ := strconv.Atoi(u.Gid)
	return owner{&syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}}, nil
}

// own makes the directory and gives it to the account.
func (o owner) own(dir string) error {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	if o.credential == nil {
		return nil
	}
	return os.Chown(dir, int(o.credential.Uid), int(o.credential.Gid))
}

// command ends with this process, even when that is killed, and hears nothing
// of a Ctrl-C in the terminal: Stop ends it in order.
func (o owner) command(name string, args ...string) *exec.Cmd {
	cmd := exec.Command(name, args...)
	cmd.Dir = "/"
	cmd.Env = []string{"PATH=/usr/bin:/bin", "LC_ALL=C.UTF-8", "TZ=UTC"} // nothing of ours
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: o.credential, Pdeathsig: syscall.SIGINT, Setpgid: true}
	return cmd
}

// Reachable tells whether the server's account can get into the parents of dir.
func Reachable(dir string) bool {
	o, err := account()
	if err != nil || o.credential == nil {
		return err == nil
	}
	for at := filepath.Dir(dir); ; at = filepath.Dir(at) {
		info, err := os.Stat(at)
		if err == nil && info.Mode().Perm()&0o001 == 0 {
			return false
		}
		if at == filepath.Dir(at) {
			return true
		}
	}
}
