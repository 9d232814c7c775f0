package e2e

import (
	"context"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"slowreveal/demo"
	"slowreveal/e2e/browser"
	"slowreveal/release"
)

// timed notes when the first picture had been drawn by script: less what the graphics library's calls took until then,
// its shaders and pictures, which is the GPU's start-up where there is one.
const timed = `(() => {
	let spent = 0
	let last = 0
	const around = (of, name) => {
		const call = of[name]
		of[name] = function (...a) {
			const begun = performance.now()
			if (/^draw(Arrays|Elements)/.test(name)) last = begun - spent
			const out = call.apply(this, a)
			spent += performance.now() - begun
			return out
		}
	}
	for (const name of Object.getOwnPropertyNames(WebGL2RenderingContext.prototype))
		if (typeof Object.getOwnPropertyDescriptor(WebGL2RenderingContext.prototype, name).value === 'function') around(WebGL2RenderingContext.prototype, name)
	around(HTMLCanvasElement.prototype, 'getContext')
	Object.defineProperty(window, 'spent', { get: () => spent })
	const mark = performance.mark.bind(performance)
	performance.mark = (name, ...more) => {
		if (name === 'first picture' && window.first === undefined) Object.assign(window, { first: last, calls: spent, whole: performance.now() })
		return mark(name, ...more)
	}
})()`

// clientFirst prints when the first picture of the client page of the example is there.
func clientFirst(t *testing.T) {
	s := newStand(t)
	file := filepath.Join(t.TempDir(), "client.html")
	m := demo.Pump()
	w, err := release.Plan(release.Settings{Kind: release.Page}, m, demo.Teardown(m.Assembly), nil)
	require.NoError(t, err)
	require.NoError(t, w.Make(context.Background(), file, nil))
	require.NoError(t, browser.Within(s.ctx, time.Minute, browser.Size(1280, 800), beforeAll(timed)))
	var first, calls, whole []float64
	for range 7 {
		require.NoError(
			t,
			browser.Within(
				s.ctx,
				time.Minute,
				chromedp.Navigate("about:blank"),
				chromedp.Navigate("file://"+file),
				clientDrawn(),
			),
		)
		first = append(first, eval[float64](s, `first`))
		calls = append(calls, eval[float64](s, `calls`))
		whole = append(whole, eval[float64](s, `whole`))
	}
	t.Logf(
		"the client page: its first picture is drawn %.0f ms after the navigation began, less %.0f ms in calls of the graphics library (no GPU); all in all %.0f ms (medians of 7, from %.0f to %.0f ms)",
		median(first),
		median(calls),
		median(whole),
		slices.Min(first),
		slices.Max(first),
	)
}

func median(list []float64) float64 {
	sorted := slices.Sorted(slices.Values(list))
	return sorted[len(sorted)/2]
}

// beforeAll runs a script in every page before its own.
func beforeAll(script string) browser.Action {
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := cdp.Call(
			ctx,
			t,
			page.AddScriptToEvaluateOnNewDocument,
			page.AddScriptToEvaluateOnNewDocumentParams{Source: script},
		)
		return chromedp.Void{}, err
	}
}

// switching prints how long the page's script takes from the choice of a variant until the stage is drawn as that has it.
func (s *stand) switching() {
	m := demo.PumpB()
	p, err := s.authoring.CreateProject(context.Background(), "Switched", "dp-40-b.glb", m)
	require.NoError(s, err)
	r, err := s.authoring.CreateReveal(context.Background(), p.ID, demo.Teardown(m.Assembly))
	require.NoError(s, err)
	s.do(chromedp.Navigate("about:blank"), beforeAll(timed),
		chromedp.Navigate(s.url+"/p/"+p.ID+"/direct/"+r.ID), browser.StageReady())
	var script, whole []float64
	for range 5 {
		for _, name := range []string{"Heated", "All parts", "Left-hand door", "Standard"} {
			s.do(
				browser.Click(`//button[starts-with(@aria-label, "Variant: ")]`),
				chromedp.WaitVisible(`//*[@role="menuitem"]`),
			)
			took := eval[[]float64](s, `(async () => {
				const stages = () => performance.getEntriesByName('stage').at(-1)?.startTime ?? 0
				const item = [...document.querySelectorAll('[role=menuitem]')].find((e) => e.textContent.trim() === '`+name+`')
				const began = performance.now(), calls = spent
				item.click()
				while (stages() < began) await new Promise((go) => requestAnimationFrame(go))
				return [stages() - began - (spent - calls), stages() - began]
			})()`)
			script, whole = append(script, took[0]), append(whole, took[1])
			s.do(browser.StageReady())
		}
	}
	s.Logf(
		"another variant on the stage: script %.0f ms (%.0f–%.0f), with the graphics library's calls %.0f ms (%.0f–%.0f)",
		median(script),
		slices.Min(script),
		slices.Max(script),
		median(whole),
		slices.Min(whole),
		slices.Max(whole),
	)
}
