package film

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// Arc is a piece of a movement of one node against another: from where to where, and how far its points stray from
// the straight line between.
//
// Where one cue acts, a point goes along a helix, a straight line or a parabola, all of them functions of the cue's
// progress u. A function whose second derivative is nowhere more than M strays from its chord by at most M h²/8 over a
// length h (linear interpolation; Abramowitz and Stegun 25.2.3, from memory). For a turn by θ with radius r that is r
// θ²/8, and r is at most the chord's length over 2 sin(θ/2): neither axis nor pivot has to be known. For a parabola
// with the corners a, b, c over a share v of it, |a − 2b + c| v²/4.
//
// Where several act, each alone, the others standing as they do at the beginning, leads a point along an arc l of its
// chord times (θ/2)/sin(θ/2); meanwhile the others bring it farther from that cue's axis by no more than the whole way
// L: L ≤ Σ l + L Σ θ. Were all progresses straight lines over the time, the second derivatives of the point's place by
// two of them were at most θ l, of one's angle and the other's length, all of them together 2 L Σ θ: it strays by L Σ θ
// / 4. To that comes, of each, its length (l, and L θ by which the others lengthen it) times how far its progress
// strays from the straight line, as a share: between turns a progress is convex or concave, and lies between its chord
// and the tangents at its ends. Where a movement is in the axes of the whole under a parent that turns, what moves the
// parent acts at two places, on either side of it, and may cancel out at the beginning: its angle counts twice, and
// what it does at both places strays by up to θ² R / 2 more, R being how far from its axis anything can be.
type Arc struct {
	// From and To take the moving node's frame to the still one's, at the beginning and at the end.
	From, To space.Rigid
	// Angle is how far the cues turn together, rad; twice that where one is in the axes of the whole under a parent
	// that turns.
	Angle float64
	// Both says that the still node turns against what holds both while the other one moves, too: then the arc tells
	// little, and each is better followed against what holds both (Against.Above).
	Both bool
	// Helix is what a single cue that turns does, nil where there is none.
	Helix *Helix

	single  bool
	carries float64 // mm, where what moves the parent acts at two places
	round   float64 // how far a point strays, as a share of its chord, where a single cue turns
	bend    float64 // mm
	alone   []leg   // where several act
}

// Helix is a turn about an axis, in the still node's frame, with an advance along it.
type Helix struct {
	Pivot, Axis space.Vec // Axis of unit length
	Advance     float64   // mm
}

// leg is what one cue does alone.
type leg struct {
	to     space.Rigid
	factor float64 // arc over chord
	more   float64 // mm, of a route
	uneven float64 // how far the progress strays from a straight line over the time, as a share of it
	angle  float64 // how far it turns, rad
}

// Wide is the angle, rad, beyond which an arc says nothing of how far its points stray: it is to be divided.
const Wide = 0.7

// Arc returns the movement between two film times, µs, between which no turn lies (Turns).
func (g *Against) Arc(from, to float64) Arc {
	g.progress(from, g.now)
	g.progress(to, g.then)
	var driven *running
	if g.driven != nil {
		chain := g.film.chainAt((from + to) / 2) // the ends belong to it, too
		g.bringIn(chain, from, g.driven.from)
		g.bringIn(chain, to, g.driven.to)
		driven = g.driven.to
	}
	a := Arc{From: g.place(g.now), To: g.placeWith(g.then, driven)}
	acting, twice, turning, first := 0, false, -1, -1
	carried := false // what is in the axes of the whole acts under a parent that moves meanwhile
	asOne := true    // straight ways that begin, end and ease together make one straight way
	var stillTurns, movingActs bool
	for k, i := range g.relative {
		forward, back := g.track(g.acts[i]).variation(from, to)
		if forward+back == 0 {
			continue
		}
		acting++
		carried = carried || k >= g.own
		if first < 0 {
			first = i
		}
		twice = twice || forward > 0 && back > 0
		m := &g.film.motions[g.acts[i].motion]
		asOne = asOne && m.degrees == 0 && m.route == nil && g.track(g.acts[i]).same(g.track(g.acts[first]))
		a.Angle += math.Abs(m.degrees) * (forward + back) * math.Pi / 180
		a.bend = m.bend(g.now[i], g.then[i])
		if m.degrees != 0 {
			turning = i
		}
		if g.ofStill(g.acts[i].at) {
			stillTurns = stillTurns || m.degrees != 0
		} else {
			movingActs = true
		}
	}
	if g.driven != nil && g.driven.moves {
		coordinates := g.driveArc(&a, from, to)
		if acting+coordinates == 1 && coordinates == 1 && !carried {
			a.single = true
			a.round = a.Angle * a.Angle / (16 * math.Sin(max(a.Angle, 1e-12)/2))
			return a
		}
		if coordinates > 0 {
			acting, asOne = acting+coordinates+1, false
		}
	}
	a.Both = stillTurns && movingActs && g.driven == nil
	if carried {
		a.Angle *= 2
		a.carries = g.carries(from, to)
	}
	if a.single = (acting <= 1 || asOne) && !twice && !carried; a.single && turning >= 0 {
		a.Helix = g.helix(&a, turning)
		a.round = a.Angle * a.Angle / (16 * math.Sin(a.Angle/2))
	}
	if a.single || a.Angle > Wide {
		return a
	}
	for _, i := range g.relative {
		forward, back := g.track(g.acts[i]).variation(from, to)
		if forward+back == 0 {
			continue
		}
		m := &g.film.motions[g.acts[i].motion]
		uneven := g.track(g.acts[i]).uneven(from, to)
		if forward > 0 && back > 0 || m.route != nil { // along its way there is more than the chord tells
			a.alone = append(a.alone, g.around(&a, i, forward+back, carried))
			continue
		}
		was := g.now[i]
		g.now[i] = g.then[i]
		half := math.Abs(m.degrees) * (forward + back) * math.Pi / 360
		l := leg{to: g.place(g.now), factor: 1, uneven: uneven, angle: 2 * half}
		if half > 0 {
			l.factor = half / math.Sin(half)
		}
		if carried {
			l.angle *= 2
		}
		a.alone = append(a.alone, l)
		g.now[i] = was
	}
	return a
}

