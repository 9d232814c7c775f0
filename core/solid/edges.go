package solid

import (
	"math"

	"slowreveal/core/space"
)

// CreaseAngle is the angle between neighbouring faces, in degrees, from which
// their common edge counts as a feature of the shape and is always drawn.
const CreaseAngle = 30.0

// smoothAngle is the angle in degrees below which two faces count as one
// plane: no outline can ever run along their edge that another does not show.
const smoothAngle = 0.5

// Edge is a straight line of a drawing, from A to B.
type Edge struct {
	A, B [3]float32
	// N0 and N1 are the unit normals of the two faces that meet here. The
	// edge is drawn where one of them faces the viewer and the other does
	// not: there it is part of the outline. A feature edge is drawn always;
	// it has both normals zero.
	N0, N1 [3]float32
}

// Feature reports whether the edge is drawn from every side.
func (e *Edge) Feature() bool { return e.N0 == [3]float32{} && e.N1 == [3]float32{} }

type corner [3]float32

type edgeKey struct{ a, b uint32 }

type edgeFaces struct {
	n0, n1 space.Vec
	faces  int
}

// findEdges returns the feature edges (sharper than CreaseAngle, or open, or
// where more than two faces meet) and the candidates for the outline. Vertices
// at the same place count as one, since files split them at creases.
func findEdges(positions []float32, triangles []uint32) []Edge {
	welded, points := weld(positions)
	seen := make(map[edgeKey]*edgeFaces, len(triangles))
	order := make([]edgeKey, 0, len(triangles))
	for t := 0; t < len(triangles); t += 3 {
		n, ok := space.Normalize(cross2(positions, triangles[t:t+3]))
		if !ok {
			continue
		}
		for k := range 3 {
			a, b := welded[triangles[t+k]], welded[triangles[t+(k+1)%3]]
			if a == b {
				continue
			}
			key := edgeKey{min(a, b), max(a, b)}
			f := seen[key]
			if f == nil {
				f = &edgeFaces{}
				seen[key] = f
				order = append(order, key)
			}
			switch f.faces {
			case 0:
				f.n0 = n
			case 1:
				f.n1 = n
			}
			f.faces++
		}
	}
	crease, flat := math.Cos(CreaseAngle*math.Pi/180), math.Cos(smoothAngle*math.Pi/180)
	edges := make([]Edge, 0, len(order)/4)
	for _, key := range order {
		f := seen[key]
		e := Edge{A: points[key.a], B: points[key.b]}
		c := f.n0.X*f.n1.X + f.n0.Y*f.n1.Y + f.n0.Z*f.n1.Z
		switch {
		case f.faces == 2 && c > flat:
			continue
		case f.faces == 2 && c > crease:
			e.N0, e.N1 = narrow(f.n0), narrow(f.n1)
		}
		edges = append(edges, e)
	}
	return edges
}

// Beside returns for each of the shape's edges the unit normals of the two faces that
// meet there; both are zero where not just two do.
func (s *Shape) Beside() [][2][3]float32 {
	welded, points := weld(s.Positions)
	at := make(map[corner]uint32, len(points))
	for i, p := range points {
		at[p] = uint32(i)
	}
	sides := make([][2][3]float32, len(s.Edges))
	number := make(map[edgeKey]int, len(s.Edges))
	for i := range s.Edges {
		a, b := at[s.Edges[i].A], at[s.Edges[i].B]
		number[edgeKey{min(a, b), max(a, b)}] = i
	}
	faces := make([]int, len(s.Edges))
	for t := 0; t < len(s.Triangles); t += 3 {
		for k := range 3 {
			a, b := welded[s.Triangles[t+k]], welded[s.Triangles[t+(k+1)%3]]
			i, ok := number[edgeKey{min(a, b), max(a, b)}]
			if !ok {
				continue
			}
			if n, ok := space.Normalize(cross2(s.Positions, s.Triangles[t:t+3])); ok && faces[i] < 2 {
				sides[i][faces[i]] = narrow(n)
			}
			faces[i]++
		}
	}
	for i, n := range faces {
		if n != 2 {
			sides[i] = [2][3]float32{}
		}
	}
	return sides
}

// weld numbers the distinct places among the vertices.
func weld(positions []float32) (index []uint32, points []corner) {
	index = make([]uint32, len(positions)/3)
	known := make(map[corner]uint32, len(index))
	for i := range index {
		p := corner{positions[3*i] + 0, positions[3*i+1] + 0, positions[3*i+2] + 0} // +0 turns −0 into 0
		n, ok := known[p]
		if !ok {
			n = uint32(len(points))
			known[p] = n
			points = append(points, p)
		}
		index[i] = n
	}
	return index, points
}

func narrow(v space.Vec) [3]float32 { return [3]float32{float32(v.X), float32(v.Y), float32(v.Z)} }

// splitByCrease gives the shape normals: each corner of each triangle takes
// the mean, weighted by area, of the faces around its place that lie within
// CreaseAngle of its own face. Vertices are split where that differs.
func (s *Shape) splitByCrease() {
	welded, _ := weld(s.Positions)
	faces := make([]space.Vec, len(s.Triangles)/3)
	units := make([]space.Vec, len(faces))
	around := make([][]int32, len(welded))
	for t := range faces {
		tri := s.Triangles[3*t : 3*t+3]
		faces[t] = cross2(s.Positions, tri)
		units[t], _ = space.Normalize(faces[t])
		for _, v := range tri {
			around[welded[v]] = append(around[welded[v]], int32(t))
		}
	}
	type vertex struct{ p, n corner }
	known := make(map[vertex]uint32, len(welded))
	var positions, normals []float32
	crease := math.Cos(CreaseAngle * math.Pi / 180)
	crowded := map[uint32]*crowd{}
	for t := range faces {
		for k := range 3 {
			v := s.Triangles[3*t+k]
			place := welded[v]
			var sum space.Vec
			if len(around[place]) > fewAround {
				c := crowded[place]
				if c == nil {
					c = newCrowd(around[place], faces, units)
					crowded[place] = c
				}
				sum = c.near(units[t], crease)
			} else {
				for _, o := range around[place] {
					a, b := units[t], units[o]
					if a.X*b.X+a.Y*b.Y+a.Z*b.Z >= crease {
						sum = space.Vec{X: sum.X + faces[o].X, Y: sum.Y + faces[o].Y, Z: sum.Z + faces[o].Z}
					}
				}
			}
			n, ok := space.Normalize(sum)
			if !ok {
				n = units[t]
			}
			key := vertex{corner(s.Positions[3*v : 3*v+3]), narrow(n)}
			at, ok := known[key]
			if !ok {
				at = uint32(len(positions) / 3)
				known[key] = at
				positions = append(positions, key.p[:]...)
				normals = append(normals, key.n[:]...)
			}
			s.Triangles[3*t+k] = at
		}
	}
	s.Positions, s.Normals = positions, normals
}
