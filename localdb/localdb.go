package localdb

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
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
)

// DB is a running server.
type DB struct {
	// URL connects to its database.
	URL    string
	port   int
	folder string
	bin    string
	as     *syscall.Credential
}

// ErrNotInstalled says that there is no PostgreSQL server on this machine.
var ErrNotInstalled = errors.New("the PostgreSQL server is not installed; install Debian's package postgresql (apt-get install postgresql)")

const owner = "slowreveal"

// Start starts the server whose data lies in folder, and makes both when they
// are not there. A server that already runs on the folder is used as it is.
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
	password, err := db.prepare(ctx)
	if err != nil {
		return nil, err
	}
	port, running := db.runningPort()
	if !running {
		if port, err = freePort(); err != nil {
			return nil, err
		}
		if err := db.start(ctx, port); err != nil {
			return nil, err
		}
	}
	u := url.URL{Scheme: "postgres", User: url.UserPassword(owner, password), Host: net.JoinHostPort("127.0.0.1", strconv.Itoa(port)), Path: "postgres", RawQuery: "sslmode=disable"}
	db.URL, db.port = u.String(), port
	return db, nil
}

func (db *DB) start(ctx context.Context, port int) error {
	log := filepath.Join(db.folder, "server.log")
	options := fmt.Sprintf("-p %d -c listen_addresses=127.0.0.1 -c unix_socket_directories=''", port)
	if err := db.run(ctx, "pg_ctl", "-D", db.data(), "-w", "-t", "60", "-l", log, "-o", options, "start"); err != nil {
		return fmt.Errorf("starting PostgreSQL: %w (see %s)", err, log)
	}
	return nil
}

// Restart starts a stopped server again, on the port that it had.
func (db *DB) Restart(ctx context.Context) error { return db.start(ctx, db.port) }

// Stop stops the server.
func (db *DB) Stop(ctx context.Context) error {
	return db.run(ctx, "pg_ctl", "-D", db.data(), "-m", "fast", "-w", "stop")
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
	err := db.run(ctx, "initdb", "-D", db.data(), "-U", owner, "--auth=scram-sha-256", "--pwfile="+secret, "-E", "UTF8", "--locale=C.UTF-8", "--no-sync")
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
	port, err := strconv.Atoi(strings.TrimSpace(lines[3]))
	if err != nil {
		return 0, false
	}
	conn, err := net.Dial("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(port)))
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
