package e2e

import (
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/e2e/browser"
	"slowreveal/formats/gltf"
)

// A new revision comes in by the page: subassemblies are renamed, a part has moved, one has gone, others are new. What was
// made of the one before goes on, and what cannot is told and kept.
func TestANewRevisionIsTakenIn(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	before, _ := s.document(r.ID)
	path := filepath.Join(t.TempDir(), "dp-40-b.glb")
	require.NoError(t, os.WriteFile(path, revisionB(t), 0o644))
	s.within(3*time.Minute,
		chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/prepare/"+r.ID),
		browser.StageReady(),
		browser.Script(`fetch('/api/reveals/`+r.ID+`/outputs', {
			method: 'POST', headers: { 'Content-Type': 'application/json' },
			body: JSON.stringify({ outputs: [{ kind: 'stills', name: 'Drive', width: 320, height: 180, at: [35500000] }] }),
		}).then((r) => r.status === 201)`),
		browser.Script(`new Promise(async (done) => {
			for (;;) {
				const list = await (await fetch('/api/projects/`+r.ProjectID+`/outputs')).json()
				if (list.length === 1 && list[0].state === 'done') return done(true)
				await new Promise((go) => setTimeout(go, 50))
			}
		})`),
		chromedp.SetUploadFiles(chromedp.CSS(`input[aria-label="File of the new revision"]`), []string{path}),
		chromedp.WaitVisible(`//section[@aria-label="What has changed"]`),
		browser.StageReady(),
		browser.Settled(),
		chromedp.WaitVisible(`//section[@aria-label="What has changed"]//button[contains(., "Controller")]`),
		chromedp.WaitVisible(`//section[@aria-label="What has changed"]//*[contains(., "Before the new revision")]`),
	)
	// Both films are looked at side by side: what is otherwise is red, and little of the picture is.
	s.do(
		browser.Press("Compare the films…"),
		browser.Until(
			`[...document.querySelectorAll('[role=dialog] img')].length === 12 && [...document.querySelectorAll('[role=dialog] img')].slice(0, 3).every((i) => i.complete && i.naturalWidth === 480)`,
		),
		browser.Click(`//div[@role="dialog"]//button[contains(., "Look at the drive")]`),
		browser.Until(
			`document.querySelector('[role=dialog] img[alt^="What is otherwise"]').alt.includes('at 35.') && document.querySelector('[role=dialog] img[alt^="What is otherwise"]').complete`,
		),
	)
	red := eval[float64](s, `(() => {
		const i = document.querySelector('[role=dialog] img[alt^="What is otherwise"]')
		const c = Object.assign(document.createElement('canvas'), { width: i.naturalWidth, height: i.naturalHeight }).getContext('2d')
		c.drawImage(i, 0, 0)
		const p = c.getImageData(0, 0, i.naturalWidth, i.naturalHeight).data
		let n = 0
		for (let k = 0; k < p.length; k += 4) if (p[k] > 150 && p[k + 1] < 90) n++
		return (4 * n) / p.length
	})()`)
	assert.Greater(t, red, 1e-4, "the controller has moved, a screw is gone")
	assert.Less(t, red, 0.2)
	s.do(chromedp.KeyEvent(kb.Escape), chromedp.WaitNotPresent(chromedp.CSS(`[role=dialog]`)))
	// What was made before is made again in one go, and the report shows what is otherwise in it.
	report := `//section[@aria-label="What has changed"]//a[.="The report"]`
	s.do(browser.Press("Renew what was made"), chromedp.WaitVisible(report))
	assert.Contains(
		t,
		eval[string](s, `document.querySelector('[aria-label="What has changed"] [role=status]').textContent`),
		"1 made again, 1 looks otherwise",
	)
	assert.Equal(t, 3, eval[int](s, `(async () => {
		const page = await (await fetch([...document.querySelectorAll('a')].find((a) => a.textContent === 'The report').href)).text()
		return new DOMParser().parseFromString(page, 'text/html').querySelectorAll('figure img').length
	})()`), "before, after, and what has changed")
	// A fifth cover screw came in that no cue touches: it goes with the others.
	s.do(
		browser.Click(tool("Take along with them")), browser.Saved(),
		chromedp.WaitNotPresent(tool("Take along with them")),
	)
	s.do(
		chromedp.WaitVisible(
			`//section[@aria-label="What has changed"]//li[contains(., "a fade of “Panel screw M4 × 12”")]`,
		),
	)
	a := s.assembly(r.ProjectID)
	index := a.Index()
	// A renamed subassembly keeps the id, and so all cues of it.
	stage, there := index["planet-stage"]
	require.True(t, there)
	assert.Equal(t, "Gearbox", a.Nodes[stage].Name)
	after, _ := s.document(r.ID)
	require.NoError(t, reveal.Validate(after, a))
	count := func(doc *reveal.Reveal) (n int) {
		for i := range doc.Steps {
			n += len(doc.Steps[i].Cues)
		}
		return n
	}
	assert.Equal(t, count(before), count(after), "one target is gone; all cues have others")
	fifth := 0
	for i := range after.Steps {
		for k := range after.Steps[i].Cues {
			if slices.Contains(after.Steps[i].Cues[k].Targets, "pump-head/cover-screw-m3-12~5") {
				fifth++
			}
		}
	}
	assert.Equal(t, 4, fifth)
	versions, err := s.store.Versions(context.Background(), r.ID)
	require.NoError(t, err)
	require.Len(t, versions, 1)
	kept, err := s.store.Version(context.Background(), versions[0].ID)
	require.NoError(t, err)
	doc, err := reveal.Parse([]byte(kept.Document))
	require.NoError(t, err)
	want, err := json.Marshal(before)
	require.NoError(t, err)
	got, err := json.Marshal(doc)
	require.NoError(t, err)
	assert.JSONEq(t, string(want), string(got), "it can be gone back to")
	// The film goes on with it, and the stage shows the new revision.
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady(), browser.Settled())
}

