package e2e

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strconv"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/performance"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/e2e/browser"
	"slowreveal/formats/gltf"
	"slowreveal/store"
)

// TestFigures prints the figures of docs/performance.md that need a browser or
// Node. It checks nothing and runs only when asked: make figures.
func TestFigures(t *testing.T) {
	if os.Getenv("SLOWREVEAL_FIGURES") == "" {
		t.Skip("set SLOWREVEAL_FIGURES=1")
	}
	a := demo.Stress(1000, 12).Assembly
	r := demo.StressReveal(a, 300)
	require.NoError(t, reveal.Validate(r, a))
	answer := inNode(t, coreJob{Assembly: a, Reveals: []*reveal.Reveal{r}, Times: []reveal.Micros{0}, Bench: true})
	t.Logf("At of 1,000 parts with 300 cues in WebAssembly (Node): median %.3f ms", answer.MedianAt)
	mechanismFigures(t)
	if os.Getenv("SLOWREVEAL_FIGURES") == "mechanism" {
		return
	}
	s := newStand(t)
	doc := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+doc.ProjectID+"/direct/"+doc.ID), browser.StageReady())
	t.Logf(
		"first picture of the demo: %.2f s after the navigation began",
		eval[float64](s, `performance.getEntriesByName('stage')[0].startTime / 1000`),
	)
	s.do(chromedp.KeyEvent(" "), chromedp.Sleep(10*time.Second), chromedp.KeyEvent(" "))
	t.Logf("the stage while playing, two views: %s", eval[string](s, stageMedians))
	newStand(t).switching()
	if os.Getenv("SLOWREVEAL_FIGURES") == "variants" {
		return
	}
	clientFirst(t)
	if os.Getenv("SLOWREVEAL_FIGURES") == "client" {
		return
	}
	if os.Getenv("SLOWREVEAL_FIGURES") == "large" {
		s.large()
		return
	}
	s.long()
	s.edits(doc.ID)
	if os.Getenv("SLOWREVEAL_FIGURES") != "2" {
		s.stress()
	}
	s.large()
}

