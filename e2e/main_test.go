// Package e2e tests the real thing: the built page in headless Chromium against
// the server, PostgreSQL, and the films that come out.
package e2e

import (
	"context"
	"fmt"
	"net"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"slowreveal/demo"
	"slowreveal/e2e/browser"
	"slowreveal/formats"
	"slowreveal/formats/gltf"
	"slowreveal/jobs"
	"slowreveal/localdb/testdb"
	"slowreveal/server"
	"slowreveal/store"
)

func TestMain(m *testing.M) {
	if os.Getenv("SLOWREVEAL_STEPREAD") == "" {
		program, _ := filepath.Abs(filepath.Join("..", "bin", "stepread"))
		os.Setenv("SLOWREVEAL_STEPREAD", program)
	}
	os.Exit(testdb.Run(m))
}

// stand is the whole application with a browser in front of it.
type stand struct {
	*testing.T
	ctx   context.Context // the browser's
	url   string
	store *store.Store
}

func newStand(t *testing.T) *stand {
	t.Helper()
	s := testdb.Open(t)
	queue, err := jobs.OpenWorkers(s, 0)
	require.NoError(t, err)
	srv, err := server.New(s, queue)
	require.NoError(t, err)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	running, stop := context.WithCancel(context.Background())
	ended := make(chan struct{}, 2)
	go func() { srv.Serve(running, listener); ended <- struct{}{} }()
	go func() { queue.Work(running); ended <- struct{}{} }()
	ctx, closeBrowser := browser.New(context.Background(), 1280, 800)
	t.Cleanup(func() {
		closeBrowser()
		stop()
		<-ended
		<-ended
	})
	require.NoError(t, chromedp.Do(ctx), "the browser must start")
	require.NoError(t, browser.Within(ctx, time.Minute, browser.Coarse(1280, 800)))
	return &stand{t, ctx, "http://" + listener.Addr().String(), s}
}

// do drives the page; each call has two minutes. What went wrong is shown with
// a picture of the page. Afterwards the page is held against the rules of layout and of access, the stage against what
// the core says (looks).
func (s *stand) do(actions ...browser.Action) {
	s.Helper()
	s.within(2*time.Minute, actions...)
}

// within is do for what may take longer where the machine has other work.
func (s *stand) within(d time.Duration, actions ...browser.Action) {
	s.Helper()
	if err := browser.Within(s.ctx, d, actions...); err != nil {
		file := filepath.Join(os.TempDir(), "slowreveal-"+s.Name()+".png")
		browser.Within(s.ctx, 20*time.Second, browser.Picture(file))
		s.Fatalf("%v (see %s)\n%s", err, file, s.said())
	}
	s.laidOut()
	s.accessible()
	s.looks()
}

// said is what the page says of itself: where nobody can look at the picture, it helps to understand what went wrong.
func (s *stand) said() string {
	ctx, cancel := context.WithTimeout(s.ctx, 20*time.Second)
	defer cancel()
	said, err := chromedp.Run(ctx, chromedp.Evaluate[string](`JSON.stringify({
		at: location.pathname,
		saving: document.querySelector('[data-saving]')?.dataset.saving,
		stage: { ...document.querySelector('canvas')?.dataset },
		messages: [...document.querySelectorAll('[data-message], [role=alert], [role=dialog] h2')].map(e => e.textContent),
		focus: document.activeElement?.outerHTML.slice(0, 200),
	})`))
	if err != nil {
		return "the page does not answer: " + err.Error()
	}
	return said
}

func eval[T any](s *stand, script string) T {
	s.Helper()
	ctx, cancel := context.WithTimeout(s.ctx, time.Minute)
	defer cancel()
	v, err := chromedp.Run(ctx, chromedp.Evaluate[T](script, chromedp.EvalAwaitPromise))
	require.NoError(s, err)
	return v
}

// pumpFile writes the example's GLB and returns its path and model as read back.
func pumpFile(t *testing.T) (string, *formats.Model) {
	t.Helper()
	glb, err := gltf.Write(demo.Pump())
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "dp-40.glb")
	require.NoError(t, os.WriteFile(path, glb, 0o644))
	m, err := gltf.Read(glb, "dp-40")
	require.NoError(t, err)
	return path, m
}

// teardown stores the example with its reveal and returns the reveal.
func (s *stand) teardown() store.StoredReveal {
	s.Helper()
	_, m := pumpFile(s.T)
	p, err := s.store.CreateProject(context.Background(), "Pump "+s.Name(), "dp-40.glb", m)
	require.NoError(s, err)
	r, err := s.store.CreateReveal(context.Background(), p.ID, demo.Teardown(m.Assembly))
	require.NoError(s, err)
	return r
}

func button(text string) string {
	return fmt.Sprintf(`//*[self::button or self::a][normalize-space(.)=%q]`, text)
}
