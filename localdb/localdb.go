package localdb

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/url"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"sort"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/gofrs/flock"
)

// DB is a running server.
type DB struct {
	// URL connects to its database.
	URL    string
	port   int
	folder string
	bin    string
	as     *syscall.Credential
	// used is a lock that everybody who uses the server holds: the last one to leave stops it.
	used    *flock.Flock
	unwatch func()
}

// ErrNotInstalled says that there is no PostgreSQL server on this machine.
var ErrNotInstalled = errors.New(
	"the PostgreSQL server is not installed; install Debian's package postgresql (apt-get install postgresql)",
)

const owner = "slowreveal"

// Start starts the server whose data lies in folder, and makes both when they
// are not there. A server that already runs on the folder is used as it is, and stays when we go as
// long as somebody else uses it.
func Start(ctx context.Context, folder string) (*DB, error) {
	folder, err := filepath.Abs(folder)
	if err != nil {
		return nil, err
	}
	db := &DB{folder: folder}
	if db.bin, err = programs(); err != nil {
		return nil, err
	}
	if db.as, err = harmless(); err != nil {
		return nil, err
	}
	unlock, err := db.lock(ctx)
	if err != nil {
		return nil, err
	}
	defer unlock()
	db.used = flock.New(folder + ".used")
	if ok, err := db.used.TryRLock(); err != nil || !ok {
		return nil, fmt.Errorf("marking the database in %s as used: %w", folder, err)
	}
	if err := db.begin(ctx); err != nil {
		return nil, errors.Join(err, db.used.Close())
	}
	return db, nil
}

// begin finds the server running, or starts it.
func (db *DB) begin(ctx context.Context) error {
	password, err := db.prepare(ctx)
	if err != nil {
		return err
	}
	port, running := db.runningPort()
	if !running {
		if port, err = freePort(); err != nil {
			return err
		}
		if err := db.start(ctx, port); err != nil {
			return err
		}
	}
	u := url.URL{
		Scheme:   "postgres",
		User:     url.UserPassword(owner, password),
		Host:     net.JoinHostPort("127.0.0.1", strconv.Itoa(port)),
		Path:     "postgres",
		RawQuery: "sslmode=disable",
	}
	db.URL, db.port = u.String(), port
	return nil
}

// lock lets one process at a time start, make or stop the server of a folder.
func (db *DB) lock(ctx context.Context) (unlock func(), err error) {
	if err := os.MkdirAll(filepath.Dir(db.folder), 0o755); err != nil {
		return nil, fmt.Errorf("making the data folder: %w", err)
	}
	l := flock.New(db.folder + ".lock")
	if _, err := l.TryLockContext(ctx, 100*time.Millisecond); err != nil {
		return nil, fmt.Errorf(
			"waiting for another Slow Reveal that starts or stops the database in %s: %w",
			db.folder,
			err,
		)
	}
	return func() { l.Unlock() }, nil
}

// every is how often Watch looks after the server.
const every = time.Second

// Watch looks after the server until Stop: when it is gone, whoever started it, it is started again,
// on the port that it had.
func (db *DB) Watch() {
	ctx, cancel := context.WithCancel(context.Background())
	ended := make(chan struct{})
	db.unwatch = func() { cancel(); <-ended }
	go func() {
		defer close(ended)
		tick := time.NewTicker(every)
		defer tick.Stop()
		for {
			select {
			case <-ctx.Done():
				return
			case <-tick.C:
			}
			if err := db.revive(ctx); err != nil && ctx.Err() == nil {
				slog.Error("the database has ended and does not start again", "error", err)
			}
		}
	}()
}

// revive starts a server that has ended without being told to by us.
func (db *DB) revive(ctx context.Context) error {
	if _, running := db.runningPort(); running {
		return nil
	}
	unlock, err := db.lock(ctx)
	if err != nil {
		return err
	}
	defer unlock()
	if _, running := db.runningPort(); running || ctx.Err() != nil { // somebody was quicker
		return nil
	}
	slog.Warn("the database has ended; it is started again", "folder", db.folder)
	return db.start(ctx, db.port)
}

func (db *DB) start(ctx context.Context, port int) error {
	log := filepath.Join(db.folder, "server.log")
	options := fmt.Sprintf("-p %d -c listen_addresses=127.0.0.1 -c unix_socket_directories=''", port)
	if err := db.run(ctx, "pg_ctl", "-D", db.data(), "-w", "-t", "60", "-l", log, "-o", options, "start"); err != nil {
		return fmt.Errorf("starting PostgreSQL: %w (see %s)", err, log)
	}
	return nil
}

// Halt stops the server although it is in use, and Restart starts it again, on the port that it had:
// for tests of what happens then.
func (db *DB) Halt(ctx context.Context) error {
	return db.run(ctx, "pg_ctl", "-D", db.data(), "-m", "fast", "-w", "stop")
}

