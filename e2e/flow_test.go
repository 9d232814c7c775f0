package e2e

import (
	"context"
	"fmt"
	"os/exec"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/timecode"
	"slowreveal/e2e/browser"
	"slowreveal/localdb/testdb"
)

// row is a row of the parts tree by its name; n counts from 1.
func row(name string, n int) string {
	return fmt.Sprintf(`(//div[@role="treeitem"][span[normalize-space(.)=%q]])[%d]`, name, n)
}

const search = `input[aria-label="Find a part"]`

func find(text string) browser.Action {
	return chromedp.Steps(
		browser.Click(chromedp.CSS(search)),
		chosen(search),
		chromedp.SendKeys(chromedp.CSS(search), text),
	)
}

// chosen selects what a field holds, so that typing replaces it.
func chosen(css string) browser.Action {
	return browser.Script(fmt.Sprintf("document.querySelector(%q).select() ?? true", css))
}

// enter puts a value into a field of the inspector or the card.
func enter(label, value string) browser.Action {
	css := fmt.Sprintf("input[aria-label=%q]", label)
	return chromedp.Steps(
		browser.Click(chromedp.CSS(css)),
		chosen(css),
		chromedp.SendKeys(chromedp.CSS(css), value+kb.Enter),
		browser.Settled(),
		browser.Saved(),
	)
}

