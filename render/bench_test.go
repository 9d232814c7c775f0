package render_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
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
