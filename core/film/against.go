package film

import (
	"math"
	"slices"

	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// Against is how one node moves against another through a film. It is not safe for use by several goroutines.
type Against struct {
	film          *Film
	nodes         []int32 // those from the root to both, parents first
	parents       []int   // where each of them has its parent in nodes, −1 for the root
	above         int     // the lowest node that holds both
	still, moving int     // where the two are in nodes
	acts          []act   // what cues do to nodes, node by node
	relative      []int   // those acts that move one of the two against the other
	own           int     // how many of those are between the two: the others carry both, under a way in the whole's axes
	now, then     []float64
	world         []space.Rigid
	driven        *drivenPair // nil where no mechanism has a say
}

// act is a motion of a node.
type act struct {
	at     int // where in nodes
	motion int32
}

// Against returns how the node moving moves against the node still, nil where it never does: where only what holds
// both is moved, or both are by the same cue in the same axes.
func (f *Film) Against(still, moving int) *Against {
	above := map[int32]bool{}
	for i := still; i >= 0; i = f.Assembly.Nodes[i].Parent {
		above[int32(i)] = true
	}
	shared := map[int32]bool{}
	for i := moving; i >= 0; i = f.Assembly.Nodes[i].Parent {
		shared[int32(i)] = above[int32(i)]
		above[int32(i)] = true
	}
	g := &Against{film: f}
	for i := range above {
		g.nodes = append(g.nodes, i)
	}
	slices.Sort(g.nodes)
	var tops []int // the highest nodes that hold only one of the two
	for at, node := range g.nodes {
		parent := slices.Index(g.nodes, int32(f.Assembly.Nodes[node].Parent))
		g.parents = append(g.parents, parent)
		if !shared[node] && parent >= 0 && shared[g.nodes[parent]] {
			tops = append(tops, at)
		}
		for _, m := range f.moves[node] {
			g.acts = append(g.acts, act{at, m})
		}
	}
	for at, node := range g.nodes {
		if shared[node] {
			g.above = at
		}
	}
	g.still, g.moving = slices.Index(g.nodes, int32(still)), slices.Index(g.nodes, int32(moving))
	together := 0
	if len(tops) == 2 {
		together = sharedEnd(g.outer(tops[0]), g.outer(tops[1]))
	}
	for i, a := range g.acts {
		if shared[g.nodes[a.at]] {
			continue
		}
		if outer := g.outer(a.at); slices.Contains(tops, a.at) &&
			slices.Contains(outer[len(outer)-together:], a.motion) {
			continue
		}
		g.relative = append(g.relative, i)
	}
	g.driven = f.drivenPair(still, moving, shared, g.nodes)
	if len(g.relative) == 0 && (g.driven == nil || !g.driven.moves) {
		return nil
	}
	g.carry(shared)
	g.now = make([]float64, len(g.acts))
	g.then = make([]float64, len(g.acts))
	g.world = make([]space.Rigid, len(g.nodes))
	return g
}

// carry adds what moves the parents of both to what moves one against the other, where a movement is in the axes of the
// whole: these turn in the parents'.
func (g *Against) carry(shared map[int32]bool) {
	whole := false
	g.own = len(g.relative)
	for _, i := range g.relative {
		whole = whole || g.film.motions[g.acts[i].motion].axes == reveal.AssemblyAxes
	}
	if !whole {
		return
	}
	for i, a := range g.acts {
		if node := g.nodes[a.at]; node > 0 && shared[node] {
			g.relative = append(g.relative, i)
		}
	}
}

// Above is the lowest node that holds both, or is one of them.
func (g *Against) Above() int { return int(g.nodes[g.above]) }

// ofStill reports whether a node holds the still one alone, or is it.
func (g *Against) ofStill(at int) bool {
	for i := g.still; i >= 0 && i != g.above; i = g.parents[i] {
		if i == at {
			return true
		}
	}
	return false
}

// outer are the motions of a node that are not in its own axes: each of them acts on what those before have done.
func (g *Against) outer(at int) (list []int32) {
	for _, m := range g.film.moves[g.nodes[at]] {
		if g.film.motions[m].axes != reveal.OwnAxes {
			list = append(list, m)
		}
	}
	return list
}

// sharedEnd is how many motions two lists of the same parent's children end with that are the same: what is behind them
// in both moves as one.
func sharedEnd(a, b []int32) (n int) {
	for n < len(a) && n < len(b) && a[len(a)-1-n] == b[len(b)-1-n] {
		n++
	}
	return n
}

// At returns the place of the moving node at film time t, µs: what takes its frame to that of the still one.
func (g *Against) At(t float64) space.Rigid {
	g.progress(t, g.now)
	if g.driven != nil {
		g.bring(t, g.driven.from)
	}
	return g.place(g.now)
}

func (g *Against) progress(t float64, into []float64) {
	t = max(0, min(t, float64(g.film.Duration())))
	for i, a := range g.acts {
		into[i] = g.track(a).progress(t)
	}
}

func (g *Against) track(a act) *track { return &g.film.tracks[g.film.motions[a.motion].track] }

// place is At for a progress of each act; what is driven is as it was brought for the beginning.
func (g *Against) place(progress []float64) space.Rigid {
	if g.driven == nil {
		return g.placeWith(progress, nil)
	}
	return g.placeWith(progress, g.driven.from)
}

func (g *Against) placeWith(progress []float64, driven *running) space.Rigid {
	k := 0
	var s motionState
	for at, node := range g.nodes {
		local := g.film.seat(int(node), driven)
		for ; k < len(g.acts) && g.acts[k].at == at; k++ {
			m := &g.film.motions[g.acts[k].motion]
			if m.at(progress[k], &s); s.moves {
				s.apply(m.axes, &local, g.world, g.parents[at])
			}
		}
		if p := g.parents[at]; p >= 0 {
			local = g.world[p].Mul(&local)
		}
		g.world[at] = local
	}
	inverse := g.world[g.still].Inverse()
	return inverse.Mul(&g.world[g.moving])
}

// Turns are the film times, µs, in order, between each two of which every cue that moves one node against the other
// does so without turning back, only faster or only slower, and along one leg or bend. Before the first and behind the
// last nothing moves.
func (g *Against) Turns() []float64 {
	var list []float64
	for _, i := range g.relative {
		m := &g.film.motions[g.acts[i].motion]
		b := &g.film.tracks[m.track]
		for _, x := range b.curve.turns(m.route) {
			list = g.film.looks(list, b, x)
		}
	}
	if g.driven != nil && g.driven.moves {
		list = append(list, g.film.drivenTurns()...)
	}
	slices.Sort(list)
	return slices.Compact(list)
}

// turns are the shares of the time, in order, at which a curve turns back, changes from growing faster to growing
// slower, or leads round a corner of a route.
func (c *curve) turns(w *route) []float64 {
	list := []float64{0, 1}
	if !c.linear {
		// Where y' = 0, and where x' y'' = y' x'': a cubic's curvature changes sign at no more than two places.
		back := roots(3*c.ay, 2*c.by, c.cy)
		bend := roots(3*(c.bx*c.ay-c.ax*c.by), 3*(c.cx*c.ay-c.cy*c.ax), c.cx*c.by-c.cy*c.bx)
		for _, s := range slices.Concat(back, bend) {
			if s > 0 && s < 1 {
				list = append(list, ((c.ax*s+c.bx)*s+c.cx)*s)
			}
		}
	}
	slices.Sort(list)
	if w == nil {
		return list
	}
	var stops []float64
	stops = append(stops, w.times[1:len(w.times)-1]...)
	for i := range w.bends {
		stops = append(stops, w.bends[i].from, w.bends[i].to)
	}
	monotone := slices.Clone(list)
	for i := 1; i < len(monotone); i++ {
		for _, u := range stops {
			low, high := monotone[i-1], monotone[i]
			rising := c.at(low) < u
			if rising == (c.at(high) < u) {
				continue
			}
			for range 60 {
				if middle := (low + high) / 2; (c.at(middle) < u) == rising {
					low = middle
				} else {
					high = middle
				}
			}
			list = append(list, high)
		}
	}
	slices.Sort(list)
	return list
}

// roots are those of a x² + b x + c.
func roots(a, b, c float64) []float64 {
	if math.Abs(a) < 1e-12 {
		if b == 0 {
			return nil
		}
		return []float64{-c / b}
	}
	d := b*b - 4*a*c
	if d < 0 {
		return nil
	}
	q := -(b + math.Copysign(math.Sqrt(d), b)) / 2
	if q == 0 {
		return []float64{0}
	}
	return []float64{q / a, c / q}
}

// Cues are those that move one node against the other between two film times, µs.
func (g *Against) Cues(from, to float64) (list []reveal.CueID) {
	for _, i := range g.relative {
		if forward, back := g.track(g.acts[i]).variation(from, to); forward+back > 0 {
			for cue, r := range g.film.ran {
				if b := g.film.motions[g.acts[i].motion].track; b >= r.first && b < r.first+r.count &&
					!slices.Contains(list, cue) {
					list = append(list, cue)
				}
			}
		}
	}
	list = g.cuesDriving(from, to, list)
	slices.Sort(list)
	return list
}

// variation is how much the progress changes between two times between which it does not turn back: forwards, and by
// what runs it backwards.
func (b *track) variation(from, to float64) (forward, back float64) {
	forward = math.Abs(b.curve.at((to-b.start)/b.duration) - b.curve.at((from-b.start)/b.duration))
	if b.back != nil && to > b.back.at {
		shown := func(t float64) float64 {
			return b.curve.at((b.back.forward - (max(t, b.back.at)-b.back.at)*b.back.speed - b.start) / b.duration)
		}
		back = math.Abs(shown(to) - shown(from))
	}
	return forward, back
}

// uneven is how far the progress strays from the straight line between two times between which no turn lies, as a share
// of what it changes by. A convex function lies above its tangents at both ends, which meet where it would stray most:
// with slopes s and e at the ends and m between, by (m − s)(e − m)/(e − s) of the length.
func (b *track) uneven(from, to float64) float64 {
	at := func(t float64) float64 { return (t - b.start) / b.duration }
	x, y := at(from), at(to)
	if _, back := b.variation(from, to); back > 0 { // a retrace may have begun while it still runs forwards
		shown := func(t float64) float64 { return at(b.back.forward - (t-b.back.at)*b.back.speed) }
		x, y = shown(to), shown(from)
	}
	x, y = max(x, 0), min(y, 1)
	if b.curve.linear || y <= x {
		return 0
	}
	whole := b.curve.at(y) - b.curve.at(x)
	mean := whole / (y - x)
	s, e := b.curve.slope(x), b.curve.slope(y)
	if whole == 0 || math.IsInf(s, 0) || math.IsInf(e, 0) || s == e {
		return 1
	}
	share := (mean - s) * (e - mean) / (e - s) * (y - x) / whole
	return min(1, math.Abs(share))
}

// slope is how fast the progress grows at a share of the time.
func (c *curve) slope(x float64) float64 {
	s := c.solve(x)
	dx, dy := (3*c.ax*s+2*c.bx)*s+c.cx, (3*c.ay*s+2*c.by)*s+c.cy
	if math.Abs(dx) < 1e-9 {
		return math.Inf(1)
	}
	return dy / dx
}
