package solid

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"math"
	"sort"

	"slowreveal/core/space"
)

// Limits on one shape, so that a hostile file cannot ask for all memory.
const (
	MaxVertices  = 20_000_000
	MaxTriangles = 20_000_000
)

// Shape is a triangle mesh in its own frame, in millimetres.
type Shape struct {
	// Positions and Normals hold three values a vertex. Normals are of unit
	// length and point outwards.
	Positions, Normals []float32
	// Triangles holds three vertex indices a triangle, anticlockwise seen
	// from outside.
	Triangles []uint32
	// Submeshes divide Triangles into runs; a part gives each a finish.
	Submeshes []Submesh
	// Edges are the lines that a drawing of the shape shows.
	Edges []Edge
	// Bounds is the box of Positions.
	Bounds space.Box
}

// Submesh is a run of triangles that has one finish.
type Submesh struct {
	First, Count uint32 // in triangles
}

// Mesh is what a reader hands over: arrays as in a file, not yet checked.
// Normals may be empty.
type Mesh struct {
	Positions, Normals []float32
	Triangles          []uint32
	Submeshes          []Submesh
}

// Repairs counts what New had to put right.
type Repairs struct {
	Degenerate  int  // triangles without an area that were left out
	Duplicate   int  // triangles on the same three points as an earlier one, left out
	NotFinite   int  // triangles with a corner that is no finite point, left out
	Flat        int  // vertices whose normal was missing or unusable
	MadeNormals bool // there were no normals at all
}

// New checks a mesh, leaves out triangles that have no area, makes normals
// where they are missing, and finds the edges. It takes the mesh's arrays
// over. The errors name what is wrong but not where the mesh came from.
func New(m Mesh) (*Shape, Repairs, error) {
	var done Repairs
	if err := m.check(); err != nil {
		return nil, done, err
	}
	s := &Shape{Positions: m.Positions}
	s.Triangles, s.Submeshes = m.solidTriangles(&done)
	if len(s.Triangles) == 0 {
		return nil, done, errors.New("the mesh has no triangle with an area")
	}
	if len(m.Normals) == len(m.Positions) {
		s.Normals, done.Flat = unitNormals(m.Normals)
	} else {
		done.MadeNormals = true
		s.splitByCrease()
	}
	if done.NotFinite > 0 {
		s.dropUnused()
	}
	s.Bounds = boundsOf(s.Positions)
	s.Edges = findEdges(s.Positions, s.Triangles)
	return s, done, nil
}

func (m *Mesh) check() error {
	n := len(m.Positions) / 3
	switch {
	case len(m.Positions)%3 != 0 || len(m.Triangles)%3 != 0:
		return errors.New("the mesh's arrays do not come in threes")
	case n > MaxVertices:
		return fmt.Errorf("the mesh has %d vertices; the limit is %d", n, MaxVertices)
	case len(m.Triangles)/3 > MaxTriangles:
		return fmt.Errorf("the mesh has %d triangles; the limit is %d", len(m.Triangles)/3, MaxTriangles)
	case len(m.Triangles) == 0:
		return errors.New("the mesh has no triangles")
	}
	for i, p := range m.Positions {
		if v := math.Abs(float64(p)); v > 1e8 && !math.IsInf(v, 0) {
			return fmt.Errorf("vertex %d lies %.3g mm away; the limit is 100 km", i/3, p)
		}
	}
	for i, v := range m.Triangles {
		if int(v) >= n {
			return fmt.Errorf("triangle %d names vertex %d, but there are only %d", i/3, v, n)
		}
	}
	return nil
}

