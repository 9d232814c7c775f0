package sheet_test

import (
	"bytes"
	"context"
	"fmt"
	"image/png"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/item"
	"slowreveal/core/linedrawing"
	"slowreveal/core/reveal"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
	"slowreveal/core/survey"
	"slowreveal/demo"
	"slowreveal/formats"
	"slowreveal/paper"
	"slowreveal/paper/sheet"
)

func pump() *paper.Subject {
	m := demo.Pump()
	return paper.NewSubject(m, film.Compile(m.Assembly, demo.Teardown(m.Assembly)))
}

func draw(t *testing.T, s *paper.Subject, set sheet.Settings) *sheet.Sheet {
	t.Helper()
	require.NoError(t, set.Fill())
	fonts, err := paper.NewFonts()
	require.NoError(t, err)
	out, err := sheet.Draw(context.Background(), s, fonts, set, nil)
	require.NoError(t, err)
	return out
}

func pdfOf(t *testing.T, out *sheet.Sheet) string {
	t.Helper()
	data, err := paper.PDF([]*paper.Page{out.Page}, paper.About{Title: "Sheet", Language: "en"})
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "sheet.pdf")
	require.NoError(t, os.WriteFile(path, data, 0o644))
	return path
}

func run(t *testing.T, name string, args ...string) string {
	t.Helper()
	out, err := exec.Command(name, args...).CombinedOutput()
	require.NoError(t, err, "%s: %s", name, out)
	return string(out)
}

// The tools of others read the document: qpdf its form, poppler its fonts, sizes and text.
func TestTheExamplesSheetIsReadByOthers(t *testing.T) {
	out := draw(t, pump(), sheet.Settings{Title: sheet.TitleBlock{Number: "SR-0040", Owner: "Slow Pumps"}})
	path := pdfOf(t, out)
	assert.Contains(t, run(t, "qpdf", "--check", path), "No syntax or stream encoding errors")
	info := run(t, "pdfinfo", path)
	size := regexp.MustCompile(`Page size:\s+([\d.]+) x ([\d.]+) pts`).FindStringSubmatch(info)
	require.Len(t, size, 3)
	var w, h float64
	fmt.Sscan(size[1], &w)
	fmt.Sscan(size[2], &h)
	assert.InDelta(t, 420, w*25.4/72, 0.1, "A3 of ISO 216")
	assert.InDelta(t, 297, h*25.4/72, 0.1)
	fonts := strings.Split(strings.TrimSpace(run(t, "pdffonts", path)), "\n")[2:]
	require.NotEmpty(t, fonts)
	for _, f := range fonts {
		assert.Regexp(t, `\syes yes yes\s`, f, "embedded, as a subset, with its text")
	}
	text := run(t, "pdftotext", "-layout", path, "-")
	for _, it := range out.Items {
		assert.Contains(t, text, it.Name)
		if it.Designation != "" {
			assert.Contains(t, text, it.Designation)
		}
	}
	assert.Contains(t, text, "SR-0040")
	data, err := os.Stat(path)
	require.NoError(t, err)
	assert.Less(t, data.Size(), int64(400_000))
	vector, err := out.Page.SVG()
	require.NoError(t, err)
	assert.Less(t, len(vector), 400_000)
	check := exec.Command("xmllint", "--noout", "-")
	check.Stdin = bytes.NewReader(vector)
	said, err := check.CombinedOutput()
	assert.NoError(t, err, "%s", said)
}

func TestEachItemIsReferredToOnceAndNoLeadersCross(t *testing.T) {
	out := draw(t, pump(), sheet.Settings{})
	seen := map[int]bool{}
	for i := range out.References {
		r := &out.References[i]
		assert.False(t, seen[r.Item], "item %d twice", r.Item+1)
		seen[r.Item] = true
		assert.Contains(t, out.Items[r.Item].Nodes, r.Node)
		for k := range out.References[:i] {
			assert.False(
				t,
				item.Cross(r, &out.References[k]),
				"leaders of items %d and %d cross",
				r.Item+1,
				out.References[k].Item+1,
			)
		}
	}
	for _, i := range out.Missing {
		assert.False(t, seen[i])
		seen[i] = true
	}
	assert.Len(t, seen, len(out.Items))
	assert.GreaterOrEqual(t, len(out.References), 38, "of %d", len(out.Items))
}

// bar is one block of 100 × 20 × 10 mm.
func bar(t *testing.T) *paper.Subject {
	t.Helper()
	b := formats.NewBuilder(context.Background(), formats.Options{Name: "Bar"}, "test")
	shape, err := b.Mesh("bar", simple.Block(100, 20, 10))
	require.NoError(t, err)
	root := b.Node(-1, assembly.Node{Name: "Bar", Shape: -1, Pose: assembly.PoseOf(space.Rigid{R: space.Identity3})})
	b.Node(root, assembly.Node{
		Name: "Bar", Shape: shape, Finishes: []int{b.Finish(assembly.Finish{Name: "Steel", Opacity: 1})},
		Pose: assembly.PoseOf(space.Rigid{R: space.Identity3}),
	})
	m, err := b.Model()
	require.NoError(t, err)
	r := reveal.New("Bar", reveal.Camera{Orientation: space.Quat{0, 0, 0, 1}, Distance: 300, FocalLength: 50})
	return paper.NewSubject(m, film.Compile(m.Assembly, r))
}

