package e2e

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/core/variant"
	"slowreveal/render"
)

// shown is what the page says that its stage shows (web/src/stage/report.ts).
type shown struct {
	Time   *float64 // µs; nil at rest, without a reveal
	Eye    string
	Camera reveal.Camera
	Hidden []assembly.NodeID
	Cut    bool
	Shape  float64 // of the frame, width over height; 0 for the reveal's own
	// Tried is a joint that is tried out at rest, and at which value; nil without one.
	Tried *struct {
		Joint assembly.JointID
		Value float64
	}
	Doc           *json.RawMessage
	Product       json.RawMessage
	Variant       assembly.VariantID
	Width, Height int
	Pixels        string
}

// portraitWidth is how wide the pictures are that are held against each other: about a quarter of the stage.
const portraitWidth = 180

// looks holds the stage, whenever there is one and it is at rest, against what the core says that it
// shows: the same camera, poses and opacities, drawn by our own renderer. It is called after every action
// of every test.
func (s *stand) looks() {
	s.Helper()
	ctx, cancel := context.WithTimeout(s.ctx, 3*time.Minute) // a thousand parts without a GPU, two pages of them
	defer cancel()
	text, err := chromedp.Run(
		ctx,
		chromedp.Evaluate[string](
			`window.slowReveal ? slowReveal.report(`+strconv.Itoa(portraitWidth)+`).then(JSON.stringify) : 'null'`,
			chromedp.EvalAwaitPromise,
		),
	)
	require.NoError(s, err, "asking what the stage shows")
	if text == "null" || text == "" {
		return
	}
	var page shown
	require.NoError(s, json.Unmarshal([]byte(text), &page))
	if page.Cut { // a section is of the page alone
		return
	}
	want, background := s.drawn(&page)
	raw, err := base64.StdEncoding.DecodeString(page.Pixels)
	require.NoError(s, err)
	got := render.NewPicture(page.Width, page.Height)
	for y := range page.Height {
		for x := range page.Width { // WebGL's rows go upwards
			copy(got.RGB[3*(y*page.Width+x):3*(y*page.Width+x)+3], raw[4*((page.Height-1-y)*page.Width+x):])
		}
	}
	mean, overlap := difference(got, want, background)
	least := 0.97
	switch n := seen(want, background); {
	case n < 0.002 && seen(got, background) < 0.002: // outlines are a matter of single pixels
		least = 0
	case n < 0.12: // small things are edges for the most part, which two renderers draw half a pixel apart
		least = 0.93
	}
	if mean <= 6 && (overlap >= least || least == 0) {
		return
	}
	name := strings.ReplaceAll(s.Name(), "/", "-")
	keep(s.T, "stage-"+name+".png", got)
	keep(s.T, "core-"+name+".png", want)
	require.NoError(s, os.WriteFile(filepath.Join(os.TempDir(), "slowreveal-shown-"+name+".json"), []byte(text), 0o644))
	s.Fatalf(
		"the stage does not show what the core says: outlines overlap by %.3f, the mean inside differs by %.1f of 255 (time %v, eye %s)",
		overlap,
		mean,
		page.Time,
		page.Eye,
	)
}

// seen is the share of a picture in which something other than its background is seen.
func seen(p, background *render.Picture) float64 {
	n := 0
	for i := range p.RGB {
		if d := int(p.RGB[i]) - int(background.RGB[i]); d > 10 || d < -10 {
			n++
		}
	}
	return float64(n) / float64(len(p.RGB))
}

// scenes are assemblies that are ready to be drawn, by what the page says of them.
var scenes struct {
	sync.Mutex
	of      string
	product *assembly.Assembly
	a       *assembly.Assembly // as the variant has it
	scene   *render.Scene
}

// drawn draws what the page says that it shows, and the background alone.
func (s *stand) drawn(page *shown) (picture, background *render.Picture) {
	s.Helper()
	scenes.Lock()
	defer scenes.Unlock()
	if of := string(page.Variant) + string(page.Product); scenes.of != of {
		product := &assembly.Assembly{}
		require.NoError(s, json.Unmarshal(page.Product, product))
		a := variant.Of(product, nil, page.Variant).Assembly
		shapes := make([]*solid.Shape, len(a.Shapes))
		for i, ref := range a.Shapes {
			data, err := s.store.Shape(context.Background(), ref.Hash)
			require.NoError(s, err)
			shapes[i], err = solid.Decode(data)
			require.NoError(s, err)
		}
		scene, err := render.NewScene(a, shapes)
		require.NoError(s, err)
		scenes.of, scenes.product, scenes.a, scenes.scene = of, product, a, scene
	}
	doc := reveal.New("At rest", reveal.Camera{Orientation: space.NoRotation, Distance: 500, FocalLength: 50})
	at := reveal.Micros(0)
	if page.Tried != nil {
		j := scenes.a.FindJoint(page.Tried.Joint)
		require.NotNil(s, j)
		at = 1
		doc.Steps = []reveal.Step{{ID: "try", Title: "try", Duration: reveal.Second, Cues: []reveal.Cue{{
			ID: "try", Kind: reveal.KindDrive, Targets: []assembly.NodeID{j.Body}, Duration: 1, Easing: reveal.Linear,
			Drive: &reveal.Drive{Joint: j.ID, To: &page.Tried.Value, Slides: !j.Kind.Turns()},
		}}}}
	}
	if page.Time != nil {
		at = reveal.Micros(*page.Time)
		if page.Doc != nil && string(*page.Doc) != "null" {
			var err error
			doc, err = reveal.Parse(*page.Doc)
			require.NoError(s, err)
		}
	}
	f := film.Compile(scenes.a, variant.Of(scenes.product, doc, page.Variant).Reveal)
	if page.Shape > 0 {
		f = f.Shaped(page.Shape, false)
	}
	fr := f.NewFrame()
	f.At(at, fr)
	if page.Eye == "mine" {
		fr.Camera = page.Camera
	}
	hidden := map[assembly.NodeID]bool{}
	for _, id := range page.Hidden {
		hidden[id] = true
	}
	gone := make([]bool, len(scenes.a.Nodes))
	for i, n := range scenes.a.Nodes {
		if gone[i] = hidden[n.ID] || n.Parent >= 0 && gone[n.Parent]; gone[i] {
			fr.Opacity[i] = 0
		}
	}
	renderer, err := render.NewRenderer(scenes.scene, page.Width, page.Height, 0)
	require.NoError(s, err)
	view := scenes.scene.NewView()
	view.Take(scenes.scene, fr, float64(page.Width)/float64(page.Height))
	view.Unoccluded = true // as in the page's portrait; look_test.go holds what is left out here against the film
	picture, background = render.NewPicture(page.Width, page.Height), render.NewPicture(page.Width, page.Height)
	renderer.Draw(view, picture)
	clear(view.Opacity)
	renderer.Draw(view, background)
	return picture, background
}