// solidTriangles returns the triangles that have an area and are there for the
// first time, with the patches adapted to what was left out.
func (m *Mesh) solidTriangles(done *Repairs) (kept []uint32, patches []Submesh) {
	if len(m.Submeshes) == 0 {
		m.Submeshes = []Submesh{{Count: uint32(len(m.Triangles) / 3)}}
	}
	kept = make([]uint32, 0, len(m.Triangles))
	welded, _ := weld(m.Positions)
	seen := make(map[[3]uint32]struct{}, len(m.Triangles)/3)
	for _, p := range m.Submeshes {
		first := len(kept) / 3
		for t := p.First; t < p.First+p.Count; t++ {
			tri := m.Triangles[3*t : 3*t+3]
			size := area(m.Positions, tri)
			key := turnedToLeast(welded[tri[0]], welded[tri[1]], welded[tri[2]])
			_, twice := seen[key]
			switch {
			case math.IsNaN(size) || math.IsInf(size, 0):
				done.NotFinite++
			case size == 0:
				done.Degenerate++
			case twice:
				done.Duplicate++
			default:
				seen[key] = struct{}{}
				kept = append(kept, tri...)
			}
		}
		patches = append(patches, Submesh{First: uint32(first), Count: uint32(len(kept)/3 - first)})
	}
	return kept, patches
}

// turnedToLeast begins a triangle at its least corner, so that the same
// triangle is the same however it is written; its sense stays.
func turnedToLeast(a, b, c uint32) [3]uint32 {
	for a > b || a > c {
		a, b, c = b, c, a
	}
	return [3]uint32{a, b, c}
}

// dropUnused leaves out the vertices that no triangle names.
func (s *Shape) dropUnused() {
	at := make(map[uint32]uint32, len(s.Triangles))
	var positions, normals []float32
	for i, v := range s.Triangles {
		n, ok := at[v]
		if !ok {
			n = uint32(len(positions) / 3)
			at[v] = n
			positions = append(positions, s.Positions[3*v:3*v+3]...)
			normals = append(normals, s.Normals[3*v:3*v+3]...)
		}
		s.Triangles[i] = n
	}
	s.Positions, s.Normals = positions, normals
}

func unitNormals(n []float32) (unit []float32, flat int) {
	for i := 0; i+2 < len(n); i += 3 {
		v, ok := space.Normalize(space.Vec{X: float64(n[i]), Y: float64(n[i+1]), Z: float64(n[i+2])})
		if !ok || !space.Finite(v) {
			v, flat = space.Vec{Y: 1}, flat+1
		}
		n[i], n[i+1], n[i+2] = float32(v.X), float32(v.Y), float32(v.Z)
	}
	return n, flat
}

func boundsOf(positions []float32) space.Box {
	b := space.EmptyBox
	for i := 0; i+2 < len(positions); i += 3 {
		b = b.With(at(positions, uint32(i/3)))
	}
	return b
}

// Point is a corner of the shape's triangles by its index, in the shape's frame, mm.
func (s *Shape) Point(v uint32) space.Vec { return at(s.Positions, v) }

func at(positions []float32, v uint32) space.Vec {
	return space.Vec{X: float64(positions[3*v]), Y: float64(positions[3*v+1]), Z: float64(positions[3*v+2])}
}

// cross2 returns the normal of a triangle with twice its area as length.
func cross2(positions []float32, tri []uint32) space.Vec {
	a, b, c := at(positions, tri[0]), at(positions, tri[1]), at(positions, tri[2])
	ux, uy, uz := b.X-a.X, b.Y-a.Y, b.Z-a.Z
	vx, vy, vz := c.X-a.X, c.Y-a.Y, c.Z-a.Z
	return space.Vec{X: uy*vz - uz*vy, Y: uz*vx - ux*vz, Z: ux*vy - uy*vx}
}

func area(positions []float32, tri []uint32) float64 {
	n := cross2(positions, tri)
	return math.Sqrt(n.X*n.X+n.Y*n.Y+n.Z*n.Z) / 2
}

