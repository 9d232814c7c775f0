package film

import (
	"encoding/binary"
	"hash/maphash"
	"math"

	"slowreveal/core/space"
)

// Write adds to a hash all that At, Turns, Arc and the opacities of both nodes depend on: two films in which it is the
// same move and show the two alike at every time, whichever cues do it.
func (g *Against) Write(h *maphash.Hash) {
	w, last := hashed{h}, 0.0
	until := func(b *track) {
		w.track(b)
		last = max(last, b.start+b.duration)
		if b.back != nil {
			last = max(last, b.back.at+(b.back.forward-b.start)/b.back.speed)
		}
	}
	w.numbers(float64(g.above), float64(g.still), float64(g.moving), float64(len(g.relative)))
	for i, node := range g.nodes {
		changes, begins := g.film.opacity.changes[node], 1.0
		if own := g.film.opacity.opened[node]; own != nil {
			begins = *own
		}
		w.numbers(float64(node), float64(g.parents[i]), begins, float64(len(changes)))
		w.rigid(&g.film.rest[node])
		for _, d := range changes {
			until(&g.film.tracks[d.track])
			w.numbers(d.to)
		}
	}
	for _, a := range g.acts {
		m := &g.film.motions[a.motion]
		w.numbers(float64(a.at), m.degrees)
		h.WriteString(string(m.axes))
		until(&g.film.tracks[m.track])
		w.vectors(m.way, m.axis, m.pivot)
		if m.route != nil {
			w.vectors(m.route.corners...)
			w.numbers(m.route.times...)
			for _, b := range m.route.bends {
				w.numbers(b.from, b.to)
				w.vectors(b.enter, b.corner, b.out)
			}
		}
	}
	for _, i := range g.relative {
		w.numbers(float64(i))
	}
	w.numbers(min(float64(g.film.Duration()), last)) // what is behind the last of them changes nothing
}

// hashed writes numbers into a hash.
type hashed struct{ *maphash.Hash }

func (w hashed) numbers(list ...float64) {
	var b [8]byte
	for _, v := range list {
		binary.LittleEndian.PutUint64(b[:], math.Float64bits(v))
		w.Write(b[:])
	}
}

func (w hashed) vectors(list ...space.Vec) {
	for _, v := range list {
		w.numbers(v.X, v.Y, v.Z)
	}
}

func (w hashed) rigid(m *space.Rigid) {
	w.numbers(m.R[:]...)
	w.vectors(m.T)
}

func (w hashed) track(b *track) {
	c := &b.curve
	w.numbers(b.start, b.duration, c.ax, c.bx, c.cx, c.ay, c.by, c.cy)
	if b.back != nil {
		w.numbers(b.back.at, b.back.forward, b.back.speed)
	}
}
