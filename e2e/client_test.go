package e2e

import (
	"archive/zip"
	"context"
	"image"
	"image/png"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/clientpage"
	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/e2e/browser"
	"slowreveal/release"
)

// clientPage opens a client page from a folder, as a client does: there is no server that could be asked for anything.
func clientPage(t *testing.T, settings release.Settings, hidden ...assembly.NodeID) (s *stand, file string) {
	t.Helper()
	m := demo.Pump()
	doc := demo.Teardown(m.Assembly)
	doc.Opening.Suppressed = hidden
	return clientPageOf(t, m, doc, settings)
}

func clientPageOf(
	t *testing.T,
	m *product.Model,
	doc *reveal.Reveal,
	settings release.Settings,
) (s *stand, file string) {
	t.Helper()
	s = newStand(t)
	settings.Kind = release.Page
	w, err := release.Plan(settings, m, doc, nil)
	require.NoError(t, err)
	file = filepath.Join(t.TempDir(), "client.html")
	require.NoError(t, w.Make(context.Background(), file, nil))
	require.NoError(
		t,
		browser.Within(s.ctx, 2*time.Minute, browser.Size(1280, 800), chromedp.Navigate("file://"+file), clientDrawn()),
	)
	return s, file
}

func clientDrawn() browser.Action {
	return browser.Until(
		`document.querySelector('canvas')?.dataset.drawn === 'true' || document.querySelector('.problem')`,
	)
}

// clientPicture takes a picture of the stage of a client page.
func (s *stand) clientPicture() image.Image {
	s.Helper()
	path := filepath.Join(s.TempDir(), "client.png")
	// What was pressed is drawn with the next frame; where pictures take long, how parts darken each other comes last.
	rested := browser.Script(`(async () => {
		for (let n = 0; n < 1000; n++) {
			await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))
			const { drawn, occluded } = document.querySelector('canvas').dataset
			if (drawn === 'true' && occluded === 'true') return true
			await new Promise((done) => setTimeout(done, 50))
		}
		return false
	})()`)
	require.NoError(s, browser.Within(s.ctx, time.Minute, rested, browser.Picture(path)))
	f, err := os.Open(path)
	require.NoError(s, err)
	defer f.Close()
	img, err := png.Decode(f)
	require.NoError(s, err)
	box := eval[[]float64](
		s,
		`(() => { const r = document.querySelector('.frame').getBoundingClientRect(); return [r.left, r.top, r.right, r.bottom] })()`,
	)
	return img.(interface {
		SubImage(image.Rectangle) image.Image
	}).SubImage(image.Rect(int(box[0])+2, int(box[1])+2, int(box[2])-2, int(box[3])-2))
}

// unlike is the share of pixels in which two pictures clearly differ.
func unlike(a, b image.Image) float64 {
	n, all := 0, 0
	for y := a.Bounds().Min.Y; y < a.Bounds().Max.Y; y += 2 {
		for x := a.Bounds().Min.X; x < a.Bounds().Max.X; x += 2 {
			all++
			r0, g0, b0, _ := a.At(x, y).RGBA()
			r1, g1, b1, _ := b.At(x, y).RGBA()
			far := func(p, q uint32) bool { return max(p, q)-min(p, q) > 0x1800 }
			if far(r0, r1) || far(g0, g1) || far(b0, b1) {
				n++
			}
		}
	}
	return float64(n) / float64(all)
}

