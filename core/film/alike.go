package film

import (
	"encoding/binary"
	"hash/maphash"
	"math"
	"slices"

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
		w.numbers(float64(a.at))
		w.motion(m)
		until(&g.film.tracks[m.track])
	}
	for _, i := range g.relative {
		w.numbers(float64(i))
	}
	if g.driven != nil {
		last = max(last, g.writeDriven(h))
	}
	w.numbers(min(float64(g.film.Duration()), last)) // what is behind the last of them changes nothing
}

// WriteDuring adds to a hash all that At and Arc depend on between two film times, µs, between which no turn lies: what
// moves then, and where what has moved before has come to. What has not begun is nothing. It adds nothing and is false
// where a mechanism has a say, whose bodies depend on more.
func (g *Against) WriteDuring(h *maphash.Hash, from, to float64) bool {
	if g.driven != nil {
		return false
	}
	w := hashed{h}
	w.numbers(float64(g.above), float64(g.still), float64(g.moving), from, to)
	for i, node := range g.nodes {
		w.numbers(float64(node), float64(g.parents[i]))
		w.rigid(&g.film.rest[node])
	}
	for i, a := range g.acts {
		m := &g.film.motions[a.motion]
		b := &g.film.tracks[m.track]
		begun, ended := b.progress(from), b.progress(to)
		if begun == 0 && ended == 0 {
			continue
		}
		w.numbers(float64(a.at), begun, ended)
		w.motion(m)
		if begun != ended {
			w.track(b)
		}
		if slices.Contains(g.relative, i) {
			h.WriteByte(1)
		}
	}
	return true
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

func (w hashed) motion(m *motion) {
	w.numbers(m.degrees)
	w.WriteString(string(m.axes))
	w.vectors(m.way, m.axis, m.pivot)
	if m.route == nil {
		return
	}
	w.vectors(m.route.corners...)
	w.numbers(m.route.times...)
	for _, b := range m.route.bends {
		w.numbers(b.from, b.to)
		w.vectors(b.enter, b.corner, b.out)
	}
}

func (w hashed) track(b *track) {
	c := &b.curve
	w.numbers(b.start, b.duration, c.ax, c.bx, c.cx, c.ay, c.by, c.cy)
	if b.back != nil {
		w.numbers(b.back.at, b.back.forward, b.back.speed)
	}
}
