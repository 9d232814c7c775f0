package sequence

import (
	"encoding/binary"

	"slowreveal/core/film"
	"slowreveal/render"
)

// compositor is where the frames of a cut are put together. It keeps a camera for each stretch
// that is seen.
type compositor struct {
	sequence *Sequence
	threads  int             // of each camera's renderer
	cameras  map[int]*camera // by stretch
	coming   *render.Frame   // work space of mixing
	buffers  []*render.Frame // see toEncode
	last     *render.Picture // of the frame that was made last, before it was mixed
}

func newCompositor(c *Sequence) *compositor {
	return &compositor{sequence: c, threads: c.Plan.Threads, cameras: map[int]*camera{}}
}

// toEncode returns the buffers for frames on their way to an encoder.
func (t *compositor) toEncode() []*render.Frame {
	for len(t.buffers) < inFlight {
		t.buffers = append(
			t.buffers,
			&render.Frame{
				Bytes: make([]byte, frameBytes(t.sequence.Plan.Video, t.sequence.Plan.Width, t.sequence.Plan.Height)),
			},
		)
	}
	return t.buffers
}

// frame makes frame k of the film.
func (t *compositor) frame(k int, out *render.Frame) error {
	begun := false
	for i := range t.sequence.clips {
		s := &t.sequence.clips[i]
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
			t.mix(out.Bytes, t.coming.Bytes, k-s.first+1, t.sequence.fade+1)
			out.Alter()
		}
		begun = true
	}
	return nil
}

// expose makes frame k of a stretch.
func (t *compositor) expose(i, k int, out *render.Frame) error {
	s, c := &t.sequence.clips[i], t.cameras[i]
	if c == nil {
		q := *s.clip.Plan
		q.Threads = t.threads
		q.Logo = t.sequence.Plan.Logo
		var err error
		if c, err = newCamera(s.clip.Film, s.clip.Scene, &q); err != nil {
			return err
		}
		if s.card {
			c.layer, c.card = &Layer{
				Kind: BackgroundLayer,
			}, &film.Card{
				Title:   s.clip.Card.Title,
				Text:    s.clip.Card.Text,
				Clear:   true,
				Opacity: 1,
			}
		}
		t.cameras[i] = c
	}
	t.last = c.plates[0].picture
	if s.card {
		c.shoot(0, out)
		return nil
	}
	c.expose(s.clip.Plan.exposure(k), out)
	return nil
}

// mix lays a part of what comes over what goes: n of so many parts.
func (t *compositor) mix(out, coming []byte, n, of int) {
	clear, deep := t.sequence.Plan.Background.Transparent, t.sequence.Plan.Video.Raw() == frames16
	switch {
	case clear && deep:
		mixClear(samples16(out), samples16(coming), n, of)
	case clear:
		mixClear(samples8(out), samples8(coming), n, of)
	case deep:
		mixSolid(samples16(out), samples16(coming), n, of)
	default:
		mixSolid(samples8(out), samples8(coming), n, of)
	}
}

// samples8 and samples16 are the values of a frame, of one byte or of two, the lower one first.
type (
	samples8  []byte
	samples16 []byte
)

func (s samples8) len() int      { return len(s) }
func (s samples8) at(i int) int  { return int(s[i]) }
func (s samples8) set(i, v int)  { s[i] = byte(v) }
func (s samples16) len() int     { return len(s) / 2 }
func (s samples16) at(i int) int { return int(binary.LittleEndian.Uint16(s[2*i:])) }
func (s samples16) set(i, v int) { binary.LittleEndian.PutUint16(s[2*i:], uint16(v)) }

type values interface {
	len() int
	at(i int) int
	set(i, v int)
}

func mixSolid[S values](out, coming S, n, of int) {
	for i := range out.len() {
		out.set(i, (out.at(i)*(of-n)+coming.at(i)*n+of/2)/of)
	}
}

// mixClear mixes frames with alpha: colours count as much as they cover.
func mixClear[S values](out, coming S, n, of int) {
	for i := 0; i+3 < out.len(); i += 4 {
		a, b := out.at(i+3)*(of-n), coming.at(i+3)*n
		sum := a + b
		if sum > 0 {
			for k := range 3 {
				out.set(i+k, (out.at(i+k)*a+coming.at(i+k)*b+sum/2)/sum)
			}
		}
		out.set(i+3, (sum+of/2)/of)
	}
}
