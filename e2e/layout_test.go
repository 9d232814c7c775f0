package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"slowreveal/e2e/browser"
)

// layout lists what is wrong with how the page is laid out: controls without a name, outside of the window
// or of their panel, or covered by other ones; texts that are cut off without an ellipsis and a title.
const layout = `(() => {
	const wrong = []
	const control = 'button, a[href], input:not([type=hidden]), textarea, [role=button], [role=slider], [role=treeitem], [role=combobox], [role=radio], [role=separator]'
	const open = document.querySelector('[role=dialog], [role=menu], [role=listbox]:not(#found)')
	const root = open ?? document.body
	const clips = (e, axis) => /(auto|scroll|hidden|clip)/.test(getComputedStyle(e)['overflow' + axis])
	const scrolls = (e, axis) => /(auto|scroll)/.test(getComputedStyle(e)['overflow' + axis])
	const words = (e) => (e.getAttribute('aria-label') || e.getAttribute('title') || e.textContent || e.labels?.[0]?.textContent || e.getAttribute('placeholder') || '').trim()
	const say = (what, e) => wrong.push(what + ': ' + e.tagName.toLowerCase() + ' “' + words(e).slice(0, 40) + '”')
	const seen = (e) => e.checkVisibility({ opacityProperty: true, visibilityProperty: true }) && e.getClientRects().length > 0 && !e.closest('.sr-only, [aria-hidden=true], [inert]')
	const low = document.documentElement.scrollHeight > innerHeight + 1 // the page scrolls as a whole
	// inView is the part of an element that its scrolling ancestors let be seen; null when it is scrolled away.
	const inView = (e) => {
		let { left, top, right, bottom } = e.getBoundingClientRect()
		for (let a = e.parentElement; a && a !== document.body; a = a.parentElement) {
			const r = a.getBoundingClientRect()
			if (scrolls(a, 'Y')) { top = Math.max(top, r.top); bottom = Math.min(bottom, r.bottom) }
			if (scrolls(a, 'X')) { left = Math.max(left, r.left); right = Math.min(right, r.right) }
		}
		if (low) { top = Math.max(top, 0); bottom = Math.min(bottom, innerHeight) }
		return right - left > 1 && bottom - top > 1 ? { left, top, right, bottom } : null
	}
	for (const e of root.querySelectorAll(control)) {
		if (!seen(e) || e.classList.contains('sr-only')) continue
		if (!words(e)) say('no name', e)
		// What shows a sign alone says in a tip what it does.
		if (e.matches('button, a[href]') && !e.textContent.trim() && !e.title && !e.dataset.state) say('no tip', e)
		const timeline = e.closest('section[aria-label=Timeline]')
		if (timeline) continue
		// At the side also what is scrolled away above or below.
		const box = e.getBoundingClientRect()
		for (let a = e.parentElement; a && a !== document.body && !scrolls(a, 'X'); a = a.parentElement) {
			const p = a.getBoundingClientRect()
			if (clips(a, 'X') && (box.left < p.left - 1.5 || box.right > p.right + 1.5)) { say('cut at the side by its panel', e); break }
		}
		const r = inView(e)
		if (!r) continue
		if (r.left < -1 || r.top < -5 || r.right > innerWidth + 5 || r.bottom > innerHeight + 1) { say('outside of the window', e); continue }
		for (let a = e.parentElement; a && a !== document.body; a = a.parentElement) {
			const p = a.getBoundingClientRect()
			if (clips(a, 'Y') && !scrolls(a, 'Y') && (r.top < p.top - 1.5 || r.bottom > p.bottom + 1.5)) { say('cut by its panel', e); break }
		}
		if (e.matches('[role=separator]') || r.bottom - r.top < 4) continue
		const top = document.elementFromPoint((r.left + r.right) / 2, (r.top + r.bottom) / 2)
		const over = top?.closest(control)
		if (top?.closest('[data-drawer]') && !e.closest('[data-drawer]')) continue // a drawer lies over the rest until it is closed
		if (over && over !== e && !over.closest('nav[aria-label="Skip to"]') && !over.matches('[role=separator]') && !e.contains(over) && !over.contains(e)) say('covered by “' + words(over).slice(0, 30) + '”', e)
	}
	const texts = document.createTreeWalker(root, NodeFilter.SHOW_TEXT)
	const looked = new Set()
	for (let n = texts.nextNode(); n; n = texts.nextNode()) {
		const e = n.parentElement
		if (!n.data.trim() || looked.has(e) || !seen(e)) continue
		looked.add(e)
		for (let a = e; a && a !== document.body; a = a.parentElement) {
			if (scrolls(a, 'X')) break
			if (!clips(a, 'X')) continue
			if (a.scrollWidth <= a.clientWidth + 1) continue
			const range = document.createRange()
			range.selectNodeContents(n)
			if (range.getBoundingClientRect().right <= a.getBoundingClientRect().right + 1) continue
			const style = getComputedStyle(a)
			if (style.textOverflow !== 'ellipsis') say('text cut off without dots', e)
			else if (!a.closest('[title], [aria-label], [role=treeitem]') && !a.querySelector('[title]')) say('cut text without a title', e)
			break
		}
	}
	return [...new Set(wrong)].join('\n')
})()`

