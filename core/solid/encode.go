package solid

import (
	"encoding/binary"
	"errors"
	"fmt"
	"math"
)

// The stored form of a shape, all little-endian, so that a page can lay typed
// arrays over it without copying (docs/formats.md):
//
//	"SRS1", uint32 vertices, triangles, patches, edges, and 3 words of zero
//	float32 positions [3·vertices], normals [3·vertices]
//	uint32  triangles [3·triangles], patches [2·patches]
//	float32 edges [12·edges]: a, b, n0, n1
const (
	shapeMagic  = "SRS1"
	shapeHeader = 32
	closedAt    = 20
)

// Encode returns the stored form of the shape.
func (s *Shape) Encode() []byte {
	b := s.encodeFaces(shapeMagic, 12)
	for i := range s.Edges {
		e := &s.Edges[i]
		for _, v := range [][3]float32{e.A, e.B, e.N0, e.N1} {
			b = appendFloats(b, v[:])
		}
	}
	return b
}

// EncodeDrawn returns the shape as a stage draws it: the stored form with the magic SRD1, in which the first of the words
// that are zero there is 1 where the shape is Closed, and each edge has 14 numbers, those of a DrawnEdge. Apart is at
// most 1e30.
func (s *Shape) EncodeDrawn() []byte {
	b := s.encodeFaces("SRD1", 14)
	if s.Closed() {
		binary.LittleEndian.PutUint32(b[closedAt:], 1)
	}
	for _, e := range s.DrawnEdges() {
		for _, v := range [][3]float32{e.A, e.B, e.N0, e.N1} {
			b = appendFloats(b, v[:])
		}
		b = appendFloats(b, []float32{float32(e.Shows), min(e.Apart, 1e30)})
	}
	return b
}

// encodeFaces returns a form of the shape up to its edges, with room for so many numbers of each.
func (s *Shape) encodeFaces(magic string, ofAnEdge int) []byte {
	size := shapeHeader + 4*(len(s.Positions)+len(s.Normals)+len(s.Triangles)+2*len(s.Submeshes)+ofAnEdge*len(s.Edges))
	b := make([]byte, 0, size)
	b = append(b, magic...)
	for _, n := range []int{len(s.Positions) / 3, len(s.Triangles) / 3, len(s.Submeshes), len(s.Edges), 0, 0, 0} {
		b = binary.LittleEndian.AppendUint32(b, uint32(n))
	}
	b = appendFloats(b, s.Positions)
	b = appendFloats(b, s.Normals)
	for _, v := range s.Triangles {
		b = binary.LittleEndian.AppendUint32(b, v)
	}
	for _, p := range s.Submeshes {
		b = binary.LittleEndian.AppendUint32(b, p.First)
		b = binary.LittleEndian.AppendUint32(b, p.Count)
	}
	return b
}

func appendFloats(b []byte, v []float32) []byte {
	for _, f := range v {
		b = binary.LittleEndian.AppendUint32(b, math.Float32bits(f))
	}
	return b
}

// Decode reads the stored form of a shape. It refuses anything whose lengths
// do not fit together; it does not check the mesh again.
func Decode(b []byte) (*Shape, error) {
	if len(b) < shapeHeader || string(b[:4]) != shapeMagic {
		return nil, errors.New("this is not a stored shape")
	}
	var n [4]int
	for i := range n {
		n[i] = int(binary.LittleEndian.Uint32(b[4+4*i:]))
	}
	vertices, triangles, patches, edges := n[0], n[1], n[2], n[3]
	want := shapeHeader + 4*(6*vertices+3*triangles+2*patches+12*edges)
	if want != len(b) {
		return nil, fmt.Errorf("a stored shape of %d bytes should have %d", len(b), want)
	}
	s := &Shape{Submeshes: make([]Submesh, patches), Edges: make([]Edge, edges)}
	b = b[shapeHeader:]
	s.Positions, b = takeFloats(b, 3*vertices)
	s.Normals, b = takeFloats(b, 3*vertices)
	s.Triangles = make([]uint32, 3*triangles)
	for i := range s.Triangles {
		s.Triangles[i] = binary.LittleEndian.Uint32(b[4*i:])
	}
	b = b[12*triangles:]
	for i := range s.Submeshes {
		s.Submeshes[i] = Submesh{binary.LittleEndian.Uint32(b[8*i:]), binary.LittleEndian.Uint32(b[8*i+4:])}
	}
	lines, _ := takeFloats(b[8*patches:], 12*edges)
	for i := range s.Edges {
		l := lines[12*i:]
		s.Edges[i] = Edge{[3]float32(l[0:3]), [3]float32(l[3:6]), [3]float32(l[6:9]), [3]float32(l[9:12])}
	}
	s.Bounds = boundsOf(s.Positions)
	return s, nil
}

func takeFloats(b []byte, n int) ([]float32, []byte) {
	v := make([]float32, n)
	for i := range v {
		v[i] = math.Float32frombits(binary.LittleEndian.Uint32(b[4*i:]))
	}
	return v, b[4*n:]
}
