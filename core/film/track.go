package film

// track is one cue on one target: when it runs, and when it is run backwards.
type track struct {
	start, duration float64 // µs of film time
	curve           curve
	back            *reversal
}

// reversal maps film time to the time that a retrace shows again: from `at` on,
// the moment shown is forward − (t − at)·speed.
type reversal struct {
	at, forward, speed float64
}

// same reports whether two tracks always have the same progress.
func (b *track) same(o *track) bool {
	return b.start == o.start && b.duration == o.duration && b.curve == o.curve &&
		(b.back == o.back || b.back != nil && o.back != nil && *b.back == *o.back)
}

// progress returns how far the track has come at film time t, 0…1 (a curve of
// one's own may leave that range on the way). Forward progress less backward
// progress: exactly 0 again when the retrace is over.
func (b *track) progress(t float64) float64 {
	u := b.curve.at((t - b.start) / b.duration)
	if b.back == nil || t < b.back.at {
		return u
	}
	shown := b.back.forward - (t-b.back.at)*b.back.speed
	u -= b.curve.end() - b.curve.at((shown-b.start)/b.duration)
	// Run backwards before it has run forwards, or faster than it does, it has nothing to take back.
	if u < 0 && b.curve.profile == nil && (shown <= b.start || b.curve.within()) {
		return 0
	}
	return u
}
