package film_test

import (
	"fmt"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// A film is compiled once, and evaluated at any moment into a frame that is used again and again.
func Example() {
	assembly := demo.Pump().Assembly
	f := film.Compile(assembly, demo.Teardown(assembly))
	frame := f.NewFrame()
	f.At(20*reveal.Second, frame)
	rotor := assembly.Index()["pump-head/rotor"]
	fmt.Printf("of %.1f s; step %d\n", float64(f.Duration())/1e6, frame.Step+1)
	fmt.Printf("the rotor has an opacity of %g\n", frame.Opacity[rotor])
	// Output:
	// of 51.0 s; step 5
	// the rotor has an opacity of 1
}
