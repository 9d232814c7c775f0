package match

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// units are how many times as large an assembly is when its unit is read as another one.
var units = []float64{10, 25.4, 100, 304.8, 1000, 12, 39.37007874}

// otherUnit returns how many times as large the new revision is, 1 where it is about as large as before.
func otherUnit(old, new Side) float64 {
	was, is := r3.Norm(old.Assembly.Bounds().Size()), r3.Norm(new.Assembly.Bounds().Size())
	if was <= 0 || is <= 0 {
		return 1
	}
	for _, u := range units {
		for _, k := range []float64{u, 1 / u} {
			if math.Abs(is/was/k-1) < 0.03 {
				return k
			}
		}
	}
	return 1
}

// scaled is a side as it is when everything in it is so many times as large.
func (s Side) scaled(k float64) Side {
	a := *s.Assembly
	a.Nodes, a.Shapes = slices.Clone(a.Nodes), slices.Clone(a.Shapes)
	times := func(v space.Vec3) space.Vec3 { return space.Vec3{k * v[0], k * v[1], k * v[2]} }
	for i := range a.Nodes {
		a.Nodes[i].Pose.Move = times(a.Nodes[i].Pose.Move)
	}
	for i := range a.Shapes {
		a.Shapes[i].Min, a.Shapes[i].Max = times(a.Shapes[i].Min), times(a.Shapes[i].Max)
	}
	shapes := make([]*solid.Shape, len(s.Shapes))
	for i, from := range s.Shapes {
		shape := *from
		shape.Positions = make([]float32, len(from.Positions))
		for p, v := range from.Positions {
			shape.Positions[p] = float32(k * float64(v))
		}
		shape.Bounds = space.Box{Min: r3.Scale(k, from.Bounds.Min), Max: r3.Scale(k, from.Bounds.Max)}
		shapes[i] = &shape
	}
	return Side{&a, shapes}
}

func unitWords(k float64) string {
	return fmt.Sprintf(
		"All of it is %.4g times as large: its unit was read as another one, or the file says another.",
		k,
	)
}
