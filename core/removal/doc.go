// Package removal computes a teardown: in which order the parts of an assembly leave, in which directions and how far,
// so that nothing goes through anything.
//
// Which part keeps which from leaving in a direction does not change while others leave (the non-directional blocking
// graph of R. Wilson and J.-C. Latombe, "Geometric Reasoning about Mechanical Assembly", 1994): it is asked once for a
// pair and a direction, exactly (package clearance), and only where it is needed. What cannot leave alone leaves with
// all that would be in its way (the smallest closed set of that graph), along two or three legs, or after a turn about
// an axis of its own, or along many legs that a bounded random search finds, with a turn on the way where it must be;
// turns are tried with package proof. Fasteners leave before what they hold; a subassembly leaves as a whole before it
// is taken apart (M. Agrawala and others, "Designing Effective Step-By-Step Assembly Instructions", 2003), likes leave
// together.
//
// Distances are set from the last move to the first: each goes as far as it must to be clear of what it leaves, and of
// the ways of all that leaves later, with even gaps, and somewhat farther where it would cover, or be covered, as its
// step and those after it are seen (W. Li, M. Agrawala, B. Curless, D. Salesin, "Automated Generation of Interactive 3D
// Exploded View Diagrams", 2008). All sources from memory.
package removal
