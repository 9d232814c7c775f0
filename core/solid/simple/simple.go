// Package simple makes bodies that closed forms are known of, for tests.
package simple

import (
	"math"

	"slowreveal/core/solid"
)

// Block is a box with a corner at the origin, mm.
func Block(x, y, z float64) solid.Mesh {
	var m solid.Mesh
	for i := range 8 {
		m.Positions = append(
			m.Positions,
			float32(float64(i&1)*x),
			float32(float64(i>>1&1)*y),
			float32(float64(i>>2&1)*z),
		)
	}
	m.Triangles = []uint32{
		0,
		2,
		1,
		1,
		2,
		3,
		4,
		5,
		6,
		5,
		7,
		6,
		0,
		1,
		4,
		1,
		5,
		4,
		2,
		6,
		3,
		3,
		6,
		7,
		0,
		4,
		2,
		2,
		4,
		6,
		1,
		3,
		5,
		3,
		7,
		5,
	}
	return m
}

// Ball is a ball about the origin, mm, of 48 rings of 96 faces.
func Ball(radius float64) solid.Mesh {
	var m solid.Mesh
	const rings, segments = 48, 96
	for i := range rings + 1 {
		s, c := math.Sincos(math.Pi * float64(i) / rings)
		for k := range segments {
			t, u := math.Sincos(2 * math.Pi * float64(k) / segments)
			m.Positions = append(m.Positions, float32(radius*s*u), float32(radius*c), float32(radius*s*t))
		}
	}
	at := func(i, k int) uint32 { return uint32(i*segments + k%segments) }
	for i := range rings {
		for k := range segments {
			m.Triangles = append(m.Triangles, at(i, k), at(i, k+1), at(i+1, k), at(i, k+1), at(i+1, k+1), at(i+1, k))
		}
	}
	return m
}

// Sleeve is a pipe of n sides about Z from z = 0 to height, or a rod when inner is 0, mm.
func Sleeve(inner, outer, height float64, n int) solid.Mesh {
	var m solid.Mesh
	ring := func(r, z float64) uint32 {
		first := uint32(len(m.Positions) / 3)
		for k := range n {
			s, c := math.Sincos(2 * math.Pi * float64(k) / float64(n))
			m.Positions = append(m.Positions, float32(r*c), float32(r*s), float32(z))
		}
		return first
	}
	between := func(a, b uint32) { // the surface looks to the left of the way from a to b, going round
		for k := range uint32(n) {
			l := (k + 1) % uint32(n)
			m.Triangles = append(m.Triangles, a+k, a+l, b+l, a+k, b+l, b+k)
		}
	}
	lowOut, highOut := ring(outer, 0), ring(outer, height)
	between(lowOut, highOut)
	if inner > 0 {
		lowIn, highIn := ring(inner, 0), ring(inner, height)
		between(highOut, highIn)
		between(highIn, lowIn)
		between(lowIn, lowOut)
		return m
	}
	for k := uint32(1); k+1 < uint32(n); k++ {
		m.Triangles = append(m.Triangles, lowOut, lowOut+k+1, lowOut+k, highOut, highOut+k, highOut+k+1)
	}
	return m
}
