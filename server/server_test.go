package server_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/product"
	core "slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/jobs"
	"slowreveal/localdb/testdb"
	"slowreveal/release"
	"slowreveal/server"
	"slowreveal/store"
)

func TestMain(m *testing.M) { os.Exit(testdb.Run(m)) }

// stand is a running server with a client.
type stand struct {
	*testing.T
	url       string
	authoring *authoring.Service
	store     *store.Store
	queue     *jobs.Queue
	data      string // folder
}

func newStand(t *testing.T) *stand {
	t.Helper()
	s, data := testdb.OpenIn(t)
	a := authoring.New(s)
	q, err := jobs.OpenWorkers(a, 0)
	require.NoError(t, err)
	srv, err := server.New(a, q)
	require.NoError(t, err)
	h := httptest.NewServer(srv.Handler())
	t.Cleanup(h.Close)
	return &stand{t, h.URL, a, s, q, data}
}

// ask sends a request and returns the answer; body may be nil.
func (s *stand) ask(method, path string, body any, headers ...string) (int, []byte, http.Header) {
	s.Helper()
	var in io.Reader
	if body != nil {
		text, err := json.Marshal(body)
		require.NoError(s, err)
		in = bytes.NewReader(text)
	}
	return s.send(method, path, in, headers...)
}

func (s *stand) send(method, path string, in io.Reader, headers ...string) (int, []byte, http.Header) {
	s.Helper()
	r, err := http.NewRequest(method, s.url+path, in)
	require.NoError(s, err)
	for i := 0; i+1 < len(headers); i += 2 {
		if headers[i] == "Host" {
			r.Host = headers[i+1]
		}
		r.Header.Set(headers[i], headers[i+1])
	}
	reply, err := http.DefaultClient.Do(r)
	require.NoError(s, err)
	defer reply.Body.Close()
	text, err := io.ReadAll(reply.Body)
	require.NoError(s, err)
	return reply.StatusCode, text, reply.Header
}

func read[T any](t *testing.T, text []byte) T {
	t.Helper()
	var v T
	require.NoError(t, json.Unmarshal(text, &v), string(text))
	return v
}

func pumpModel() *product.Model { return demo.Pump() }

// pump stores the example and returns its project and its first reveal.
func (s *stand) pump() (store.Project, string) {
	s.Helper()
	p, err := s.authoring.CreateProject(context.Background(), "dp-40", "dp-40.glb", pumpModel())
	require.NoError(s, err)
	reveals, err := s.store.Reveals(context.Background(), p.ID)
	require.NoError(s, err)
	require.Len(s, reveals, 1)
	return p, reveals[0].ID
}

func change(version int64, command string) map[string]any {
	return map[string]any{"version": version, "edits": []any{map[string]any{"command": json.RawMessage(command)}}}
}

func TestFromFileToEditToUndo(t *testing.T) {
	s := newStand(t)
	p, reveal := s.pump()
	assert.Equal(t, "dp-40", p.Name)
	path := "/api/reveals/" + reveal
	code, text, _ := s.ask(
		"POST",
		path+"/commands",
		change(0, `{"op":"insertStep","step":{"id":"a","title":"Open","duration":2000000}}`),
	)
	require.Equal(t, 200, code, string(text))
	code, text, _ = s.ask(
		"POST",
		path+"/commands",
		change(0, `{"op":"setStep","step":{"id":"a","title":"late","duration":2000000}}`),
	)
	assert.Equal(t, http.StatusConflict, code, "the step was not there in what this was made on")
	problem := read[server.Problem](t, text)
	assert.Equal(t, "stale", problem.Code)
	assert.Equal(t, int64(1), problem.Version)
	require.Len(t, problem.Since, 1)
	code, text, _ = s.ask("POST", path+"/commands", change(1, `{"op":"setTitle","title":""}`))
	assert.Equal(t, http.StatusUnprocessableEntity, code, string(text))
	code, text, _ = s.ask("POST", path+"/undo", map[string]any{"version": 1})
	require.Equal(t, 200, code, string(text))
	assert.Equal(t, int64(2), read[server.Changed](t, text).Version)
	code, _, _ = s.ask("POST", path+"/undo", map[string]any{"version": 2})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	code, text, _ = s.ask("GET", path+"/entries?after=0", nil)
	assert.Equal(t, 200, code)
	assert.Len(t, read[server.Changed](t, text).Entries, 2)
}

func TestGeometryIsTheShapesOneAfterTheOther(t *testing.T) {
	s := newStand(t)
	p, _ := s.pump()
	revision, err := s.store.Revision(context.Background(), p.ID)
	require.NoError(t, err)
	code, data, header := s.ask("GET", "/api/revisions/"+revision.ID+"/geometry", nil)
	require.Equal(t, 200, code)
	assert.Contains(t, header.Get("Cache-Control"), "immutable")
	n := 0
	for len(data) > 0 {
		size := int(data[0]) | int(data[1])<<8 | int(data[2])<<16 | int(data[3])<<24
		require.LessOrEqual(t, 4+size, len(data))
		require.Equal(t, "SRD1", string(data[4:8]))
		data = data[4+size+(4-size%4)%4:]
		n++
	}
	assert.Equal(t, 47, n)
}

