package match_test

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// wrap puts the whole under one node more, which then is what the whole was.
func (r *revision) wrap(name string) {
	root := assembly.Node{Name: name, Parent: -1, Shape: -1, Pose: assembly.PoseOf(space.Identity)}
	for i := range r.Nodes {
		r.Nodes[i].Parent++
	}
	r.Nodes = append([]assembly.Node{root}, r.Nodes...)
	r.was = append([]int{0, -1}, r.was[1:]...)
}

// removeUnder takes out all that is in a node, and the node.
func (r *revision) removeUnder(i int) {
	for k := len(r.Nodes) - 1; k > i; k-- {
		for p := k; p >= 0; p = r.Nodes[p].Parent {
			if p == i {
				r.remove(k)
				break
			}
		}
	}
	r.remove(i)
}

// half leaves a part those triangles that have their middle on one side of the middle of its box.
func (r *revision) half(i int, side float32) {
	from := r.shapes[r.Nodes[i].Shape]
	middle := (from.Bounds.Min.X + from.Bounds.Max.X) / 2
	var kept []uint32
	for t := 0; t < len(from.Triangles); t += 3 {
		var x float32
		for _, v := range from.Triangles[t : t+3] {
			x += from.Positions[3*v] / 3
		}
		if side*(x-float32(middle)) > 0 {
			kept = append(kept, from.Triangles[t:t+3]...)
		}
	}
	r.wear(i, solid.Mesh{Positions: from.Positions, Triangles: kept})
}

// join gives a part the body of another one too, which is taken out.
func (r *revision) join(into, from int) {
	worlds := r.Worlds()
	one, other := r.shapes[r.Nodes[into].Shape], r.shapes[r.Nodes[from].Shape]
	inverse := worlds[into].Inverse()
	mesh := solid.Mesh{Positions: slices.Clone(one.Positions), Triangles: slices.Clone(one.Triangles)}
	first := uint32(len(mesh.Positions) / 3)
	for k := 0; k < len(other.Positions); k += 3 {
		p := inverse.Apply(worlds[from].Apply(space.Vec{
			X: float64(other.Positions[k]), Y: float64(other.Positions[k+1]), Z: float64(other.Positions[k+2]),
		}))
		mesh.Positions = append(mesh.Positions, float32(p.X), float32(p.Y), float32(p.Z))
	}
	for _, v := range other.Triangles {
		mesh.Triangles = append(mesh.Triangles, first+v)
	}
	r.wear(into, mesh)
	r.remove(from)
}

// exchange lets two parts change their places.
func (r *revision) exchange(i, k int) {
	r.Nodes[i].Pose, r.Nodes[k].Pose = r.Nodes[k].Pose, r.Nodes[i].Pose
}

// The rarer kinds, each with its known answer; a part that was split may be either half.
func TestRarerRevisionsAreMatched(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 8))
	rename := func(r *revision) {
		for i := range r.Nodes {
			name := strings.Map(func(c rune) rune {
				if c < 128 && c != ' ' {
					return c
				}
				return '_'
			}, r.Nodes[i].Name)
			r.Nodes[i].Name = strings.ToUpper(name) + ":1"
		}
	}
	changes := map[string]func(r *revision){
		"names of another exporter": rename,
		"one level more":            func(r *revision) { r.wrap("Plant") },
		"a subassembly gone":        func(r *revision) { r.removeUnder(r.find("Planet stage")) },
		"two exchanged":             func(r *revision) { r.exchange(r.find("Controller"), r.find("Capacitor")) },
		"other finishes everywhere": func(r *revision) {
			for i := range r.Nodes {
				finishes := slices.Clone(r.Nodes[i].Finishes)
				for k := range finishes {
					finishes[k] = random.IntN(len(r.Finishes))
				}
				r.Nodes[i].Finishes = finishes
			}
		},
		"one split": func(r *revision) {
			i := r.find("Hood")
			r.add(i, space.Vec3{})
			r.was[len(r.was)-1] = i // it may be either
			r.half(i, -1)
			r.half(len(r.Nodes)-1, 1)
		},
		"two joined": func(r *revision) { r.join(r.find("Motor"), r.find("Controller")) },
		"a third gone": func(r *revision) {
			for i := len(r.Nodes) - 1; i > 0; i-- {
				if r.Nodes[i].IsPart() && i%3 == 0 {
					r.remove(i)
				}
			}
		},
		"another exporter": func(r *revision) {
			rename(r)
			r.Nodes[0].Pose = assembly.PoseOf(space.Rigid{R: space.AxisAngle(space.Vec{X: 1}, -90)})
			r.wrap("World")
			r.reorder(random)
			for i := range r.Nodes {
				if r.Nodes[i].IsPart() {
					r.reshape(i, 1.0000001, 1, 1)
				}
			}
		},
	}
	for name, change := range changes {
		t.Run(name, func(t *testing.T) { matched(t, change) })
	}
}
