package release_test

import (
	"archive/zip"
	"context"
	"encoding/json"
	"errors"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/release"
	"slowreveal/sequence"
)

func pump() (*product.Model, *reveal.Reveal) {
	m := demo.Pump()
	return m, demo.Teardown(m.Assembly)
}

// layersOf makes a still in layers and returns them by name.
func layersOf(t *testing.T, s release.Settings) map[string]image.Image {
	t.Helper()
	m, doc := pump()
	w, err := release.Plan(s, m, doc, nil)
	require.NoError(t, err)
	out := filepath.Join(t.TempDir(), "out."+w.Extension())
	told := 0
	require.NoError(t, w.Make(context.Background(), out, func(done, of int) { told = max(told, done) }))
	assert.Equal(t, w.Frames(), told)
	z, err := zip.OpenReader(out)
	require.NoError(t, err)
	defer z.Close()
	list := map[string]image.Image{}
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		assert.WithinDuration(t, time.Now(), f.Modified, time.Hour, "when it was made")
		if f.Name == "about.json" {
			var about map[string]any
			require.NoError(t, json.NewDecoder(r).Decode(&about))
			assert.Positive(t, about["depthReach"])
		} else {
			list[f.Name], err = png.Decode(r)
			require.NoError(t, err, f.Name)
		}
		r.Close()
	}
	return list
}

// The layers of one moment lie over each other: where the matte of everything is white
// something is near and the picture is solid, where it is black nothing is; mattes of the
// door and of the rest make the matte of all; edges lie on or beside what is solid.
func TestLayersLieOverEachOther(t *testing.T) {
	m, _ := pump()
	door := assembly.NodeID("pump-head/door")
	var rest []assembly.NodeID
	for i := range m.Assembly.Nodes {
		if n := &m.Assembly.Nodes[i]; n.IsPart() && !strings.HasPrefix(string(n.ID), string(door)) {
			rest = append(rest, n.ID)
		}
	}
	list := layersOf(
		t,
		release.Settings{
			Kind:       release.Stills,
			Width:      320,
			Height:     180,
			At:         []reveal.Micros{0},
			Background: "transparent",
			Layers: []sequence.Layer{
				{
					Kind: sequence.Shaded,
				}, {Kind: sequence.Edges}, {Kind: sequence.Hidden}, {Kind: sequence.Depth}, {Kind: sequence.BackgroundLayer},
				{
					Kind:  sequence.Matte,
					Name:  "All",
					Nodes: []assembly.NodeID{assembly.Root},
				}, {Kind: sequence.Matte, Name: "Door", Nodes: []assembly.NodeID{door}}, {Kind: sequence.Matte, Name: "Rest", Nodes: rest}},
		},
	)
	require.Len(t, list, 8)
	at := func(name string, x, y int) (v [4]int) {
		r, g, b, a := list[name].At(x, y).RGBA()
		return [4]int{int(r >> 8), int(g >> 8), int(b >> 8), int(a >> 8)}
	}
	solid, ink, more := 0, 0, 0
	for y := range 180 {
		for x := range 320 {
			all := at("matte-All/matte-All_00001.png", x, y)[0]
			depth, shaded := at("depth/depth_00001.png", x, y)[0], at("shaded/shaded_00001.png", x, y)
			if all == 255 {
				solid++
				// the lines of what is clear are solid, it is not
				if at("matte-Door/matte-Door_00001.png", x, y)[0] == 0 {
					assert.Positive(t, depth)
				}
				assert.Equal(t, 255, shaded[3])
			}
			if all == 0 {
				assert.Less(t, depth, 255)
				assert.Less(t, shaded[3], 255, "only the shadow")
			}
			sum := at("matte-Door/matte-Door_00001.png", x, y)[0] + at("matte-Rest/matte-Rest_00001.png", x, y)[0]
			assert.InDelta(t, all, sum, 6, "at %d, %d: both mattes together", x, y)
			if at("edges/edges_00001.png", x, y)[3] > 128 {
				ink++
			}
			if at("hidden/hidden_00001.png", x, y)[3] > 128 {
				more++
			}
		}
	}
	assert.Greater(t, solid, 3000)
	assert.Greater(t, ink, 500)
	assert.Greater(t, more, ink, "edges behind surfaces are there too")
}

