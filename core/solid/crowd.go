package solid

import (
	"math"

	"slowreveal/core/space"
)

// fewAround is the number of faces at one place up to which each is held against each. Beyond, which is
// the middle of a fan or the tip of a cone, they are taken by direction: the work would grow with the
// square of their number.
const fewAround = 256

// crowd is the faces around a place where very many meet, summed by direction.
type crowd struct {
	cells []cell
	at    map[[3]int8]int // by rounded direction
	sums  map[[3]int8]space.Vec
}

// cell is the faces that look in about one direction: along the first of them, and the sum of all,
// each as long as its area is large.
type cell struct{ along, sum space.Vec }

// cellsPerUnit is how finely directions are told apart: cells are at most 1.6° across, a twentieth of
// the angle that counts.
const cellsPerUnit = 63

func direction(u space.Vec) [3]int8 {
	round := func(v float64) int8 { return int8(math.Round(v * cellsPerUnit)) }
	return [3]int8{round(u.X), round(u.Y), round(u.Z)}
}

func newCrowd(around []int32, faces, units []space.Vec) *crowd {
	c := &crowd{at: map[[3]int8]int{}, sums: map[[3]int8]space.Vec{}}
	for _, t := range around {
		key := direction(units[t])
		i, ok := c.at[key]
		if !ok {
			i = len(c.cells)
			c.at[key] = i
			c.cells = append(c.cells, cell{along: units[t]})
		}
		s := &c.cells[i].sum
		*s = space.Vec{X: s.X + faces[t].X, Y: s.Y + faces[t].Y, Z: s.Z + faces[t].Z}
	}
	return c
}

// near sums the faces whose direction is near that of u.
func (c *crowd) near(u space.Vec, cos float64) space.Vec {
	key := direction(u)
	if sum, known := c.sums[key]; known {
		return sum
	}
	along := u
	if i, ok := c.at[key]; ok {
		along = c.cells[i].along // the same for all of a cell, in whatever order they come
	}
	var sum space.Vec
	for i := range c.cells {
		if a := c.cells[i].along; a.X*along.X+a.Y*along.Y+a.Z*along.Z >= cos {
			s := c.cells[i].sum
			sum = space.Vec{X: sum.X + s.X, Y: sum.Y + s.Y, Z: sum.Z + s.Z}
		}
	}
	c.sums[key] = sum
	return sum
}
