package server_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/jobs"
	"slowreveal/localdb/testdb"
	"slowreveal/release"
	"slowreveal/server"
	"slowreveal/store"
)

// serving is a server on a listener of its own, as the program runs it, with one connection to the
// database; stop tells it to end and waits for that.
func serving(t *testing.T) (s *stand, stop func()) {
	t.Helper()
	a := authoring.New(testdb.Open(t, store.Options{Connections: 1}))
	q, err := jobs.Open(a)
	require.NoError(t, err)
	srv, err := server.New(a, q)
	require.NoError(t, err)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	ctx, end := context.WithCancel(context.Background())
	ended := make(chan error, 1)
	go func() { ended <- srv.Serve(ctx, l) }()
	once := sync.OnceFunc(func() {
		end()
		assert.NoError(t, <-ended)
	})
	t.Cleanup(once)
	return &stand{T: t, url: "http://" + l.Addr().String(), authoring: a, store: a.Store, queue: q}, once
}

func keyed(version int64, key, command string) map[string]any {
	return map[string]any{
		"version": version,
		"edits":   []any{map[string]any{"key": key, "command": json.RawMessage(command)}},
	}
}

func addStep(id string) string {
	return fmt.Sprintf(`{"op":"insertStep","step":{"id":%q,"title":%q,"duration":1000000}}`, id, id)
}

// Twenty edits at once hung the whole server; so did any others that took a second connection.
func TestManyEditsAtOnceDoNotHangTheServer(t *testing.T) {
	s, _ := serving(t)
	_, reveal := s.pump()
	var all sync.WaitGroup
	for k := range 50 {
		all.Go(func() {
			for {
				code, text, header := s.ask(
					"POST",
					"/api/reveals/"+reveal+"/commands",
					keyed(0, uuid.NewString(), addStep(fmt.Sprint("step-", k))),
				)
				if code == http.StatusOK {
					return
				}
				if !assert.Equal(t, http.StatusServiceUnavailable, code, string(text)) ||
					!assert.NotEmpty(t, header.Get("Retry-After")) {
					return
				}
			}
		})
	}
	all.Wait()
	now, err := s.store.Reveal(context.Background(), reveal)
	require.NoError(t, err)
	assert.EqualValues(t, 50, now.Version)
}

func TestHealthIsToldWhateverIsBusy(t *testing.T) {
	s, _ := serving(t)
	c, err := s.store.SQL().Connx(context.Background())
	require.NoError(t, err)
	defer c.Close()
	begun := time.Now()
	code, text, header := s.ask("GET", "/api/projects", nil)
	assert.Equal(t, http.StatusServiceUnavailable, code)
	assert.Equal(t, "busy", read[server.Problem](t, text).Code)
	assert.NotEmpty(t, header.Get("Retry-After"))
	assert.Less(t, time.Since(begun), 9*time.Second, "a second, on a noisy machine, and not a turn of ten")
	code, _, _ = s.ask("GET", "/api/health", nil)
	assert.Equal(t, 200, code)
}

// An edit that is under way when the server is told to end is finished and answered; one that comes later
// is sent away or finds nobody. Nobody gets half an answer.
func TestWhatWasTakenIsFinishedWhenTheServerStops(t *testing.T) {
	s, stop := serving(t)
	_, reveal := s.pump()
	other := testdb.Open(t)
	lock, err := other.SQL().Beginx()
	require.NoError(t, err)
	_, err = lock.Exec(`select 1 from reveals where id = $1 for update`, reveal)
	require.NoError(t, err)
	type said struct {
		code int
		text []byte
		err  error
	}
	send := func(id string) said {
		body, err := json.Marshal(keyed(0, uuid.NewString(), addStep(id)))
		require.NoError(t, err)
		reply, err := http.Post(s.url+"/api/reveals/"+reveal+"/commands", "application/json", bytes.NewReader(body))
		if err != nil {
			return said{err: err}
		}
		defer reply.Body.Close()
		text, err := io.ReadAll(reply.Body)
		return said{reply.StatusCode, text, err}
	}
	before := make(chan said, 1)
	go func() { before <- send("before") }()
	require.Eventually(t, func() bool { // it waits for the lock
		var n int
		return other.SQL().
			Get(&n, `select count(*) from pg_stat_activity where wait_event_type = 'Lock' and query like '%reveals%'`) ==
			nil &&
			n > 0
	}, 6*6*time.Minute, 10*time.Millisecond)
	stopped := make(chan struct{})
	go func() { stop(); close(stopped) }()
	require.Eventually(
		t,
		func() bool { r := send("after"); return r.err != nil || r.code == http.StatusServiceUnavailable },
		10*time.Second,
		20*time.Millisecond,
	)
	require.NoError(t, lock.Rollback())
	r := <-before
	require.NoError(t, r.err)
	assert.Equal(t, 200, r.code, string(r.text))
	assert.EqualValues(t, 1, read[server.Changed](t, r.text).Version)
	<-stopped
	now, err := other.Reveal(context.Background(), reveal)
	require.NoError(t, err)
	assert.Contains(t, string(now.Document), `"before"`)
	assert.NotContains(t, string(now.Document), `"after"`)
}

