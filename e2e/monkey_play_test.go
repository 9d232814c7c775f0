package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/heapprofiler"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/demo"
	"slowreveal/e2e/browser"
	"slowreveal/e2e/stranger"
	"slowreveal/formats/gltf"
	"slowreveal/store"
)

// monkeyEars note what goes wrong in the page without being seen: errors of scripts, and requests that fail in a way
// that nobody is told of.
const monkeyEars = `(() => {
	window.heard = []
	window.addEventListener('error', (e) => heard.push('error: ' + e.message + ' ' + (e.error?.stack ?? '').slice(0, 900)))
	window.addEventListener('unhandledrejection', (e) => heard.push('rejection: ' + (e.reason?.message ?? e.reason)))
	const error = console.error
	console.error = (...a) => { heard.push('console: ' + a.map(String).join(' ').slice(0, 300)); error(...a) }
	const real = window.fetch.bind(window)
	window.fetch = async (q, o) => {
		const reply = await real(q, o)
		// Who clashes or is refused is told; what is busy is asked again.
		if (reply.status >= 400 && ![409, 422, 503].includes(reply.status)) heard.push(reply.status + ' ' + (q.url ?? q))
		return reply
	}
	return true
})()`

// scriptTime reads how long the page's scripts have run, in seconds of processor time.
func scriptTime(into *float64) browser.Action {
	return func(ctx context.Context, t *chromedp.Target) (none chromedp.Void, err error) {
		*into, err = scriptSeconds(ctx, t)
		return none, err
	}
}

// enter opens a reveal in a page whose line and memory are watched.
func (m *monkey) enter(r store.StoredReveal) {
	m.Helper()
	m.do(
		chromedp.Navigate(m.url),
		browser.Settled(),
		browser.Script(counting),
		browser.Script(faulty),
		browser.Script(monkeyEars),
	)
	m.visit("/p/" + r.ProjectID + "/direct/" + r.ID)
	m.do(browser.StageReady())
}

func (m *monkey) visit(path string) {
	m.Helper()
	m.do(
		browser.Script(
			fmt.Sprintf(
				`(() => { history.pushState(null, '', %q); dispatchEvent(new PopStateEvent('popstate')); return true })()`,
				path,
			),
		),
		browser.Settled(),
	)
}

// ears fail the test with what has been heard.
func (m *monkey) ears() {
	m.Helper()
	if heard := eval[string](m.stand, `(window.heard ?? []).splice(0).join('\n')`); heard != "" {
		m.Errorf("the page has gone wrong:\n%s", heard)
	}
}

// honest fails the test where the page says “Saved” of a document that is not the stored one, for longer than
// news takes to come from elsewhere.
func (m *monkey) honest() {
	m.Helper()
	var said struct {
		Doc      *json.RawMessage
		Saving   string
		RevealID string
	}
	var stored, shown string
	for range 60 {
		require.NoError(m, json.Unmarshal([]byte(eval[string](m.stand, `JSON.stringify(slowReveal.state())`)), &said))
		if said.Saving != "saved" || said.Doc == nil || said.RevealID == "" || string(*said.Doc) == "null" {
			return
		}
		now, err := m.store.Reveal(context.Background(), said.RevealID)
		require.NoError(m, err)
		kept, err := reveal.Parse([]byte(now.Document))
		require.NoError(m, err)
		there, err := reveal.Parse(*said.Doc)
		require.NoError(m, err)
		if stored, shown = string(reveal.Write(kept)), string(reveal.Write(there)); stored == shown {
			return
		}
		time.Sleep(150 * time.Millisecond)
	}
	m.Errorf(
		"the page says that all is saved, but what is stored is another document:\n%s\nit shows:\n%s",
		stored,
		shown,
	)
}

// held is what a page holds when nothing is open: MB of JavaScript's heap, and of the core's memory, which never
// becomes less.
func (m *monkey) held() (heap, memory float64) {
	m.Helper()
	m.do(chromedp.KeyEvent(kb.Escape), chromedp.KeyEvent(kb.Escape))
	m.visit("/")
	require.Eventually(
		m,
		func() bool { return eval[int](m.stand, `held().length`) == 0 },
		20*time.Second,
		200*time.Millisecond,
		"the stage's context is given up",
	)
	ctx, cancel := context.WithTimeout(m.ctx, time.Minute)
	defer cancel()
	_, err := chromedp.Call(ctx, heapprofiler.CollectGarbage, cdp.Empty{})
	require.NoError(m, err)
	used, err := chromedp.Call(ctx, runtime.GetHeapUsage, cdp.Empty{})
	require.NoError(m, err)
	return used.UsedSize / 1e6, eval[float64](m.stand, `slowReveal.state().memory`)
}