// large works on ten thousand parts: what the page's own script takes, in processor time.
func (s *stand) large() {
	m := demo.Stress(10_000, 12)
	p, err := s.authoring.CreateProject(context.Background(), "large", "large.glb", m)
	require.NoError(s, err)
	r, err := s.authoring.CreateReveal(context.Background(), p.ID, demo.StressReveal(m.Assembly, 300))
	require.NoError(s, err)
	at := s.url + "/p/" + p.ID + "/direct/" + r.ID
	took := func(what string, actions ...browser.Action) {
		var before, after, longest float64
		all := []browser.Action{browser.Script(undrawn), browser.Script(longTasks), scriptTime(&before)}
		all = append(
			append(all, actions...),
			browser.Settled(),
			scriptTime(&after),
			note(&longest, `Math.max(0, ...blocks)`),
			browser.Script(drawnAgain),
			seek(0),
			browser.Settled(),
		)
		s.do(all...)
		s.Logf(
			"10,000 parts, what is drawn left out: %s: %.0f ms of script in all, the longest task %.0f ms",
			what,
			1000*(after-before),
			longest,
		)
	}
	begun := time.Now()
	s.do(chromedp.Navigate(at), browser.Size(920, 640), browser.StageReady())
	s.Logf(
		"10,000 parts: first picture %.1f s after the address was given, %.2f s of script by then; the core took the assembly in in %.0f ms",
		time.Since(begun).Seconds(),
		s.scriptTime(),
		eval[float64](s, `performance.getEntriesByName('assembly opened').at(-1).detail`),
	)
	s.Logf(
		"10,000 parts: after the navigation began, all surfaces are seen after %.1f s, the nearest edges after %.1f s, all edges after %.1f s",
		eval[float64](
			s,
			`performance.getEntriesByName('first picture').at(-1).startTime / 1000`,
		),
		eval[float64](s, `(performance.getEntriesByName('near edges').at(-1)?.startTime ?? NaN) / 1000`),
		eval[float64](s, `performance.getEntriesByName('fine').at(0).startTime / 1000`),
	)
	begun = time.Now()
	s.do(browser.Click(`//nav[@aria-label="Phases"]//a[text()="Prepare"]`), browser.StageReady())
	s.Logf("10,000 parts: from Direct to Prepare in %.1f s", time.Since(begun).Seconds())
	begun = time.Now()
	s.do(
		browser.Click(`//nav[@aria-label="Phases"]//a[text()="Direct"]`),
		browser.StageReady(),
		browser.Size(1280, 800),
		browser.Settled(),
	)
	s.Logf("10,000 parts: and back in %.1f s", time.Since(begun).Seconds())
	s.do(find("roller"), browser.Settled())
	row := func(n int) string { return "(//div[@role='treeitem'])[" + strconv.Itoa(n) + "]" }
	took("picking one", browser.Click(row(2)))
	took("picking ten more with Shift", clickWith(row(9), chromedp.ModifierShift))
	took("picking all of its kind (1,429)", chromedp.KeyEvent("a"))
	took("picking everything else (8,571)", chromedp.KeyEvent("i"))
	took("picking nothing", chromedp.KeyEvent(kb.Escape))
	s.do(browser.Size(920, 640), browser.Settled())
	var before, after, pictures float64
	var medians string
	s.do(
		browser.Script(undrawn),
		seek(500_000),
		chromedp.Sleep(2*time.Second),
		browser.Script(`(pictures = 0) === 0`),
		scriptTime(&before),
		browser.Click(chromedp.CSS(`button[aria-label="Play"]`)),
		chromedp.Sleep(8*time.Second),
		browser.Click(chromedp.CSS(`button[aria-label="Stop"]`)),
		scriptTime(&after),
		note(
			&pictures,
			`window.pictures`,
		),
		note(&medians, stageMedians),
		browser.Script(drawnAgain),
		seek(0),
		chromedp.Sleep(time.Second),
		browser.Settled(),
	)
	s.Logf(
		"10,000 parts, all moving, playing, what is drawn left out: %s (of the last 200); all script of the page: %.2f ms a picture, %.0f pictures in 8 s",
		medians,
		1000*(after-before)/pictures,
		pictures,
	)
}

// undrawn leaves out what a graphics processor does, which here takes seconds: all script of a picture stays.
const undrawn = `(() => {
	window.pictures = 0
	window.drawing = {}
	const calls = WebGL2RenderingContext.prototype
	for (const name of Object.getOwnPropertyNames(calls).filter((n) => /^draw(Arrays|Elements)|^drawRange|^clear$/.test(n))) {
		drawing[name] = calls[name]
		calls[name] = () => {}
	}
	const mark = performance.mark.bind(performance)
	performance.mark = (name, ...more) => { if (name === 'stage') pictures++; return mark(name, ...more) }
	performance.clearMarks('stage')
	return true
})()`

const drawnAgain = `Object.assign(WebGL2RenderingContext.prototype, drawing), delete performance.mark, true`

// note reads something of the page on the way.
func note[T any](into *T, script string) browser.Action {
	return func(ctx context.Context, t *chromedp.Target) (none chromedp.Void, err error) {
		*into, err = chromedp.Evaluate[T](script)(ctx, t)
		return none, err
	}
}