func TestAnEditWhoseAnswerWasLostIsDoneOnce(t *testing.T) {
	s, _ := serving(t)
	p, reveal := s.pump()
	key := uuid.NewString()
	path := "/api/reveals/" + reveal
	var first []byte
	for k := range 3 {
		code, text, _ := s.ask("POST", path+"/commands", keyed(0, key, addStep("one")))
		require.Equal(t, 200, code, string(text))
		if k == 0 {
			first = text
		}
		assert.JSONEq(t, string(first), string(text), "the same answer each time")
	}
	for range 3 {
		code, text, _ := s.ask(
			"POST",
			path+"/undo",
			map[string]any{"version": 1},
			"Idempotency-Key",
			"7d3f9a60-5b1e-4c57-9d9e-0f3f2a1b4c5d",
		)
		require.Equal(t, 200, code, string(text))
		assert.EqualValues(t, 2, read[server.Changed](t, text).Version)
	}
	// The same for everything else that makes something.
	key = uuid.NewString()
	var ids []string
	for range 2 {
		code, text, _ := s.ask(
			"POST",
			path+"/outputs",
			server.Order{Outputs: []release.Settings{{Kind: release.Captions}}},
			"Idempotency-Key",
			key,
		)
		require.Equal(t, http.StatusUnprocessableEntity, code, string(text)) // an empty reveal has no words
		code, text, _ = s.ask(
			"POST",
			"/api/projects/"+p.ID+"/reveals",
			server.NewReveal{Title: "Another"},
			"Idempotency-Key",
			key,
		)
		require.Equal(t, http.StatusCreated, code, string(text))
		ids = append(ids, read[store.StoredReveal](t, text).ID)
	}
	assert.Equal(t, ids[0], ids[1])
	code, _, _ := s.ask("POST", path+"/undo", map[string]any{"version": 2}, "Idempotency-Key", "nonsense")
	assert.Equal(t, http.StatusBadRequest, code)
}

func TestAnOrderIsTakenOnce(t *testing.T) {
	s := newStand(t)
	reveal := s.teardown()
	key := uuid.NewString()
	order := server.Order{Outputs: []release.Settings{{Kind: release.Captions}, {Kind: release.GLB}}}
	var lists [][]store.Output
	for range 2 {
		code, text, _ := s.ask("POST", "/api/reveals/"+reveal+"/outputs", order, "Idempotency-Key", key)
		require.Equal(t, http.StatusCreated, code, string(text))
		lists = append(lists, read[[]store.Output](t, text))
	}
	require.Len(t, lists[0], 2)
	assert.Equal(t, lists[0][0].ID, lists[1][0].ID)
	assert.Equal(t, lists[0][1].ID, lists[1][1].ID)
}

