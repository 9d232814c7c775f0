package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/e2e/browser"
)

// The stage and the monitor show the frame in the shapes that outputs have (looks holds them against the core in each),
// and a shot gets a camera of its own for one of them, which films of that shape use, and others do not.
func TestTheFrameInOtherShapes(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	s.do(
		chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID),
		browser.StageReady(),
		browser.Press("Through the shot"),
		seek(12_500_000),
		browser.Settled(),
	)
	aspect := func() float64 {
		return eval[float64](
			s,
			`(() => { const r = document.querySelector('canvas').getBoundingClientRect(); return r.width / r.height })()`,
		)
	}
	for _, c := range []struct {
		name   string
		aspect float64
	}{{"1 : 1", 1}, {"9 : 16", 9.0 / 16}, {"4 : 3", 4.0 / 3}} {
		s.do(choose("Shape of the frame", c.name))
		assert.InDelta(t, c.aspect, aspect(), 0.01, c.name)
	}
	s.do(choose("Shape of the frame", "9 : 16"))
	doc, _ := s.document(r.ID)
	var shot reveal.Cue
	for _, step := range doc.Steps {
		for _, cue := range step.Cues {
			if cue.Kind == reveal.KindShot && shot.ID == "" {
				shot = cue
			}
		}
	}
	s.do(
		browser.Script(toBar(string(shot.ID))),
		browser.Click(chromedp.CSS(`[data-cue="`+string(shot.ID)+`"]`)),
		browser.Settled(),
		browser.Press("Front"),
		browser.Settled(),
	)
	s.do(browser.Press("Use my eye in 9 : 16"), browser.Settled(), browser.Saved())
	doc, _ = s.document(r.ID)
	step, at := doc.FindCue(shot.ID)
	require.Len(t, doc.Steps[step].Cues[at].Shot.Shapes, 1)
	framed := doc.Steps[step].Cues[at].Shot.Shapes[0]
	assert.Equal(t, [2]int{9, 16}, [2]int{framed.Across, framed.Down})
	_, m := pumpFile(t)
	own := film.Compile(m.Assembly, doc)
	end := own.Schedule.Steps[step].Start + shot.Offset + shot.Duration
	camera := func(f *film.Film) reveal.Camera {
		fr := f.NewFrame()
		f.At(end, fr)
		return fr.Camera
	}
	assert.Equal(t, framed.Camera, camera(own.Shaped(9.0/16, false)))
	assert.NotEqual(t, framed.Camera.Orientation, camera(own).Orientation)
	assert.NotEqual(t, framed.Camera.Orientation, camera(own.Shaped(1, false)).Orientation)
	s.do(browser.Press("Through the shot"), seek(int(end)), browser.Settled())
	s.do(browser.Press("Look from there"), browser.Settled())
	s.do(browser.Click(chromedp.CSS(`button[aria-label^="Frame 9 : 16 like"]`)), browser.Settled(), browser.Saved())
	doc, _ = s.document(r.ID)
	assert.Empty(t, doc.Steps[step].Cues[at].Shot.Shapes)
}

// The reveal's own frame is set beside its opening; parts darken each other unless it is switched off (looks holds the
// stage against the core in both).
func TestTheFrameIsSet(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	s.do(
		chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID),
		browser.StageReady(),
		browser.Click(`//b[.="Opening"]`),
		browser.Settled(),
	)
	s.do(browser.Click(`//label[normalize-space(.)="Contact darkening"]/input`), browser.Settled(), browser.Saved())
	doc, _ := s.document(r.ID)
	assert.True(t, doc.Frame.NoOcclusion)
	s.do(choose("Size of the frame", "1080 × 1080"))
	doc, _ = s.document(r.ID)
	assert.Equal(t, [2]int{1080, 1080}, [2]int{doc.Frame.Width, doc.Frame.Height})
	s.do(ctrl("z"), browser.Saved(), browser.Settled(), ctrl("z"), browser.Saved(), browser.Settled())
	doc, _ = s.document(r.ID)
	assert.False(t, doc.Frame.NoOcclusion)
	assert.Equal(t, 1920, doc.Frame.Width)
}
