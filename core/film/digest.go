package film

import (
	"encoding/binary"
	"hash/fnv"
	"math"
)

// Digest returns a hash (FNV-1a) of everything in the frame, to the last bit:
// two builds of the core agree when their digests do.
func (fr *Frame) Digest() uint64 {
	h := fnv.New64a()
	var b [8]byte
	add := func(values ...float64) {
		for _, v := range values {
			binary.LittleEndian.PutUint64(b[:], math.Float64bits(v))
			h.Write(b[:])
		}
	}
	for i := range fr.World {
		w := &fr.World[i]
		add(w.R[:]...)
		add(w.T.X, w.T.Y, w.T.Z)
	}
	add(fr.Opacity...)
	for _, t := range fr.Tint {
		add(t.Colour[:]...)
		add(t.Amount)
	}
	for _, s := range fr.Flow {
		add(s.From.X, s.From.Y, s.From.Z, s.To.X, s.To.Y, s.To.Z, s.Start, s.Opacity)
	}
	for _, s := range fr.Surface {
		add(s.Flat, s.Faces, s.Edges)
	}
	for _, c := range fr.Cards {
		add(c.Opacity)
	}
	for _, n := range fr.Notes {
		add(n.AnchorX, n.AnchorY, n.X, n.Y, n.Width, n.Height, n.Opacity)
	}
	c := &fr.Camera
	add(c.Target[:]...)
	add(c.Orientation[:]...)
	add(c.Distance, c.FocalLength, float64(fr.Step), float64(fr.Time))
	return h.Sum64()
}
