package film_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/demo"
)

func lookFrom(azimuth float64, target space.Vec, distance float64) reveal.Camera {
	s, c := math.Sincos(azimuth * math.Pi / 180)
	return reveal.Camera{
		Target:      space.Vec3Of(target),
		Orientation: space.LookAlong(vec(-s, -0.4, -c), vec(0, 1, 0)),
		Distance:    distance,
		FocalLength: 50,
	}
}

func shotCue(to reveal.Shot) reveal.Cue {
	return reveal.Cue{ID: "shot", Kind: reveal.KindShot, Duration: 4 * s, Easing: reveal.Linear, Shot: &to}
}

func eyeAt(f *film.Film, fr *film.Frame, at reveal.Micros) space.Vec {
	f.At(at, fr)
	return film.Eye(fr.Camera).T
}

func TestAStraightShotLeadsTheEyeAlongALine(t *testing.T) {
	to := lookFrom(80, vec(10, 20, 0), 150)
	f, fr := compile(
		t,
		script(
			reveal.Step{ID: "a", Duration: 4 * s, Cues: []reveal.Cue{shotCue(reveal.Shot{Camera: to, Straight: true})}},
		),
	)
	a, b := film.Eye(eye).T, film.Eye(to).T
	for k := range 5 {
		u := float64(k) / 4
		near(t, r3.Add(r3.Scale(1-u, a), r3.Scale(u, b)), eyeAt(f, fr, reveal.Micros(k)*s), 1e-9)
	}
	assert.Equal(t, to, fr.Camera)
}

// The arc keeps its distance from what it looks at.
func TestAShotAlongTheArcKeepsItsDistance(t *testing.T) {
	to := eye
	to.Orientation = space.LookAlong(vec(-1, 0, 0.2), vec(0, 1, 0))
	f, fr := compile(
		t,
		script(reveal.Step{ID: "a", Duration: 4 * s, Cues: []reveal.Cue{shotCue(reveal.Shot{Camera: to})}}),
	)
	for k := range 41 {
		assert.InDelta(t, 300, r3.Norm(eyeAt(f, fr, reveal.Micros(k)*s/10)), 1e-9)
	}
}

func TestAShotThroughSeveralViewsMeetsEachSmoothly(t *testing.T) {
	via := []reveal.Camera{
		lookFrom(40, vec(0, 0, 10), 200),
		lookFrom(140, vec(0, 10, 0), 120),
		lookFrom(230, vec(0, 0, 0), 260),
	}
	last := lookFrom(300, vec(0, 0, 0), 300)
	f, fr := compile(
		t,
		script(reveal.Step{ID: "a", Duration: 4 * s, Cues: []reveal.Cue{shotCue(reveal.Shot{Camera: last, Via: via})}}),
	)
	for i, v := range via {
		near(t, film.Eye(v).T, eyeAt(f, fr, reveal.Micros(i+1)*s), 1e-6)
	}
	eyeAt(f, fr, 4*s)
	assert.Equal(t, last, fr.Camera)
	// Neither the eye nor its way jumps: the second differences stay small.
	var p [3]space.Vec
	for k := range 801 {
		p[0], p[1], p[2] = p[1], p[2], eyeAt(f, fr, reveal.Micros(k)*s/200)
		if k > 2 {
			assert.Less(t, r3.Norm(r3.Sub(r3.Add(p[0], p[2]), r3.Scale(2, p[1]))), 0.15, "at %d", k)
		}
	}
}

func TestAnEvenShotKeepsItsSpeed(t *testing.T) {
	via := []reveal.Camera{lookFrom(10, vec(0, 0, 0), 300), lookFrom(150, vec(0, 0, 0), 300)}
	speeds := func(even bool) (least, most float64) {
		f, fr := compile(
			t,
			script(
				reveal.Step{
					ID:       "a",
					Duration: 4 * s,
					Cues: []reveal.Cue{
						shotCue(reveal.Shot{Camera: lookFrom(170, vec(0, 0, 0), 300), Via: via, ConstantSpeed: even}),
					},
				},
			),
		)
		least = math.Inf(1)
		last := eyeAt(f, fr, 0)
		for k := 1; k <= 80; k++ {
			p := eyeAt(f, fr, reveal.Micros(k)*s/20)
			v := r3.Norm(r3.Sub(p, last))
			least, most, last = min(least, v), max(most, v), p
		}
		return least, most
	}
	least, most := speeds(true)
	assert.InDelta(t, 1, least/most, 0.02)
	least, most = speeds(false)
	assert.Less(t, least/most, 0.5)
}

