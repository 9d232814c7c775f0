package sequence

import (
	"sync/atomic"

	"github.com/sourcegraph/conc/panics"

	"slowreveal/encode"
	"slowreveal/render"
)

// inFlight is how many frames may be on their way to the encoder.
const inFlight = 4

// writer feeds the encoder while the next frames are rendered.
type writer struct {
	free, ready chan *render.Frame
	done        chan error
	broken      atomic.Bool
}

// startWriter takes the frames that are made over in buffers, inFlight of them.
func startWriter(enc *encode.Segment, buffers []*render.Frame) *writer {
	w := &writer{
		free:  make(chan *render.Frame, inFlight),
		ready: make(chan *render.Frame, inFlight),
		done:  make(chan error, 1),
	}
	for _, b := range buffers {
		w.free <- b
	}
	go func() {
		var failure error
		for frame := range w.ready {
			if failure == nil {
				if p := panics.Try(func() { failure = enc.Write(frame.Bytes) }); p != nil {
					failure = p.AsError()
				}
				w.broken.Store(failure != nil)
			}
			w.free <- frame
		}
		w.done <- failure
	}()
	return w
}

func (w *writer) failed() bool { return w.broken.Load() }

// finish waits until all frames are handed over.
func (w *writer) finish() error {
	close(w.ready)
	return <-w.done
}
