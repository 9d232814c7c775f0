package manual_test

import (
	"context"
	"image"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/paper"
	"slowreveal/paper/manual"
	"slowreveal/render/lettering"
)

func pump() *paper.Subject {
	m := demo.Pump()
	return paper.NewSubject(m, film.Compile(m.Assembly, demo.Teardown(m.Assembly)))
}

func collect(t *testing.T, set manual.Settings) *manual.Content {
	t.Helper()
	require.NoError(t, set.Fill())
	c, err := manual.Collect(context.Background(), pump(), set)
	require.NoError(t, err)
	return c
}

// usual is the example's manual with nothing chosen: reading and drawing all of it takes seconds.
var usual = sync.OnceValues(func() (*manual.Content, error) {
	var set manual.Settings
	if err := set.Fill(); err != nil {
		return nil, err
	}
	return manual.Collect(context.Background(), pump(), set)
})

// with is the usual one with other settings of its pages.
func with(t *testing.T, change func(s *manual.Settings)) *manual.Content {
	t.Helper()
	c, err := usual()
	require.NoError(t, err)
	own := *c
	change(&own.Settings)
	return &own
}

func pages(t *testing.T, c *manual.Content) []*paper.Page {
	t.Helper()
	fonts, err := paper.NewFonts()
	require.NoError(t, err)
	list, err := c.Draw(fonts)
	require.NoError(t, err)
	return list
}

func write(t *testing.T, list []*paper.Page) string {
	t.Helper()
	data, err := paper.PDF(list, paper.About{Title: "Service teardown", Language: "en-GB"})
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "manual.pdf")
	require.NoError(t, os.WriteFile(path, data, 0o644))
	return path
}

func run(t *testing.T, name string, args ...string) string {
	t.Helper()
	out, err := exec.Command(name, args...).CombinedOutput()
	require.NoError(t, err, "%s: %s", name, out)
	return string(out)
}

// Who reads the document without seeing it hears the steps in their order, the safety message before what is to be
// done, and what pictures show.
func TestTheManualIsReadInItsOrder(t *testing.T) {
	c := collect(
		t,
		manual.Settings{
			Number:  "SR-0041",
			Intro:   "Have a **dry** cloth at hand.\n- one\n- two",
			Closing: "Note the hours.",
		},
	)
	path := write(t, pages(t, c))
	assert.Contains(t, run(t, "qpdf", "--check", path), "No syntax or stream encoding errors")
	info := run(t, "pdfinfo", path)
	assert.Regexp(t, `Tagged:\s+yes`, info)
	assert.Contains(t, info, "Page size:       595.2")
	assert.NotContains(t, run(t, "pdftotext", path, "-"), "�")
	text := run(t, "pdfinfo", "-struct-text", path)
	at := 0
	for i := range c.Steps {
		s := &c.Steps[i]
		find := func(words string) {
			k := strings.Index(text[at:], words)
			require.GreaterOrEqual(t, k, 0, "step %d: %q does not follow", s.Number, words)
			at += k
		}
		if i == 0 {
			at = strings.LastIndex(text, "H2 (block)\n    \""+"1"+s.Title)
			at = max(at, strings.Index(text, "Have a dry cloth"))
		}
		find(s.Title)
		if s.Notice != nil {
			find(s.Notice.Text)
		}
		find(strings.Fields(s.Instruction)[0])
		find("Figure")
	}
	assert.Contains(t, text[at:], "Note the hours.")
	for _, f := range strings.Split(strings.TrimSpace(run(t, "pdffonts", path)), "\n")[2:] {
		assert.Regexp(t, `\syes yes yes\s`, f)
	}
	whole := run(t, "qpdf", "--qdf", "--object-streams=disable", path, "-")
	assert.Contains(t, whole, "/Outlines")
	assert.Equal(
		t,
		strings.Count(whole, "/S /Figure"),
		strings.Count(whole, "/Alt "),
		"each picture says what it shows",
	)
	assert.Contains(t, whole, "/Lang ")
	links := strings.Count(whole, "/Subtype /Link")
	assert.GreaterOrEqual(t, links, len(c.Steps)+3, "contents lead to pages")
}