// Parallel lines of sight show the same at every depth; on the way there what is
// looked at keeps its size, and nothing jumps.
func TestAShotCanChangeToParallelLinesOfSight(t *testing.T) {
	to := eye
	to.Orthographic = true
	f, fr := compile(
		t,
		script(reveal.Step{ID: "a", Duration: 4 * s, Cues: []reveal.Cue{shotCue(reveal.Shot{Camera: to})}}),
	)
	size := func(z float64) float64 {
		sight := film.ProjectionOf(fr.Camera, 16.0/9)
		x0, _, front := sight.Project(vec(-20, 0, z))
		require.True(t, front)
		x1, _, _ := sight.Project(vec(20, 0, z))
		return x1 - x0
	}
	last := 0.0
	for k := range 401 {
		f.At(reveal.Micros(k)*s/100, fr)
		across, _ := film.Field(50, 16.0/9)
		assert.InDelta(t, 20/(300*across), size(0), 1e-9, "at %d", k)
		if k > 0 {
			assert.InDelta(t, last, size(80), 0.004, "no jump at %d", k)
		}
		last = size(80)
	}
	assert.True(t, fr.Camera.Orthographic)
	assert.InDelta(t, size(0), size(80), 1e-12)
	assert.InDelta(t, size(0), size(-80), 1e-12)
}

func TestFramingByParallelLinesTouchesTheFrame(t *testing.T) {
	b := space.Box{Min: vec(-30, -20, -50), Max: vec(70, 10, 90)}
	for _, v := range film.Views() {
		c, err := film.Fit(
			reveal.Camera{Orientation: v.Orientation, FocalLength: 50, Orthographic: true},
			16.0/9,
			0.2,
			[]space.Box{b},
		)
		require.NoError(t, err)
		sight := film.ProjectionOf(c, 16.0/9)
		most := 0.0
		for i := range 8 {
			x, y, _ := sight.Project(b.Corner(i))
			most = max(most, math.Abs(2*x-1), math.Abs(2*y-1))
		}
		assert.InDelta(t, 0.8, most, 1e-9, v.Name)
	}
}

// The camera circles on from a shot that follows everything, while a part goes far out: every corner of
// every part stays inside the frame less the margin, and the camera makes no leap.
func TestAnOrbitKeepsWhatTheShotBeforeItKept(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	camera := r.Opening.Camera
	r.Steps = []reveal.Step{{ID: "s", Title: "Round", Duration: 8 * reveal.Second, Cues: []reveal.Cue{
		{
			ID:       "shot",
			Kind:     reveal.KindShot,
			Duration: reveal.Second,
			Easing:   reveal.Smooth,
			Shot:     &reveal.Shot{Camera: camera, Follow: &reveal.Follow{Margin: 0.1}},
		},
		{
			ID:       "orbit",
			Kind:     reveal.KindOrbit,
			Offset:   reveal.Second,
			Duration: 6 * reveal.Second,
			Easing:   reveal.Linear,
			Orbit:    &reveal.Orbit{About: space.Vec3{0, 1, 0}, Degrees: 300},
		},
		{
			ID:       "pull",
			Kind:     reveal.KindPull,
			Targets:  []assembly.NodeID{"housing/front-panel"},
			Offset:   2 * reveal.Second,
			Duration: 3 * reveal.Second,
			Easing:   reveal.Linear,
			Pull:     &reveal.Pull{Axes: reveal.AssemblyAxes, Along: space.Vec3{1, 0, 0}, Distance: 900},
		},
	}}}
	require.NoError(t, reveal.Validate(r, a))
	f := film.Compile(a, r)
	fr, boxes := f.NewFrame(), a.BoundsOf()
	var last space.Vec
	for at := reveal.Second; at <= 8*reveal.Second; at += reveal.Second / 30 {
		f.At(at, fr)
		sight := film.ProjectionOf(fr.Camera, r.Frame.Aspect())
		for i := range a.Nodes {
			if !a.Nodes[i].IsPart() || fr.Opacity[i] == 0 {
				continue
			}
			for c := range 8 {
				x, y, front := sight.Project(boxes[i].Moved(&fr.World[i]).Corner(c))
				require.True(t, front)
				require.InDelta(t, 0.5, x, 0.4501, "%s at %d", a.Nodes[i].ID, at)
				require.InDelta(t, 0.5, y, 0.4501, "%s at %d", a.Nodes[i].ID, at)
			}
		}
		eye := film.Eye(fr.Camera).T
		if at > reveal.Second {
			assert.Less(t, r3.Norm(r3.Sub(last, eye)), fr.Camera.Distance/8, "at %d", at)
		}
		last = eye
	}
}
