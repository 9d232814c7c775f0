package prove_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
	"slowreveal/demo"
	"slowreveal/formats"
	"slowreveal/prove"
	"slowreveal/render"
)

// yard is a small block behind a wall, which leaves a part of it to be seen, and another one beside it.
func yard(t *testing.T, wall float64) (*product.Model, *render.Scene) {
	t.Helper()
	b := formats.NewBuilder(t.Context(), formats.Options{Name: "yard"}, "computed")
	finish := b.Finish(formats.DefaultFinish)
	root := b.Node(-1, assembly.Node{Name: "yard", Shape: -1, Pose: assembly.PoseOf(space.Identity)})
	for _, p := range []struct {
		name    string
		w, h, d float64
		at      space.Vec
	}{{"wall", wall, 60, 2, space.Vec{X: -wall/2 + 5, Z: 40}}, {"block", 10, 10, 10, space.Vec{}}, {"other", 10, 10, 10, space.Vec{X: 40}}} {
		shape, err := b.Mesh(p.name, simple.Block(p.w, p.h, p.d))
		require.NoError(t, err)
		b.Node(
			root,
			assembly.Node{
				Name:     p.name,
				Shape:    shape,
				Finishes: []int{finish},
				Pose:     assembly.PoseOf(space.Translation(p.at)),
			},
		)
	}
	m, err := b.Model()
	require.NoError(t, err)
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	return m, scene
}

func watched(mm float64, targets ...assembly.NodeID) *reveal.Reveal {
	r := reveal.New(
		"test",
		reveal.Camera{Orientation: space.NoRotation, Distance: 400, FocalLength: 50, Orthographic: true},
	)
	r.Captions = &reveal.Captions{Show: reveal.NoWords, Place: reveal.LowerLeft, Size: 1}
	r.Steps = []reveal.Step{
		{
			ID:       "a",
			Title:    "a",
			Duration: 2 * reveal.Second,
			Cues: []reveal.Cue{
				{ID: "p", Kind: reveal.KindPull, Targets: targets, Duration: 2 * reveal.Second, Easing: reveal.Linear,
					Pull: &reveal.Pull{Axes: reveal.AssemblyAxes, Along: space.Vec3{0, 1, 0}, Distance: mm}},
			},
		},
	}
	return r
}

func of(o proof.Outcome, check string) (list []proof.Finding) {
	for _, f := range o.Findings {
		if f.Check == check {
			list = append(list, f)
		}
	}
	return list
}

func look(t *testing.T, m *product.Model, scene *render.Scene, r *reveal.Reveal) proof.Outcome {
	t.Helper()
	require.NoError(t, reveal.Validate(r, m.Assembly))
	o, err := prove.Film(t.Context(), m, scene, r, proof.Settings{}, nil)
	require.NoError(t, err)
	assert.Empty(t, o.Left)
	return o
}

// mendsOf are the mends of the last finding of a check.
func mendsOf(
	t *testing.T,
	m *product.Model,
	scene *render.Scene,
	r *reveal.Reveal,
	o *proof.Outcome,
	check string,
) (mends []proof.Mend) {
	t.Helper()
	_, err := prove.Mend(t.Context(), m, scene, r, proof.Settings{}, o, func(i int, found []proof.Mend) {
		if o.Findings[i].Check == check {
			mends = found
		}
	})
	require.NoError(t, err)
	return mends
}

