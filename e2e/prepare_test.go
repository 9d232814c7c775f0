package e2e

import (
	"context"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/assembly"
	"slowreveal/e2e/browser"
)

func tool(text string) string { return `//button[normalize-space(.)="` + text + `"]` }

// arranged returns the newest arrangement of the project and the names of its
// nodes by id.
func (s *stand) arranged(project string) (authoring.Arrangement, map[string]string) {
	s.Helper()
	r, err := s.store.Revision(context.Background(), project)
	require.NoError(s, err)
	a, arrangement, err := s.authoring.Arranged(context.Background(), r.ID)
	require.NoError(s, err)
	names := map[string]string{}
	for i := range a.Nodes {
		names[string(a.Nodes[i].ID)] = a.Nodes[i].Name
	}
	return arrangement, names
}

// A STEP assembly in three files comes in by the browser; then it is measured,
// named, grouped, dressed, and all of that undone.
func TestASTEPAssemblyIsMadeReady(t *testing.T) {
	s := newStand(t)
	folder := filepath.Join("..", "formats", "importer", "testdata")
	var files []string
	for _, name := range []string{"part_base.stp", "part_stud.stp", "stand.stp"} {
		path, err := filepath.Abs(filepath.Join(folder, name))
		require.NoError(t, err)
		_, err = os.Stat(path)
		require.NoError(t, err)
		files = append(files, path)
	}
	s.do(chromedp.Navigate(s.url), chromedp.WaitVisible(button("Choose a file")),
		chromedp.SetUploadFiles(chromedp.CSS(`input[aria-label="Assembly file"]`), files),
		chromedp.WaitVisible(`//h2[text()="What was imported"]`), browser.StageReady(),
		chromedp.WaitVisible(`//dd[text()="millimetre (from the file)"]`),
		chromedp.WaitVisible(`//section[@aria-label="Part sets"]//button[contains(., "Pins Ø6")]`))
	project := eval[string](s, `location.pathname.split('/')[2]`)
	// The shapes offer a set: both studs are picked by it.
	s.do(
		browser.Click(`//section[@aria-label="Part sets"]//button[contains(., "Pins Ø6")]`),
		chromedp.WaitVisible(`//h2[text()="2 × stud"]`),
		browser.Click(tool("Keep as a set…")),
		chromedp.WaitVisible(chromedp.CSS(`input[aria-label="Name of the set"]`)),
		chromedp.KeyEvent("Studs"+kb.Enter),
		browser.Saved(),
		chromedp.WaitVisible(`//section[@aria-label="Part sets"]//button[contains(., "Studs")]`),
	)
	arrangement, _ := s.arranged(project)
	require.Len(t, arrangement.Sets, 1)
	assert.Len(t, arrangement.Sets[0].Nodes, 2)
	// What one stud touches is the base; the base gets a name and a finish.
	s.do(
		browser.Click(row("stud", 1)),
		chromedp.WaitVisible(`//b[contains(., "Seems to be a pin")]`),
		browser.Click(tool("What it touches")),
		chromedp.WaitVisible(`//aside//input[@value="base"]`),
		browser.Click(
			`//aside//button[@title="Brass"]`,
		),
		browser.Saved(),
		chromedp.WaitVisible(`//aside//dd[text()="Brass"]`),
		browser.Click(
			chromedp.CSS(`input[aria-label="Name of the part"]`),
		),
		chosen(`input[aria-label="Name of the part"]`),
		chromedp.SendKeys(chromedp.CSS(`input[aria-label="Name of the part"]`), "Foot"+kb.Enter),
		browser.Saved(),
		chromedp.WaitVisible(row("Foot", 1)),
	)
	_, names := s.arranged(project)
	assert.Equal(t, "Foot", names["base"])
	// Undone, one after the other, also after a reload.
	s.do(
		browser.Click(chromedp.CSS(`canvas`)),
		chromedp.KeyEvent("z", chromedp.KeyModifiers(chromedp.ModifierCtrl)),
		chromedp.WaitVisible(row("base", 1)),
		browser.Saved(),
		chromedp.Navigate(s.url+"/p/"+project+"/prepare"),
		browser.StageReady(),
		browser.Click(
			chromedp.CSS(`button[aria-label^="Undo"]`),
		),
		chromedp.WaitVisible(chromedp.CSS(`button[aria-label*="Add the set"]`)),
		browser.Saved(),
	)
	arrangement, _ = s.arranged(project)
	assert.Contains(t, arrangement.Undo, "Add the set")
	assert.Contains(t, arrangement.Redo, "Brass")
	// The same file in inches.
	s.do(
		chromedp.KeyEvent(kb.Escape),
		browser.Click(tool("Read the file in another way…")),
		browser.Click(chromedp.CSS(`button[aria-label="Unit of the file"]`)),
		chromedp.WaitVisible(
			`//div[@role="option" and contains(., "inch")]`,
		),
		browser.Click(`//div[@role="option" and contains(., "inch")]`),
		browser.Click(tool("Read again")),
		chromedp.WaitVisible(`//dd[contains(., "inch (set by hand")]`),
	)
	r, err := s.store.Revision(context.Background(), project)
	require.NoError(t, err)
	m, err := s.authoring.Model(context.Background(), r.ID, false)
	require.NoError(t, err)
	assert.InDelta(t, 40*25.4, m.Assembly.Bounds().Size().X, 0.1)
	arrangement, _ = s.arranged(project)
	assert.Len(t, arrangement.Sets, 1, "the set has come along")
}

