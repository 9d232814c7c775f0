package e2e

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	lib "github.com/qmuntal/gltf"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/e2e/browser"
	"slowreveal/formats/gltf"
)

// camera is where the author's eye is, as the stage says.
func (s *stand) camera() reveal.Camera {
	s.Helper()
	var page shown
	require.NoError(
		s,
		json.Unmarshal([]byte(eval[string](s, `slowReveal.report(40, true).then(JSON.stringify)`)), &page),
	)
	return page.Camera
}

// pumpOfSize is a file of the pump, so many times as large as it is: as if it had been drawn in another unit.
func pumpOfSize(t *testing.T, factor float64) string {
	t.Helper()
	glb, err := gltf.Write(demo.Pump())
	require.NoError(t, err)
	doc := new(lib.Document)
	require.NoError(t, lib.NewDecoder(bytes.NewReader(glb)).Decode(doc))
	for _, root := range doc.Scenes[0].Nodes {
		doc.Nodes[root].Scale = [3]float64{factor, factor, factor}
	}
	var b bytes.Buffer
	require.NoError(t, lib.NewEncoder(&b).Encode(doc))
	path := filepath.Join(t.TempDir(), fmt.Sprintf("pump-%g.glb", factor))
	require.NoError(t, os.WriteFile(path, b.Bytes(), 0o644))
	return path
}

// Any size opens, from a watch screw to a ship, and an unlikely one is asked about.
func TestAnythingOpensWhateverItsSize(t *testing.T) {
	atLength(t)
	s := newStand(t)
	for _, c := range []struct {
		factor float64
		says   string
	}{{1000, "if the file means millimetres"}, {0.004, "which is unusual"}} {
		s.do(
			chromedp.Navigate(s.url),
			chromedp.SetUploadFiles(
				chromedp.CSS(`input[aria-label="Assembly file"]`),
				[]string{pumpOfSize(t, c.factor)},
			),
			chromedp.WaitVisible(
				`//h2[text()="What was imported"]`,
			),
			browser.StageReady(),
			chromedp.WaitVisible(`//*[@role="note" and contains(., "`+c.says+`")]`),
		)
		s.do(browser.Press("Direct"), browser.StageReady())
		s.do(browser.Press("Through the shot"), browser.Settled())
	}
	s.do(
		chromedp.Navigate(s.url),
		browser.Click(`//a[contains(., "pump-1000")]`),
		browser.StageReady(),
		browser.Press("Prepare"),
		browser.StageReady(),
		browser.Press("Read it again in millimetres"),
		chromedp.WaitNotPresent(`//*[@role="note" and contains(., "unusual")]`),
		browser.StageReady(),
	)
}

// An edit in Prepare changes what it changes: the eye stays where it is, and so does what is picked.
func TestEditsInPrepareLeaveTheStageAsItIs(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	s.do(
		chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/prepare/"+r.ID),
		browser.StageReady(),
		browser.Click(`//*[@role="treeitem" and contains(., "Housing")]`),
		browser.Settled(),
	)
	before := s.camera()
	still := func(after string) {
		t.Helper()
		assert.Equal(t, before, s.camera(), after)
		assert.Equal(
			t,
			1,
			eval[int](s, `document.querySelectorAll('[role=treeitem][aria-selected=true]').length`),
			"the pick stays: %s",
			after,
		)
		assert.Equal(t, 1, eval[int](s, `document.querySelectorAll('canvas').length`))
	}
	s.do(
		browser.Click(`(//section[.//h3[text()="Finish"] or .//*[text()="Finish"]]//button)[5]`),
		chromedp.WaitVisible(chromedp.CSS(`button[aria-label^="Undo: "]`)),
		browser.StageReady(),
	)
	still("a finish")
	s.do(
		browser.Click(chromedp.CSS(`button[aria-label^="Undo: "]`)),
		chromedp.WaitVisible(chromedp.CSS(`button[aria-label^="Redo: "]`)),
		browser.StageReady(),
	)
	still("undoing it")
}