func TestAClientTurnsAndPlaysThePageFromAFolder(t *testing.T) {
	s, file := clientPage(t, release.Settings{})
	info, err := os.Stat(file)
	require.NoError(t, err)
	assert.Less(t, info.Size(), int64(3_000_000))
	assert.Empty(t, eval[string](s, `document.querySelector('.problem')?.textContent ?? ''`))
	s.accessible()
	press := func(what string) { require.NoError(t, browser.Within(s.ctx, time.Minute, browser.Click(what))) }
	whole := s.clientPicture()

	press(`//nav//li[5]/button`)
	rotor := s.clientPicture()
	assert.Greater(t, unlike(whole, rotor), 0.1, "another step shows something else")
	assert.Equal(t, "step", eval[string](s, `document.querySelectorAll('nav button')[4].getAttribute('aria-current')`))
	assert.Contains(t, eval[string](s, `document.querySelector('.said').textContent`), "Hex key 3 mm")
	s.accessible()

	press(`//aside//tbody/tr[24]`)
	marked := s.clientPicture()
	assert.Greater(t, unlike(rotor, marked), 0.01, "what is chosen in the list is marked in the picture")
	press(`//aside//button[text()="Hide"]`)
	gone := s.clientPicture()
	assert.Greater(t, unlike(rotor, gone), 0.02, "what is hidden is gone")
	s.accessible()
	press(`//aside//button[text()="Show all"]`)
	press(`//aside//button[text()="See through"]`)
	clear := s.clientPicture()
	assert.Greater(t, unlike(rotor, clear), 0.02)
	assert.Greater(t, unlike(gone, clear), 0.02)
	press(`//aside//button[text()="Show all"]`)
	require.NoError(t, browser.Within(s.ctx, time.Minute, chromedp.KeyEvent("\x1b")))
	assert.Less(t, unlike(rotor, s.clientPicture()), 0.002, "and comes back as it was")

	press(`//button[text()="Top"]`)
	assert.Greater(t, unlike(rotor, s.clientPicture()), 0.1, "it is looked at from above")
	press(`//button[text()="Film"]`)
	assert.Less(t, unlike(rotor, s.clientPicture()), 0.002)

	press(`//button[@aria-label="Play"]`)
	require.NoError(
		t,
		browser.Within(
			s.ctx,
			time.Minute,
			browser.Until(`Number(document.querySelector('.track input').value) > 19.4e6`),
		),
	)
	press(`//button[@aria-label="Pause"]`)
	assert.Greater(t, unlike(rotor, s.clientPicture()), 0.005, "the film runs")

	requests := eval[float64](
		s,
		`performance.getEntriesByType('resource').filter((r) => !/^(blob|data):/.test(r.name)).length`,
	)
	assert.Zero(t, requests, "it asks nobody for anything")
}

func TestWhatIsLeftOutIsNotInTheClientPage(t *testing.T) {
	s, file := clientPage(t, release.Settings{}, "control-board", "planet-stage")
	words := eval[string](s, `document.body.textContent`)
	assert.Contains(t, words, "Dosing knob")
	assert.NotContains(t, words, "Circuit board")
	assert.NotContains(t, words, "Sun gear, 12 teeth")
	// The page takes its blocks out when it has read them: the file has them.
	data, err := os.ReadFile(file)
	require.NoError(t, err)
	require.NoError(t, browser.Within(s.ctx, time.Minute, chromedp.Navigate("about:blank")))
	page := string(data)
	block := func(id string) string {
		_, rest, _ := strings.Cut(page, `id="`+id+`">`)
		text, _, _ := strings.Cut(rest, "<")
		return text
	}
	told := eval[string](s, `(async () => {
		const packed = Uint8Array.from(atob('`+block("told")+`'), (c) => c.charCodeAt(0))
		return await new Response(new Blob([packed]).stream().pipeThrough(new DecompressionStream('gzip'))).text()
	})()`)
	assert.Contains(t, told, "Dosing knob")
	for _, secret := range []string{"Circuit board", "control-board", "Sun gear", "sun-gear", "planet-stage"} {
		titles := strings.Count(told, secret)
		assert.Zero(t, titles, "%s is in the file", secret)
	}
}

func TestAClientPageSaysWhenItIsOld(t *testing.T) {
	s, _ := clientPage(t, release.Settings{Page: pageUntil("2026-01-31")})
	assert.Contains(t, eval[string](s, `document.querySelector('.old').textContent`), "2026-01-31")
	s.accessible()
}