// Restart starts a halted server again.
func (db *DB) Restart(ctx context.Context) error { return db.start(ctx, db.port) }

// Stop ends our use of the server, and the server when nobody else uses it.
func (db *DB) Stop(ctx context.Context) error {
	if db.unwatch != nil {
		db.unwatch()
	}
	unlock, err := db.lock(ctx)
	if err != nil {
		return err
	}
	defer unlock()
	defer db.used.Close()
	if last, err := db.used.TryLock(); err != nil || !last {
		return err
	}
	return db.Halt(ctx)
}

func (db *DB) data() string { return filepath.Join(db.folder, "data") }

// prepare makes the folder and the cluster when they are not there, and returns
// the password.
func (db *DB) prepare(ctx context.Context) (string, error) {
	secret := filepath.Join(db.folder, "password")
	if _, err := os.Stat(filepath.Join(db.data(), "PG_VERSION")); err == nil {
		password, err := os.ReadFile(secret)
		return string(password), err
	}
	if err := os.MkdirAll(db.folder, 0o700); err != nil {
		return "", fmt.Errorf("making the database folder: %w", err)
	}
	random := make([]byte, 16)
	rand.Read(random)
	password := hex.EncodeToString(random)
	if err := os.WriteFile(secret, []byte(password), 0o600); err != nil {
		return "", err
	}
	if db.as != nil {
		for _, path := range []string{db.folder, secret} {
			if err := os.Chown(path, int(db.as.Uid), int(db.as.Gid)); err != nil {
				return "", fmt.Errorf("giving the database folder to its user: %w", err)
			}
		}
	}
	err := db.run(
		ctx,
		"initdb",
		"-D",
		db.data(),
		"-U",
		owner,
		"--auth=scram-sha-256",
		"--pwfile="+secret,
		"-E",
		"UTF8",
		"--locale=C.UTF-8",
		"--no-sync",
	)
	if err != nil {
		return "", fmt.Errorf("making a database in %s: %w", db.folder, err)
	}
	return password, nil
}

// runningPort reads the port of a server that runs on the folder.
func (db *DB) runningPort() (int, bool) {
	text, err := os.ReadFile(filepath.Join(db.data(), "postmaster.pid"))
	lines := strings.Split(string(text), "\n")
	if err != nil || len(lines) < 4 {
		return 0, false
	}
	pid, err := strconv.Atoi(strings.TrimSpace(lines[0]))
	if err != nil || errors.Is(syscall.Kill(pid, 0), syscall.ESRCH) { // left behind by one that was killed
		return 0, false
	}
	port, err := strconv.Atoi(strings.TrimSpace(lines[3]))
	if err != nil {
		return 0, false
	}
	conn, err := net.DialTimeout("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(port)), 2*time.Second)
	if err != nil {
		return 0, false
	}
	conn.Close()
	return port, true
}

func (db *DB) run(ctx context.Context, name string, args ...string) error {
	c := exec.CommandContext(ctx, filepath.Join(db.bin, name), args...)
	c.Dir = db.folder
	c.SysProcAttr = &syscall.SysProcAttr{Credential: db.as, Setpgid: true}
	c.Env = append(os.Environ(), "LC_ALL=C.UTF-8")
	var said bytes.Buffer
	if name != "pg_ctl" { // the server would inherit the pipe and keep it open
		c.Stdout, c.Stderr = &said, &said
	}
	if err := c.Run(); err != nil {
		return fmt.Errorf("%s: %w %s", name, err, strings.TrimSpace(said.String()))
	}
	return nil
}

// programs finds the folder with the newest server's programs.
func programs() (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/pg_ctl")
	sort.Slice(found, func(i, k int) bool { return version(found[i]) < version(found[k]) })
	if n := len(found); n > 0 {
		return filepath.Dir(found[n-1]), nil
	}
	if path, err := exec.LookPath("pg_ctl"); err == nil {
		return filepath.Dir(path), nil
	}
	return "", ErrNotInstalled
}

func version(path string) int {
	n, _ := strconv.Atoi(filepath.Base(filepath.Dir(filepath.Dir(path))))
	return n
}

// harmless returns the user to run as when we are root, which PostgreSQL
// refuses to be.
func harmless() (*syscall.Credential, error) {
	if os.Geteuid() != 0 {
		return nil, nil
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		return nil, fmt.Errorf("PostgreSQL does not run as root, and there is no user postgres: %w", err)
	}
	uid, _ := strconv.Atoi(u.Uid)
	gid, _ := strconv.Atoi(u.Gid)
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, fmt.Errorf("looking for a free port: %w", err)
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}