func TestStrangersAreNotLetIn(t *testing.T) {
	s := newStand(t)
	host := strings.TrimPrefix(s.url, "http://")
	for _, c := range []struct {
		headers []string
		want    int
	}{
		{nil, 200}, {[]string{"Origin", s.url}, 200}, {[]string{"Host", "localhost:1"}, 200}, {[]string{"Host", "[::1]:9"}, 200},
		{[]string{"Host", "evil.example"}, 403}, {[]string{"Host", "127.0.0.1.evil.example"}, 403}, {[]string{"Host", "192.168.1.5"}, 403},
		{[]string{"Origin", "http://evil.example"}, 403}, {[]string{"Origin", "null"}, 403}, {[]string{"Origin", "http://" + host + ".evil"}, 403}, {[]string{"Origin", "https://" + host}, 403},
		{[]string{"Sec-Fetch-Site", "cross-site"}, 403}, {[]string{"Sec-Fetch-Site", "same-origin"}, 200}, {[]string{"Sec-Fetch-Site", "none"}, 200},
		{[]string{"Sec-Fetch-Site", "cross-site", "Sec-Fetch-Mode", "navigate"}, 403},
	} {
		code, text, header := s.ask("GET", "/api/health", nil, c.headers...)
		assert.Equal(t, c.want, code, "%v %s", c.headers, text)
		assert.Contains(t, header.Get("Content-Security-Policy"), "default-src 'none'")
		assert.NotContains(t, strings.Split(header.Get("Content-Security-Policy"), "style-src")[0], "unsafe-inline")
	}
}

func TestARevealGoesOutAndComesIn(t *testing.T) {
	s := newStand(t)
	p, _ := s.pump()
	stored, err := s.store.Reveal(context.Background(), s.teardown())
	require.NoError(t, err)
	code, text, _ := s.ask(
		"POST",
		"/api/projects/"+p.ID+"/reveals/import",
		map[string]any{"title": "A copy", "document": json.RawMessage(stored.Document)},
	)
	require.Equal(t, http.StatusCreated, code, string(text))
	b := read[server.BroughtReveal](t, text)
	assert.Equal(t, "A copy", b.Reveal.Title)
	assert.Empty(t, b.Unmatched)
	other := strings.ReplaceAll(string(stored.Document), "pump-head/door", "elsewhere/door")
	code, text, _ = s.ask(
		"POST",
		"/api/projects/"+p.ID+"/reveals/import",
		map[string]any{"document": json.RawMessage(other)},
	)
	require.Equal(t, http.StatusCreated, code, string(text))
	assert.NotEmpty(t, read[server.BroughtReveal](t, text).Unmatched)
	for _, bad := range []string{`{}`, `{"format":"other"}`, `[]`} {
		code, text, _ = s.ask(
			"POST",
			"/api/projects/"+p.ID+"/reveals/import",
			map[string]any{"document": json.RawMessage(bad)},
		)
		assert.Equal(t, http.StatusUnprocessableEntity, code, string(text))
	}
}

func TestBadRequestsGetAWord(t *testing.T) {
	s := newStand(t)
	_, reveal := s.pump()
	for path, want := range map[string]int{
		"/api/projects/not-an-id": 404, "/api/projects/01890000-0000-7000-8000-000000000000": 404, "/api/nothing": 404,
		"/api/reveals/" + reveal + "/entries?after=x": 400, "/api/outputs/01890000-0000-7000-8000-000000000000/file": 404,
	} {
		code, text, _ := s.ask("GET", path, nil)
		assert.Equal(t, want, code, path)
		assert.NotEmpty(t, read[server.Problem](t, text).Message)
	}
	for _, body := range []any{map[string]any{"version": 0, "command": 5}, map[string]any{"verison": 0}, []int{1}, change(0, `{"op":"setTitle","x":1}`)} {
		code, _, _ := s.ask("POST", "/api/reveals/"+reveal+"/commands", body)
		assert.Equal(t, 400, code, body)
	}
	for _, settings := range []release.Settings{{Width: 641, Height: 360}, {Width: 1 << 20, Height: 2}, {Rate: 9999}, {}, {Kind: "hologram"}, {Format: "mpeg-7"}, {Purpose: "fame"},
		{Kind: release.Stills, At: []core.Micros{1e15}}, {Sound: &release.Sound{Attachment: "00000000-0000-4000-8000-000000000000"}}, {Background: "transparent"}, {Background: "#12"}, {Steps: []core.StepID{"gone"}}} {
		code, text, _ := s.ask(
			"POST",
			"/api/reveals/"+reveal+"/outputs",
			server.Order{Outputs: []release.Settings{settings}},
		)
		assert.Equal(t, http.StatusUnprocessableEntity, code, string(text))
	}
}

func (s *stand) order(reveal string, settings ...release.Settings) []store.Output {
	s.Helper()
	code, text, _ := s.ask("POST", "/api/reveals/"+reveal+"/outputs", server.Order{Outputs: settings, By: "Ines"})
	require.Equal(s, http.StatusCreated, code, string(text))
	return read[[]store.Output](s.T, text)
}