// A reference stands where it was put by hand, the others out of its way; the sheet without them has the same room.
func TestReferencesStandWhereTheyWerePut(t *testing.T) {
	s := pump()
	free := draw(t, s, sheet.Settings{})
	r := free.References[0]
	key := free.Items[r.Item].Key
	by := item.Point{X: r.Centre.X + 25, Y: r.Centre.Y + 12}
	held := draw(t, s, sheet.Settings{Places: map[assembly.NodeID][2]float64{key: {by.X, by.Y}}})
	assert.Len(t, held.References, len(free.References))
	assert.Len(t, held.Radii, len(free.References))
	for i, a := range held.References {
		if held.Items[a.Item].Key == key {
			assert.Equal(t, by, a.Centre)
		}
		for k, b := range held.References[:i] {
			apart := math.Hypot(a.Centre.X-b.Centre.X, a.Centre.Y-b.Centre.Y)
			assert.GreaterOrEqual(t, apart, held.Radii[i]+held.Radii[k], "%d, %d", a.Item, b.Item)
		}
	}
	bare := draw(t, s, sheet.Settings{Undrawn: true})
	assert.Equal(t, free.References, bare.References)
	assert.Equal(t, free.Scales, bare.Scales)
	one, err := free.Page.SVG()
	require.NoError(t, err)
	other, err := bare.Page.SVG()
	require.NoError(t, err)
	assert.Less(t, len(other), len(one))

	off := sheet.Settings{Places: map[assembly.NodeID][2]float64{key: {500, 20}}}
	assert.ErrorContains(t, off.Fill(), "not on the sheet")
}

// A sheet at 1 : 1 that is printed at its size shows 100 mm as 100 mm: measured on the picture that poppler makes.
func TestScaleIsTrueOnPaper(t *testing.T) {
	s := bar(t)
	at := reveal.Micros(0)
	for _, scale := range []float64{1, 0.5, 2} {
		out := draw(t, s, sheet.Settings{
			Size: "A3", NoList: true, NoReferences: true, Views: []sheet.View{{At: &at, From: "front", Scale: scale}},
		})
		path := pdfOf(t, out)
		const dpi = 200
		run(
			t,
			"pdftoppm",
			"-r",
			fmt.Sprint(dpi),
			"-gray",
			"-png",
			"-singlefile",
			path,
			strings.TrimSuffix(path, ".pdf"),
		)
		f, err := os.Open(strings.TrimSuffix(path, ".pdf") + ".png")
		require.NoError(t, err)
		defer f.Close()
		img, err := png.Decode(f)
		require.NoError(t, err)
		// On the middle of the bar's height the first and the last dark pixel inside of the frame are its sides.
		box := out.Boxes[0]
		y := int((box.Y + (box.Height-2)/2 - 1.5) / 25.4 * dpi)
		first, last := -1, -1
		for x := int((box.X + 3) / 25.4 * dpi); x < int((box.Right()-3)/25.4*dpi); x++ {
			if v, _, _, _ := img.At(x, y).RGBA(); v < 0x8000 {
				if first < 0 {
					first = x
				}
				last = x
			}
		}
		width := float64(last-first+1)/dpi*25.4 - 0.5 // from the middle of a line to that of the other
		assert.InDelta(t, 100*scale, width, 0.2, "at %g : 1", scale)
	}
}

func TestSettingsThatCannotBeAreRefusedWithTheirName(t *testing.T) {
	for want, s := range map[string]sheet.Settings{
		"A7":      {Size: "A7"},
		"sideway": {Views: []sheet.View{{From: "sideway"}}},
		"glass":   {Views: []sheet.View{{Filling: "glass"}}},
		"detail":  {Views: []sheet.View{{Detail: "pump-head"}}},
		"7":       {Views: make([]sheet.View, 7)},
		"e n":     {Title: sheet.TitleBlock{Language: "e n"}},
	} {
		assert.ErrorContains(t, s.Fill(), want)
	}
}

func TestDetailsAreCircledWhereTheyAreFrom(t *testing.T) {
	at := 12 * reveal.Second
	out := draw(t, pump(), sheet.Settings{NoList: true, Views: []sheet.View{{At: &at}, {Detail: "pump-head/rotor"}}})
	require.Len(t, out.Scales, 2)
	assert.Greater(t, out.Scales[1], out.Scales[0])
	text := run(t, "pdftotext", "-layout", pdfOf(t, out), "-")
	assert.Regexp(t, `X \(\d`, text)
}