// Of a block behind a wall that ends at a known place a known share is seen, along parallel lines of sight.
func TestWhatIsHiddenIsFound(t *testing.T) {
	for _, c := range []struct{ wall, seen float64 }{{100, 0}, {0.2, 1}} {
		m, scene := yard(t, c.wall)
		list := of(look(t, m, scene, watched(5, "block")), "hidden")
		if c.seen > 0.25 {
			assert.Empty(t, list)
			continue
		}
		require.Len(t, list, 1)
		assert.InDelta(t, 100*(1-c.seen), list[0].Worse, 3)
	}
	// See-through, the wall hides nothing; gone, neither.
	m, scene := yard(t, 100)
	for _, opacity := range []float64{0, 0.4} {
		r := watched(5, "block")
		r.Opening.Opacities = []reveal.NodeOpacity{{Node: "wall", Opacity: opacity}}
		assert.Empty(t, of(look(t, m, scene, r), "hidden"))
	}
	// The mend is another eye, from which it is seen.
	r := watched(5, "block")
	o := look(t, m, scene, r)
	mends := mendsOf(t, m, scene, r, &o, "hidden")
	require.NotEmpty(t, mends)
	for _, mend := range mends {
		mended := reveal.Clone(r)
		_, err := edit.Do(mended, m.Assembly, mend.Command)
		require.NoError(t, err)
		assert.Empty(t, of(look(t, m, scene, mended), "hidden"), mend.Says)
	}
	// What is 10 mm large in a frame of 3,000 is 4 pixels of 1080: too small.
	small := watched(5, "other")
	small.Opening.Camera.Distance = 6000
	list := of(look(t, m, scene, small), "hidden")
	require.Len(t, list, 1)
	assert.Contains(t, list[0].Says, "pixels large")
}

// Two blocks that are pulled behind one another crowd the picture, those that were pulled as one do not.
func TestWhatIsCrowdedIsFound(t *testing.T) {
	m, scene := yard(t, 0.2)
	r := watched(30, "block")
	r.Steps[0].Cues = append(
		r.Steps[0].Cues,
		reveal.Cue{
			ID:       "q",
			Kind:     reveal.KindPull,
			Targets:  []assembly.NodeID{"other"},
			Duration: 2 * reveal.Second,
			Easing:   reveal.Linear,
			Pull: &reveal.Pull{
				Axes:      reveal.AssemblyAxes,
				Along:     space.Vec3{-0.8, 0.6, 0},
				Distance:  50,
				Secondary: &reveal.Leg{Along: space.Vec3{0, 0, 1}, Distance: 30},
			},
		},
	)
	list := of(look(t, m, scene, r), "crowded")
	require.Len(t, list, 1)
	assert.Equal(t, []assembly.NodeID{"block"}, list[0].Parts)
	assert.InDelta(t, 100, list[0].Worse, 1)
	r.Steps[0].Cues[1].Pull.Secondary = nil
	r.Steps[0].Cues[1].Targets = []assembly.NodeID{"wall"}
	assert.Empty(t, of(look(t, m, scene, r), "crowded"))
}

// All words of the example that are too short get their time in one edit, after which none of them is found.
func TestAllWordsAreMendedTogether(t *testing.T) {
	m := demo.Pump()
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	doc := demo.Teardown(m.Assembly)
	doc.Steps = doc.Steps[:3]
	o := look(t, m, scene, doc)
	require.Len(t, of(o, "reading"), 3)
	together, err := prove.Mend(t.Context(), m, scene, doc, proof.Settings{}, &o, func(int, []proof.Mend) {})
	require.NoError(t, err)
	require.NotNil(t, together)
	_, err = edit.Do(doc, m.Assembly, together.Command)
	require.NoError(t, err)
	assert.Empty(t, of(look(t, m, scene, doc), "reading"))
}

// The example's film has no fault.
func TestTheExampleHasNoFault(t *testing.T) {
	m := demo.Pump()
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	o := look(t, m, scene, demo.Teardown(m.Assembly))
	for _, f := range o.Findings {
		assert.NotEqual(t, proof.Fault, f.Level, f.Says)
	}
	assert.Greater(t, o.Pairs, 300)
}

// at has the camera of a reveal look so that a point is seen at a place of the frame, in shares of its sides.
func at(r *reveal.Reveal, p space.Vec, x, y float64) {
	c := &r.Opening.Camera
	sight := film.ProjectionOf(*c, r.Frame.Aspect())
	x0, y0, _ := sight.Project(space.Vec{})
	x1, _, _ := sight.Project(space.Vec{X: 1})
	_, y1, _ := sight.Project(space.Vec{Y: 1})
	c.Target[0] += p.X - (x-x0)/(x1-x0)
	c.Target[1] += p.Y - (y-y0)/(y1-y0)
}