// The folder is served by any web server, also inside a page of somebody else's: nothing is fetched from elsewhere.
// A client moves the mechanism by hand: the product stands together for that, what is tied to it follows, and the film
// goes on where it was.
func TestAClientMovesAMechanismByHand(t *testing.T) {
	atLength(t)
	m := demo.Applicator()
	s, _ := clientPageOf(t, m, demo.Labelling(m.Assembly), release.Settings{})
	set := func(element, kind, value string) browser.Action {
		return browser.Script(`(() => {
			const e = ` + element + `
			Object.getOwnPropertyDescriptor(` + kind + `.prototype, 'value').set.call(e, ` + value + `)
			return e.dispatchEvent(new Event(e.tagName === 'SELECT' ? 'change' : 'input', { bubbles: true }))
		})()`)
	}
	choose := func(name string) browser.Action {
		list := `[...document.querySelectorAll('.views label')].find((l) => l.textContent.startsWith('By hand')).querySelector('select')`
		return set(list, "HTMLSelectElement", `[...e.options].find((o) => o.text === "`+name+`").value`)
	}
	s.do(browser.Click(button("Front")))
	whole := s.clientPicture()
	s.do(choose("Motor drive"))
	slider := `document.querySelector('input[aria-label="Turn Motor drive"]')`
	s.do(browser.Until(slider))
	assert.Less(t, unlike(whole, s.clientPicture()), 0.001, "at rest it stands as it did")
	s.do(set(slider, "HTMLInputElement", "540")) // half a turn of the main shaft: 3 : 1
	assert.Equal(t, "540°", eval[string](s, slider+`.getAttribute('aria-valuetext')`))
	turned := s.clientPicture()
	assert.Greater(t, unlike(whole, turned), 0.01, "crank, coupler, rocker and stamp stand elsewhere")
	s.do(set(slider, "HTMLInputElement", "0"))
	assert.Less(t, unlike(whole, s.clientPicture()), 0.001, "and back")
	s.do(set(slider, "HTMLInputElement", "540"), choose("nothing"), browser.Until(`!`+slider))
	assert.Less(t, unlike(whole, s.clientPicture()), 0.001, "the film goes on where it was")
	assert.Empty(t, eval[string](s, `document.querySelector('.problem')?.textContent ?? ''`))
}

func TestTheClientPageComesFromAWebServer(t *testing.T) {
	atLength(t)
	s := newStand(t)
	m := demo.Pump()
	w, err := release.Plan(release.Settings{Kind: release.Page, Format: "folder"}, m, demo.Teardown(m.Assembly), nil)
	require.NoError(t, err)
	folder := t.TempDir()
	file := filepath.Join(folder, "client.zip")
	require.NoError(t, w.Make(context.Background(), file, nil))
	packed, err := zip.OpenReader(file)
	require.NoError(t, err)
	defer packed.Close()
	require.NoError(t, os.CopyFS(filepath.Join(folder, "site"), packed))
	site := httptest.NewServer(http.FileServer(http.Dir(filepath.Join(folder, "site"))))
	defer site.Close()
	require.NoError(t, browser.Within(s.ctx, 2*time.Minute,
		browser.Size(1280, 800), chromedp.Navigate(site.URL+"/index.html"), clientDrawn()))
	assert.Empty(t, eval[string](s, `document.querySelector('.problem')?.textContent ?? ''`))
	whole := s.clientPicture()
	require.NoError(t, browser.Within(s.ctx, time.Minute, browser.Click(`//nav//li[5]/button`)))
	assert.Greater(t, unlike(whole, s.clientPicture()), 0.1, "its steps play")
	asked := eval[[]string](
		s,
		`performance.getEntriesByType('resource').map((r) => r.name).filter((n) => !n.startsWith('blob:'))`,
	)
	assert.GreaterOrEqual(t, len(asked), 5)
	for _, address := range asked {
		assert.True(t, strings.HasPrefix(address, site.URL+"/"), address)
	}
	inside := `document.querySelector('iframe').contentDocument`
	require.NoError(t, browser.Within(
		s.ctx,
		2*time.Minute,
		chromedp.Navigate(site.URL+"/embed.html"),
		browser.Until(
			`(() => { scrollTo(0, 9999); return `+inside+`?.querySelector('canvas')?.dataset.drawn === 'true' })()`,
		),
	))
	assert.Equal(t, 9, eval[int](s, inside+`.querySelectorAll('nav li').length`))
}

func pageUntil(day string) *clientpage.Settings { return &clientpage.Settings{Until: day} }