// Where a long list leaves no room, it stands on a sheet of its own, and the views have all of theirs.
// A section has its letter at both ends of the line where it is taken, and above it twice; what only it shows is referred
// to there.
func TestASectionIsMarkedWhereItIsTaken(t *testing.T) {
	at := reveal.Micros(0)
	front := sheet.View{At: &at, From: "front"}
	whole := draw(t, pump(), sheet.Settings{Views: []sheet.View{front}})
	cut := draw(t, pump(), sheet.Settings{Views: []sheet.View{front, {Section: &paper.Section{Axis: "x"}}}})
	text := run(t, "pdftotext", "-layout", pdfOf(t, cut), "-")
	assert.Contains(t, text, "A–A")
	letters := func(text string) (n int) {
		for _, word := range strings.Fields(text) {
			if word == "A" {
				n++
			}
		}
		return n
	}
	assert.Equal(t, 2+2, letters(text), "at two ends, and the sheet's zones")
	assert.Less(t, len(cut.Missing), len(whole.Missing)-8)
	// From where the plane is not seen as a line, the title alone tells.
	front.From = "isometric"
	text = run(
		t,
		"pdftotext",
		"-layout",
		pdfOf(t, draw(t, pump(), sheet.Settings{Views: []sheet.View{front, {Section: &paper.Section{Axis: "x"}}}})),
		"-",
	)
	assert.Contains(t, text, "A–A")
	assert.Equal(t, 2, letters(text))
	var set sheet.Settings
	set.Views = []sheet.View{{Section: &paper.Section{Axis: "q"}}}
	assert.ErrorContains(t, set.Fill(), "there are x, y and z")
}

func TestALongListGetsASheetOfItsOwn(t *testing.T) {
	out := draw(t, pump(), sheet.Settings{Size: "A4"})
	require.NotNil(t, out.List)
	assert.Greater(t, out.Scales[0], 0.1)
	data, err := paper.PDF([]*paper.Page{out.Page, out.List}, paper.About{Title: "Sheet", Language: "en"})
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "sheet.pdf")
	require.NoError(t, os.WriteFile(path, data, 0o644))
	text := run(t, "pdftotext", "-layout", path, "-")
	first, second, _ := strings.Cut(text, "\f")
	assert.Contains(t, first, "1/2")
	assert.NotContains(t, first, "Motor flange")
	assert.Contains(t, second, "Motor flange")
	assert.Nil(t, draw(t, pump(), sheet.Settings{Size: "A2"}).List)
}

// From fifty sides: the references of what is seen have leaders that begin on their parts and do not cross, and the
// numbers are those of the list.
func TestFromAnySideNoLeadersCross(t *testing.T) {
	s := pump()
	a := s.Model.Assembly
	items := item.List(a, survey.Shapes(a, s.Model.Shapes), nil, item.Settings{})
	frames := []*film.Frame{s.At(0), s.At(12 * reveal.Second), s.At(18 * reveal.Second)}
	placedAll := 0
	n := uint64(50)
	if testing.Short() {
		n = 12
	}
	for seed := range n {
		r := rand.New(rand.NewPCG(seed, 4))
		fr := frames[seed%3]
		c := fr.Camera
		way, _ := space.Normalize(space.Vec{X: r.NormFloat64(), Y: r.NormFloat64(), Z: r.NormFloat64()})
		c.Orientation, c.Orthographic = space.LookAlong(way, space.Vec{Y: 1}), true
		v, err := s.View(context.Background(), fr, c, paper.ViewSettings{})
		require.NoError(t, err)
		scale := min(180/(v.Max.X-v.Min.X), 140/(v.Max.Y-v.Min.Y))
		at := v.At(200, 150, scale)
		anchors, err := v.Anchors(at, 240)
		require.NoError(t, err)
		candidates := make([][]item.Candidate, len(items))
		for i := range items {
			for _, n := range items[i].Nodes {
				candidates[i] = append(candidates[i], anchors[n]...)
			}
		}
		x0, y0 := at(linedrawing.Point{X: v.Min.X, Y: v.Max.Y})
		x1, y1 := at(linedrawing.Point{X: v.Max.X, Y: v.Min.Y})
		area := item.Area{
			InnerMin: item.Point{X: x0, Y: y0}, InnerMax: item.Point{X: x1, Y: y1},
			OuterMin: item.Point{X: x0 - 22, Y: y0 - 22}, OuterMax: item.Point{X: x1 + 22, Y: y1 + 22}, Radius: 4.3,
		}
		placed, missing := item.Place(candidates, area)
		assert.Equal(t, len(items), len(placed)+len(missing))
		placedAll += len(placed)
		for i := range placed {
			assert.Contains(t, items[placed[i].Item].Nodes, placed[i].Node)
			for k := range placed[:i] {
				assert.False(t, item.Cross(&placed[i], &placed[k]), "seed %d", seed)
			}
		}
	}
	t.Logf("%d references", placedAll)
	assert.Greater(t, placedAll, int(8*n))
}