// revisionB is the pump a week later.
func revisionB(t *testing.T) []byte {
	t.Helper()
	m := demo.Pump()
	var gone int
	for i := range m.Assembly.Nodes {
		switch n := &m.Assembly.Nodes[i]; n.Name {
		case "Planet stage":
			n.Name = "Gearbox"
		case "Controller":
			n.Pose.Move[0] += 5
		case "Panel screw M4 × 12":
			gone = i // the last of the four
		}
	}
	a := *m.Assembly
	a.Joints, a.Couplings = nil, nil
	a.Nodes = append(append([]assembly.Node{}, a.Nodes[:gone]...), a.Nodes[gone+1:]...)
	for i := range a.Nodes {
		if a.Nodes[i].Parent > gone {
			a.Nodes[i].Parent--
		}
	}
	for i := range a.Nodes {
		if a.Nodes[i].Name == "Cover screw M3 × 12" {
			fifth := a.Nodes[i]
			fifth.Pose.Move[0] += 10
			a.Nodes = slices.Insert(a.Nodes, i+4, fifth)
			for k := i + 5; k < len(a.Nodes); k++ {
				if a.Nodes[k].Parent >= i+4 {
					a.Nodes[k].Parent++
				}
			}
			break
		}
	}
	glb, err := gltf.Write(&product.Model{Assembly: &a, Shapes: m.Shapes})
	require.NoError(t, err)
	return glb
}

// What is in doubt is shown side by side, and the author says what it is: the same, another one, or what another one was
// taken for.
func TestDoubtsOfARevisionAreSettled(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	glb, err := gltf.Write(demo.PumpB())
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "dp-40-b.glb")
	require.NoError(t, os.WriteFile(path, glb, 0o644))
	doubts := `document.querySelectorAll('section[aria-label="In doubt"] li').length`
	s.within(
		3*time.Minute,
		chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/prepare/"+r.ID),
		browser.StageReady(),
		chromedp.SetUploadFiles(chromedp.CSS(`input[aria-label="File of the new revision"]`), []string{path}),
		chromedp.WaitVisible(`//section[@aria-label="In doubt"]//li`),
		browser.StageReady(),
		browser.Settled(),
		chromedp.ScrollIntoView(`//section[@aria-label="In doubt"]`),
		browser.Until(
			`[...document.querySelectorAll('section[aria-label="In doubt"] li:first-child img')].every((i) => i.complete && i.naturalWidth > 0)`,
		),
	)
	shot(s, "doubts")
	all := browser.Click(`(//section[@aria-label="In doubt"]//button[starts-with(normalize-space(.), "All 8")])`)
	s.do(all, browser.Until(doubts+` === 8`))
	count := func(n int) browser.Action {
		return browser.Until(doubts + ` === ` + string(rune('0'+n)))
	}
	first := `(//section[@aria-label="In doubt"]//li[contains(., "Hood screw")])[1]`
	foot := `(//section[@aria-label="In doubt"]//li[contains(., "Foot")])[1]`
	s.do(browser.Click(first+`//button[.="The same"]`), count(7))
	before := s.assembly(r.ProjectID)
	s.do(
		browser.Click(first+`//button[.="Exchange with…"]`),
		browser.Click(`(//*[@role="menuitem" and starts-with(., "Hood screw")])[1]`),
		count(5), browser.Saved(), browser.StageReady(), browser.Settled(),
	)
	after := s.assembly(r.ProjectID)
	moved := 0
	x, y, index := before.Worlds(), after.Worlds(), after.Index()
	for i, n := range before.Nodes {
		if x[i] != y[index[n.ID]] {
			moved++
			assert.Contains(t, n.Name, "Hood screw")
		}
	}
	assert.Equal(t, 2, moved, "two screws have exchanged who they are")
	s.do(
		browser.Click(foot+`//button[.="Another one"]`),
		count(4), browser.Saved(), browser.StageReady(), browser.Settled(),
		chromedp.WaitVisible(`//section[@aria-label="What has changed"]//*[contains(., "Before the new revision")]`),
	)
	doc, _ := s.document(r.ID)
	require.NoError(t, reveal.Validate(doc, s.assembly(r.ProjectID)))
	_, there := s.assembly(r.ProjectID).Index()["housing/foot~other-1"]
	assert.True(t, there)
	s.do(browser.Click(tool("All are")), browser.Until(doubts+` === 0`), browser.Settled())
	s.do(chromedp.Reload(), browser.StageReady(), browser.Settled(), browser.Until(doubts+` === 0`))
}