// long drags a bar of a reveal with 5,000 cues, and lets it go.
func (s *stand) long() {
	m := demo.Stress(1000, 12)
	p, err := s.authoring.CreateProject(context.Background(), "long", "long.glb", m)
	require.NoError(s, err)
	r, err := s.authoring.CreateReveal(context.Background(), p.ID, demo.LongReveal(m.Assembly, 5000))
	require.NoError(s, err)
	begun := time.Now()
	s.do(chromedp.Navigate(s.url+"/p/"+p.ID+"/direct/"+r.ID), browser.Size(920, 640), browser.StageReady())
	s.Logf("a reveal of 5,000 cues: on screen %.1f s after its address was given", time.Since(begun).Seconds())
	// So near, and at such a moment, that every movement changes the picture.
	s.do(
		browser.Script(
			`document.querySelector('[data-cue]').dispatchEvent(new WheelEvent('wheel', { deltaY: -4000, ctrlKey: true, bubbles: true })), true`,
		),
		browser.Settled(),
		seek(1_200_000),
		browser.Settled(),
	)
	before := s.scriptTime()
	moved := eval[float64](s, `new Promise(done => {
		performance.clearMarks()
		const bar = document.querySelector('[data-cue]'), at = bar.getBoundingClientRect()
		const fire = (to, type, x) => to.dispatchEvent(new PointerEvent(type, { bubbles: true, pointerId: 1, button: 0, buttons: 1, clientX: at.x + 8 + x, clientY: at.y + 8 }))
		fire(bar, 'pointerdown', 0)
		let n = 0
		const step = () => {
			fire(window, 'pointermove', 5 + n % 40)
			if (++n < 60) return requestAnimationFrame(step)
			done(n)
		}
		requestAnimationFrame(step)
	})`)
	s.Logf(
		"dragging a bar of it: %.2f ms in the core a move (median), %.2f ms of processor time for all script of the page a move, the stage's drawing included",
		eval[float64](
			s,
			`(() => { const d = performance.getEntriesByName('drag').map(m => m.detail).sort((a, b) => a - b); return d[d.length >> 1] })()`,
		),
		1000*(s.scriptTime()-before)/moved,
	)
	s.Logf("of that the stage: %s", eval[string](s, stageMedians))
	s.Logf(
		"and letting it go: %.0f ms",
		eval[float64](
			s,
			`(() => { const t = performance.now(); window.dispatchEvent(new PointerEvent('pointerup')); return performance.now() - t })()`,
		),
	)
	s.do(browser.Saved(), browser.Size(1280, 800))
}

// edits opens a reveal behind 100,000 edits.
func (s *stand) edits(id string) {
	open := func() time.Duration {
		begun := time.Now()
		for range 20 {
			_, err := s.store.Reveal(context.Background(), id)
			require.NoError(s, err)
		}
		return time.Since(begun) / 20
	}
	before := open()
	_, err := s.store.SQL().
		ExecContext(context.Background(), `insert into entries (reveal_id, version, kind, label, command, inverse)
		select $1, n, 'do', 'rename the reveal', '{"op":"setTitle","title":"x"}', '{"op":"setTitle","title":"y"}' from generate_series(1, 100000) n`, id)
	require.NoError(s, err)
	_, err = s.store.SQL().ExecContext(context.Background(), `update reveals set version = 100000 where id = $1`, id)
	require.NoError(s, err)
	after := open()
	now, err := s.store.Reveal(context.Background(), id)
	require.NoError(s, err)
	begun := time.Now()
	_, err = s.authoring.Do(context.Background(), id, authoring.On{Base: now.Version}, titled("after all that"))
	require.NoError(s, err)
	s.Logf(
		"opening a reveal: %v without edits, %v behind 100,000; one more edit: %v",
		before.Round(10*time.Microsecond),
		after.Round(10*time.Microsecond),
		time.Since(begun).Round(10*time.Microsecond),
	)
}

// stageMedians says what the parts of a picture took, in the median: the core,
// our own script on its answer, and the calls that draw.
const stageMedians = `(() => {
	const all = performance.getEntriesByName('stage').map(m => m.detail)
	const middle = k => { const d = all.map(x => x[k]).sort((a, b) => a - b); return d[d.length >> 1].toFixed(2) }
	return 'core ' + middle('core') + ', scene ' + middle('scene') + ', draw ' + middle('draw') + ' ms over ' + all.length + ' pictures'
})()`

