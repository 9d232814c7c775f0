package e2e

import (
	"context"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/demo"
	"slowreveal/e2e/browser"
)

// slide sets the slider of the joint that is tried out.
func slide(value string) browser.Action {
	return browser.Script(`(() => {
		const e = document.querySelector('input[type=range][aria-label="Value of the joint"]')
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(e, ` + value + `)
		return e.dispatchEvent(new Event('input', { bubbles: true }))
	})()`)
}

// An assembly without joints gets those that its shapes offer; one is tried out, with what follows it on the stage; then a
// part that is picked is run, driven on and stopped in Direct, undone, and there again after a reload.
func TestAMechanismByHand(t *testing.T) {
	s := newStand(t)
	m := demo.Pump()
	m.Assembly.Joints, m.Assembly.Couplings = nil, nil
	p, err := s.authoring.CreateProject(context.Background(), "Without joints", "dp-40.glb", m)
	require.NoError(t, err)
	reveals, err := s.store.Reveals(context.Background(), p.ID)
	require.NoError(t, err)
	id := reveals[0].ID
	s.do(
		chromedp.Navigate(s.url+"/p/"+p.ID+"/prepare/"+id),
		browser.StageReady(),
		browser.Click(`//*[@role="radio" and normalize-space(.)="Joints"]`),
		chromedp.WaitVisible(`//section[@aria-label="Joints found by their shapes"]`),
		browser.Click(`//button[starts-with(normalize-space(.), "Take all")]`),
		browser.Saved(),
		chromedp.WaitVisible(`//section[@aria-label="Joints"]//button[contains(., "Carrier and shaft")]`),
	)
	arrangement, _ := s.arranged(p.ID)
	require.NotEmpty(t, arrangement.Version)
	// The carrier is tried out: planets follow by their teeth.
	s.do(
		browser.Click(`//section[@aria-label="Joints"]//button[contains(., "turns on Bearing 608")]`),
		chromedp.WaitVisible(`//section[@aria-label="Try it"]`),
		slide("72"),
		browser.Settled(),
		chromedp.WaitVisible(`//dl[@aria-label="What follows"]//dd[.="−192°"]`), // −48/18 · 72°: it rolls in the ring
		slide("-100"),
		browser.Settled(),
		browser.Click(chromedp.CSS(`button[aria-label="Back to rest"]`)),
		browser.Settled(),
	)
	// A joint of one's own: the dosing knob on the front panel.
	s.do(
		find("dosing knob"), browser.Click(row("Dosing knob", 1)),
		browser.Click(tool("New joint of what is picked")),
		browser.Saved(),
		chromedp.WaitVisible(`//section[@aria-label="Try it"]`),
		slide("40"),
		browser.Settled(),
		choose("Kind of joint", "Fixed"),
		choose("Kind of joint", "Revolute: turns"),
	)
	a := s.assembly(p.ID)
	knob := a.Joints[len(a.Joints)-1]
	assert.Equal(t, assembly.NodeID("housing/dosing-knob"), knob.Body)
	assert.Equal(t, assembly.Revolute, knob.Kind)
	// In Direct whatever is picked of the train drives it.
	s.do(
		chromedp.Navigate(s.url+"/p/"+p.ID+"/direct/"+id),
		browser.StageReady(),
		find("carrier"), browser.Click(row("Carrier and shaft", 1)),
		browser.Press("Run"), browser.Saved(), browser.Settled(),
	)
	doc, _ := s.document(id)
	c := last(t, doc, reveal.KindDrive)
	assert.True(t, c.Drive.Ongoing)
	assert.Equal(t, 30.0, *c.Drive.Speed)
	s.do(
		chromedp.WaitVisible(chromedp.CSS(`svg[aria-label="Value, speed and acceleration of the joint"]`)),
		browser.Click(`//*[@role="radio" and normalize-space(.)="By"]`), browser.Saved(),
		enter("By", "2 turns"), browser.Saved(),
		chromedp.KeyEvent("."), browser.Settled(), // the playhead goes to its end, and the stage is looked at there
	)
	doc, _ = s.document(id)
	c = last(t, doc, reveal.KindDrive)
	require.NotNil(t, c.Drive.By)
	assert.Equal(t, 720.0, *c.Drive.By)
	assert.Nil(t, c.Drive.Speed)
	s.do(chromedp.Reload(), browser.StageReady())
	again, _ := s.document(id)
	assert.Equal(t, doc, again)

	// A planet's carrier is pulled off while it turns: it leaves what drives it, and what it drove is named.
	s.do(
		chromedp.KeyEvent(kb.Home), browser.Settled(),
		find("carrier"), browser.Click(row("Carrier and shaft", 1)),
		browser.Press("Pull"), browser.Saved(), browser.Settled(),
		choose("What becomes of what is driven", "stops"), browser.Saved(), browser.Settled(),
		chromedp.WaitVisible(`//p[contains(., "It leaves what drives it")]`),
		chromedp.KeyEvent("."), browser.Settled(),
	)
	shot(s, "leaves")
	doc, _ = s.document(id)
	assert.Equal(t, reveal.LeavesStopping, last(t, doc, reveal.KindPull).Leaves)
}

