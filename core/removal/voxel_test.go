package removal_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/clearance"
	"slowreveal/core/plan"
	"slowreveal/core/product"
	"slowreveal/core/removal"
	"slowreveal/core/solid"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
	"slowreveal/core/survey"
	"slowreveal/formats"
)

// cell is a cube of a grid. Puzzles are made of them, so that what is in whose way can be counted without any geometry.
type cell [3]int

// puzzle is parts by name, each of some cells.
type puzzle map[string][]cell

const side = 10.0 // of a cell, mm

func (p puzzle) names() (list []string) {
	for name := range p {
		list = append(list, name)
	}
	slices.Sort(list)
	return list
}

// bar is all cells between two corners.
func bar(a, b cell) (list []cell) {
	for x := a[0]; x <= b[0]; x++ {
		for y := a[1]; y <= b[1]; y++ {
			for z := a[2]; z <= b[2]; z++ {
				list = append(list, cell{x, y, z})
			}
		}
	}
	return list
}

func without(list []cell, gone ...[]cell) []cell {
	return slices.DeleteFunc(slices.Clone(list), func(c cell) bool {
		return slices.ContainsFunc(gone, func(g []cell) bool { return slices.Contains(g, c) })
	})
}

// mesh is the surface of some cells.
func mesh(cells []cell) (m solid.Mesh) {
	has := map[cell]bool{}
	for _, c := range cells {
		has[c] = true
	}
	for _, c := range cells {
		block := simple.Block(side, side, side)
		// in the order of Block's triangles
		faces := [6]cell{{0, 0, -1}, {0, 0, 1}, {0, -1, 0}, {0, 1, 0}, {-1, 0, 0}, {1, 0, 0}}
		first := uint32(len(m.Positions) / 3)
		for i := 0; i < len(block.Positions); i += 3 {
			for k := range 3 {
				m.Positions = append(m.Positions, block.Positions[i+k]+float32(side)*float32(c[k]))
			}
		}
		for f, d := range faces {
			if has[cell{c[0] + d[0], c[1] + d[1], c[2] + d[2]}] {
				continue
			}
			for _, v := range block.Triangles[6*f : 6*f+6] {
				m.Triangles = append(m.Triangles, first+v)
			}
		}
	}
	return m
}

// subject makes an assembly of parts by name, flat below its root.
func subject(t *testing.T, parts map[string]solid.Mesh) removal.Subject {
	t.Helper()
	b := formats.NewBuilder(context.Background(), formats.Options{Name: "puzzle"}, "computed")
	finish := b.Finish(formats.DefaultFinish)
	root := b.Node(-1, assembly.Node{Name: "puzzle", Shape: -1, Pose: assembly.PoseOf(space.Identity)})
	var names []string
	for name := range parts {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		shape, err := b.Mesh(name, parts[name])
		require.NoError(t, err)
		b.Node(
			root,
			assembly.Node{Name: name, Shape: shape, Finishes: []int{finish}, Pose: assembly.PoseOf(space.Identity)},
		)
	}
	m, err := b.Model()
	require.NoError(t, err)
	return of(t, m)
}

// of is a model at rest, all of it seen.
func of(t *testing.T, m *product.Model) removal.Subject {
	t.Helper()
	known, err := survey.Of(context.Background(), m.Assembly, m.Shapes)
	require.NoError(t, err)
	at := clearance.Pose{World: m.Assembly.Worlds(), Opacity: make([]float64, len(m.Assembly.Nodes))}
	for i := range at.Opacity {
		at.Opacity[i] = 1
	}
	return removal.Subject{Assembly: m.Assembly, Shapes: m.Shapes, Survey: known, At: at}
}

func (p puzzle) subject(t *testing.T) removal.Subject {
	meshes := map[string]solid.Mesh{}
	for name, cells := range p {
		meshes[name] = mesh(cells)
	}
	return subject(t, meshes)
}

func planned(t *testing.T, s removal.Subject, c plan.Choices) plan.Plan {
	t.Helper()
	p, err := removal.Run(context.Background(), s, c, nil)
	require.NoError(t, err)
	return p
}

var six = []cell{{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}}

// clear counts, cube by cube, whether parts go so many cubes along a direction without meeting what is there.
func clear(moving, there []cell, d cell, far int) bool {
	taken := map[cell]bool{}
	for _, c := range there {
		taken[c] = true
	}
	for _, c := range moving {
		for k := range far + 1 {
			if taken[cell{c[0] + k*d[0], c[1] + k*d[1], c[2] + k*d[2]}] {
				return false
			}
		}
	}
	return true
}

