// Package proof finds, before a film is made, what is wrong with it.
//
// Interference: a pair of parts is thinned, each by half of what the pair may lie in one another (the thinned shapes of
// package clearance). That is how deep the two lie in one another at rest, as far as thinning by up to deepest tells,
// and a tolerance that is never less than the facets of both deviate from what they stand for. The film is divided
// where a cue that moves one against the other begins, ends, turns back or goes round a corner; each piece is looked at
// as a whole (touch.go). Two triangles are apart for a whole piece where a direction is found along which the still one
// and the hull of the moving one at the beginning and at the end lie farther from each other than points stray from the
// straight line between (film.Arc: its bounds, and from where they are). Pairs of which that cannot be said are looked
// at in both halves of the piece, until they move by less than resolution: then they touch. Nothing can be stepped
// over, however thin or fast. The scheme is conservative advancement (B. Mirtich, "Impulse-based Dynamic Simulation of
// Rigid Body Systems", 1996) with time halved instead of stepped through, and hulls of motions as bounds (S. Redon, A.
// Kheddar, S. Coquillart, "Fast Continuous Collision Detection between Rigid Bodies", 2002); both from memory.
package proof