// settle mends the line and waits until everything is stored.
func (m *monkey) settle() {
	m.Helper()
	m.do(
		line(`{lost: 0, late: 0, down: false}`),
		chromedp.KeyEvent(kb.Escape),
		chromedp.KeyEvent(kb.Escape),
		browser.Script(
			`(() => { document.querySelectorAll('header button').forEach((b) => b.textContent === 'Save now' && b.click()); window.dispatchEvent(new Event('online')); return true })()`,
		),
		browser.Saved(),
	)
}

// play does deeds one after the other, in two pages of one reveal, and looks after each; afterwards everything can
// be taken back to the first document, byte for byte, and nothing has grown.
func play(t *testing.T, pages []*stand, r store.StoredReveal, deeds []deed, played *int) {
	monkeys := make([]*monkey, len(pages))
	for i, s := range pages {
		monkeys[i] = &monkey{stand: s}
		monkeys[i].enter(r)
	}
	at := "/p/" + r.ProjectID + "/direct/" + r.ID
	var before, memory float64
	for i, d := range deeds {
		*played = i
		m := monkeys[d.Page%len(monkeys)]
		m.try(d)
		m.ears()
		m.honest()
		if t.Failed() {
			t.Fatalf("deed %d: %v", i+1, d)
		}
		if i == len(deeds)/4 { // what is kept for good is there by now
			monkeys[0].settle() // a project is not opened again while changes of it are on their way
			before, memory = monkeys[0].held()
			monkeys[0].visit(at)
			monkeys[0].do(browser.StageReady())
		}
	}
	for _, m := range monkeys {
		m.settle()
	}
	for _, m := range monkeys {
		m.honest()
	}
	after, most := monkeys[0].held()
	t.Logf(
		"JavaScript's heap after a quarter and after all: %.1f and %.1f MB; the core's memory: %.1f and %.1f MB",
		before,
		after,
		memory,
		most,
	)
	assert.Less(t, after, 1.25*before+8, "the heap has grown, MB")
	assert.Less(t, most, 1.5*memory+8, "the core's memory has grown, MB")
	takenBack(t, pages[0].authoring, r)
}

// takenBack has everybody undo everything, the last change first: what is there then is the first
// document, byte for byte.
func takenBack(t *testing.T, s *authoring.Service, r store.StoredReveal) {
	t.Helper()
	var people []string
	require.NoError(t, s.Store.SQL().Select(&people, `select distinct person from entries where reveal_id = $1`, r.ID))
	for {
		var last authoring.On
		var of int64
		for _, person := range people {
			m, err := s.Store.Marks(context.Background(), r.ID, person, store.NoVersion)
			require.NoError(t, err)
			if m.UndoTo > of {
				last, of = authoring.On{Person: person}, m.UndoTo
			}
		}
		now, err := s.Store.Reveal(context.Background(), r.ID)
		require.NoError(t, err)
		if of == 0 {
			first, last := mustParse(t, r.Document), mustParse(t, now.Document)
			require.Equal(t, string(reveal.Write(first)), string(reveal.Write(last)))
			return
		}
		last.Base = now.Version
		_, err = s.Undo(context.Background(), r.ID, last, 0)
		require.NoError(t, err)
	}
}

// assemblyOf is what a monkey is let loose on.
func assemblyOf(t *testing.T, name string) *product.Model {
	t.Helper()
	parts := map[string]int{"flat": 120, "thousand": 1000}[name]
	if parts == 0 {
		_, model := pumpFile(t)
		return model
	}
	glb, err := stranger.GLB(parts, 3)
	require.NoError(t, err)
	model, err := gltf.Read(glb, name)
	require.NoError(t, err)
	return model
}

// begun is a reveal of a stranger with something in it.
func begun(m *product.Model) *reveal.Reveal {
	r := reveal.New("By chance", film.FirstLook(m.Assembly))
	for i, title := range []string{"Apart", "Look", "Step 3"} {
		r.Steps = append(
			r.Steps,
			reveal.Step{
				ID:       reveal.StepID(title),
				Title:    title,
				Duration: 4 * reveal.Second,
				Cues: []reveal.Cue{{ID: reveal.CueID(fmt.Sprint("c", i)), Kind: reveal.KindPull,
					Targets: []assembly.NodeID{
						m.Assembly.Nodes[7+i].ID,
						m.Assembly.Nodes[20+i].ID,
					}, Duration: 2 * reveal.Second, Stagger: reveal.Second / 2, Easing: reveal.Smooth, Pull: &reveal.Pull{Axes: reveal.AssemblyAxes, Along: space.Vec3{0, 1, 0}, Distance: 200}}},
			},
		)
	}
	return r
}

