package e2e

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/edit"
	"slowreveal/e2e/browser"
	"slowreveal/store"
)

// entered types a number into a field.
func entered(label, text string) browser.Action {
	field := chromedp.CSS(fmt.Sprintf(`input[aria-label=%q]`, label))
	return chromedp.Steps(
		browser.Click(field),
		chromedp.KeyEvent("a", chromedp.KeyModifiers(chromedp.ModifierCtrl)),
		chromedp.KeyEvent(text+kb.Enter),
		browser.Settled(),
	)
}

// more unfolds what most films go without.
func more() browser.Action { return browser.Click(`//button[contains(., "More for this film")]`) }

// A client pack by hand: a film with words and music, a square GIF, stills in layers, an
// animated GLB and captions, gathered into a set, kept, and made at once. ffprobe and the
// files themselves say what came out.
func TestTheClientPackByHand(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	music := filepath.Join(t.TempDir(), "waltz.wav")
	require.NoError(t, exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=f=220:d=3", music).Run())
	add := func() browser.Action { return chromedp.Steps(browser.Press("Add to a set"), browser.Settled()) }
	s.do(
		chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/release/"+r.ID),
		chromedp.WaitVisible(button("Make the film")),
		// What cannot be is said before anything is queued.
		entered("Width", "321"),
		chromedp.WaitVisible(`//p[@role="alert" and contains(., "odd")]`),
		entered("Width", "320"),
		entered("Height", "180"),
		browser.Press("Draft"),
		browser.Press("From … to"),
		entered("To", "3"),
		more(),
		chromedp.SetUploadFiles(
			chromedp.CSS(`input[aria-label="Sound file"]`),
			[]string{music},
		),
		chromedp.WaitVisible(chromedp.CSS(`input[aria-label="Gain"]`)),
		entered("Fade out", "0.5"),
		chromedp.WaitVisible(`//aside//p[contains(., "90 frames")] | //aside//p[span[text()="90"]]`),
		add(),
		pickOption("Format", "GIF"),
		entered("Width", "120"),
		entered("Height", "120"),
		pickOption("Frames a second", "25"),
		entered("To", "1"),
		add(),
		browser.Press("Stills"),
		entered("Width", "160"),
		entered("Height", "90"),
		browser.Press("At the playhead"),
		browser.Press("Every step’s end"),
		browser.Click(`//label[contains(., "Edges")]`),
		browser.Click(`//label[contains(., "Depth")]`),
		add(),
		browser.Press("GLB"),
		add(),
		browser.Press("Captions"),
		add(),
		chromedp.SendKeys(
			chromedp.CSS(`input[aria-label="Name of the set"]`),
			"Client pack",
		),
		browser.Press("Keep"),
		chromedp.WaitVisible(button("Make again")),
		browser.Press("Make all 5"),
		chromedp.WaitVisible(`//ul[count(li[@data-output="done"])=5]`),
		// The film is watched in the page.
		browser.Click(
			`//li[contains(., "mp4 h264")]//button[normalize-space(.)="Watch"]`,
		),
		chromedp.WaitVisible(chromedp.CSS("video")),
	)
	list, err := s.authoring.Outputs(context.Background(), r.ProjectID)
	require.NoError(t, err)
	require.Len(t, list, 5)
	file := map[string]string{}
	for _, o := range list {
		file[strings.TrimPrefix(filepath.Ext(s.store.OutputPath(o)), ".")] = s.store.OutputPath(o)
	}
	assert.Equal(t, "h264,320,180,90\naac\n", probed(t, file["mp4"]))
	assert.Equal(t, "gif,120,120,25\n", probed(t, file["gif"]))
	data, err := os.ReadFile(file["zip"])
	require.NoError(t, err)
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	assert.Equal(t, 1, len(z.File)%3, "three layers and a note on them")
	words, err := os.ReadFile(file["vtt"])
	require.NoError(t, err)
	assert.Contains(t, string(words), "Open the door")
	assert.FileExists(t, file["glb"])
	presets, err := s.store.Presets(context.Background(), r.ProjectID)
	require.NoError(t, err)
	require.Len(t, presets, 1)
	var kept []json.RawMessage
	require.NoError(t, json.Unmarshal([]byte(presets[0].Settings), &kept))
	assert.Len(t, kept, 5)

	// The reveal changes: what was made of it says so, and is renewed by one press.
	s.edit(r)
	s.do(
		chromedp.Reload(),
		chromedp.WaitVisible(`//li[contains(., "out of date")]`),
		browser.Click(`//li[contains(., "vtt")]//button[normalize-space(.)="Renew"]`),
		chromedp.WaitVisible(`//ul[count(li[@data-output="done"])=6]`),
	)
}

// Apart and together again by hand: a card, the reveal, and the same backwards, with a
// picture behind everything; then the page shows the poster and the words beside the film.
func TestAJoinedFilmByHand(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	picture := filepath.Join(t.TempDir(), "sky.png")
	require.NoError(
		t,
		exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "color=0x3366cc:s=64x64", "-frames:v", "1", picture).
			Run(),
	)
	s.do(
		chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/release/"+r.ID),
		chromedp.WaitVisible(button("Make the film")),
		entered("Width", "160"),
		entered("Height", "90"),
		browser.Press("Draft"),
		pickOption("Frames a second", "24"),
		browser.Press("From … to"),
		entered("To", "8"),
		entered("Speed", "4"),
		more(),
		browser.Click(
			`//label[contains(., "A title card before it")]`,
		),
		chromedp.WaitVisible(chromedp.CSS(`input[aria-label="First card: title"]`)),
		browser.Press("A reveal after it"),
		browser.Click(`//label[contains(., "Runs backwards")]`),
		// A fade that does not fit is told before anything is queued.
		entered("Cross-fade", "2"),
		chromedp.WaitVisible(`//p[@role="alert" and contains(., "longer than half")]`),
		entered("Cross-fade", "0.5"),
		browser.Press("Picture"),
		chromedp.SetUploadFiles(chromedp.CSS(`input[aria-label="Picture file"]`), []string{picture}),
		chromedp.WaitVisible(chromedp.CSS(`button[aria-label="Without a picture"]`)),
		browser.Click(`//label[contains(., "A poster of my own")]`),
		entered("Moment of the poster", "1"),
		chromedp.WaitVisible(`//aside//p[contains(., "00:00:06:00")]`),
		browser.Press("Make the film"),
		chromedp.WaitVisible(chromedp.CSS(`li[data-output="done"] img`)),
		browser.Click(button("Watch")),
		chromedp.WaitVisible(chromedp.CSS("video")),
	)
	assert.Equal(t, []string{"1 cues", "poster 480"}, eval[[]string](s, `(async () => {
		const video = document.querySelector('video'), track = video.textTracks[0]
		track.mode = 'hidden'
		for (let i = 0; i < 200 && !track.cues?.length; i++) await new Promise((go) => setTimeout(go, 50))
		const poster = new Image()
		poster.src = video.poster
		await poster.decode()
		return [(track.cues.length > 2 ? 1 : 0) + ' cues', 'poster ' + poster.naturalWidth]
	})()`))
	list, err := s.authoring.Outputs(context.Background(), r.ProjectID)
	require.NoError(t, err)
	require.Len(t, list, 1)
	path := s.store.OutputPath(list[0])
	// 3 s of a card, twice 2 s of the reveal, two fades of half a second.
	assert.Contains(t, probed(t, path), "h264,160,90,144\n")
	text, err := exec.Command("ffprobe", "-v", "error", "-show_entries", "stream_disposition=attached_pic:chapter_tags=title", "-of", "csv=p=0", path).
		Output()
	require.NoError(t, err)
	assert.Contains(t, string(text), "1\n", "the poster is the film's cover")
	assert.Contains(t, string(text), r.Title)
	raw, err := exec.Command("ffmpeg", "-v", "error", "-i", path, "-frames:v", "1", "-f", "rawvideo", "-pix_fmt", "rgb24", "-").
		Output()
	require.NoError(t, err)
	assert.InDeltaSlice(
		t,
		[]float64{0x33, 0x66, 0xcc},
		[]float64{float64(raw[0]), float64(raw[1]), float64(raw[2])},
		14,
		"the picture is behind the card",
	)
}

