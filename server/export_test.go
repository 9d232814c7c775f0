package server

import "time"

// SetLull makes the server less patient with who falls silent, and returns what makes it as it was.
func SetLull(d time.Duration) (back func()) {
	before := lull
	lull = d
	return func() { lull = before }
}

// SetMostProofs lets so many proofs be kept, and returns what makes it as it was.
func SetMostProofs(n int) (back func()) {
	before := mostProofs
	mostProofs = n
	return func() { mostProofs = before }
}