// The work of the first slice, by hand in the browser: import, pick, unscrew,
// pull, fade, turn, two shots, words, undo, export; then the film is looked at.
func TestFromAFileToAFilm(t *testing.T) {
	s := newStand(t)
	path, model := pumpFile(t)
	s.do(
		chromedp.Navigate(s.url),
		chromedp.WaitVisible(button("Choose a file")),
		chromedp.SetUploadFiles(chromedp.CSS(`input[aria-label="Assembly file"]`), []string{path}),
		chromedp.WaitVisible(`//h2[text()="What was imported"]`), browser.StageReady(),
		browser.Press("Direct"), browser.StageReady(),
	)
	// The four cover screws, found by name and picked together.
	s.do(
		find("cover screw"), chromedp.WaitVisible(row("Cover screw M3 × 12", 4)),
		browser.Click(row("Cover screw M3 × 12", 1)), shiftClick(row("Cover screw M3 × 12", 4)),
		chromedp.WaitVisible(`//div[@role="group" and contains(., "4 × Cover screw")]`),
		browser.Press("Unscrew"), chromedp.WaitVisible(`//h2[contains(., "Unscrew")]`), browser.Saved(),
		enter("Turns", "16"), enter("Each later by", "0.2"),
		chromedp.KeyEvent(kb.Escape),
	)
	// One after the other: a cue starts where the playhead stands.
	s.do(
		browser.Click(row("Cover screw M3 × 12", 1)),
		shiftClick(row("Cover screw M3 × 12", 4)),
		seek(2_000_000),
		enter("Distance of the move", "2*20"),
		browser.Press("Pull"),
		browser.Saved(),
		find("rotor cover"),
		chromedp.WaitVisible(row("Rotor cover", 1)),
		browser.Click(row("Rotor cover", 1)),
		seek(3_500_000),
		browser.Press("Pull"),
		browser.Saved(),
		enter("Distance", "-60"),
		chromedp.KeyEvent("r"),
		browser.Saved(),
		find("door panel"),
		chromedp.WaitVisible(row("Door panel", 1)),
		browser.Click(row("Door panel", 1)),
		browser.Press("Fade"),
		browser.Saved(),
		enter("Opacity", "5"),
		find("rotor"),
		chromedp.WaitVisible(row("Rotor", 1)),
		browser.Click(row("Rotor", 1)),
		browser.Press("Turn"),
		browser.Saved(),
		enter("Angle", "1 turn"),
		seek(0),
		browser.Press("Take shot here"),
		browser.Saved(),
		browser.Press("Top"),
		seek(3_000_000),
		browser.Press("Take shot here"),
		browser.Saved(),
	)
	// Words, and a change of mind.
	s.do(
		chromedp.SendKeys(
			chromedp.CSS(`textarea[aria-label="Title of the step"]`),
			kb.End+" of the cover"+kb.Enter,
		),
		browser.Saved(),
		browser.Click(
			chromedp.CSS(`textarea[aria-label="Instruction"]`),
		),
		chromedp.SendKeys(chromedp.CSS(`textarea[aria-label="Instruction"]`), "Loosen them crosswise."),
		chromedp.Blur(chromedp.CSS(`textarea[aria-label="Instruction"]`)),
		browser.Saved(),
		browser.Click(
			chromedp.CSS(`button[aria-label="Undo"]`),
		),
		chromedp.WaitEnabled(chromedp.CSS(`button[aria-label="Redo"]`)),
		chromedp.Reload(),
		browser.StageReady(),
		chromedp.WaitEnabled(chromedp.CSS(`button[aria-label="Redo"]`)),
		browser.Click(chromedp.CSS(`button[aria-label="Redo"]`)),
		written("crosswise"),
		browser.Saved(),
	)
	doc := s.only(model.Assembly.Name)
	require.Len(t, doc.Steps, 1)
	step := doc.Steps[0]
	assert.Equal(t, "First step of the cover", step.Title)
	assert.Equal(t, "Loosen them crosswise.", step.Instruction)
	kinds := map[reveal.Kind]int{}
	for _, c := range step.Cues {
		kinds[c.Kind]++
	}
	assert.Equal(
		t,
		map[reveal.Kind]int{
			reveal.KindUnscrew: 1,
			reveal.KindPull:    2,
			reveal.KindFade:    1,
			reveal.KindTurn:    1,
			reveal.KindShot:    2,
		},
		kinds,
	)
	f := film.Compile(model.Assembly, doc)
	fr := f.NewFrame()
	f.At(f.Duration(), fr)
	index := model.Assembly.Index()
	rest := model.Assembly.Worlds()
	screw, cover := index["pump-head/cover-screw-m3-12"], index["pump-head/rotor-cover"]
	assert.InDelta(t, 48, fr.World[screw].T.Z-rest[screw].T.Z, 1e-6, "16 turns × 0.5 mm, and 40 mm more")
	assert.InDelta(t, 60, fr.World[cover].T.Z-rest[cover].T.Z, 1e-6, "typed −60, turned round by R")
	assert.InDelta(t, 0.05, fr.Opacity[index["pump-head/door/door-panel"]], 1e-9)

	// The film.
	s.do(
		browser.Press("Release"),
		chromedp.WaitVisible(button("Make the film")),
		browser.Press("Draft"),
		pickOption("Frames a second", "24"),
		pickOption("Size", "720p"),
		browser.Press("Make the film"),
		chromedp.WaitVisible(chromedp.CSS(`[data-output="done"]`)),
		browser.Press("Watch"),
		chromedp.WaitVisible(chromedp.CSS("video")),
	)
	var id string
	require.NoError(
		t,
		s.store.SQL().Get(&id, `select id from outputs where title = $1 order by created_at desc limit 1`, doc.Title),
	)
	o, err := s.authoring.Output(context.Background(), id)
	require.NoError(t, err)
	out, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-select_streams", "v", "-show_entries", "stream=width,height,r_frame_rate,nb_read_frames", "-of", "csv=p=0", s.store.OutputPath(o)).
		Output()
	require.NoError(t, err)
	assert.Equal(
		t,
		fmt.Sprintf("1280,720,24/1,%d", timecode.FrameCount(f.Duration(), 24)),
		strings.TrimSpace(string(out)),
	)
}

// only returns the document of the newest reveal of the project that was
// imported last under a name.
func (s *stand) only(name string) *reveal.Reveal {
	s.Helper()
	var text string
	require.NoError(
		s,
		s.store.SQL().
			GetContext(context.Background(), &text, `select v.document from reveals v join projects p on p.id = v.project_id
		where p.name = $1 order by v.created_at desc limit 1`, name),
	)
	doc, err := reveal.Parse([]byte(text))
	require.NoError(s, err)
	return doc
}

