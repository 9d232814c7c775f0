package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"os/exec"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/localdb/testdb"
	"slowreveal/store"
)

// TestMain also is the program, when the environment asks for it: so that the tests
// have a process to kill.
func TestMain(m *testing.M) {
	if args := os.Getenv("SLOWREVEAL_AS_PROGRAM"); args != "" {
		var list []string
		if json.Unmarshal([]byte(args), &list) == nil {
			os.Exit(run(context.Background(), list))
		}
	}
	os.Exit(testdb.Run(m))
}

// program starts the program as a process of its own.
func program(t *testing.T, args ...string) *exec.Cmd {
	t.Helper()
	list, err := json.Marshal(args)
	require.NoError(t, err)
	self, err := os.Executable()
	require.NoError(t, err)
	c := exec.Command(self)
	c.Env = append(os.Environ(), "SLOWREVEAL_AS_PROGRAM="+string(list))
	require.NoError(t, c.Start())
	return c
}

// The server is killed at fifty random moments of editing: every edit that it has
// acknowledged is there afterwards, in its order, and none twice.
func TestNoAcknowledgedEditIsLostWhenTheServerIsKilled(t *testing.T) {
	s := testdb.Open(t)
	a := authoring.New(s)
	m := demo.Pump()
	p, err := a.CreateProject(context.Background(), "pump", "pump.glb", m)
	require.NoError(t, err)
	r, err := a.CreateReveal(context.Background(), p.ID, demo.Teardown(m.Assembly))
	require.NoError(t, err)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	addr := l.Addr().String()
	l.Close()
	data := t.TempDir()
	random := rand.New(rand.NewPCG(5, 0))
	editor := &editor{url: "http://" + addr + "/api/reveals/" + r.ID}
	for range 50 {
		c := program(t, "serve", "--addr", addr, "--database", testdb.URL(), "--data", data)
		require.Eventually(t, editor.answers, 6*time.Minute, 5*time.Millisecond)
		if random.IntN(5) > 0 { // mostly in the middle of work, now and then at its very beginning
			editor.add()
		}
		killed := time.After(time.Duration(random.IntN(60)) * time.Millisecond)
		dead := make(chan struct{})
		go func() {
			<-killed
			c.Process.Kill()
			c.Wait()
			close(dead)
		}()
		for editor.add() {
		}
		<-dead
	}
	after, err := s.Reveal(context.Background(), r.ID)
	require.NoError(t, err)
	doc, err := reveal.Parse([]byte(after.Document))
	require.NoError(t, err)
	require.Greater(t, len(editor.acknowledged), 30)
	// What was under way when the server died may be there too: it was not refused.
	var kept []string
	seen := map[string]bool{}
	for i := range doc.Steps[9:] {
		id := string(doc.Steps[9+i].ID)
		assert.False(t, seen[id])
		seen[id] = true
		if editor.known[id] {
			kept = append(kept, id)
		}
	}
	assert.Equal(t, editor.acknowledged, kept)
	assert.Equal(t, int64(len(doc.Steps)-9), after.Version)
	t.Logf("%d edits acknowledged, %d more had arrived", len(kept), len(doc.Steps)-9-len(kept))
}

// editor adds one step after the other.
type editor struct {
	url          string
	made         int
	acknowledged []string
	known        map[string]bool
}

func (e *editor) answers() bool {
	_, ok := e.version()
	return ok
}

func (e *editor) version() (store.StoredReveal, bool) {
	var r store.StoredReveal
	reply, err := http.Get(e.url)
	if err != nil {
		return r, false
	}
	defer reply.Body.Close()
	return r, json.NewDecoder(reply.Body).Decode(&r) == nil && reply.StatusCode == 200
}

// add adds a step; false when the server does not answer.
func (e *editor) add() bool {
	now, ok := e.version()
	if !ok {
		return false
	}
	doc, err := reveal.Parse([]byte(now.Document))
	if err != nil {
		return false
	}
	e.made++
	id := fmt.Sprint("edit-", e.made)
	body, _ := json.Marshal(
		map[string]any{"version": now.Version, "edits": []any{map[string]any{"command": map[string]any{
			"op": "insertStep", "index": len(doc.Steps), "step": reveal.Step{ID: reveal.StepID(id), Title: id, Duration: reveal.Second / 10}}}}},
	)
	reply, err := http.Post(e.url+"/commands", "application/json", bytes.NewReader(body))
	if err != nil {
		return false
	}
	defer reply.Body.Close()
	if _, err := io.ReadAll(reply.Body); err != nil || reply.StatusCode != 200 {
		return false
	}
	if e.known == nil {
		e.known = map[string]bool{}
	}
	e.known[id] = true
	e.acknowledged = append(e.acknowledged, id)
	return true
}
