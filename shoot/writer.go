package shoot

import (
	"sync/atomic"

	"slowreveal/encode"
	"slowreveal/render"
)

// inFlight is how many frames may be on their way to the encoder.
const inFlight = 4

// writer feeds the encoder while the next frames are rendered.
type writer struct {
	free, ready chan render.YUV
	done        chan error
	broken      atomic.Bool
}

func startWriter(enc *encode.Film, width, height int) *writer {
	w := &writer{free: make(chan render.YUV, inFlight), ready: make(chan render.YUV, inFlight), done: make(chan error, 1)}
	for range inFlight {
		w.free <- render.NewYUV(width, height)
	}
	go func() {
		var failure error
		for frame := range w.ready {
			if failure == nil {
				if failure = enc.Write(frame); failure != nil {
					w.broken.Store(true)
				}
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
