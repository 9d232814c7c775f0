// Package prove runs the checks of a film with the renderer's eyes, and draws what they have found. It stands between
// package proof, which knows no pictures, and who shows findings: the server and the command line.
package prove

import (
	"context"
	"fmt"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/render"
	"slowreveal/sequence"
)

// Film looks for everything that is wrong with a reveal of a model; without a scene for all that needs no picture. The
// document must be valid for it.
func Film(
	ctx context.Context,
	m *product.Model,
	scene *render.Scene,
	doc *reveal.Reveal,
	settings proof.Settings,
	progress func(done float64, found *proof.Outcome),
) (proof.Outcome, error) {
	f := film.Compile(m.Assembly, doc)
	if scene == nil {
		return proof.Run(ctx, f, m.Shapes, nil, settings, progress)
	}
	eyes, err := newEyes(scene, doc.Frame.Aspect())
	if err != nil {
		return proof.Outcome{}, fmt.Errorf("looking at the film: %w", err)
	}
	return proof.Run(ctx, f, m.Shapes, eyes, settings, progress)
}

// mostMended is for how many findings mends are looked for.
const mostMended = 60

// Mend looks for mends for the findings of a report that are not accepted, the gravest first. found is told of each
// finding that has been looked at. It returns the one for all words that are too short, nil where there is none.
func Mend(
	ctx context.Context,
	m *product.Model,
	scene *render.Scene,
	doc *reveal.Reveal,
	settings proof.Settings,
	report *proof.Outcome,
	found func(i int, mends []proof.Mend),
) (together *proof.Mend, err error) {
	f := film.Compile(m.Assembly, doc)
	eyes, err := newEyes(scene, doc.Frame.Aspect())
	if err != nil {
		return nil, fmt.Errorf("looking at the film: %w", err)
	}
	mended := slices.Clone(report.Findings)
	order := make([]int, len(report.Findings))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(
		order,
		func(a, b int) int { return report.Findings[a].Level.Grave() - report.Findings[b].Level.Grave() },
	)
	for n, i := range order {
		if n == mostMended {
			break
		}
		if report.Findings[i].Accepted != "" {
			continue
		}
		mends, err := proof.Mends(ctx, f, doc, m.Shapes, eyes, settings, &report.Findings[i])
		if err != nil {
			return nil, err
		}
		mended[i].Mends = mends
		found(i, mends)
	}
	return proof.Together(ctx, m.Assembly, doc, m.Shapes, mended), nil
}

// How a finding is drawn: the parts that it is about in a colour of their own, all others as see-through as this.
const others = 0.12

// linear; the page's signal and a blue that goes with it
var colours = [2]space.Vec3{{0.62, 0.05, 0.02}, {0.02, 0.16, 0.45}}

// Picture draws a finding at its worst moment, height pixels high in the shape of the film's frame. Parts that go into
// one another are seen from where most of both is to be seen, what is wrong with the picture as the film shows it.
func Picture(
	m *product.Model,
	scene *render.Scene,
	doc *reveal.Reveal,
	f *proof.Finding,
	height int,
) (*render.Picture, error) {
	made := film.Compile(m.Assembly, doc)
	if width := max(16, int(float64(height)*doc.Frame.Aspect()/2+0.5)*2); f.Check == "reading" ||
		f.Check == "contrast" ||
		len(f.Parts) == 0 {
		return sequence.Still(
			made,
			scene,
			sequence.Order{Width: width, Height: height, Captions: true, Notices: true, Steady: true, Threads: 1},
			f.At,
		)
	}
	fr := made.NewFrame()
	made.At(f.At, fr)
	index := m.Assembly.Index()
	about := make([]int, len(m.Assembly.Nodes)) // by node: 1 + which of the finding's parts holds it
	for k, id := range f.Parts {
		about[index[id]] = k + 1
	}
	geometric := f.Check == "interference" || f.Check == "held" || f.Check == "ends"
	for i := range m.Assembly.Nodes {
		if p := m.Assembly.Nodes[i].Parent; p >= 0 && about[i] == 0 {
			about[i] = about[p]
		}
		switch {
		case about[i] > 0:
			fr.Tint[i] = film.Tint{Colour: colours[(about[i]-1)%2], Amount: 0.9}
			if geometric && fr.Opacity[i] > 0 {
				fr.Opacity[i] = 1
			}
		case geometric && len(f.Parts) > 0:
			fr.Opacity[i] *= others
		}
	}
	aspect := doc.Frame.Aspect()
	if geometric {
		fr.Flow, fr.Notes = nil, nil // of the parts that it is not about
	}
	if geometric && len(f.Parts) > 0 {
		if err := lookAt(m, scene, fr, about, aspect); err != nil {
			return nil, err
		}
	}
	width := max(16, int(float64(height)*aspect/2+0.5)*2)
	r, err := render.NewRenderer(scene, width, height, 1)
	if err != nil {
		return nil, err
	}
	v, p := scene.NewView(), render.NewPicture(width, height)
	v.Take(scene, fr, aspect)
	r.Draw(v, p)
	return p, nil
}

// lookAt turns the frame's camera to the direction from which most is seen of that of the finding's parts of which
// least is.
func lookAt(m *product.Model, scene *render.Scene, fr *film.Frame, about []int, aspect float64) error {
	eyes, err := render.NewEyes(scene, aspect)
	if err != nil {
		return err
	}
	only := make([]bool, len(about))
	var boxes []space.Box
	bounds := m.Assembly.BoundsOf()
	for i := range about {
		if only[i] = about[i] > 0 && m.Assembly.Nodes[i].IsPart(); only[i] {
			boxes = append(boxes, bounds[i].Moved(&fr.World[i]))
		}
	}
	own, best := fr.Camera, -1.0
	camera := own
	for _, from := range directions(own) {
		c := own
		c.Orthographic, c.FocalLength, c.Orientation = false, 50, from
		if c, err = film.Fit(c, aspect, 0.25, boxes); err != nil {
			return nil // nothing is there to be framed: the film's own picture
		}
		fr.Camera = c
		// the nearest to the film's own unless another one is better
		if least := leastSeen(eyes.Nodes(fr, only, true), about); least > best*1.1 {
			best, camera = least, c
		}
	}
	fr.Camera = camera
	return nil
}

// leastSeen is how many pixels are seen of that of two parts of which fewer are.
func leastSeen(owners []int32, about []int) float64 {
	var seen [2]int
	for _, o := range owners {
		if o >= 0 && about[o] > 0 {
			seen[(about[o]-1)%2]++
		}
	}
	both := false
	for _, a := range about {
		both = both || a == 2
	}
	if !both {
		return float64(seen[0])
	}
	return float64(min(seen[0], seen[1]))
}

// directions are orientations that look from all around: the camera's own first, then from the middles of the faces,
// edges and corners of a cube, those from below last.
func directions(own reveal.Camera) []space.Quat {
	list := []space.Quat{own.Orientation}
	up := space.Vec{Y: 1}
	for _, y := range [3]float64{1, 0, -1} {
		for x := -1.0; x <= 1; x++ {
			for z := -1.0; z <= 1; z++ {
				from := space.Vec{X: x, Y: 0.8 * y, Z: z}
				if r3.Norm(from) == 0 || x == 0 && z == 0 && y < 0 {
					continue
				}
				list = append(list, space.LookAlong(r3.Scale(-1, from), up))
			}
		}
	}
	return list
}
