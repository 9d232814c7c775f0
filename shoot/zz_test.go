package shoot

import (
	"testing"

	"slowreveal/core/film"
	"slowreveal/demo"
	"slowreveal/render"
)

func BenchmarkFrames(b *testing.B) {
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	scene, _ := render.NewScene(m.Assembly, m.Shapes)
	p, _ := Order{Width: 1920, Height: 1080, Rate: 30, Captions: true}.Plan(f)
	t := newTable(p.Alone(f, scene))
	out := make([]byte, 1920*1080*3/2)
	k := 0
	for b.Loop() {
		if err := t.frame(k%1530, out); err != nil {
			b.Fatal(err)
		}
		k++
	}
	b.ReportMetric(float64(b.N)/b.Elapsed().Seconds(), "frames/s")
}
