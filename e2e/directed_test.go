package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/e2e/browser"
)

// The example's teardown, directed from an empty reveal by hand, each tool by mouse or
// key: a hinged door, screws unscrewed one after the other, a cover, a tube on a
// route with its flow line, a note, staggered fades, a peel of the gear stage, an
// orbit, a close shot, and all of it backwards.
func TestTheExampleIsDirectedByHand(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.empty()
	key := func(k string, mods ...chromedp.Modifier) browser.Action {
		var options []chromedp.KeyOption
		for _, m := range mods {
			options = append(options, chromedp.KeyModifiers(m))
		}
		return chromedp.Steps(chromedp.KeyEvent(k, options...), browser.Settled(), browser.Saved())
	}
	way := func(label string) browser.Action {
		return browser.Click(`//button[@role="radio" and starts-with(@aria-label, "` + label + `")]`)
	}
	s.do(
		pickOf("door", "Door"),
		way("+Y"),
		key("t"),
		enter("Angle", "-112"),
		enter("Pivot X", "0"),
		enter("Pivot Y", "0"),
		enter("Pivot Z", "0"),
		key("."),
	)
	s.do(
		pickOf("cover screw", "Cover screw M3 × 12"),
		key("a"),
		key("u"),
		enter("Turns", "16"),
		key("g", chromedp.ModifierShift),
		browser.Press("then straight out"),
		browser.Settled(),
		browser.Saved(),
		key("."),
	)
	s.do(pickOf("rotor cover", "Rotor cover"), way("+Z"), key("p"), key("f"), enter("Opacity", "0"), key("."))
	s.do(
		pickOf("tube", "Tube 6.4 × 9"),
		browser.Press("Route"),
		browser.Settled(),
		browser.Saved(),
		choose("Leg 2 along", "−X"),
		enter("Leg 2 distance", "34"),
		enter("Corners", "24"),
		choose("Flow line", "one for each target"),
	)
	s.do(pickOf("roller", "Roller"), key("n"), key("."))
	s.do(
		pickOf("foot", "Foot"),
		key("a"),
		browser.Press("Fade"),
		browser.Settled(),
		browser.Saved(),
		enter("Opacity", "0"),
		enter("Each later by", "0.1"),
		key("."),
	)
	s.do(
		find("gear"),
		browser.Click(row("Sun gear, 12 teeth", 1)),
		clickWith(row("Ring gear, 48 teeth", 1), chromedp.ModifierCtrl),
		browser.Click(
			`//button[@role="radio" or @data-state][normalize-space(.)="Group"]`,
		),
		way("−Z"),
		enter("Distance of the move", "28"),
		browser.Click(tool("Peel")),
		browser.Settled(),
		browser.Saved(),
		key("."),
	)
	s.do(
		key("z"),
		key("s"),
		key("."),
		browser.Click(tool("Orbit")),
		browser.Settled(),
		browser.Saved(),
		key("b", chromedp.ModifierCtrl),
	)
	doc, _ := s.document(r.ID)
	require.Len(t, doc.Steps, 3, "the work, a pause, the way back")
	kinds := map[reveal.Kind]int{}
	for _, c := range doc.Steps[0].Cues {
		kinds[c.Kind]++
	}
	assert.Equal(
		t,
		map[reveal.Kind]int{
			reveal.KindTurn:    1,
			reveal.KindUnscrew: 1,
			reveal.KindPull:    4,
			reveal.KindFade:    2,
			reveal.KindRoute:   1,
			reveal.KindNote:    1,
			reveal.KindShot:    1,
			reveal.KindOrbit:   1,
		},
		kinds,
	)
	_, m := pumpFile(t)
	f := film.Compile(m.Assembly, doc)
	first, middle, last := f.NewFrame(), f.NewFrame(), f.NewFrame()
	f.At(0, first)
	f.At(doc.Steps[0].Duration, middle)
	f.At(f.Duration(), last)
	index := m.Assembly.Index()
	at := func(fr *film.Frame, node string) (x, y, z float64) {
		w := fr.World[index[nodeID(node)]].T
		return w.X, w.Y, w.Z
	}
	x0, _, z0 := at(first, "pump-head/tube-6.4-9")
	x1, _, z1 := at(middle, "pump-head/tube-6.4-9")
	assert.InDelta(t, -34, x1-x0, 1e-6)
	assert.Greater(t, z1-z0, 20.0)
	_, _, sun0 := at(first, "planet-stage/sun-gear-12-teeth")
	_, _, sun1 := at(middle, "planet-stage/sun-gear-12-teeth")
	_, _, ring0 := at(first, "planet-stage/ring-gear-48-teeth")
	_, _, ring1 := at(middle, "planet-stage/ring-gear-48-teeth")
	assert.InDelta(t, -56, sun1-sun0, 1e-6, "picked first, so it is outside and carried by the other")
	assert.InDelta(t, -28, ring1-ring0, 1e-6)
	assert.Equal(t, first.World, last.World)
	assert.Equal(t, first.Opacity, last.Opacity)
	assert.Equal(t, first.Camera, last.Camera)
}

func nodeID(id string) assembly.NodeID { return assembly.NodeID(id) }