// A block that moves under the words of its step is hidden by them, and is not where the words stand elsewhere.
func TestWordsHideWhatTheyLieOn(t *testing.T) {
	m, scene := yard(t, 0.2)
	r := watched(2, "other")
	r.Captions = nil
	r.Steps[0].Title, r.Steps[0].Instruction = "Pull the block", "Pull the block upwards until it is free of everything."
	at(r, space.Vec{X: 45, Y: 5}, 0.2, 0.91)
	o := look(t, m, scene, r)
	list := of(o, "hidden")
	require.Len(t, list, 1)
	assert.Contains(t, list[0].Says, "as words lie on it")
	mends := mendsOf(t, m, scene, r, &o, "hidden")
	require.NotEmpty(t, mends)
	assert.Equal(t, "Words at the upper left", mends[0].Says)
	mended := reveal.Clone(r)
	_, err := edit.Do(mended, m.Assembly, mends[0].Command)
	require.NoError(t, err)
	assert.Empty(t, of(look(t, m, scene, mended), "hidden"))
	// The same block in the middle of the frame is seen.
	at(r, space.Vec{X: 45, Y: 5}, 0.5, 0.4)
	assert.Empty(t, of(look(t, m, scene, r), "hidden"))
}

// Dark words on a dark part cannot be read; on the background, or on a plate, they can. WCAG 2.2, 1.4.3 asks for 4.5 : 1.
func TestWordsThatDoNotStandOutAreFound(t *testing.T) {
	m, scene := yard(t, 100)
	for _, c := range []struct {
		name  string
		words func(r *reveal.Reveal)
		mend  string
	}{
		{"the step's", func(r *reveal.Reveal) {
			r.Captions = &reveal.Captions{Show: reveal.AllWords, Place: reveal.LowerLeft, Size: 1}
			at(r, space.Vec{X: 5, Y: 30}, 0.2, 0.85)
		}, "Lay a plate under the words of all steps"},
		{"a card's", func(r *reveal.Reveal) {
			r.Steps[0].Cues = append(r.Steps[0].Cues, reveal.Cue{
				ID: "card", Kind: reveal.KindCard, Duration: 2 * reveal.Second,
				Card: &reveal.Card{Title: "The block", Text: "and what is before it", Clear: true},
			})
			at(r, space.Vec{X: 5, Y: 30}, 0.5, 0.45)
		}, "Lay paper under the card"},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := watched(1, "other")
			r.Steps[0].Title, r.Steps[0].Instruction = "Pull", "Pull it."
			c.words(r)
			assert.Empty(t, of(look(t, m, scene, withTint(r, space.Vec3{1, 1, 1})), "contrast"), "a white wall")
			dark := withTint(r, space.Vec3{0.01, 0.01, 0.02})
			o := look(t, m, scene, dark)
			list := of(o, "contrast")
			require.Len(t, list, 1)
			assert.Contains(t, list[0].Says, "4.5 : 1 is needed")
			mends := mendsOf(t, m, scene, dark, &o, "contrast")
			require.Len(t, mends, 1)
			assert.Equal(t, c.mend, mends[0].Says)
			_, err := edit.Do(dark, m.Assembly, mends[0].Command)
			require.NoError(t, err)
			assert.Empty(t, of(look(t, m, scene, dark), "contrast"))
		})
	}
}

// withTint is a reveal in which the wall has a colour.
func withTint(r *reveal.Reveal, colour space.Vec3) *reveal.Reveal {
	r = reveal.Clone(r)
	r.Opening.Tints = []reveal.NodeTint{{Node: "wall", Tint: reveal.Tint{Colour: colour, Amount: 1}}}
	return r
}