// Pictures of depth have 16 bits, and what the film shows lies within their reach.
func TestDepthHoldsWhatIsShown(t *testing.T) {
	list := layersOf(
		t,
		release.Settings{
			Kind:   release.Stills,
			Width:  160,
			Height: 90,
			At:     []reveal.Micros{0, reveal.Second},
			Layers: []sequence.Layer{{Kind: sequence.Depth}},
		},
	)
	grey, ok := list["depth_00001.png"].(*image.Gray16)
	require.True(t, ok, "16 bits")
	deepest := 65535
	for y := range 90 {
		for x := range 160 {
			if v := int(grey.Gray16At(x, y).Y); v > 0 {
				deepest = min(deepest, v)
			}
		}
	}
	assert.Greater(t, deepest, 1000, "all of it lies within the reach")
}

func TestWhatCannotBeIsSaidBeforeAnythingIsMade(t *testing.T) {
	m, doc := pump()
	for want, s := range map[string]release.Settings{
		"no output of the kind":                {Kind: "hologram"},
		"can as png, jpeg, tiff":               {Kind: release.Stills, Format: "bmp"},
		"JPEG cannot keep":                     {Kind: release.Stills, Format: "jpeg", Background: "transparent"},
		"asked for twice":                      {Kind: release.Stills, Layers: []sequence.Layer{{Kind: sequence.Depth}, {Kind: sequence.Depth}}},
		"no layer":                             {Kind: release.Stills, Layers: []sequence.Layer{{Kind: "heat"}}},
		"a name, and either parts or a finish": {Kind: release.Stills, Layers: []sequence.Layer{{Kind: sequence.Matte}}},
		"more than 120":                        {Name: strings.Repeat("ä", 121)},
		"does not lie within":                  {Kind: release.Stills, At: []reveal.Micros{1e12}},
		"colour like":                          {Background: "red"},
		"out of bounds":                        {Sound: &release.Sound{}},
	} {
		if want == "out of bounds" {
			s.Sound.Gain = 900
		}
		_, err := release.Plan(s, m, doc, nil)
		assert.ErrorContains(t, err, want)
	}
	w, err := release.Plan(release.Settings{Sound: &release.Sound{Attachment: "x"}}, m, doc, nil)
	require.NoError(t, err)
	assert.ErrorContains(
		t,
		w.Attach(func(string, release.AttachmentKind) (string, error) { return "", errors.New("no such") }),
		"attach it again",
	)
}

func TestNamesAreSafeEverywhere(t *testing.T) {
	for in, want := range map[string]string{"Client/../film": "Clientfilm", "🙂": "output", "  Pump head 2 ": "Pump head 2", "con\x00<>:\"|?*": "con"} {
		assert.Equal(t, want, release.FileName(in))
	}
}

// A cancelled output leaves nothing behind.
func TestACancelledOutputLeavesNothing(t *testing.T) {
	m, doc := pump()
	folder := t.TempDir()
	for _, s := range []release.Settings{{Width: 64, Height: 36}, {Kind: release.Frames, Width: 64, Height: 36}} {
		w, err := release.Plan(s, m, doc, nil)
		require.NoError(t, err)
		ctx, cancel := context.WithCancel(context.Background())
		err = w.Make(ctx, filepath.Join(folder, "x."+w.Extension()), func(done, _ int) {
			if done >= 3 {
				cancel()
			}
		})
		assert.ErrorIs(t, err, context.Canceled)
		left, err := os.ReadDir(folder)
		require.NoError(t, err)
		assert.Empty(t, left)
	}
}

// Pictures with 16 bits, by the standard library's reader.
func TestPicturesOf16Bits(t *testing.T) {
	list := layersOf(
		t,
		release.Settings{
			Kind:        release.Stills,
			Width:       160,
			Height:      90,
			At:          []reveal.Micros{31 * reveal.Second},
			SixteenBits: true,
			Background:  "transparent",
			Layers:      []sequence.Layer{{Kind: sequence.Shaded}, {Kind: sequence.Edges}},
		},
	)
	m, doc := pump()
	for _, kind := range []sequence.LayerKind{sequence.Shaded, sequence.Depth} { // what stands for them is no special case
		w, err := release.Plan(
			release.Settings{
				Kind:        release.Stills,
				Width:       160,
				Height:      90,
				SixteenBits: true,
				Layers:      []sequence.Layer{{Kind: kind}},
			},
			m,
			doc,
			nil,
		)
		require.NoError(t, err)
		poster, err := w.Poster()
		require.NoError(t, err)
		require.NoError(t, release.WriteThumb(filepath.Join(t.TempDir(), "thumb.jpg"), poster))
	}
	img, ok := list["shaded/shaded_00001.png"].(*image.NRGBA64)
	require.True(t, ok, "colour and alpha with 16 bits")
	odd, empty := 0, 0
	for i := 0; i < len(img.Pix); i += 8 {
		if img.Pix[i] != img.Pix[i+1] {
			odd++ // no multiple of 257
		}
		if img.Pix[i+6] == 0 && img.Pix[i+7] == 0 {
			empty++
		}
	}
	assert.Greater(t, odd, 500)
	assert.Greater(t, empty, 1000, "the corners")
}

