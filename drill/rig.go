package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/jmoiron/sqlx"

	"slowreveal/authoring"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/localdb"
	"slowreveal/store"
)

// program is the built program.
var program = filepath.Join("bin", "slowreveal")

// rig is a server with a data folder of its own, as a process.
type rig struct {
	data, addr string
	db         *localdb.DB        // this process's hold on the database
	authoring  *authoring.Service // beside the server
	store      *store.Store       // beside the server, to look at what is stored
	env        []string
	wrap       []string // a program with arguments that starts the server
	server     *exec.Cmd
	log        *os.File
}

// newRig starts a server whose database is its own, so that it looks after it.
func newRig(ctx context.Context) (*rig, error) {
	folder, err := os.MkdirTemp("", "slowreveal-drill-")
	if err != nil {
		return nil, err
	}
	if err := os.Chmod(folder, 0o755); err != nil { // the database's own user must get in
		return nil, err
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	r := &rig{data: folder, addr: l.Addr().String()}
	l.Close()
	if r.log, err = os.Create(filepath.Join(folder, "server.log")); err != nil {
		return nil, err
	}
	if r.db, err = localdb.Start(ctx, filepath.Join(folder, "postgres")); err != nil {
		return nil, err
	}
	if r.store, err = store.Open(ctx, r.db.URL, folder); err != nil {
		return nil, err
	}
	r.authoring = authoring.New(r.store)
	return r, r.start(ctx)
}

// onRig runs an exercise on a server with so many reveals of the example, and keeps what it left when
// something failed.
func onRig(ctx context.Context, out *result, reveals int, do func(r *rig, ids []string) error) (*result, error) {
	r, err := newRig(ctx)
	if err != nil {
		return nil, err
	}
	defer func() { r.close(len(out.failures) > 0) }()
	ids, err := r.reveals(ctx, reveals)
	if err == nil {
		err = do(r, ids)
	}
	return out, err
}

func (r *rig) url(path string) string { return "http://" + r.addr + path }

// command is the program with arguments, its output in the log.
func (r *rig) command(args ...string) *exec.Cmd {
	whole := append(append(slices.Clone(r.wrap), program), args...)
	c := exec.Command(whole[0], whole[1:]...)
	c.Env = append(os.Environ(), r.env...)
	c.Stdout, c.Stderr = r.log, r.log
	return c
}

// start starts the server and waits until it answers.
func (r *rig) start(ctx context.Context) error {
	r.server = r.command("serve", "--addr", r.addr, "--data", r.data)
	if err := r.server.Start(); err != nil {
		return err
	}
	return r.healthy(ctx, 60*time.Second)
}

func (r *rig) healthy(ctx context.Context, within time.Duration) error {
	for end := time.Now().Add(within); time.Now().Before(end) && ctx.Err() == nil; time.Sleep(10 * time.Millisecond) {
		if reply, err := http.Get(r.url("/api/health")); err == nil {
			reply.Body.Close()
			if reply.StatusCode == http.StatusOK {
				return nil
			}
		}
	}
	return fmt.Errorf("the server does not answer (see %s)", r.log.Name())
}

// kill ends the server at once.
func (r *rig) kill() {
	r.server.Process.Kill()
	r.server.Wait()
}

// stop asks the server to end and waits for it.
func (r *rig) stop() error {
	r.server.Process.Signal(syscall.SIGTERM)
	return r.server.Wait()
}

// close ends everything and, when all went well, removes the folder.
func (r *rig) close(kept bool) {
	if r.server != nil && r.server.ProcessState == nil {
		r.stop()
	}
	if r.store != nil {
		r.store.Close()
	}
	if r.db != nil {
		r.db.Stop(context.Background())
	}
	r.log.Close()
	if kept {
		fmt.Fprintln(os.Stderr, "what was left is in", r.data)
	} else {
		os.RemoveAll(r.data)
	}
}

// postmaster is the process of the database.
func (r *rig) postmaster() (int, error) {
	text, err := os.ReadFile(filepath.Join(r.data, "postgres", "data", "postmaster.pid"))
	if err != nil {
		return 0, err
	}
	return strconv.Atoi(strings.SplitN(string(text), "\n", 2)[0])
}

// reveals makes so many reveals of the example.
func (r *rig) reveals(ctx context.Context, n int) ([]string, error) {
	m := demo.Pump()
	p, err := r.authoring.CreateProject(ctx, "Drill", "dp-40.glb", m)
	if err != nil {
		return nil, err
	}
	var ids []string
	for range n {
		v, err := r.authoring.CreateReveal(ctx, p.ID, demo.Teardown(m.Assembly))
		if err != nil {
			return nil, err
		}
		ids = append(ids, v.ID)
	}
	return ids, nil
}

// verify holds a reveal's log against its document and against what was acknowledged: the log has no
// holes, the document is the first one with the log applied to it, and every key that was acknowledged is
// in the log once.
func (r *rig) verify(ctx context.Context, id string, acknowledged map[string]bool, out *result) error {
	now, err := r.store.Reveal(ctx, id)
	if err != nil {
		return err
	}
	var log []struct {
		Version int64
		Command string
		Key     *string
	}
	if err := r.sql().SelectContext(ctx, &log, `select version, command, key from entries where reveal_id = $1 order by version`, id); err != nil {
		return err
	}
	a := demo.Pump().Assembly
	doc := demo.Teardown(a)
	if doc, err = reveal.Parse(reveal.Write(doc)); err != nil {
		return err
	}
	there := map[string]int{}
	for i, e := range log {
		if e.Version != int64(i+1) {
			return fmt.Errorf("the log of %s has a hole at %d", id, i+1)
		}
		c, err := edit.Parse([]byte(e.Command))
		if err != nil {
			return err
		}
		if _, err := edit.Do(doc, a, c); err != nil {
			return fmt.Errorf("entry %d of the log does not apply: %w", e.Version, err)
		}
		if e.Key != nil {
			there[*e.Key]++
		}
	}
	out.check(string(reveal.Write(doc)) == string(now.Document), "the document of %s is not what its log makes", id)
	out.check(int64(len(log)) == now.Version, "the document of %s is at %d, its log at %d", id, now.Version, len(log))
	for key := range acknowledged {
		out.check(there[key] == 1, "the edit %s was acknowledged and is in the log %d times", key, there[key])
	}
	return nil
}

func (r *rig) sql() *sqlx.DB { return r.store.SQL() }

// answer is a reply of the API.
type answer struct {
	status int
	body   []byte
	header http.Header
}

var errCutOff = errors.New("the answer was cut off")

// ask sends a request and reads all of the answer.
func ask(client *http.Client, method, url string, body any, headers ...string) (answer, error) {
	var in io.Reader
	if body != nil {
		text, err := json.Marshal(body)
		if err != nil {
			return answer{}, err
		}
		in = strings.NewReader(string(text))
	}
	q, err := http.NewRequest(method, url, in)
	if err != nil {
		return answer{}, err
	}
	for i := 0; i+1 < len(headers); i += 2 {
		q.Header.Set(headers[i], headers[i+1])
	}
	reply, err := client.Do(q)
	if err != nil {
		return answer{}, err
	}
	defer reply.Body.Close()
	text, err := io.ReadAll(reply.Body)
	if err == nil && len(text) == 0 && reply.StatusCode == http.StatusOK {
		err = errCutOff
	}
	return answer{reply.StatusCode, text, reply.Header}, err
}
