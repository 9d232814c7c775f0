package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/e2e/browser"
	"slowreveal/store"
)

// deed is something that a hand does by chance. Numbers are shares (0…1) of what there is when it comes to
// be done, so that a sequence can be played again.
type deed struct {
	What string
	A, B float64
	Text string
}

func (d deed) String() string { return fmt.Sprintf("%s %.3f %.3f %q", d.What, d.A, d.B, d.Text) }

// keys are those that do something, but for those that leave the page or fetch files.
var monkeyKeys = strings.Split("p t u w f y d n r o a g i x l . j q z e v k s "+kb.ArrowLeft+" "+kb.ArrowRight+" "+kb.Home+" "+kb.End+" "+kb.Escape+" "+kb.Delete+" "+kb.Enter+" "+kb.Tab, " ")

func byChance(random *rand.Rand) deed {
	d := deed{A: random.Float64(), B: random.Float64()}
	switch n := random.IntN(20); {
	case n < 6:
		d.What = "press"
	case n < 8:
		d.What, d.Text = "key", monkeyKeys[random.IntN(len(monkeyKeys))]
	case n < 10:
		d.What = "pick"
	case n < 12:
		d.What, d.Text = "type", []string{"12", "-3.5", "2*7", "1e9", "abc", "", "0", "90°", "Öl 部品"}[random.IntN(9)]
	case n < 14:
		d.What = "bar"
	case n < 15:
		d.What = "drag bar"
	case n < 16:
		d.What = "look"
	case n < 17:
		d.What = "seek"
	case n < 18:
		d.What = "undo"
	case n < 19:
		d.What = "redo"
	default:
		d.What, d.Text = "phase", []string{"Prepare", "Direct", "Direct", "Release"}[random.IntN(4)]
	}
	return d
}

// leave is what the monkey does not press: what leaves the page, fetches files, takes minutes or deletes for good.
const leave = `/^(All projects|Choose a file|File|Make |Draft|Delete|Read |Save it|Bring one in|Watch|Download|Go on|Stop|Remove the output|Order|.*file.*)/i`

// aim finds the place of what a deed is done to, among what is there just now.
const aim = `((selector, share) => {
	const open = document.querySelector('[role=dialog], [role=menu], [role=listbox]:not(#found)')
	const list = [...(open ?? document).querySelectorAll(selector)].filter((e) => {
		if (!e.checkVisibility({ opacityProperty: true, visibilityProperty: true }) || e.disabled || e.closest('.sr-only')) return false
		const name = (e.getAttribute('aria-label') || e.textContent || '').trim()
		if (LEAVE.test(name)) return false
		const r = e.getBoundingClientRect()
		const at = document.elementFromPoint(r.left + r.width / 2, r.top + r.height / 2)
		return at && (e === at || e.contains(at) || at.contains(e))
	})
	const e = list[Math.floor(share * list.length)]
	if (!e) return null
	const r = e.getBoundingClientRect()
	return [r.left, r.top, r.width, r.height]
})`

type monkey struct {
	*stand
	reveal string
}

func (m *monkey) aim(selector string, share float64) []float64 {
	m.Helper()
	var at []float64
	text := eval[string](m.stand, fmt.Sprintf(`JSON.stringify(%s(%q, %g))`, strings.ReplaceAll(aim, "LEAVE", leave), selector, share))
	require.NoError(m, json.Unmarshal([]byte(text), &at))
	return at
}

// try does a deed; what is not there is not done.
func (m *monkey) try(d deed) {
	m.Helper()
	middle := func(selector string) (x, y float64, ok bool) {
		r := m.aim(selector, d.A)
		if r == nil {
			return 0, 0, false
		}
		return r[0] + r[2]/2, r[1] + r[3]/2, true
	}
	click := func(selector string) {
		if x, y, ok := middle(selector); ok {
			m.do(chromedp.MouseClickXY(x, y), browser.Settled())
		}
	}
	switch d.What {
	case "press":
		click(`button, a[href], [role=menuitem], [role=option], [role=radio], [role=combobox]`)
	case "pick":
		click(`[role=treeitem]`)
	case "bar":
		click(`[data-cue]`)
	case "seek":
		click(`[data-ruler], [aria-label^="Go to step"]`)
	case "key":
		m.do(chromedp.KeyEvent(d.Text), browser.Settled())
	case "undo":
		m.do(ctrl("z"), browser.Settled())
	case "redo":
		m.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(chromedp.ModifierCtrl|chromedp.ModifierShift)), browser.Settled())
	case "type":
		if x, y, ok := middle(`input:not([type=file]), textarea`); ok {
			m.do(chromedp.MouseClickXY(x, y), ctrl("a"), chromedp.KeyEvent(d.Text+kb.Enter), browser.Settled())
		}
	case "drag bar":
		if x, y, ok := middle(`[data-cue]`); ok {
			m.do(chromedp.DragAndDropXY(x, y, x+200*(d.B-0.5), y, 4), browser.Settled())
		}
	case "look":
		if r := m.aim("canvas", 0); r != nil {
			x, y := r[0]+r[2]*(0.15+0.3*d.A), r[1]+r[3]*(0.3+0.3*d.B)
			m.do(chromedp.DragAndDropXY(x, y, x+60*(d.B-0.5), y+40*(d.A-0.5), 4), browser.Settled())
		}
	case "phase":
		m.do(chromedp.KeyEvent(kb.Escape), browser.Script(fmt.Sprintf(`(() => { [...document.querySelectorAll('nav[aria-label=Phases] a')].find(a => a.textContent === %q)?.click(); return true })()`, d.Text)), browser.Settled())
	}
}