// What will never be taken is said once and in words, without SQL and paths: a page does not send it
// again.
func TestWhatCannotBeStoredIsAMistakeOfTheSender(t *testing.T) {
	s, _ := serving(t)
	p, reveal := s.pump()
	for _, c := range []struct {
		method, path string
		body         any
		headers      []string
		want         int
	}{
		{"POST", "/api/reveals/" + reveal + "/commands", keyed(0, uuid.NewString(), `{"op":"setTitle","title":"a\u0000b"}`), nil, 400},
		{"POST", "/api/reveals/" + reveal + "/versions", map[string]any{"name": "a\x00b"}, nil, 422},
		{"POST", "/api/reveals/" + reveal + "/commands", keyed(0, "no-uuid", addStep("x")), nil, 400},
		{"POST", "/api/reveals/" + reveal + "/undo", map[string]any{"version": 0}, []string{"X-Author", "%zz"}, 400},
		{"POST", "/api/reveals/" + reveal + "/undo", map[string]any{"version": 0}, []string{"X-Author", "%00"}, 400},
		{"POST", "/api/reveals/" + reveal + "/undo", map[string]any{"version": 0}, []string{"X-Author", "%ff"}, 400},
		{"GET", "/api/reveals/urn:uuid:" + reveal, nil, nil, 404},
		{"GET", "/api/reveals/{" + reveal + "}", nil, nil, 404},
		{"GET", "/api/projects/" + uuid.NewString() + "/events", nil, nil, 404},
		{"DELETE", "/api/presets/" + uuid.NewString(), nil, nil, 404},
		{"DELETE", "/api/attachments/" + uuid.NewString(), nil, nil, 404},
		{"POST", "/api/projects/" + p.ID + "/presets", server.NewPreset{Name: "x", Outputs: []release.Settings{{Format: "mpeg-7"}}}, nil, 422},
		{"POST", "/api/projects/" + p.ID + "/reveals", server.NewReveal{Title: "a\x00b"}, nil, 400},
		{"GET", "/assets/gone-1234.js", nil, nil, 404},
		{"POST", "/api/reveals/" + reveal + "/commands", map[string]any{"version": 0, "edits": []any{}}, nil, 400},
	} {
		code, text, header := s.ask(c.method, c.path, c.body, c.headers...)
		assert.Equal(t, c.want, code, "%s %s %s", c.method, c.path, text)
		assert.NotEmpty(t, header.Get("X-Request-Id"))
		message := read[server.Problem](t, text).Message
		assert.NotEmpty(t, message, c.path)
		for _, inside := range []string{"SQLSTATE", "insert into", "/tmp/", "pgx"} {
			assert.NotContains(t, message, inside)
		}
	}
	now, err := s.store.Reveal(context.Background(), reveal)
	require.NoError(t, err)
	assert.Zero(t, now.Version)
}

// A page is opened by a link from anywhere; nothing else may come from there.
func TestALinkFromElsewhereOpensThePage(t *testing.T) {
	s, _ := serving(t)
	code, _, _ := s.ask("GET", "/p/x/direct", nil, "Sec-Fetch-Site", "cross-site", "Sec-Fetch-Mode", "navigate")
	assert.Equal(t, 200, code)
	code, _, _ = s.ask("POST", "/api/imports", nil, "Sec-Fetch-Site", "same-site")
	assert.Equal(t, http.StatusForbidden, code)
}

// Who sends a body and falls silent is let go of.
func TestABodyThatStopsComingIsNotWaitedForForEver(t *testing.T) {
	defer server.SetLull(300 * time.Millisecond)()
	s, _ := serving(t)
	c, err := net.Dial("tcp", strings.TrimPrefix(s.url, "http://"))
	require.NoError(t, err)
	defer c.Close()
	fmt.Fprintf(
		c,
		"POST /api/reveals/%s/undo HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 1000\r\n\r\n{",
		uuid.NewString(),
	)
	c.SetReadDeadline(time.Now().Add(20 * time.Second))
	_, err = io.ReadAll(c)
	assert.NoError(t, err, "the server answers, or ends the connection, by itself")
}