func (s *stand) teardown() string {
	s.Helper()
	m := demo.Pump()
	p, err := s.authoring.CreateProject(context.Background(), "pump", "pump.glb", m)
	require.NoError(s, err)
	r, err := s.authoring.CreateReveal(context.Background(), p.ID, demo.Teardown(m.Assembly))
	require.NoError(s, err)
	return r.ID
}

func (s *stand) waitFor(id string, want func(store.Output) bool) store.Output {
	s.Helper()
	var o store.Output
	require.Eventually(s, func() bool {
		var err error
		o, err = s.authoring.Output(context.Background(), id)
		return err == nil && want(o)
	}, 6*time.Minute, 50*time.Millisecond)
	return o
}

func TestEventsReachThePage(t *testing.T) {
	s := newStand(t)
	srv, err := server.New(s.authoring, s.queue)
	require.NoError(t, err)
	h := httptest.NewUnstartedServer(srv.Handler())
	listening, stop := context.WithCancel(context.Background())
	defer stop()
	go srv.Serve(listening, h.Listener)
	base := "http://" + h.Listener.Addr().String()
	p, reveal := s.pump()
	reply, err := http.Get(base + "/api/projects/" + p.ID + "/events")
	require.NoError(t, err)
	defer reply.Body.Close()
	heard := make(chan string, 10)
	go func() {
		b := make([]byte, 4096)
		for {
			n, err := reply.Body.Read(b)
			if n > 0 {
				heard <- string(b[:n])
			}
			if err != nil {
				return
			}
		}
	}()
	version := int64(0)
	for deadline := time.After(20 * time.Second); ; {
		code, text, _ := s.ask(
			"POST",
			"/api/reveals/"+reveal+"/commands",
			change(version, fmt.Sprintf(`{"op":"setTitle","title":"t%d"}`, version)),
		)
		require.Equal(t, 200, code, string(text))
		version++
		select {
		case m := <-heard:
			if strings.Contains(m, reveal) {
				assert.Contains(t, m, `"kind":"reveal"`)
				return
			}
		case <-time.After(300 * time.Millisecond):
		case <-deadline:
			t.Fatal("no event came")
		}
	}
}

// The kept description is the one that the program prints.
func TestTheKeptDescriptionIsCurrent(t *testing.T) {
	want, err := json.Marshal(server.Describe())
	require.NoError(t, err)
	kept, err := os.ReadFile("../web/openapi.gen.json")
	require.NoError(t, err)
	assert.JSONEq(t, string(want), string(kept), "run “make generate”")
	kept, err = os.ReadFile("../web/src/core/core.gen.ts")
	require.NoError(t, err)
	assert.Equal(t, server.TypeScript(), string(kept), "run “make generate”")
}

// Undo is everybody's own, told apart by the code of their browser; what others have built on is said.
func TestUndoIsOnesOwn(t *testing.T) {
	s := newStand(t)
	_, reveal := s.pump()
	path := "/api/reveals/" + reveal
	const mara, other = "11111111-0000-4000-8000-000000000001", "11111111-0000-4000-8000-000000000002"
	for k, command := range []string{`{"op":"insertStep","step":{"id":"a","title":"Open","duration":2000000}}`, `{"op":"setTitle","title":"Mine"}`} {
		code, text, _ := s.ask("POST", path+"/commands", change(int64(k), command), "X-Person", mara)
		require.Equal(t, 200, code, string(text))
	}
	code, text, _ := s.ask(
		"POST",
		path+"/commands",
		change(2, `{"op":"setTitle","title":"Theirs"}`),
		"X-Person",
		other,
		"X-Author",
		"Ines",
	)
	require.Equal(t, 200, code, string(text))
	code, text, _ = s.ask("POST", path+"/undo", map[string]any{"version": 3}, "X-Person", mara)
	require.Equal(t, http.StatusConflict, code, string(text))
	problem := read[server.Problem](t, text)
	assert.Equal(t, "depends", problem.Code)
	assert.EqualValues(t, 2, problem.Version)
	assert.Contains(t, problem.Message, "Ines has changed the same since")
	code, text, _ = s.ask(
		"POST",
		path+"/undo",
		map[string]any{"version": 3, "before": problem.Version},
		"X-Person",
		mara,
	)
	require.Equal(t, 200, code, string(text))
	changed := read[server.Changed](t, text)
	assert.Equal(t, store.Marks{UndoTo: 2, RedoTo: 4}, changed.Marks)
	code, text, _ = s.ask("GET", path, nil, "X-Person", other)
	require.Equal(t, 200, code)
	opened := read[server.OpenedReveal](t, text)
	assert.Equal(t, store.Marks{UndoTo: 3}, opened.Marks)
	assert.Equal(t, "Theirs", opened.Title)
	assert.NotContains(t, string(opened.Document), `"id":"a"`)
	code, _, _ = s.ask("GET", path, nil, "X-Person", "me")
	assert.Equal(t, http.StatusBadRequest, code)
}