// listen notes what goes wrong in the page without being seen: errors of scripts, and requests that fail.
const monkeyEars = `(() => {
	window.heard = []
	window.addEventListener('error', (e) => heard.push('error: ' + e.message))
	window.addEventListener('unhandledrejection', (e) => heard.push('rejection: ' + (e.reason?.message ?? e.reason)))
	const error = console.error
	console.error = (...a) => { heard.push('console: ' + a.map(String).join(' ').slice(0, 300)); error(...a) }
	const real = window.fetch.bind(window)
	window.fetch = async (q, o) => {
		const reply = await real(q, o)
		if (reply.status >= 500) heard.push(reply.status + ' ' + (q.url ?? q))
		return reply
	}
	return true
})()`

func (m *monkey) ears() {
	m.Helper()
	if heard := eval[string](m.stand, `(window.heard ?? []).splice(0).join('\n')`); heard != "" {
		m.Errorf("the page has gone wrong:\n%s", heard)
	}
}

// play does deeds one after the other on a reveal of its own and looks after each; afterwards what is stored
// is what its log makes.
func play(t *testing.T, s *stand, r store.StoredReveal, deeds []deed) {
	m := &monkey{s, r.ID}
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady(), browser.Script(monkeyEars))
	for i, d := range deeds {
		m.try(d)
		m.ears()
		if t.Failed() {
			var done []string
			for _, d := range deeds[:i+1] {
				done = append(done, d.String())
			}
			t.Fatalf("deed %d: %v\nall of them:\n%s", i+1, d, strings.Join(done, "\n"))
		}
	}
	s.do(chromedp.KeyEvent(kb.Escape), chromedp.KeyEvent(kb.Escape), browser.Script(`(() => { [...document.querySelectorAll('nav[aria-label=Phases] a')].find(a => a.textContent === 'Direct')?.click(); return true })()`), browser.Settled(), browser.Saved())
	doc, _ := s.document(r.ID)
	require.NotNil(t, doc)
	page := eval[string](s, `slowReveal.report(40, true).then(x => JSON.stringify(x?.doc ?? null))`)
	if page != "null" {
		shown, err := reveal.Parse([]byte(page))
		require.NoError(t, err)
		require.Equal(t, string(reveal.Write(doc)), string(reveal.Write(shown)), "what the page shows is what is stored")
	}
	// Undo takes everything back to the first document, byte for byte.
	require.Eventually(t, func() bool {
		now, err := s.store.Reveal(context.Background(), r.ID)
		require.NoError(t, err)
		if now.UndoTo == 0 {
			return true
		}
		_, err = s.store.Undo(context.Background(), r.ID, store.On{Base: now.Version})
		require.NoError(t, err)
		return false
	}, 2*time.Minute, time.Millisecond)
	now, err := s.store.Reveal(context.Background(), r.ID)
	require.NoError(t, err)
	first, err := reveal.Parse([]byte(r.Document))
	require.NoError(t, err)
	last, err := reveal.Parse([]byte(now.Document))
	require.NoError(t, err)
	require.Equal(t, string(reveal.Write(first)), string(reveal.Write(last)))
}

// A monkey presses, types, drags and keys whatever there is. SLOWREVEAL_MONKEY=seed,count plays other
// sequences; a failure prints the seed and what was done.
func TestAMonkey(t *testing.T) {
	seed, count := uint64(1), 100
	if text := os.Getenv("SLOWREVEAL_MONKEY"); text != "" {
		a, b, _ := strings.Cut(text, ",")
		var err error
		seed, err = strconv.ParseUint(a, 10, 64)
		require.NoError(t, err)
		count, err = strconv.Atoi(b)
		require.NoError(t, err)
	}
	s := newStand(t)
	_, model := pumpFile(t)
	p, err := s.store.CreateProject(context.Background(), "Monkey", "dp-40.glb", model)
	require.NoError(t, err)
	r, err := s.store.CreateReveal(context.Background(), p.ID, demo.Teardown(model.Assembly))
	require.NoError(t, err)
	random := rand.New(rand.NewPCG(seed, 0))
	deeds := make([]deed, count)
	for i := range deeds {
		deeds[i] = byChance(random)
	}
	t.Logf("seed %d, %d deeds", seed, count)
	play(t, s, r, deeds)
}