// written waits until the script holds a text.
func written(text string) browser.Action {
	return browser.Script(fmt.Sprintf(`new Promise(done => {
		const look = () => [...document.querySelectorAll('textarea, [role=textbox]')].some(t => (t.value ?? t.textContent).includes(%q)) ? done(true) : setTimeout(look, 50)
		look()
	})`, text))
}

func shiftClick(sel string) browser.Action { return clickWith(sel, chromedp.ModifierShift) }

// clickWith clicks with keys held.
func clickWith(sel string, held chromedp.Modifier) browser.Action {
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		nodes, err := chromedp.Nodes(sel)(ctx, t)
		if err != nil {
			return chromedp.Void{}, err
		}
		return chromedp.MouseClickNode(nodes[0], chromedp.ButtonModifiers(held))(ctx, t)
	}
}

// seek clicks the ruler at a time.
func seek(micros int) browser.Action {
	return chromedp.Steps(browser.Script(fmt.Sprintf(`(() => {
		const ruler = document.querySelector('[data-ruler]')
		const r = ruler.getBoundingClientRect()
		const x = r.left + %d / (Number(ruler.querySelector('[role=slider]').getAttribute('aria-valuemax')) * 1e6) * (r.width - 24)
		const at = (type, buttons) => ruler.dispatchEvent(new PointerEvent(type, { bubbles: true, pointerId: 1, clientX: x, clientY: r.top + 30, button: 0, buttons }))
		ruler.setPointerCapture = () => {}
		at('pointerdown', 1)
		at('pointerup', 0)
		return true
	})()`, micros)), browser.Settled())
}

// Bars are dragged with the mouse, and what is dragged is saved and undone.
func TestBarsAreDraggedAndStretched(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady())
	bar := `div[data-cue="cue-2"]`
	offset := func() reveal.Cue {
		now, err := s.store.Reveal(context.Background(), r.ID)
		require.NoError(t, err)
		doc, err := reveal.Parse([]byte(now.Document))
		require.NoError(t, err)
		i, k := doc.FindCue("cue-2")
		return doc.Steps[i].Cues[k]
	}
	before := offset()
	drag := func(grip string, by float64) {
		box := eval[[]float64](
			s,
			fmt.Sprintf(
				`(() => { const r = document.querySelector('%s').getBoundingClientRect(); return [r.left, r.top + r.height / 2, r.width] })()`,
				bar,
			),
		)
		x := map[string]float64{"middle": box[0] + box[2]/2, "end": box[0] + box[2] - 4}[grip]
		s.do(chromedp.DragAndDropXY(x, box[1], x+by, box[1], 6), browser.Settled(), browser.Saved())
	}
	drag("middle", 40)
	require.Eventually(t, func() bool { return offset().Offset > before.Offset }, 6*time.Minute, 50*time.Millisecond)
	moved := offset()
	assert.Equal(t, before.Duration, moved.Duration)
	frames := float64(moved.Offset-before.Offset) * 30 / 1e6
	assert.InDelta(t, 0, frames-float64(int(frames+0.5)), 0.01, "dragging keeps to whole frames")
	drag("end", 30)
	require.Eventually(
		t,
		func() bool { return offset().Duration > moved.Duration },
		10*time.Second,
		50*time.Millisecond,
	)
	assert.Equal(t, moved.Offset, offset().Offset)
	s.do(
		browser.Click(chromedp.CSS(`button[aria-label="Undo"]`)),
		chromedp.Sleep(300*time.Millisecond),
		browser.Click(chromedp.CSS(`button[aria-label="Undo"]`)),
	)
	require.Eventually(
		t,
		func() bool { c := offset(); return c.Offset == before.Offset && c.Duration == before.Duration },
		10*time.Second,
		50*time.Millisecond,
	)
}