// shortest leaves out deeds as long as it still goes wrong, in processes of their own: each begins anew.
func shortest(t *testing.T, deeds []deed) []deed {
	fails := func(deeds []deed) bool {
		text, err := json.Marshal(deeds)
		require.NoError(t, err)
		file := filepath.Join(t.TempDir(), "deeds.json")
		require.NoError(t, os.WriteFile(file, text, 0o644))
		again := exec.Command(os.Args[0], "-test.run", "^TestAMonkey$", "-test.timeout", "20m")
		again.Env = append(os.Environ(), "SLOWREVEAL_DEEDS="+file)
		return again.Run() != nil
	}
	end := time.Now().Add(20 * time.Minute)
	for size := len(deeds) / 2; size > 0; size /= 2 {
		for from := 0; from+size < len(deeds) && time.Now().Before(end); { // the last one is what failed
			if less := append(append([]deed{}, deeds[:from]...), deeds[from+size:]...); fails(less) {
				deeds = less
			} else {
				from += size
			}
		}
	}
	return deeds
}

// A monkey presses, types, drags and keys whatever there is, on a line that fails now and then; in two windows when it
// plays longer.
// SLOWREVEAL_MONKEY=seed,count,assembly plays other sequences, on the example or on one that is “flat” or has a
// “thousand” parts; a failure prints the shortest sequence that still goes wrong, which SLOWREVEAL_DEEDS=file plays.
func TestAMonkey(t *testing.T) {
	atLength(t)
	seed, count, on := uint64(1), 100, "demo"
	if testing.Short() {
		count = 40
	}
	if text := os.Getenv("SLOWREVEAL_MONKEY"); text != "" {
		fields := strings.Split(text+",,", ",")
		var err error
		seed, err = strconv.ParseUint(fields[0], 10, 64)
		require.NoError(t, err)
		count, err = strconv.Atoi(fields[1])
		require.NoError(t, err)
		on = fields[2]
	}
	random := rand.New(rand.NewPCG(seed, 0))
	deeds := make([]deed, count)
	for i := range deeds {
		deeds[i] = byChance(random)
	}
	replayed := os.Getenv("SLOWREVEAL_DEEDS")
	if replayed != "" {
		text, err := os.ReadFile(replayed)
		require.NoError(t, err)
		require.NoError(t, json.Unmarshal(text, &deeds))
	}
	t.Logf("seed %d, %d deeds on %s", seed, len(deeds), on)
	played := 0
	t.Cleanup(func() { // after the browsers have gone
		if t.Failed() && replayed == "" {
			t.Logf("seed %d, the deeds until then:\n%s", seed, asJSON(deeds[:min(played+1, len(deeds))]))
			if os.Getenv("SLOWREVEAL_MONKEY") != "" && os.Getenv("SLOWREVEAL_SHRINK") != "no" {
				t.Logf(
					"the shortest sequence that was found:\n%s",
					asJSON(shortest(t, deeds[:min(played+1, len(deeds))])),
				)
			}
		}
	})
	s := newStand(t)
	model := assemblyOf(t, on)
	p, err := s.authoring.CreateProject(context.Background(), "Monkey", on+".glb", model)
	require.NoError(t, err)
	doc := demo.Teardown(demo.Pump().Assembly)
	if on == "flat" || on == "thousand" {
		doc = begun(model)
	}
	r, err := s.authoring.CreateReveal(context.Background(), p.ID, doc)
	require.NoError(t, err)
	pages := []*stand{s}
	if os.Getenv("SLOWREVEAL_MONKEY") != "" { // a second window takes as much time again
		ctx, closeBrowser := browser.New(context.Background(), 1280, 800)
		defer closeBrowser()
		require.NoError(t, chromedp.Do(ctx))
		require.NoError(t, browser.Within(ctx, time.Minute, browser.Size(1280, 800)))
		pages = append(pages, &stand{t, ctx, s.url, s.authoring, s.store})
	}
	play(t, pages, r, deeds, &played)
}

func asJSON(deeds []deed) string {
	text, _ := json.Marshal(deeds)
	return string(text)
}
