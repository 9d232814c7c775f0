package render_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/core/timecode"
	"slowreveal/demo"
	"slowreveal/render"
)

// A shot keeps the parts of the gear stage inside its margin while they move apart
// and the camera circles: measured on the pixels of every frame, in perspective and
// with parallel lines of sight. The parts are tinted pure red to be found.
func TestNothingLeavesTheSafeAreaInAnyFrame(t *testing.T) {
	m := demo.Pump()
	const margin = 0.2
	for _, parallel := range []bool{false, true} {
		r := demo.Teardown(m.Assembly)
		kept := []assembly.NodeID{"planet-stage", "drive"}
		camera := r.Opening.Camera
		camera.Orthographic = parallel
		r.Opening.Camera = camera
		r.Opening.Suppressed = append(r.Opening.Suppressed, "housing", "pump-head", "control-board")
		for _, n := range kept {
			r.Opening.Tints = append(
				r.Opening.Tints,
				reveal.NodeTint{Node: n, Tint: reveal.Tint{Colour: space.Vec3{1, 0, 0}, Amount: 1}},
			)
		}
		far := reveal.Cue{
			ID:       "far",
			Kind:     reveal.KindPull,
			Targets:  kept[1:],
			Duration: 2 * reveal.Second,
			Easing:   reveal.Smooth,
			Pull:     &reveal.Pull{Axes: reveal.AssemblyAxes, Along: space.Vec3{1, 0.4, -1}, Distance: 160},
		}
		shot := reveal.Cue{
			ID:       "shot",
			Kind:     reveal.KindShot,
			Duration: 1,
			Easing:   reveal.Linear,
			Shot:     &reveal.Shot{Camera: camera, Follow: &reveal.Follow{Nodes: kept, Margin: margin}},
		}
		orbit := reveal.Cue{
			ID:       "orbit",
			Kind:     reveal.KindOrbit,
			Duration: 2 * reveal.Second,
			Easing:   reveal.Linear,
			Orbit:    &reveal.Orbit{About: space.Vec3{0.2, 1, 0}, Degrees: 300},
		}
		r.Steps = []reveal.Step{
			{ID: "a", Title: "a", Duration: 2 * reveal.Second, Cues: []reveal.Cue{orbit, far, shot}},
		}
		require.NoError(t, reveal.Validate(r, m.Assembly))
		f := film.Compile(m.Assembly, r)
		scene, err := render.NewScene(m.Assembly, m.Shapes)
		require.NoError(t, err)
		draw, err := render.NewRenderer(scene, w, h, 0)
		require.NoError(t, err)
		view, fr, p := scene.NewView(), f.NewFrame(), render.NewPicture(w, h)
		for k := 1; k <= 60; k++ {
			f.At(timecode.FrameTime(k, 30), fr)
			view.Take(scene, fr, float64(w)/h)
			draw.Draw(view, p)
			left, top, right, bottom := reds(p)
			require.Less(t, left, right)
			// A pixel more for edges, which are as wide as they are.
			assert.GreaterOrEqual(t, float64(left), margin/2*w-1.5, "frame %d", k)
			assert.LessOrEqual(t, float64(right), (1-margin/2)*w+1.5, "frame %d", k)
			assert.GreaterOrEqual(t, float64(top), margin/2*h-1.5, "frame %d", k)
			assert.LessOrEqual(t, float64(bottom), (1-margin/2)*h+1.5, "frame %d", k)
			assert.Greater(
				t,
				max(float64(right-left)/(1-margin)/w, float64(bottom-top)/(1-margin)/h),
				0.7,
				"and it fills what is left, frame %d",
				k,
			)
		}
	}
}

// reds returns the first column and row that are clearly red, and those behind the
// last.
func reds(p *render.Picture) (left, top, right, bottom int) {
	left, top = p.Width, p.Height
	for y := range p.Height {
		for x := range p.Width {
			if i := 3 * (y*p.Width + x); int(p.RGB[i]) > 2*int(p.RGB[i+1])+30 {
				left, top, right, bottom = min(left, x), min(top, y), max(right, x+1), max(bottom, y+1)
			}
		}
	}
	return left, top, right, bottom
}
