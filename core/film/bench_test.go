package film_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// BenchmarkAt evaluates a film of 1,000 parts with 300 cues, all of them moving.
func BenchmarkAt(b *testing.B) {
	a := demo.Stress(1000, 12).Assembly
	r := demo.StressReveal(a, 300)
	require.NoError(b, reveal.Validate(r, a))
	f := film.Compile(a, r)
	fr := f.NewFrame()
	b.ReportAllocs()
	k := reveal.Micros(0)
	for b.Loop() {
		f.At(k%(10*reveal.Second), fr)
		k += 33_333
	}
}

// At must not allocate: it runs for every picture of every page and worker.
func TestAtDoesNotAllocate(t *testing.T) {
	a := demo.Stress(50, 12).Assembly
	f := film.Compile(a, demo.StressReveal(a, 20))
	fr := f.NewFrame()
	k := reveal.Micros(0)
	require.Zero(t, testing.AllocsPerRun(100, func() { f.At(k, fr); k += 33_333 }))
}