// laidOut holds the open view against the rules of layout. It is called after every action of every test.
func (s *stand) laidOut() {
	s.Helper()
	if wrong := eval[string](s, layout); wrong != "" {
		s.Errorf("the layout is wrong:\n%s", wrong)
	}
}

// The main views, in a small and in a large window.
func TestTheViewsAreLaidOutInEveryWindow(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	for _, size := range [][2]int64{{1280, 800}, {1920, 1080}, {1024, 768}} {
		s.do(browser.Size(size[0], size[1]))
		for _, phase := range []string{"prepare", "direct", "proof", "release"} {
			s.do(
				chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/"+phase+"/"+r.ID),
				browser.Settled(),
				chromedp.WaitVisible(chromedp.CSS("main")),
				browser.Settled(),
			)
			if phase == "proof" {
				s.do(
					chromedp.WaitVisible(chromedp.CSS("[data-finding]")),
					s.proven(),
					browser.Settled(),
					browser.Click(`//button[starts-with(., "What is looked for")]`),
					browser.Settled(),
				)
			}
			require.LessOrEqual(
				t,
				eval[int64](s, `document.documentElement.scrollHeight`),
				size[1],
				"%s: the header stays, its lists scroll",
				phase,
			)
			if phase == "direct" {
				s.do(browser.StageReady())
				for _, cue := range s.oneOfEachKind() {
					s.do(
						browser.Script(toBar(cue)),
						browser.Click(chromedp.CSS(`[data-cue="`+cue+`"]`)),
						browser.Settled(),
					)
				}
			}
		}
		s.do(chromedp.Navigate(s.url), browser.Settled())
	}
}

// At 200 % and at 400 % (1280 CSS pixels are 640 and 320 then, as WCAG 2.2's success criterion 1.4.10 has it)
// panels lie in drawers, one of which is open at a time, and low windows scroll.
func TestTheViewsAreLaidOutWhenZoomedIn(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	for _, size := range [][2]int64{{640, 400}, {320, 256}} {
		s.do(browser.Size(size[0], size[1]))
		s.do(chromedp.Navigate(s.url), browser.Settled())
		for _, phase := range []string{"prepare", "direct", "proof", "release"} {
			s.do(
				chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/"+phase+"/"+r.ID),
				browser.Settled(),
				chromedp.WaitVisible(chromedp.CSS("main")),
				browser.Settled(),
			)
			require.LessOrEqual(
				t,
				eval[int64](s, `document.documentElement.scrollWidth`),
				size[0],
				"nothing scrolls sideways",
			)
			if phase == "proof" {
				s.do(chromedp.WaitVisible(chromedp.CSS("[data-finding]")), s.proven(), browser.Settled())
			}
			if phase == "release" || phase == "proof" {
				continue
			}
			s.do(browser.StageReady())
			stage := eval[float64](s, `document.querySelector('canvas').getBoundingClientRect().width / innerWidth`)
			require.Greater(t, stage, 0.66, "the stage's share of the window's width")
			drawers := eval[[]string](s, `[...document.querySelectorAll('#panels button')].map((b) => b.textContent)`)
			require.NotEmpty(t, drawers)
			for _, name := range drawers {
				s.do(
					browser.Press(name),
					browser.Settled(),
					chromedp.WaitVisible(chromedp.CSS(`[data-drawer][aria-label="`+name+`"]`)),
				)
			}
		}
	}
}

// toBar scrolls the timeline to a cue's bar: only lanes that are in sight are there.
func toBar(cue string) string {
	return `(async () => {
		const timeline = document.querySelector('section[aria-label=Timeline] .scroll')
		for (let y = 0; y < timeline.scrollHeight; y += timeline.clientHeight / 3) {
			timeline.scrollTop = y
			await new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn)))
			const bar = document.querySelector('[data-cue="` + cue + `"]')
			if (bar) { bar.scrollIntoView({ block: 'center', inline: 'center' }); return true }
		}
		return false
	})()`
}

// oneOfEachKind are cues of the open reveal, the first of every kind.
func (s *stand) oneOfEachKind() []string {
	s.Helper()
	cues := eval[[]string](s, `(() => {
		const first = new Map()
		for (const step of slowReveal.state().doc.steps) for (const c of step.cues ?? []) if (!first.has(c.kind)) first.set(c.kind, c.id)
		return [...first.values()]
	})()`)
	require.GreaterOrEqual(s, len(cues), 8)
	return cues
}
