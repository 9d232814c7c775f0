package plan

import (
	"fmt"
	"math"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// Film is a whole film of a plan: an opening that shows all, the steps, the way back, and a turn around.
func Film(p *Plan, a *assembly.Assembly, title string, w Writing) (*reveal.Reveal, error) {
	world := a.Worlds()
	camera, err := film.Fit(
		reveal.Camera{Orientation: FirstEye(), FocalLength: 50},
		16.0/9,
		0.25,
		[]space.Box{a.Bounds()},
	)
	if err != nil {
		return nil, fmt.Errorf("the assembly has nothing to show: %w", err)
	}
	doc := reveal.New(title, camera)
	doc.Steps = append(
		doc.Steps,
		reveal.Step{ID: reveal.StepID(w.Fresh + "-first"), Title: a.Name, Duration: 2 * reveal.Second},
	)
	steps, _ := write(p, a, doc, world, camera, w)
	doc.Steps = append(doc.Steps, steps...)
	end := ending(doc, a, w, camera)
	if len(steps) == 0 { // nothing leaves: it is shown from all sides
		end = end[len(end)-1:]
	}
	doc.Steps = append(doc.Steps, end...)
	return doc, nil
}

// ending is what follows a teardown in a first film: all that has left at a glance, the way back, and a turn around.
func ending(doc *reveal.Reveal, a *assembly.Assembly, w Writing, camera reveal.Camera) []reveal.Step {
	f := film.Compile(a, doc)
	fr := f.NewFrame()
	f.At(f.Duration(), fr)
	bounds := a.BoundsOf()
	var boxes []space.Box
	for i := range a.Nodes {
		if a.Nodes[i].IsPart() {
			boxes = append(boxes, bounds[i].Moved(&fr.World[i]))
		}
	}
	all := camera
	if c, err := film.Fit(camera, doc.Frame.Aspect(), 0.12, boxes); err == nil {
		all = c
	}
	shot := func(id string, at, length reveal.Micros, name string, c reveal.Camera) reveal.Cue {
		return reveal.Cue{
			ID:       reveal.CueID(w.Fresh + id),
			Kind:     reveal.KindShot,
			Offset:   at,
			Duration: length,
			Easing:   reveal.Smooth,
			Shot:     &reveal.Shot{Name: name, Camera: c},
		}
	}
	var steps []reveal.StepID
	for _, s := range doc.Steps[1:] {
		steps = append(steps, s.ID)
	}
	const sec, around = reveal.Second, 10*reveal.Second + reveal.Second/2
	long := func(from, to reveal.Camera) reveal.Micros { // to go from one to the other
		return max(2*sec, reveal.Micros(math.Ceil(10*travel(from, to, doc.Frame.Aspect())))*sec/10)
	}
	wide, home := long(fr.Camera, all), long(all, camera)
	back := min(max(12*sec, f.Duration()/10), 30*sec)
	return []reveal.Step{
		{
			ID:       reveal.StepID(w.Fresh + "-all"),
			Title:    "All parts",
			Duration: wide + 2*sec,
			Cues:     []reveal.Cue{shot("-all-shot", 0, wide, "All parts", all)},
		},
		{
			ID:          reveal.StepID(w.Fresh + "-back"),
			Title:       "Put it together again",
			Instruction: "Everything goes back the same way, in the opposite order.",
			Duration:    back,
			Retrace:     &reveal.Retrace{Steps: steps, KeepCamera: true},
		},
		{
			ID:       reveal.StepID(w.Fresh + "-round"),
			Title:    a.Name,
			Duration: home + around + sec/2,
			Cues: []reveal.Cue{shot("-whole-shot", 0, home, "Whole again", camera),
				{
					ID:       reveal.CueID(w.Fresh + "-orbit"),
					Kind:     reveal.KindOrbit,
					Offset:   home + sec/4,
					Duration: around,
					Easing:   reveal.Smooth,
					Orbit:    &reveal.Orbit{About: space.Vec3{0, 1, 0}, Degrees: 360},
				}},
		},
	}
}
