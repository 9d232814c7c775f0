// Package browser drives the real interface in headless Chromium, for the tests
// and for the screenshots of the documentation.
package browser

import (
	"context"
	"fmt"
	"os"
	"time"

	"github.com/chromedp/chromedp"
)

// Action is one step of driving a page.
type Action = chromedp.Action[chromedp.Void]

// New starts a browser with a window of the given size. cancel ends it.
func New(ctx context.Context, width, height int) (context.Context, context.CancelFunc) {
	options := append(
		chromedp.DefaultExecAllocatorOptions[:],
		chromedp.WindowSize(width, height),
		// Mesa's renderer draws the stage in two fifths of the time of the one that Chromium brings along.
		chromedp.Flag("use-gl", "angle"),
		chromedp.Flag("use-angle", "gl-egl"),
		chromedp.Env("LIBGL_ALWAYS_SOFTWARE=1"),
		chromedp.Flag("ignore-gpu-blocklist", true),
		chromedp.Flag("disable-quic", true),
		chromedp.Flag("disable-component-update", true),
		chromedp.Flag("force-device-scale-factor", "1"),
		chromedp.Flag("disable-gpu-rasterization", true),
	)
	ctx, stopBrowser := chromedp.NewExecAllocator(ctx, options...)
	ctx, stopTab := chromedp.NewContext(ctx)
	return ctx, func() { stopTab(); stopBrowser() }
}

// Size makes the page exactly width × height, each of its pixels one of the picture.
func Size(width, height int64) Action { return chromedp.EmulateViewport(width, height) }

// Coarse makes the page as large, with a quarter of the pixels each way in the picture: without a GPU the stage is drawn
// in half the time, and nothing else is otherwise.
func Coarse(width, height int64) Action {
	return chromedp.EmulateViewport(width, height, chromedp.EmulateScale(0.25))
}

// StageReady waits until the stage has drawn the whole assembly, edges and all.
func StageReady() Action {
	return chromedp.Steps(chromedp.WaitVisible(chromedp.CSS(`canvas[data-ready="true"][data-drawn="true"]`)), Settled())
}

// Settled waits until two pictures have passed, so that what React and the stage have to draw is
// drawn; where the stage drew coarsely, until the fine picture is there. It does not wait for the end
// of a film that plays.
func Settled() Action {
	return Script(`new Promise(done => {
		const begun = performance.now()
		const look = () => document.querySelector('canvas[data-ready=true][data-drawn=false]') && performance.now() - begun < 5000 ? setTimeout(look, 20) : done(true)
		requestAnimationFrame(() => requestAnimationFrame(() => requestAnimationFrame(look)))
	})`)
}

// Script runs JavaScript that ends in true, or in a promise of true.
func Script(text string) Action {
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		ok, err := chromedp.Evaluate[bool](text, chromedp.EvalAwaitPromise)(ctx, t)
		if err == nil && !ok {
			err = fmt.Errorf("the script %.60s… did not say true", text)
		}
		return chromedp.Void{}, err
	}
}

// Until waits until an expression is true.
func Until(expression string) Action {
	return Script(
		`new Promise(done => { const look = () => (` + expression + `) ? done(true) : setTimeout(look, 50); look() })`,
	)
}

// Saved waits until the server has everything.
func Saved() Action { return chromedp.WaitVisible(chromedp.CSS(`[data-saving="saved"]`)) }

// Picture writes a PNG of the page.
func Picture(file string) Action {
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		png, err := chromedp.CaptureScreenshot()(ctx, t)
		if err != nil {
			return chromedp.Void{}, fmt.Errorf("taking a picture of the page: %w", err)
		}
		return chromedp.Void{}, os.WriteFile(file, png, 0o644)
	}
}

// Press clicks the first button, link or toggle with exactly this text.
func Press(text string) Action {
	return Click(fmt.Sprintf(`//*[self::button or self::a][normalize-space(.)=%q]`, text))
}

// Click clicks the first element that an XPath, or a selector of CSS, finds, as soon as it is seen and stands still:
// what comes late may still push it aside, and the click would go where it was.
func Click[S ~string](sel S, options ...chromedp.QueryOption) Action {
	return chromedp.Steps(chromedp.WaitVisible(sel, options...), still(sel), chromedp.Click(sel, options...))
}

// still waits until the first element that is found has been brought into sight, stays where it is for three pictures
// and lies under nothing else.
func still[S ~string](sel S) Action {
	find := fmt.Sprintf(
		`document.evaluate(%q, document, null, XPathResult.FIRST_ORDERED_NODE_TYPE).singleNodeValue`,
		sel,
	)
	if _, css := any(sel).(chromedp.CSS); css {
		find = fmt.Sprintf(`document.querySelector(%q)`, sel)
	}
	return Script(fmt.Sprintf(`new Promise(done => {
		let stood = 0, last = ''
		const look = () => {
			const e = %s
			if (e && stood === 0) e.scrollIntoView({ block: 'nearest', inline: 'nearest' })
			const r = e?.getBoundingClientRect()
			const now = r ? [r.x, r.y, r.width, r.height].join() : ''
			const top = r && document.elementFromPoint(r.x + r.width / 2, r.y + r.height / 2)
			const free = top && (e.contains(top) || top.contains(e) || [...e.labels ?? []].some(l => l.contains(top)))
			stood = free && now === last ? stood + 1 : 0
			last = now
			if (stood === 3) done(true)
			else requestAnimationFrame(look)
		}
		look()
	})`, find))
}

// Within bounds how long the actions may take.
func Within(ctx context.Context, d time.Duration, actions ...Action) error {
	ctx, cancel := context.WithTimeout(ctx, d)
	defer cancel()
	return chromedp.Do(ctx, actions...)
}