func TestAFileThatCannotBeReadSaysWhy(t *testing.T) {
	s := newStand(t)
	path := filepath.Join(t.TempDir(), "broken.step")
	require.NoError(t, os.WriteFile(path, []byte("ISO-10303-21;\nHEADER;\n"), 0o644))
	s.do(
		chromedp.Navigate(s.url),
		chromedp.WaitVisible(button("Choose a file")),
		chromedp.SetUploadFiles(chromedp.CSS(`input[aria-label="Assembly file"]`), []string{path}),
		chromedp.WaitVisible(`//li[@data-import="failed"]//p[contains(., "broken.step is cut off")]`),
		browser.Click(
			`//li[contains(., "broken.step")]//button[@aria-label="Dismiss"]`,
		),
		chromedp.WaitNotPresent(`//li[contains(., "broken.step")]`),
	)
}

// Two faces of the hood meet at a right angle; a section shows the inside.
func TestMeasuringAndCutting(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/prepare"), browser.StageReady(), browser.Click(tool("Measure")))
	at := eval[[]float64](
		s,
		`(() => { const b = document.querySelector('canvas').getBoundingClientRect(); return [b.left, b.top, b.width, b.height] })()`,
	)
	// The hood's top and its side meet at a right angle.
	s.do(
		chromedp.MouseClickXY(at[0]+0.62*at[2], at[1]+0.33*at[3]),
		chromedp.WaitVisible(`//p[text()="Now the second one."]`),
		chromedp.MouseClickXY(at[0]+0.76*at[2], at[1]+0.50*at[3]),
		chromedp.WaitVisible(`//p[contains(., "90.00°")]`),
		// The seam of the hood is a straight edge, parallel to its top.
		chromedp.MouseClickXY(at[0]+0.62*at[2], at[1]+0.33*at[3]),
		chromedp.WaitVisible(`//p[text()="Now the second one."]`),
		chromedp.MouseClickXY(at[0]+0.74*at[2], at[1]+0.57*at[3]),
		chromedp.WaitVisible(`//dd[contains(., "edge 106.00 mm")] | //*[text()="edge 106.00 mm"]`),
		browser.Click(tool("Measure")),
		browser.Click(tool("Section")),
		chromedp.WaitVisible(chromedp.CSS(`input[aria-label="Place of the section"]`)),
		browser.Settled(),
		browser.Click(tool("Section")),
		chromedp.WaitNotPresent(chromedp.CSS(`input[aria-label="Place of the section"]`)),
	)
	// Nothing of looking around was recorded.
	now, err := s.store.Reveal(context.Background(), r.ID)
	require.NoError(t, err)
	assert.Equal(t, r.Version, now.Version)
}

// What has to be minded of a part is said where it is prepared, shown again, and taken back by undo.
func TestWhatHasToBeMindedIsSaid(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	minded := func() []assembly.NodeHazard {
		a, _, err := s.authoring.Arranged(context.Background(), r.RevisionID)
		require.NoError(t, err)
		return a.Hazards
	}
	const field = `//button[@role="combobox" and @aria-label="To be minded when it is taken off"]`
	s.do(
		chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/prepare"),
		browser.StageReady(),
		browser.Click(row("Housing", 1)),
		chromedp.WaitVisible(field+`[contains(., "Nothing")]`),
		browser.Click(field),
		browser.Click(`//div[@role="option"][contains(., "Heavy")]`),
		chromedp.WaitVisible(field+`[contains(., "Heavy")]`),
		chromedp.WaitVisible(`//p[contains(., "gives its step a notice")]`),
		browser.Saved(),
	)
	assert.Equal(t, []assembly.NodeHazard{{Node: "housing", Hazard: assembly.Heavy}}, minded())
	s.do(
		browser.Click(`//button[@aria-label="Undo: What to mind"]`),
		chromedp.WaitVisible(field+`[contains(., "Nothing")]`),
	)
	assert.Empty(t, minded())
}
