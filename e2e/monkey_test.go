package e2e

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"slowreveal/e2e/browser"
)

// deed is something that a hand does by chance. Numbers are shares (0…1) of what there is when it comes to
// be done, so that a sequence can be played again.
type deed struct {
	What string
	A, B float64
	Text string
	Page int // which of the pages does it
}

func (d deed) String() string {
	return fmt.Sprintf("page %d: %s %.3f %.3f %q", d.Page+1, d.What, d.A, d.B, d.Text)
}

// keys are those that do something, but for those that leave the page or fetch files.
var monkeyKeys = strings.Split(
	"p t u w f y d n r o a g i x l . j q z e v k s "+kb.ArrowLeft+" "+kb.ArrowRight+" "+kb.Home+" "+kb.End+" "+kb.Escape+" "+kb.Delete+" "+kb.Enter+" "+kb.Tab,
	" ",
)

func byChance(random *rand.Rand) deed {
	d := deed{A: random.Float64(), B: random.Float64()}
	if random.IntN(6) == 0 {
		d.Page = 1
	}
	switch n := random.IntN(21); {
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
	case n < 20:
		d.What, d.Text = "line", lines[random.IntN(len(lines))]
	default:
		d.What, d.Text = "phase", []string{"Prepare", "Direct", "Direct", "Proof", "Release"}[random.IntN(5)]
	}
	return d
}

// lines are how the line to the server may be for a while (faulty).
var lines = []string{
	`{lost: 1}`,
	`{lost: 2}`,
	`{late: 700}`,
	`{down: true}`,
	`{late: 0, down: false}`,
	`{late: 0, down: false}`,
}

// leave is what the monkey does not press: what leaves the page, fetches files, takes minutes or deletes for good.
const leave = `/^(All projects|Choose a file|File|Make |Draft|Delete|Read |Save it|Bring one in|Watch|Download|Go on|Stop|Remove the output|Order|Its proof|As a page|.*file.*)/i`

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

type monkey struct{ *stand }

func (m *monkey) aim(selector string, share float64) []float64 {
	m.Helper()
	var at []float64
	text := eval[string](
		m.stand,
		fmt.Sprintf(`JSON.stringify(%s(%q, %g))`, strings.ReplaceAll(aim, "LEAVE", leave), selector, share),
	)
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
	act := func(actions ...browser.Action) {
		var before, after float64
		m.do(
			append(append([]browser.Action{scriptTime(&before)}, actions...), browser.Settled(), scriptTime(&after))...)
		if after-before > 1 {
			m.Errorf("the page's own script took %.1f s", after-before)
		}
	}
	click := func(selector string) {
		if x, y, ok := middle(selector); ok {
			act(chromedp.MouseClickXY(x, y))
		}
	}
	switch d.What {
	case "line":
		act(line(d.Text))
	case "press":
		click(`button, a[href], [role=menuitem], [role=option], [role=radio], [role=combobox]`)
	case "pick":
		click(`[role=treeitem]`)
	case "bar":
		click(`[data-cue]`)
	case "seek":
		click(`[data-ruler], [aria-label^="Go to step"]`)
	case "key":
		act(chromedp.KeyEvent(d.Text))
	case "undo":
		act(ctrl("z"))
	case "redo":
		act(chromedp.KeyEvent("z", chromedp.KeyModifiers(chromedp.ModifierCtrl|chromedp.ModifierShift)))
	case "type":
		if x, y, ok := middle(`input:not([type=file]), textarea`); ok {
			act(chromedp.MouseClickXY(x, y), ctrl("a"), chromedp.KeyEvent(d.Text+kb.Enter))
		}
	case "drag bar":
		if x, y, ok := middle(`[data-cue]`); ok {
			act(chromedp.DragAndDropXY(x, y, x+200*(d.B-0.5), y, 4))
		}
	case "look":
		if r := m.aim("canvas", 0); r != nil {
			x, y := r[0]+r[2]*(0.15+0.3*d.A), r[1]+r[3]*(0.3+0.3*d.B)
			act(chromedp.DragAndDropXY(x, y, x+60*(d.B-0.5), y+40*(d.A-0.5), 4))
		}
	case "phase":
		act(
			chromedp.KeyEvent(kb.Escape),
			browser.Script(
				fmt.Sprintf(
					`(() => { [...document.querySelectorAll('nav[aria-label=Phases] a')].find(a => a.textContent.startsWith(%q))?.click(); return true })()`,
					d.Text,
				),
			),
		)
	}
}
