package clientpage

import (
	"encoding/binary"
	"math"

	"slowreveal/core/solid"
)

// pack writes a shape in little room (web/src/client/shapes.ts reads it): vertices, triangles, submeshes and edges, and 1
// where it is closed, as whole numbers; the box's lower corner and the step of each axis, float32; positions as
// differences in steps of a 65,535th of the box, axis by axis; normals in steps of a 127th; the corners of triangles and the ends of edges as
// differences of vertex numbers; the normals beside each edge, from where it shows and how far others are.
func pack(b []byte, s *solid.Shape) []byte {
	vertices := len(s.Positions) / 3
	edges := s.DrawnEdges()
	closed := 0
	if s.Closed() {
		closed = 1
	}
	for _, n := range []int{vertices, len(s.Triangles) / 3, len(s.Submeshes), len(edges), closed} {
		b = binary.AppendUvarint(b, uint64(n))
	}
	low, size := s.Bounds.Min, s.Bounds.Size()
	from := [3]float64{low.X, low.Y, low.Z}
	var step [3]float64
	for k, v := range [3]float64{size.X, size.Y, size.Z} {
		step[k] = float64(float32(v / 65535))
	}
	for _, list := range [2][3]float64{from, step} {
		for _, v := range list {
			b = binary.LittleEndian.AppendUint32(b, math.Float32bits(float32(v)))
		}
	}
	for k := range 3 {
		before := uint16(0)
		for i := range vertices {
			v := uint16(0)
			if step[k] > 0 {
				v = uint16(math.Round(min((float64(s.Positions[3*i+k])-from[k])/step[k], 65535)))
			}
			b = binary.LittleEndian.AppendUint16(b, v-before)
			before = v
		}
	}
	for i := range vertices {
		b = direction(b, s.Normals[3*i:3*i+3])
	}
	at := 0
	for _, v := range s.Triangles {
		b = binary.AppendVarint(b, int64(v)-int64(at))
		at = int(v)
	}
	for _, m := range s.Submeshes {
		b = binary.AppendUvarint(binary.AppendUvarint(b, uint64(m.First)), uint64(m.Count))
	}
	places := map[[3]float32]int{}
	for i := range vertices {
		p := [3]float32(s.Positions[3*i : 3*i+3])
		if _, known := places[plus(p)]; !known {
			places[plus(p)] = i
		}
	}
	at = 0
	for i := range edges {
		e := &edges[i]
		for _, end := range [][3]float32{e.A, e.B} {
			v := places[plus(end)]
			b = binary.AppendVarint(b, int64(v-at))
			at = v
		}
		b = direction(direction(b, e.N0[:]), e.N1[:])
		b = append(b, byte(e.Shows))
		b = binary.LittleEndian.AppendUint32(b, math.Float32bits(min(e.Apart, 1e30)))
	}
	return b
}

// plus turns −0 into 0, as edges have it.
func plus(p [3]float32) [3]float32 { return [3]float32{p[0] + 0, p[1] + 0, p[2] + 0} }

func direction(b []byte, v []float32) []byte {
	for _, n := range v {
		b = append(b, byte(int8(math.Round(float64(n)*127))))
	}
	return b
}
