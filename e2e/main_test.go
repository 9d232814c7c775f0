// Package e2e tests the real thing: the built page in headless Chromium against
// the server, PostgreSQL, and the films that come out.
package e2e

import (
	"context"
	"fmt"
	"net"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/storage"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/product"
	"slowreveal/demo"
	"slowreveal/e2e/browser"
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
	os.Exit(testdb.Run(m, func() { close(over); running.Wait() }))
}

// stand is the whole application with a page in front of it.
type stand struct {
	*testing.T
	ctx       context.Context // the page's
	url       string
	authoring *authoring.Service
	store     *store.Store
}

// over is closed behind the last test; running are the application and the browser.
var (
	over    = make(chan struct{})
	running sync.WaitGroup
)

// until runs what works until the tests are over.
func until(work func(context.Context)) {
	ctx, stop := context.WithCancel(context.Background())
	running.Go(func() { work(ctx) })
	go func() { <-over; stop() }()
}

// application is the server that all tests share, as people do: what it has computed of the example once it need not
// compute for every test. Each test has projects of its own.
var application = sync.OnceValues(func() (*stand, error) {
	folder, err := os.MkdirTemp("", "slowreveal-e2e-")
	if err != nil {
		return nil, err
	}
	kept, err := store.Open(context.Background(), testdb.URL(), folder)
	if err != nil {
		return nil, err
	}
	author := authoring.New(kept)
	queue, err := jobs.OpenWorkers(author, 0)
	if err != nil {
		return nil, err
	}
	srv, err := server.New(author, queue)
	if err != nil {
		return nil, err
	}
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	until(func(ctx context.Context) {
		var working sync.WaitGroup
		working.Go(func() { queue.Work(ctx) })
		srv.Serve(ctx, listener)
		working.Wait()
		kept.Close()
		os.RemoveAll(folder)
	})
	return &stand{url: "http://" + listener.Addr().String(), authoring: author, store: kept}, nil
})

// chromium is the browser in which each test has a page: what it has translated once it need not translate again.
var chromium = sync.OnceValues(func() (context.Context, error) {
	ctx, closeBrowser := browser.New(context.Background(), 1280, 800)
	until(func(ctx context.Context) { <-ctx.Done(); closeBrowser() })
	return ctx, chromedp.Do(ctx)
})

// atLength leaves a test to make drill: what it asks goes a way that others go too, farther or more often.
func atLength(t *testing.T) {
	t.Helper()
	if testing.Short() {
		t.Skip("at full length: make drill")
	}
}

func newStand(t *testing.T) *stand {
	t.Helper()
	app, err := application()
	require.NoError(t, err)
	all, err := chromium()
	require.NoError(t, err, "the browser must start")
	ctx, closePage := chromedp.NewContext(all)
	t.Cleanup(closePage)
	s := &stand{t, ctx, app.url, app.authoring, app.store}
	require.NoError(t, chromedp.Do(ctx, forgotten(s.url), browser.Coarse(1280, 800)))
	return s
}

// forgotten has the browser forget what pages have kept; what it has loaded it keeps.
func forgotten(url string) browser.Action {
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := cdp.Call(ctx, t, storage.ClearDataForOrigin, storage.ClearDataForOriginParams{
			Origin:       url,
			StorageTypes: "local_storage,indexeddb,cookies",
		})
		return chromedp.Void{}, err
	}
}

// do drives the page; each call has four minutes. What went wrong is shown with
// a picture of the page. Afterwards the page is held against the rules of layout and of access, the stage against what
// the core says (looks).
func (s *stand) do(actions ...browser.Action) {
	s.Helper()
	s.within(4*time.Minute, actions...)
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
func pumpFile(t *testing.T) (string, *product.Model) {
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
	p, err := s.authoring.CreateProject(context.Background(), "Pump "+s.Name(), "dp-40.glb", m)
	require.NoError(s, err)
	r, err := s.authoring.CreateReveal(context.Background(), p.ID, demo.Teardown(m.Assembly))
	require.NoError(s, err)
	return r
}

func button(text string) string {
	return fmt.Sprintf(`//*[self::button or self::a][normalize-space(.)=%q]`, text)
}