// A shape that is damaged or gone is said in words, never served for good, and mended by importing the
// same file once more.
func TestADamagedShapeIsSaidAndMended(t *testing.T) {
	s := newStand(t)
	_, reveal := s.pump()
	r, err := s.store.Reveal(context.Background(), reveal)
	require.NoError(t, err)
	a, _, err := s.authoring.Arranged(context.Background(), r.RevisionID)
	require.NoError(t, err)
	path := func(i int) string {
		return filepath.Join(s.data, "blobs", "shapes", a.Shapes[i].Hash[:2], a.Shapes[i].Hash)
	}
	data, err := os.ReadFile(path(3))
	require.NoError(t, err)
	data[len(data)/2] ^= 1
	require.NoError(t, os.WriteFile(path(3), data, 0o600))
	require.NoError(t, os.Remove(path(5)))
	address := "/api/revisions/" + r.RevisionID + "/geometry"
	for _, get := range []string{address, "/api/shapes/" + a.Shapes[3].Hash + "/features"} {
		code, text, header := s.ask("GET", get, nil)
		assert.Equal(t, http.StatusInternalServerError, code, get)
		problem := read[server.Problem](t, text)
		assert.Equal(t, "damaged", problem.Code)
		assert.Contains(t, problem.Message, "import the same file again")
		assert.NotContains(t, header.Get("Cache-Control"), "immutable")
	}
	_, err = s.authoring.CreateProject(context.Background(), "once more", "dp-40.glb", pumpModel())
	require.NoError(t, err)
	code, whole, _ := s.ask("GET", address, nil)
	assert.Equal(t, 200, code)
	assert.Greater(t, len(whole), 100_000)
	// What was found from a shape is found again where it is damaged.
	drawn := filepath.Join(s.data, "blobs", store.DrawnKey(), a.Shapes[3].Hash[:2], a.Shapes[3].Hash)
	data, err = os.ReadFile(drawn)
	require.NoError(t, err)
	data[len(data)-9] ^= 1
	require.NoError(t, os.WriteFile(drawn, data, 0o600))
	code, again, _ := s.ask("GET", address, nil)
	assert.Equal(t, 200, code)
	assert.True(t, bytes.Equal(whole, again))
}

func TestDownloadsKeepTheirNames(t *testing.T) {
	s := newStand(t)
	reveal := s.teardown()
	s.work()
	for title, want := range map[string]string{
		"Pumpe Öl 部品": `attachment; filename="Pumpe l.vtt"; filename*=UTF-8''Pumpe%20%C3%96l%20%E9%83%A8%E5%93%81.vtt`,
		"Client film": `attachment; filename="Client film.vtt"; filename*=UTF-8''Client%20film.vtt`,
	} {
		o := s.order(reveal, release.Settings{Kind: release.Captions, Name: title})[0]
		s.finished(o.ID)
		_, _, header := s.ask("GET", "/api/outputs/"+o.ID+"/file?download=1", nil)
		assert.Equal(t, want, header.Get("Content-Disposition"))
	}
}

// What was taken as one thing is not used as another one.
func TestAnAttachmentIsUsedForWhatItIs(t *testing.T) {
	s := newStand(t)
	reveal := s.teardown()
	r, err := s.store.Reveal(context.Background(), reveal)
	require.NoError(t, err)
	sound := s.attach(r.ProjectID, "sound", "tone.wav", tone(t))
	code, text, _ := s.ask(
		"POST",
		"/api/reveals/"+reveal+"/outputs",
		server.Order{
			Outputs: []release.Settings{
				{Width: 64, Height: 36, Logo: &release.Logo{Attachment: sound.ID, Corner: "lower-right"}},
			},
		},
	)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, string(text), "cannot be used as a logo")
	film := s.order(reveal, release.Settings{Width: 64, Height: 36, Sound: &release.Sound{Attachment: sound.ID}})[0]
	code, text, _ = s.ask("DELETE", "/api/attachments/"+sound.ID, nil)
	assert.Equal(t, http.StatusUnprocessableEntity, code, string(text))
	code, _, _ = s.ask("POST", "/api/outputs/"+film.ID+"/cancel", nil)
	require.Equal(t, http.StatusNoContent, code)
	code, _, _ = s.ask("DELETE", "/api/attachments/"+sound.ID, nil)
	assert.Equal(t, http.StatusNoContent, code)
	assert.NoFileExists(t, s.store.AttachmentPath(sound.ID))
}