const beyond = 60 // cubes, more than any puzzle is large

// works holds a plan against the cubes: each move along a direction of the grid meets nothing that has not left. It
// returns the parts that have left, and how many moves went along other directions, which cubes say nothing of.
func (p puzzle) works(moves []plan.Move) (left []string, slanting int, err error) {
	for i, m := range moves {
		if m.Carried >= 0 || m.Swing != nil {
			return left, slanting, fmt.Errorf("move %d is not one of single parts", i+1)
		}
		var moving []cell
		for _, n := range m.Nodes {
			moving = append(moving, p[string(n)]...)
		}
		for k, n := range m.Nodes { // likes may go different ways, all at once
			from := p[string(n)]
			if len(m.Nodes) > 1 && sameWay(m.Paths) {
				from = moving
			}
			var there []cell
			for name, cells := range p {
				if !slices.Contains(left, name) &&
					!slices.ContainsFunc(m.Nodes, func(o assembly.NodeID) bool { return string(o) == name }) {
					there = append(there, cells...)
				}
			}
			d := cell{
				int(m.Paths[k].Legs[0].Along[0]),
				int(m.Paths[k].Legs[0].Along[1]),
				int(m.Paths[k].Legs[0].Along[2]),
			}
			if len(m.Paths[k].Legs) > 1 || !slices.Contains(six, d) {
				slanting++
			} else if !clear(from, there, d, beyond) {
				return left, slanting, fmt.Errorf("move %d of %v meets something", i+1, m.Nodes)
			}
		}
		for _, n := range m.Nodes {
			left = append(left, string(n))
		}
	}
	return left, slanting, nil
}

func sameWay(paths []plan.Path) bool {
	for _, p := range paths {
		if p.Legs[0].Along != paths[0].Legs[0].Along {
			return false
		}
	}
	return true
}

// grown is a puzzle made by putting together: each part comes along a direction of the grid until it meets what is
// there. So all of it comes apart, in the opposite order.
func grown(random *rand.Rand, parts int) puzzle {
	p := puzzle{"part-0": bar(cell{}, cell{2 + random.IntN(3), random.IntN(2), 2 + random.IntN(3)})}
	all := slices.Clone(p["part-0"])
	for k := 1; k < parts; k++ {
		shape := lump(random)
		d := six[random.IntN(6)]
		// From so far away that it meets nothing, aimed at a cube that is there.
		aim := all[random.IntN(len(all))]
		start := cell{
			aim[0] - beyond*d[0] - shape[0][0],
			aim[1] - beyond*d[1] - shape[0][1],
			aim[2] - beyond*d[2] - shape[0][2],
		}
		at := moved(shape, start)
		for clear(at, all, d, 1) {
			at = moved(at, d)
		}
		p[fmt.Sprintf("part-%d", k)] = at
		all = append(all, at...)
	}
	return p
}

// lump is some cubes that hang together.
func lump(random *rand.Rand) []cell {
	list := []cell{{}}
	for len(list) < 2+random.IntN(7) {
		c := list[random.IntN(len(list))]
		d := six[random.IntN(6)]
		if next := (cell{c[0] + d[0], c[1] + d[1], c[2] + d[2]}); !slices.Contains(list, next) {
			list = append(list, next)
		}
	}
	return list
}

func moved(list []cell, d cell) []cell {
	out := make([]cell, len(list))
	for i, c := range list {
		out[i] = cell{c[0] + d[0], c[1] + d[1], c[2] + d[2]}
	}
	return out
}

// least is the least number of parts that have to leave until one can, and with it, by trying all orders.
func (p puzzle) least(target, stays string) int {
	names := p.names()
	type state uint32
	seen := map[state]bool{0: true}
	level := []state{0}
	for n := 1; len(level) > 0; n++ {
		var next []state
		for _, gone := range level {
			for i, name := range names {
				if gone>>i&1 == 1 || name == stays {
					continue
				}
				var there []cell
				for k, other := range names {
					if k != i && gone>>k&1 == 0 {
						there = append(there, p[other]...)
					}
				}
				if !slices.ContainsFunc(six, func(d cell) bool { return clear(p[name], there, d, beyond) }) {
					continue
				}
				if name == target {
					return n
				}
				if s := gone | 1<<i; !seen[s] {
					seen[s] = true
					next = append(next, s)
				}
			}
		}
		level = next
	}
	return 0
}