// assembly is the project's as it is arranged.
func (s *stand) assembly(project string) *assembly.Assembly {
	s.Helper()
	r, err := s.store.Revision(context.Background(), project)
	require.NoError(s, err)
	a, _, err := s.authoring.Arranged(context.Background(), r.ID)
	require.NoError(s, err)
	return a
}

// A part on a joint is dragged on the stage, and the whole linkage with it.
func TestALinkageIsDraggedOnTheStage(t *testing.T) {
	atLength(t)
	s := newStand(t)
	m := demo.Applicator()
	p, err := s.authoring.CreateProject(context.Background(), "Applicator", "la-3.glb", m)
	require.NoError(t, err)
	reveals, err := s.store.Reveals(context.Background(), p.ID)
	require.NoError(t, err)
	s.do(
		chromedp.Navigate(s.url+"/p/"+p.ID+"/prepare/"+reveals[0].ID),
		browser.StageReady(),
		find("cover"), browser.Click(row("Cover", 1)), chromedp.KeyEvent("x"), browser.Settled(),
		browser.Click(`//*[@role="radio" and starts-with(normalize-space(.), "Joints")]`),
		browser.Press("Front"), browser.Settled(),
	)
	// The stamp is at the foot of its rod; the author's eye looks along −Z.
	index := m.Assembly.Index()
	at := m.Assembly.Worlds()[index["stamp-rod"]]
	foot := m.Assembly.Shapes[m.Assembly.Nodes[index["stamp-rod"]].Shape].Bounds()
	camera := s.camera()
	box := eval[[4]float64](
		s,
		`(() => { const r = document.querySelector('#stage canvas, canvas').getBoundingClientRect(); return [r.left, r.top, r.width, r.height] })()`,
	)
	sight := film.ProjectionOf(camera, box[2]/box[3])
	pixel := func(q space.Vec) (x, y float64) {
		u, v, _ := sight.Project(at.Apply(q))
		return box[0] + u*box[2], box[1] + v*box[3]
	}
	grip := space.Vec{X: foot.Min.X + 4.5, Y: foot.Min.Y + 12, Z: foot.Max.Z}
	x0, y0 := pixel(grip)
	x1, y1 := pixel(space.Vec{X: grip.X, Y: grip.Y - 14, Z: grip.Z})
	s.do(
		chromedp.MouseEvent(chromedp.MousePressed, x0, y0, chromedp.ButtonLeft),
		chromedp.MouseEvent(chromedp.MouseMoved, (x0+x1)/2, (y0+y1)/2, chromedp.ButtonLeft),
		chromedp.MouseEvent(chromedp.MouseMoved, x1, y1, chromedp.ButtonLeft),
		chromedp.MouseEvent(chromedp.MouseReleased, x1, y1, chromedp.ButtonLeft),
		chromedp.WaitVisible(`//section[@aria-label="Try it"]`),
		browser.Settled(),
		chromedp.WaitVisible(`//dl[@aria-label="What follows"]//dt[.="Main shaft"]`),
	)
	turned := eval[string](
		s,
		`[...document.querySelectorAll('dl[aria-label="What follows"] dt')].find((e) => e.textContent === 'Main shaft').nextSibling.textContent`,
	)
	assert.NotEqual(t, "0°", turned)
	assert.Equal(t, camera, s.camera(), "the view stays")

	// The table of its cam is read from the outlines: it is there as rows that can still be changed, and ties the joints.
	table := `textarea[aria-label="Table of the cam"]`
	s.do(
		browser.Click(`//button[@aria-pressed][contains(., "Peeling blade")]`), browser.Settled(),
		browser.Click(`//button[starts-with(@aria-label, "Remove the coupling to Main shaft")]`), browser.Saved(),
		browser.Press("Tie it to another joint…"),
		pickOption("Joint that it follows", "Main shaft"),
		pickOption("Kind of coupling", "cam"),
		browser.Press("Read it from the shapes"),
		browser.Until("document.querySelector(`"+table+"`)?.value.split('\\n').length === 73"),
		browser.Press("Tie them"),
		browser.Saved(),
		chromedp.WaitVisible(`//section[@aria-label="Couplings"]//*[contains(., "cam, 73 rows")]`),
	)
	arranged := s.assembly(p.ID)
	at180 := arranged.Couplings[len(arranged.Couplings)-1].Table[36]
	assert.Equal(t, 180.0, at180[0])
	assert.InDelta(t, -6, at180[1], 0.02, "the cam lifts by twice 3 mm")
}