// Two pages on one reveal: each sees the other's edits, and an edit on a stale
// version is not lost.
func TestTwoPagesKeepTogether(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	address := s.url + "/p/" + r.ProjectID + "/direct/" + r.ID
	s.do(chromedp.Navigate(address), browser.StageReady())
	second, closeBrowser := browser.New(context.Background(), 900, 700)
	defer closeBrowser()
	require.NoError(t, chromedp.Do(second))
	require.NoError(
		t,
		browser.Within(
			second,
			90*time.Second,
			browser.Size(900, 700),
			chromedp.Navigate(address),
			browser.StageReady(),
		),
	)
	rename := func(ctx context.Context, step int, text string) {
		field := fmt.Sprintf(`(//textarea[@aria-label="Title of the step"])[%d]`, step)
		require.NoError(
			t,
			browser.Within(ctx, time.Minute, chromedp.SendKeys(field, kb.End+text+kb.Enter), browser.Saved()),
		)
	}
	shows := func(ctx context.Context, text string) {
		require.NoError(t, browser.Within(ctx, time.Minute, written(text)))
	}
	rename(s.ctx, 1, " at once")
	require.Eventually(t, func() bool {
		now, err := s.store.Reveal(context.Background(), r.ID)
		return err == nil && now.Version == 1
	}, 6*time.Minute, 50*time.Millisecond, "the first page's edit is stored")
	shows(second, "Open the door at once")
	rename(second, 3, " quickly")
	shows(s.ctx, "rotor cover quickly")
}

// PostgreSQL goes away in the middle of the work: the page says so, the edit
// waits, and goes through when the database is back.
func TestAnEditWaitsForTheDatabase(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady())
	require.NoError(t, testdb.Server().Halt(context.Background()))
	s.do(chromedp.SendKeys(`(//textarea[@aria-label="Title of the step"])[1]`, kb.End+" in the dark"+kb.Enter),
		chromedp.WaitVisible(chromedp.CSS(`[data-saving="waiting"]`)), written("Open the door in the dark"))
	if !testing.Short() { // longer than it asks by itself: then it is told that the database is back
		s.do(chromedp.WaitVisible(chromedp.CSS(`[data-saving="stuck"]`)))
	}
	testdb.Restart(t)
	s.do(browser.Saved())
	now, err := s.store.Reveal(context.Background(), r.ID)
	require.NoError(t, err)
	assert.Equal(t, int64(1), now.Version, "stored once")
	assert.Contains(t, string(now.Document), "Open the door in the dark")
}

// The opening: a part that is no part of the story is left out, and the camera
// opens where the author's eye is. Neither makes a cue.
func TestTheOpeningIsSetWithoutRecordingAnything(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	s.do(
		chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID),
		browser.StageReady(),
		find("control board"),
		chromedp.WaitVisible(row("Control board", 1)),
		browser.Click(row("Control board", 1)),
		browser.Press("Leave out of this reveal"),
		browser.Saved(),
		chromedp.WaitVisible(button("Bring back")),
		browser.Press("Front"),
		browser.Click(`//button[contains(., "Opening")]`),
		browser.Press("Use my eye"),
		browser.Saved(),
	)
	// Looking around does not change the document.
	box := eval[[]float64](
		s,
		`(() => { const r = document.querySelector('canvas').getBoundingClientRect(); return [r.left + r.width * 0.3, r.top + r.height * 0.8] })()`,
	)
	s.do(chromedp.DragAndDropXY(box[0], box[1], box[0]+120, box[1]-30, 6), browser.Settled())
	require.Eventually(t, func() bool {
		now, err := s.store.Reveal(context.Background(), r.ID)
		return err == nil && now.Version == 2
	}, 6*time.Minute, 50*time.Millisecond)
	now, err := s.store.Reveal(context.Background(), r.ID)
	require.NoError(t, err)
	doc, err := reveal.Parse([]byte(now.Document))
	require.NoError(t, err)
	assert.Equal(t, []assembly.NodeID{"control-board"}, doc.Opening.Suppressed)
	assert.InDelta(t, 1, doc.Opening.Camera.Orientation[3], 1e-6, "from the front")
	before, err := reveal.Parse([]byte(r.Document))
	require.NoError(t, err)
	assert.Equal(t, before.Steps, doc.Steps)
}

// pickOption chooses in a list what contains a text.
func pickOption(list, text string) browser.Action {
	return chromedp.Steps(browser.Click(chromedp.CSS(fmt.Sprintf(`button[aria-label=%q]`, list))),
		browser.Click(fmt.Sprintf(`//*[@role="option" and contains(., %q)]`, text)), browser.Settled())
}