func TestPicturesShowWhatMovesBeforeAndAfter(t *testing.T) {
	c := with(t, func(*manual.Settings) {})
	require.Len(t, c.Steps, 9)
	door, screws := c.Steps[0], c.Steps[1]
	require.Len(t, door.Pictures, 2)
	assert.Less(t, door.Pictures[0].At, door.Pictures[1].At)
	assert.NotEmpty(t, door.Pictures[0].Arrows)
	assert.Empty(t, door.Pictures[1].Arrows)
	assert.Len(t, screws.Pictures[0].Marked, 4)
	assert.Contains(t, screws.Pictures[0].Alternative, "4 × Cover screw M3 × 12")
	assert.Equal(t, door.Pictures[0].Camera, door.Pictures[1].Camera, "both are from one place")
	together := c.Steps[7]
	assert.Len(t, together.Pictures, 1)
	assert.Empty(t, together.Pictures[0].Marked, "where everything moves nothing is marked")
}

func TestWhatWasChosenByHandIsKept(t *testing.T) {
	c := collect(t, manual.Settings{
		Steps: []reveal.StepID{
			"step-3",
			"step-1",
		}, Moments: map[reveal.StepID][]reveal.Micros{"step-3": {12 * reveal.Second}}, Title: "Short",
	})
	require.Len(t, c.Steps, 2)
	assert.Equal(t, "Take off the rotor cover", c.Steps[0].Title)
	assert.Equal(t, 1, c.Steps[0].Number)
	require.Len(t, c.Steps[0].Pictures, 1)
	assert.Equal(t, 12*reveal.Second, c.Steps[0].Pictures[0].At)
}

// A picture of the author's stands in place of those that are drawn, in the PDF and in the folder, in its own shape, and is
// told of in words.
func TestAStepHasAPictureOfItsOwn(t *testing.T) {
	photo := image.NewNRGBA(image.Rect(0, 0, 90, 120))
	for i := range photo.Pix {
		photo.Pix[i] = []byte{200, 40, 10, 255}[i%4]
	}
	steps := demo.Teardown(demo.Pump().Assembly).Steps
	set := manual.Settings{
		Steps:    []reveal.StepID{steps[0].ID, steps[1].ID},
		NoParts:  true,
		Pictures: map[reveal.StepID][]string{steps[1].ID: {"photo"}},
		Images:   map[string]image.Image{"photo": photo},
	}
	c := collect(t, set)
	require.Len(t, c.Steps[1].Pictures, 1)
	assert.Nil(t, c.Steps[1].Pictures[0].View)
	assert.NotContains(t, c.Steps[1].Pictures[0].Alternative, "Arrows")
	found := regexp.MustCompile(`(?m)^ +\d+ +\d+ image +90 +120 `).
		FindAllString(run(t, "pdfimages", "-list", write(t, pages(t, c))), -1)
	assert.Len(t, found, 1)
	fonts, err := paper.NewFonts()
	require.NoError(t, err)
	files, err := c.HTML(fonts, nil)
	require.NoError(t, err)
	for _, f := range files {
		if f.Name == "pictures/step-02-1.svg" {
			box := regexp.MustCompile(`<image[^>]*width="([0-9.]+)"[^>]*height="([0-9.]+)"`).
				FindStringSubmatch(string(f.Data))
			require.Len(t, box, 3, string(f.Data[:200]))
			found = append(found, f.Name)
		}
		assert.NotEqual(t, "pictures/step-02-2.svg", f.Name)
	}
	assert.Len(t, found, 2)
	set.Pictures[steps[1].ID] = []string{"a", "b", "c", "d"}
	assert.ErrorContains(t, set.Fill(), "4 pictures of its own")
}

