package clearance_test

import (
	"fmt"

	"slowreveal/core/assembly"
	"slowreveal/core/clearance"
	"slowreveal/core/space"
	"slowreveal/demo"
)

// How far the knob of the example goes, off its panel and into it, before it touches what stays.
func ExampleSpace_Ways() {
	m := demo.Pump()
	opacity := make([]float64, len(m.Assembly.Nodes))
	for i := range opacity {
		opacity[i] = 1
	}
	standing := clearance.Pose{World: m.Assembly.Worlds(), Opacity: opacity}
	for _, way := range clearance.NewSpace(m.Assembly, m.Shapes).Ways(
		standing,
		[]assembly.NodeID{"housing/dosing-knob"},
		[]space.Vec{{Z: 1}, {Z: -1}},
		500,
	) {
		fmt.Printf("free: %t, %.1f mm; then %q\n", way.Free, way.Distance, way.Touches)
	}
	// Output:
	// free: true, 500.0 mm; then ""
	// free: false, 0.0 mm; then "housing/front-panel"
}