func (s *stand) edit(r store.StoredReveal) {
	s.Helper()
	command, err := edit.Parse([]byte(`{"op":"setTitle","title":"Second"}`))
	require.NoError(s, err)
	_, err = s.authoring.Do(context.Background(), r.ID, authoring.On{Base: r.Version}, authoring.Edit{Command: command})
	require.NoError(s, err)
}

// probed returns codec, size and frames of a film's pictures, and the codec of its sound.
func probed(t *testing.T, path string) string {
	t.Helper()
	var out strings.Builder
	for _, q := range []string{"v:0|codec_name,width,height,nb_read_frames", "a:0|codec_name"} {
		stream, entries, _ := strings.Cut(q, "|")
		text, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-select_streams", stream, "-show_entries", "stream="+entries, "-of", "csv=p=0", path).
			Output()
		require.NoError(t, err, path)
		out.Write(text)
	}
	return out.String()
}

// What is put on paper and on pages is chosen, gathered, made and renewed like films; the tools of others read it.
func TestPaperAndPageByHand(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	add := func() browser.Action { return chromedp.Steps(browser.Press("Add to a set"), browser.Settled()) }
	s.do(
		chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/release/"+r.ID),
		chromedp.WaitVisible(button("Make the film")),
		browser.Press("Lines"),
		browser.Press("At the playhead"),
		browser.Press("Shaded"),
		entered("Width of the drawing", "80"),
		add(),
		browser.Press("Sheet"),
		pickOption("Size of the sheet", "A4"),
		browser.Press("First"),
		chromedp.SendKeys(chromedp.CSS(`input[aria-label="Identification number"]`), "SR-0040"),
		browser.Press("Every step’s end"),
		chromedp.WaitVisible(`//p[@role="alert" and contains(., "views")]`), // nine are too many
	)
	s.do(
		browser.Press("Lines"),
		browser.Press("Sheet"), // chosen anew
		pickOption("Size of the sheet", "A4"),
		browser.Press("First"),
		chromedp.SendKeys(chromedp.CSS(`input[aria-label="Identification number"]`), "SR-0040"),
		add(),
		browser.Press("Manual"),
		pickOption("How pages are laid out", "Cards that lie"),
		chromedp.SendKeys(chromedp.CSS(`textarea[aria-label="Introduction"]`), "Have a dry cloth at hand."),
		add(),
		browser.Press("Parts list"),
		add(),
		browser.Press("Page"),
		add(),
		browser.Press("Make all 5"),
	)
	s.within(4*time.Minute, chromedp.WaitVisible(`//ul[count(li[@data-output="done"])=5]`))
	list, err := s.authoring.Outputs(context.Background(), r.ProjectID)
	require.NoError(t, err)
	file := map[string]string{}
	for _, o := range list {
		file[string(o.Settings)[:40]+filepath.Ext(s.store.OutputPath(o))] = s.store.OutputPath(o)
	}
	find := func(what, extension string) string {
		for key, path := range file {
			if strings.Contains(key, `"`+what+`"`) && strings.HasSuffix(key, extension) {
				return path
			}
		}
		require.Fail(t, "there is no "+what)
		return ""
	}
	tool := func(name string, args ...string) string {
		out, err := exec.Command(name, args...).CombinedOutput()
		require.NoError(t, err, "%s", out)
		return string(out)
	}
	tool("xmllint", "--noout", find("lines", ".svg"))
	sheet := find("sheet", ".pdf")
	assert.Contains(t, tool("qpdf", "--check", sheet), "No syntax")
	assert.Contains(t, tool("pdftotext", sheet, "-"), "SR-0040")
	assert.Contains(t, tool("pdftotext", find("manual", ".pdf"), "-"), "Have a dry cloth at hand.")
	table, err := os.ReadFile(find("parts", ".csv"))
	require.NoError(t, err)
	assert.Contains(t, string(table), "ISO 4762 – M3 × 12")
	page, err := os.ReadFile(find("page", ".html"))
	require.NoError(t, err)
	assert.Contains(t, string(page), "<title>Service teardown</title>")
	// What lies on pages has a small picture; what changes is out of date, and is renewed by one press.
	s.do(chromedp.WaitVisible(`//li[contains(., "sheet")]//img`))
	s.edit(r)
	s.do(
		chromedp.Reload(),
		chromedp.WaitVisible(`//li[contains(., "manual")][contains(., "out of date")]`),
		browser.Click(`//li[contains(., "csv")]//button[normalize-space(.)="Renew"]`),
		chromedp.WaitVisible(`//ul[count(li[@data-output="done"])=6]`),
		chromedp.WaitVisible(`//li[contains(., "html")]//button[normalize-space(.)="Open"]`),
	)
	// The server shows the page as the client will see it, in no origin of its own.
	for _, o := range list {
		if strings.HasSuffix(s.store.OutputPath(o), ".html") {
			require.NoError(
				t,
				browser.Within(
					s.ctx,
					time.Minute,
					chromedp.Navigate(s.url+"/api/outputs/"+o.ID+"/file"),
					clientDrawn(),
				),
			)
		}
	}
	assert.Equal(t, "null", eval[string](s, `self.origin`))
	assert.Empty(t, eval[string](s, `document.querySelector('.problem')?.textContent ?? ''`))
}

