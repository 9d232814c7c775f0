package render_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/core/timecode"
	"slowreveal/demo"
	"slowreveal/render"
)

// BenchmarkDemoFrame draws a frame of the demo reveal at 1080p in which the
// camera and parts move.
func BenchmarkDemoFrame(b *testing.B) {
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(b, err)
	r, err := render.NewRenderer(scene, 1920, 1080, 0)
	require.NoError(b, err)
	view, picture, fr := scene.NewView(), render.NewPicture(1920, 1080), f.NewFrame()
	k := 0
	for b.Loop() {
		f.At(reveal.Micros(k%1200)*33_333, fr)
		k += 37
		view.Take(scene, fr, 16.0/9)
		r.Draw(view, picture)
	}
	b.ReportMetric(float64(b.N)/b.Elapsed().Seconds(), "frames/s")
}

// BenchmarkDemoFilm draws the demo reveal at 1080p as a film does: frame after
// frame, at 30 a second, in ten stretches of a second each over its whole length.
func BenchmarkDemoFilm(b *testing.B) {
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(b, err)
	r, err := render.NewRenderer(scene, 1920, 1080, 0)
	require.NoError(b, err)
	view, picture, fr := scene.NewView(), render.NewPicture(1920, 1080), f.NewFrame()
	k := 0
	for b.Loop() {
		f.At(timecode.FrameTime(k/30%10*129+k%30, 30), fr)
		k++
		view.Take(scene, fr, 16.0/9)
		r.Draw(view, picture)
	}
	b.ReportMetric(float64(b.N)/b.Elapsed().Seconds(), "frames/s")
}

// BenchmarkStillCamera draws 200 parts with 200,000 triangles of which five move,
// the camera standing still.
func BenchmarkStillCamera(b *testing.B) {
	m := demo.Stress(200, 1000)
	rev := demo.StressReveal(m.Assembly, 5)
	f := film.Compile(m.Assembly, rev)
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(b, err)
	r, err := render.NewRenderer(scene, 1920, 1080, 0)
	require.NoError(b, err)
	view, picture, fr := scene.NewView(), render.NewPicture(1920, 1080), f.NewFrame()
	f.At(0, fr)
	view.Take(scene, fr, 16.0/9)
	r.Draw(view, picture)
	rest := append([]space.Rigid(nil), fr.World...)
	k := 0
	for b.Loop() {
		k++
		moved := 0
		for i := range m.Assembly.Nodes {
			if m.Assembly.Nodes[i].IsPart() && moved < 5 {
				moved++
				fr.World[i] = rest[i]
				fr.World[i].T.Y += float64(k%50) * 0.7
			}
		}
		view.Take(scene, fr, 16.0/9)
		r.Draw(view, picture)
	}
	b.ReportMetric(float64(b.N)/b.Elapsed().Seconds(), "frames/s")
}

// BenchmarkTorture draws 200 parts with 200,000 triangles, all moving, the camera
// circling.
func BenchmarkTorture(b *testing.B) { torture(b, 200, 200) }

// BenchmarkMillion draws 1,000 parts with a million triangles, all moving.
func BenchmarkMillion(b *testing.B) { torture(b, 1000, 1000) }

func torture(b *testing.B, parts, cues int) {
	m := demo.Stress(parts, 1000)
	f := film.Compile(m.Assembly, demo.StressReveal(m.Assembly, cues))
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(b, err)
	r, err := render.NewRenderer(scene, 1920, 1080, 0)
	require.NoError(b, err)
	view, picture, fr := scene.NewView(), render.NewPicture(1920, 1080), f.NewFrame()
	k := 0
	for b.Loop() {
		f.At(reveal.Micros(k%300)*33_333, fr)
		k += 7
		view.Take(scene, fr, 16.0/9)
		r.Draw(view, picture)
	}
	b.ReportMetric(float64(b.N)/b.Elapsed().Seconds(), "frames/s")
}