// carries is how much farther points stray because what moves the parents of both acts at two places, mm.
func (g *Against) carries(from, to float64) (sum float64) {
	bounds := g.film.Assembly.Bounds()
	reach := r3.Norm(bounds.Centre()) + 2*r3.Norm(bounds.Size())
	for _, i := range g.relative {
		m := &g.film.motions[g.acts[i].motion]
		forward, back := g.track(g.acts[i]).variation(from, to)
		angle := math.Abs(m.degrees) * (forward + back) * math.Pi / 180
		sum += angle * angle * (r3.Norm(m.pivot) + reach) / 2
	}
	return sum
}

// around is what a cue does that runs forwards and backwards at once, or along a route: where it leads tells little of
// how far it goes. Of a turn, a radian more than at the beginning tells how far from its axis points are.
func (g *Against) around(a *Arc, act int, variation float64, carried bool) leg {
	m := &g.film.motions[g.acts[act].motion]
	l := leg{
		to:     a.From,
		more:   m.longest() * variation,
		uneven: 1,
		angle:  math.Abs(m.degrees) * variation * math.Pi / 180,
	}
	if m.degrees != 0 {
		was := g.now[act]
		g.now[act] += 180 / math.Pi / math.Abs(m.degrees)
		l.to = g.place(g.now)
		g.now[act] = was
		l.factor = math.Abs(m.degrees) * variation * math.Pi / 180 / (2 * math.Sin(0.5))
	}
	if carried {
		l.angle *= 2
	}
	return l
}

// helix finds the axis of a single turn from a part of it that is less than half a revolution.
func (g *Against) helix(a *Arc, act int) *Helix {
	share := min(1, 1/a.Angle)
	was := g.now[act]
	g.now[act] = was + share*(g.then[act]-was)
	on := g.place(g.now)
	g.now[act] = was
	back := a.From.Inverse()
	m := on.Mul(&back)
	d, ok := space.Normalize(m.R.Twist())
	if !ok {
		return nil
	}
	pivot, along := m.Screw(d, share*a.Angle)
	return &Helix{Pivot: pivot, Axis: d, Advance: along / share}
}

// bend is how far a route's bend strays from its chord between two progresses of one piece of it, mm.
func (m *motion) bend(from, to float64) float64 {
	if m.route == nil {
		return 0
	}
	for i := range m.route.bends {
		if b := &m.route.bends[i]; (from+to)/2 > b.from && (from+to)/2 < b.to {
			v := (to - from) / (b.to - b.from)
			return r3.Norm(r3.Add(r3.Sub(b.enter, r3.Scale(2, b.corner)), b.out)) * v * v / 4
		}
	}
	return 0
}

// longest is the length of the way for a progress of 1 where it is longest, mm.
func (m *motion) longest() float64 {
	if m.route == nil {
		return r3.Norm(m.way)
	}
	most := 0.0
	for i := 1; i < len(m.route.corners); i++ {
		most = max(
			most,
			r3.Norm(r3.Sub(m.route.corners[i], m.route.corners[i-1]))/(m.route.times[i]-m.route.times[i-1]),
		)
	}
	return most
}

// Strays is how far a point of the moving node, in its own frame, may stray from the straight line between where it is
// at the arc's beginning and at its end, mm: at any moment there is one share of the way such that no point is farther
// than this from its place at that share of its line. Infinite where the arc is too wide. Of a box or a triangle, a
// corner strays most.
func (a *Arc) Strays(p space.Vec) float64 {
	if a.Angle > Wide {
		return math.Inf(1)
	}
	if a.single && a.Angle == 0 {
		return a.bend
	}
	from := a.From.Apply(p)
	if a.single {
		chord := between(a.To.Apply(p), from)
		return chord*a.round + a.bend
	}
	way, uneven, turned := 0.0, 0.0, 0.0
	for i := range a.alone {
		l := &a.alone[i]
		length := l.factor*between(l.to.Apply(p), from) + l.more
		way += length
		uneven += length * l.uneven
		turned += l.angle * l.uneven
	}
	all := way / (1 - a.Angle) // L, above
	return all*(a.Angle/4+turned) + uneven + a.carries
}

// between is the distance between two points.
func between(p, q space.Vec) float64 {
	x, y, z := p.X-q.X, p.Y-q.Y, p.Z-q.Z
	return math.Sqrt(x*x + y*y + z*z)
}