func TestJoinedFilmsAreCheckedBeforeTheyAreMade(t *testing.T) {
	m, doc := pump()
	find := func(id string) (*product.Model, *reveal.Reveal, error) {
		if id != "other" {
			return nil, nil, os.ErrNotExist
		}
		return m, doc, nil
	}
	far := 1000 * reveal.Second
	for want, s := range map[string]release.Settings{
		"reveal 2 of the film is gone": {Then: []release.Then{{Reveal: "lost"}}},
		"join reveals":                 {Kind: release.Stills, Then: []release.Then{{Reveal: "other"}}},
		"needs a title":                {Card: &sequence.TitleCard{Duration: reveal.Second}},
		"it can have 864000":           {Rate: 240, Speed: 0.1, Then: make([]release.Then, 20)},
		"at most 50 reveals":           {Then: make([]release.Then, 10_000)},
		"or the author":                {Author: strings.Repeat("x", 500)},
		"the poster's moment":          {Poster: &far},
		"16 bits":                      {SixteenBits: true},
	} {
		_, err := release.Plan(s, m, doc, find)
		assert.ErrorContains(t, err, want)
	}
	w, err := release.Plan(
		release.Settings{
			Kind:      release.Captions,
			Card:      &sequence.TitleCard{Title: "Pump", Duration: 4 * reveal.Second},
			CrossFade: reveal.Second,
			Then:      []release.Then{{Reveal: "other", Reverse: true}},
		},
		m,
		doc,
		find,
	)
	require.NoError(t, err)
	cues := w.Cues()
	length := film.Compile(m.Assembly, doc).Duration()
	assert.Equal(t, 3*reveal.Second, cues[0].From, "after the card, as it fades")
	assert.Equal(t, 2*length+2*reveal.Second, w.Length())
	assert.Equal(t, w.Length(), cues[len(cues)-1].To)
	assert.Equal(t, cues[0].Title, cues[len(cues)-1].Title, "backwards it ends with the first step")
	img, err := w.Poster()
	require.NoError(t, err)
	assert.Nil(t, img, "words have no picture")
}

// A picture by an eye of its own: where that stands as the reveal's camera, both are the same.
func TestAnEyeOfItsOwn(t *testing.T) {
	m, doc := pump()
	f := film.Compile(m.Assembly, doc)
	fr, at := f.NewFrame(), 5*reveal.Second
	for f.At(at, fr); len(fr.Notes)+len(fr.Cards) > 0; f.At(at, fr) {
		at += reveal.Second / 4 // those belong to the reveal's camera
	}
	own := fr.Camera
	picture := func(eye *reveal.Camera) image.Image {
		w, err := release.Plan(
			release.Settings{Kind: release.Stills, Width: 160, Height: 90, At: []reveal.Micros{at}, Eye: eye},
			m,
			doc,
			nil,
		)
		require.NoError(t, err)
		img, err := w.Poster()
		require.NoError(t, err)
		return img
	}
	want := picture(nil)
	assert.Equal(t, want, picture(&own))
	own.Distance *= 1.5
	assert.NotEqual(t, want, picture(&own))
	own.FocalLength = 1
	_, err := release.Plan(release.Settings{Kind: release.Stills, Eye: &own}, m, doc, nil)
	assert.ErrorContains(t, err, "focalLength")
	_, err = release.Plan(release.Settings{Eye: &own}, m, doc, nil)
	assert.ErrorContains(t, err, "stills, sequences")
}

// The same reveal again shows the same of itself: from, to and steps are not forgotten.
func TestTheSameAgainShowsTheSame(t *testing.T) {
	m, doc := pump()
	w, err := release.Plan(
		release.Settings{
			Width:  64,
			Height: 36,
			Rate:   10,
			From:   2 * reveal.Second,
			To:     5 * reveal.Second,
			Then:   []release.Then{{Reverse: true}},
		},
		m,
		doc,
		nil,
	)
	require.NoError(t, err)
	assert.Equal(t, 6*reveal.Second, w.Length())
}