// Bars are selected by a box that is drawn on the empty ground; a click there selects nothing; of several
// selected bars, a click on one selects that one.
func TestBarsAreSelectedByABox(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady())
	selected := func() int { return eval[int](s, `document.querySelectorAll('[data-cue][aria-pressed=true]').length`) }
	type box struct{ Left, Top, Right, Bottom float64 }
	place := func(script string) box {
		var b box
		require.NoError(
			t,
			json.Unmarshal(
				[]byte(
					eval[string](
						s,
						`(() => { const r = (`+script+`).getBoundingClientRect(); return JSON.stringify({ Left: r.left, Top: r.top, Right: r.right, Bottom: r.bottom }) })()`,
					),
				),
				&b,
			),
		)
		return b
	}
	first, ground := place(`document.querySelector('[data-cue]')`), place(`document.querySelector('[data-ground]')`)
	s.do(chromedp.DragAndDropXY(ground.Left+3, first.Top+2, ground.Left+300, first.Top+70, 6), browser.Settled())
	many := selected()
	assert.Greater(t, many, 2)
	s.do(chromedp.MouseClickXY((first.Left+first.Right)/2, (first.Top+first.Bottom)/2), browser.Settled())
	s.do(chromedp.DragAndDropXY(ground.Left+3, first.Top+2, ground.Left+300, first.Top+70, 6), browser.Settled())
	require.Equal(t, many, selected())
	bar := place(`document.querySelectorAll('[data-cue][aria-pressed=true]')[1]`)
	s.do(chromedp.MouseClickXY((bar.Left+bar.Right)/2, (bar.Top+bar.Bottom)/2), browser.Settled())
	assert.Equal(t, 1, selected(), "a click on one of them means this one")
	s.do(chromedp.MouseClickXY(ground.Left+2, first.Bottom+60), browser.Settled())
	assert.Equal(t, 0, selected(), "a click on the ground selects nothing")
}

// The view is drawn as it is turned, and what is recorded is what was seen.
func TestWhatIsRecordedIsWhatWasSeen(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady())
	before := s.camera()
	s.do(chromedp.DragAndDropXY(500, 440, 560, 400, 6), browser.Settled())
	s.do(chromedp.DragAndDropXY(700, 430, 690, 450, 6), browser.Settled())
	seen := s.camera()
	assert.NotEqual(t, before.Orientation, seen.Orientation)
	s.do(browser.Press("Take shot here"), browser.Saved())
	doc, _ := s.document(r.ID)
	var shot *reveal.Cue
	for i := range doc.Steps[0].Cues {
		if c := &doc.Steps[0].Cues[i]; c.Kind == reveal.KindShot && c.ID != "cue-1" {
			shot = c
		}
	}
	require.NotNil(t, shot)
	for k := range 3 {
		assert.InDelta(t, seen.Target[k], shot.Shot.Camera.Target[k], 1e-6)
		assert.InDelta(t, seen.Orientation[k], shot.Shot.Camera.Orientation[k], 1e-9)
	}
}

// Part sets are reached in Direct: from the tree, from the part's menu, and by name.
func TestPartSetsAreReachedInDirect(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady())
	require.Eventually(t, func() bool {
		_, err := s.authoring.Survey(context.Background(), r.RevisionID)
		return err == nil
	}, 6*time.Minute, 100*time.Millisecond)
	s.do(
		browser.Click(chromedp.CSS(`button[aria-label="Pick a part set"]`)),
		browser.Click(`//*[@role="menuitem" and contains(., "Screws M3 × 12")]`),
		browser.Settled(),
		chromedp.WaitVisible(`//div[@role="group" and contains(., "4 × Cover screw M3 × 12")]`),
	)
	s.do(
		chromedp.KeyEvent("\x1b"),
		ctrl("k"),
		chromedp.WaitVisible(`//h2[text()="Find"]`),
		chromedp.KeyEvent("washers"),
		browser.Settled(),
		chromedp.KeyEvent("\r"),
		chromedp.WaitVisible(`//div[@role="group" and @aria-label="Move the pick"]`),
	)
}
