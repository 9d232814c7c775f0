package shoot

import (
	"slowreveal/core/film"
	"slowreveal/render"
)

// table is where the frames of a cut are put together. It keeps a camera for each stretch
// that is seen.
type table struct {
	cut     *Cut
	threads int             // of each camera's renderer
	cameras map[int]*camera // by stretch
	coming  *render.Frame   // work space of mixing
	buffers []*render.Frame // see toEncode
	last    *render.Picture // of the frame that was made last, before it was mixed
}

func newTable(c *Cut) *table {
	return &table{cut: c, threads: c.Plan.Threads, cameras: map[int]*camera{}}
}

// toEncode returns the buffers for frames on their way to an encoder.
func (t *table) toEncode() []*render.Frame {
	for len(t.buffers) < inFlight {
		t.buffers = append(t.buffers, &render.Frame{Bytes: make([]byte, frameBytes(t.cut.Plan.Video, t.cut.Plan.Width, t.cut.Plan.Height))})
	}
	return t.buffers
}

// frame makes frame k of the film.
func (t *table) frame(k int, out *render.Frame) error {
	begun := false
	for i := range t.cut.stretches {
		s := &t.cut.stretches[i]
		if k < s.first || k >= s.first+s.frames {
			delete(t.cameras, i)
			continue
		}
		into := out
		if begun {
			if t.coming == nil {
				t.coming = &render.Frame{Bytes: make([]byte, len(out.Bytes))}
			}
			into = t.coming
		}
		if err := t.expose(i, k-s.first, into); err != nil {
			return err
		}
		if begun {
			t.mix(out.Bytes, t.coming.Bytes, k-s.first+1, t.cut.fade+1)
			out.Alter()
		}
		begun = true
	}
	return nil
}

// expose makes frame k of a stretch.
func (t *table) expose(i, k int, out *render.Frame) error {
	s, c := &t.cut.stretches[i], t.cameras[i]
	if c == nil {
		q := *s.reel.Plan
		q.Threads = t.threads
		q.Logo = t.cut.Plan.Logo
		var err error
		if c, err = newCamera(s.reel.Film, s.reel.Scene, &q); err != nil {
			return err
		}
		if s.card {
			c.layer, c.card = &Layer{Kind: Ground}, &film.Card{Title: s.reel.Card.Title, Text: s.reel.Card.Text, Clear: true, Opacity: 1}
		}
		t.cameras[i] = c
	}
	t.last = c.plates[0].picture
	if s.card {
		c.shoot(0, out)
		return nil
	}
	c.expose(s.reel.Plan.exposure(k), out)
	return nil
}

// mix lays a part of what comes over what goes: n of so many parts.
func (t *table) mix(out, coming []byte, n, of int) {
	if t.cut.Plan.Background.Clear {
		mixClear(out, coming, n, of)
		return
	}
	half := of / 2
	for i, v := range coming {
		out[i] = byte((int(out[i])*(of-n) + int(v)*n + half) / of)
	}
}

// mixClear mixes frames with alpha: colours count as much as they cover.
func mixClear(out, coming []byte, n, of int) {
	for i := 0; i+3 < len(out); i += 4 {
		a, b := int(out[i+3])*(of-n), int(coming[i+3])*n
		sum := a + b
		if sum > 0 {
			for k := range 3 {
				out[i+k] = byte((int(out[i+k])*a + int(coming[i+k])*b + sum/2) / sum)
			}
		}
		out[i+3] = byte((sum + of/2) / of)
	}
}