// stress brings the stress assembly in as a file and orbits it.
func (s *stand) stress() {
	glb, err := gltf.Write(demo.Stress(1000, 1000))
	require.NoError(s, err)
	path := filepath.Join(s.TempDir(), "stress.glb")
	require.NoError(s, os.WriteFile(path, glb, 0o644))
	begun := time.Now()
	s.do(
		chromedp.Navigate(s.url),
		chromedp.WaitVisible(button("Choose a file")),
		browser.Script(`(window.begun = performance.now()) > 0`),
		chromedp.SetUploadFiles(chromedp.CSS(`input[aria-label="Assembly file"]`), []string{path}),
	)
	var imported store.Import
	require.Eventually(s, func() bool {
		list, err := s.store.Imports(context.Background())
		if err != nil || len(list) == 0 {
			return false
		}
		imported = list[0]
		return imported.Name == "stress" && imported.FinishedAt != nil
	}, 6*time.Minute, 10*time.Millisecond)
	s.Logf(
		"stress assembly (1,000 parts, 1 M triangles): %.2f s from choosing the file to a stored project",
		time.Since(begun).Seconds(),
	)
	s.do(chromedp.WaitVisible(`//h2[text()="What was imported"]`), browser.StageReady())
	s.Logf(
		"and %.2f s to its first picture, %.2f s to that with all edges, drawn without a GPU",
		eval[float64](
			s,
			`(performance.getEntriesByName('first picture').at(-1).startTime - window.begun) / 1000`,
		),
		time.Since(begun).Seconds(),
	)
	// Looking around, in a window so small that drawing it without a GPU does not
	// hold everything up.
	s.do(browser.Size(920, 640), browser.Settled())
	before := s.scriptTime()
	s.do(browser.Script(`performance.clearMarks('stage'), new Promise(done => {
		const canvas = document.querySelector('canvas')
		// One turn of the wheel a picture, as a hand does at 60 pictures a second.
		const turn = n => canvas.dispatchEvent(new WheelEvent('wheel', { deltaY: n % 2 ? 40 : -40, bubbles: true, clientX: 330, clientY: 200 }))
		let n = 0
		const watch = new MutationObserver(() => setTimeout(() => (n++ < 15 ? turn(n) : (watch.disconnect(), done(true)))))
		watch.observe(canvas, { attributeFilter: ['data-drawn'] })
		turn(0)
	})`))
	pictures := eval[float64](s, `performance.getEntriesByName('stage').length`)
	s.Logf(
		"the stage while looking around 1,000 parts: %s; all script of the page, in processor time: %.2f ms a picture",
		eval[string](s, stageMedians),
		1000*(s.scriptTime()-before)/pictures,
	)
}

// scriptTime is how long the page's scripts have run, in seconds of processor
// time: beside a software WebGL, which takes both processors, the clock on the wall
// says how long they waited.
func (s *stand) scriptTime() float64 {
	s.Helper()
	v, err := chromedp.Run(s.ctx, chromedp.Action[float64](scriptSeconds))
	require.NoError(s, err)
	return v
}

func scriptSeconds(ctx context.Context, t *chromedp.Target) (float64, error) {
	if _, err := cdp.Call(ctx, t, performance.Enable, performance.EnableParams{TimeDomain: performance.EnableTimeDomainThreadTicks}); err != nil {
		return 0, err
	}
	m, err := cdp.Call(ctx, t, performance.GetMetrics, cdp.Empty{})
	if err != nil {
		return 0, err
	}
	for _, x := range m.Metrics {
		if x.Name == "ScriptDuration" {
			return x.Value, nil
		}
	}
	return 0, errors.New("the browser measures no scripts")
}

// longTasks begins to write down how long each task is that holds the page up, ms.
const longTasks = `(() => { window.blocks = []
(window.watching ??= new PerformanceObserver((l) => blocks.push(...l.getEntries().map((e) => e.duration))))
  .observe({ type: 'longtask' })
return true })()`