// Volume returns the enclosed volume in mm³ by the divergence theorem. It is
// meaningful only where the surface is closed.
func (s *Shape) Volume() float64 {
	v := 0.0
	for t := 0; t < len(s.Triangles); t += 3 {
		a := at(s.Positions, s.Triangles[t])
		n := cross2(s.Positions, s.Triangles[t:t+3])
		v += (a.X*n.X + a.Y*n.Y + a.Z*n.Z) / 6
	}
	return v
}

// Area returns the surface area in mm².
func (s *Shape) Area() float64 {
	sum := 0.0
	for t := 0; t < len(s.Triangles); t += 3 {
		sum += area(s.Positions, s.Triangles[t:t+3])
	}
	return sum
}

// Hash names the shape by its content: the SHA-256 of its encoded form, in
// hexadecimal. Two parts with the same hash share one stored shape.
func (s *Shape) Hash() string {
	sum := sha256.Sum256(s.Encode())
	return hex.EncodeToString(sum[:])
}

// Closed reports whether the surface encloses a volume: every edge is shared by
// as many triangles in the one direction as in the other. Of a closed surface
// nobody outside ever sees a back.
func (s *Shape) Closed() bool {
	welded, _ := weld(s.Positions)
	balance := make(map[edgeKey]int, len(s.Triangles)/2)
	for t := 0; t < len(s.Triangles); t += 3 {
		for k := range 3 {
			a, b := welded[s.Triangles[t+k]], welded[s.Triangles[t+(k+1)%3]]
			if a < b {
				balance[edgeKey{a, b}]++
			} else {
				balance[edgeKey{b, a}]--
			}
		}
	}
	for _, n := range balance {
		if n != 0 {
			return false
		}
	}
	return true
}

// Pieces divides the shape into its connected surfaces, the largest first; each
// keeps the patches that it has triangles of, and from says which of the shape's
// patches these are.
func (s *Shape) Pieces() (pieces []*Shape, from [][]int) {
	welded, points := weld(s.Positions)
	root := make([]uint32, len(points))
	for i := range root {
		root[i] = uint32(i)
	}
	find := func(v uint32) uint32 {
		for root[v] != v {
			root[v] = root[root[v]]
			v = root[v]
		}
		return v
	}
	for t := 0; t < len(s.Triangles); t += 3 {
		a := find(welded[s.Triangles[t]])
		root[find(welded[s.Triangles[t+1]])] = a
		root[find(welded[s.Triangles[t+2]])] = a
	}
	meshes := map[uint32]*Mesh{}
	at := map[uint32]map[uint32]uint32{}
	kept := map[uint32][]int{}
	var order []uint32
	for p, patch := range s.Submeshes {
		for t := patch.First; t < patch.First+patch.Count; t++ {
			piece := find(welded[s.Triangles[3*t]])
			m := meshes[piece]
			if m == nil {
				m = &Mesh{}
				meshes[piece], at[piece] = m, map[uint32]uint32{}
				order = append(order, piece)
			}
			if k := kept[piece]; len(k) == 0 || k[len(k)-1] != p {
				kept[piece] = append(k, p)
				m.Submeshes = append(m.Submeshes, Submesh{First: uint32(len(m.Triangles) / 3)})
			}
			m.Submeshes[len(m.Submeshes)-1].Count++
			for _, v := range s.Triangles[3*t : 3*t+3] {
				n, ok := at[piece][v]
				if !ok {
					n = uint32(len(m.Positions) / 3)
					at[piece][v] = n
					m.Positions = append(m.Positions, s.Positions[3*v:3*v+3]...)
					m.Normals = append(m.Normals, s.Normals[3*v:3*v+3]...)
				}
				m.Triangles = append(m.Triangles, n)
			}
		}
	}
	sort.SliceStable(
		order,
		func(i, k int) bool { return len(meshes[order[i]].Triangles) > len(meshes[order[k]].Triangles) },
	)
	for _, p := range order {
		piece, _, err := New(*meshes[p])
		if err != nil { // triangles of a shape make a shape
			continue
		}
		pieces, from = append(pieces, piece), append(from, kept[p])
	}
	return pieces, from
}