// Item references of a sheet are dragged on a picture of it, moved by keys, given back, and stand where they were put in
// what is made.
func TestItemReferencesArePlacedByHand(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	middle := func(number int) [2]float64 {
		return eval[[2]float64](s, fmt.Sprintf(
			`(() => { const r = document.querySelector('[data-item="%d"] circle:last-of-type').getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] })()`,
			number,
		))
	}
	reference := func(number int) string { return fmt.Sprintf(`[data-item="%d"]`, number) }
	s.do(
		chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/release/"+r.ID),
		chromedp.WaitVisible(button("Make the film")),
		browser.Press("Sheet"),
		pickOption("Size of the sheet", "A4"),
		browser.Press("Place by hand…"),
		chromedp.WaitVisible(chromedp.CSS(reference(1))),
	)
	from := middle(4)
	s.do(
		chromedp.DragAndDropXY(from[0], from[1], from[0]+37, from[1]+21, 5),
		chromedp.WaitVisible(chromedp.CSS(reference(4)+`[aria-label$="placed by hand"]`)),
	)
	at := middle(4)
	assert.InDelta(t, from[0]+37, at[0], 1)
	assert.InDelta(t, from[1]+21, at[1], 1)
	s.do(chromedp.KeyEvent(kb.ArrowRight), chromedp.KeyEvent(kb.ArrowRight))
	nudged := middle(4)
	mm := eval[float64](
		s,
		`(p => p.getBoundingClientRect().width / p.viewBox.baseVal.width)(document.querySelector('[data-references]'))`,
	)
	assert.InDelta(t, at[0]+2*mm, nudged[0], 0.3, "two millimetres")
	s.do(chromedp.Focus(chromedp.CSS(reference(7))), chromedp.KeyEvent(kb.ArrowDown))
	s.do(chromedp.WaitVisible(chromedp.CSS(reference(7) + `[aria-label$="placed by hand"]`)))
	s.do(chromedp.KeyEvent(kb.Delete), chromedp.WaitVisible(chromedp.CSS(reference(7)+`:not([aria-label$="by hand"])`)))
	s.do(
		browser.Press("Keep these places"),
		chromedp.WaitVisible(`//span[normalize-space(.)="1 by hand"]`),
		browser.Press("Make it"),
		chromedp.WaitVisible(`//li[@data-output="done"]`),
	)
	list, err := s.authoring.Outputs(context.Background(), r.ProjectID)
	require.NoError(t, err)
	require.Len(t, list, 1)
	var made struct {
		Sheet struct{ Places map[string][2]float64 }
	}
	require.NoError(t, json.Unmarshal([]byte(list[0].Settings), &made))
	assert.Len(t, made.Sheet.Places, 1)
	// Opened again it stands there.
	s.do(
		browser.Press("Place by hand…"),
		chromedp.WaitVisible(chromedp.CSS(reference(4)+`[aria-label$="placed by hand"]`)),
	)
	assert.InDelta(t, nudged[0], middle(4)[0], 0.5)
	s.do(
		browser.Press("All by themselves"),
		chromedp.WaitVisible(chromedp.CSS(reference(4)+`:not([aria-label$="by hand"])`)),
	)
}