func TestTemplatesPutEachStepSomewhereWhole(t *testing.T) {
	for _, template := range manual.Templates {
		list := pages(t, with(t, func(s *manual.Settings) { s.Template = template }))
		text := run(t, "pdftotext", "-layout", write(t, list), "-")
		for _, title := range []string{"Open the door", "Undo the four cover screws", "Look at the drive", "Ready again"} {
			assert.Contains(t, text, title, template)
		}
		switch template {
		case manual.Strip:
			require.Len(t, list, 1)
			assert.InDelta(t, 10*99, list[0].Width, 1e-9)
		case manual.Single, manual.Cards:
			for _, p := range strings.Split(text, "\f") {
				steps := regexp.MustCompile(`(?m)^\s*[1-9]\s{2,}[A-Z]`).FindAllString(p, -1)
				if !strings.Contains(p, "Contents") {
					assert.LessOrEqual(t, len(steps), 1, "%s: %s", template, p)
				}
			}
		}
	}
}

func TestAManualWithoutStepsIsRefused(t *testing.T) {
	m := demo.Pump()
	r := demo.Teardown(m.Assembly)
	r.Steps = nil
	var set manual.Settings
	require.NoError(t, set.Fill())
	_, err := manual.Collect(context.Background(), paper.NewSubject(m, film.Compile(m.Assembly, r)), set)
	assert.ErrorContains(t, err, "no steps")
	set.Steps = []reveal.StepID{"gone"}
	_, err = manual.Collect(context.Background(), pump(), set)
	assert.ErrorContains(t, err, "gone")
}

func TestTheFolderNeedsNoScriptsAndSaysWhatPicturesShow(t *testing.T) {
	c := with(t, func(s *manual.Settings) { s.Language = "ar" })
	fonts, err := paper.NewFonts()
	require.NoError(t, err)
	files, err := c.HTML(fonts, nil)
	require.NoError(t, err)
	names := map[string]bool{}
	for _, f := range files {
		names[f.Name] = true
	}
	page := string(files[0].Data)
	assert.Equal(t, "index.html", files[0].Name)
	assert.NotContains(t, page, "<script")
	assert.Contains(t, page, `<html lang="ar" dir="rtl">`)
	for _, m := range regexp.MustCompile(`<img [^>]*>`).FindAllString(page, -1) {
		assert.Regexp(t, `alt="[^"]{10,}"`, m)
		assert.True(t, names[regexp.MustCompile(`src="([^"]+)"`).FindStringSubmatch(m)[1]], m)
	}
	assert.Contains(t, page, "CAUTION")
}

func TestSettingsThatCannotBeAreRefused(t *testing.T) {
	for want, s := range map[string]manual.Settings{
		"scroll": {Template: "scroll"}, "A0": {Size: "A0"}, "glass": {Filling: "glass"}, "x y": {Language: "x y"},
		"step-1": {Moments: map[reveal.StepID][]reveal.Micros{"step-1": {1, 2, 3, 4}}},
	} {
		assert.ErrorContains(t, s.Fill(), want)
	}
}

// Words that are read from right to left stand in their order, beside Latin ones in theirs (UAX 9): what poppler finds
// on the page is what was written.
func TestWordsFromRightToLeftKeepTheirOrder(t *testing.T) {
	const font = "/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf"
	data, err := os.ReadFile(font)
	if err != nil {
		t.Skip("this machine has no DejaVu Sans")
	}
	given, err := lettering.ReadFont(data)
	require.NoError(t, err)
	fonts, err := paper.NewFonts(given)
	require.NoError(t, err)
	page := paper.NewPage(160, 60)
	page.Tagged(paper.Paragraph, "", func() {
		fonts.Words(paper.Text, 5, paper.Ink).Set("לדלת יש ידית DP-40 שחורה", 150).Draw(page, 5, 5)
	})
	text := run(t, "pdftotext", write(t, []*paper.Page{page}), "-")
	text = strings.Map(func(r rune) rune {
		if r >= 0x202A && r <= 0x202E || r == 0x200E || r == 0x200F {
			return -1 // marks of direction
		}
		return r
	}, text)
	for _, word := range []string{"לדלת", "ידית", "DP-40", "שחורה"} {
		assert.Contains(t, text, word)
	}
	assert.Less(t, strings.Index(text, "לדלת יש ידית"), strings.Index(text, "DP-40"))
}
