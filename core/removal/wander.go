package removal

import (
	"cmp"
	"math"
	"math/rand/v2"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// Bounds on the search among many legs. A place costs as many sweeps as a unit has ways.
const (
	mostPlaces = 120 // where a unit may have come to
	mostAll    = 400 // of all units of a plan
	mostTwists = 14  // legs of a way
)

// place is where a unit has come to: how far from where it stands, and how far it goes from there in each of its ways.
type place struct {
	at     space.Vec
	from   int // the place that it came from, −1 for none
	legs   int
	far    []float64
	tried  [][2]float64 // by way: how often it was gone on that way, and how far at most
	leaves int          // the way out, −1 for none
}

// wandering finds a unit that can leave along many legs, where nothing simpler does: a tree that grows from where it
// stands towards random places, each branch as far as nothing is touched (rapidly-exploring random trees: S. LaValle,
// 1998, from memory), and as many places as the bounds allow. The same numbers are drawn each time.
func (s *search) wandering(node, stays int) *removal {
	var units []unit
	level := s.children[node]
	for len(level) > 0 {
		for _, n := range level {
			if u := s.unitOf(n); len(u.parts) > 0 && !s.keeps(&u, stays) && !s.held(&u) {
				units = append(units, u)
			}
		}
		level = s.deeper(level)
	}
	// What is small has room where others have none.
	slices.SortStableFunc(units, func(a, b unit) int { return cmp.Compare(s.extent(&a), s.extent(&b)) })
	for i := range units {
		if s.ended() || s.wandered >= mostAll {
			return nil
		}
		if s.hopeless(byWandering, &units[i]) {
			continue
		}
		s.begins()
		ways := s.waysFor(&units[i])
		places := s.wander(&units[i], ways)
		if last := len(places) - 1; places[last].leaves < 0 {
			if r := s.midway(&units[i], ways, places); r != nil {
				return r
			}
			s.fails(byWandering, &units[i])
			continue
		}
		legs := s.wayOut(&units[i], ways, places)
		return &removal{
			carried: -1,
			hits:    -1,
			units:   units[i : i+1],
			ways:    []route{{legs}},
			others:  s.others(&units[i], -1),
			why:     []string{"No short way leads out; it is led around what is in its way."},
		}
	}
	return nil
}

// extent is how large a unit is, mm.
func (s *search) extent(u *unit) float64 {
	all := space.EmptyBox
	for _, p := range u.parts {
		all = all.Union(s.box[p])
	}
	return r3.Norm(all.Size())
}

// wander grows the tree of one unit. Where a way out was found, it is from the last of the places.
func (s *search) wander(u *unit, ways []int) []place {
	draw := rand.New(rand.NewPCG(uint64(u.node), 20))
	places := []place{s.arrive(u, ways, space.Vec{}, -1, 0)}
	reach := 0.6 * s.size
	for len(places) < mostPlaces && s.wandered < mostAll && !s.ended() {
		towards := space.Vec{
			X: reach * (2*draw.Float64() - 1), Y: reach * (2*draw.Float64() - 1), Z: reach * (2*draw.Float64() - 1),
		}
		k, way, far := grow(places, s.directions(ways), towards, draw)
		if k < 0 {
			break // it has been everywhere that it can go
		}
		from := &places[k]
		next := s.arrive(u, ways, r3.Add(from.at, r3.Scale(far, s.way(ways[way]))), k, from.legs+1)
		places = append(places, next)
		if next.leaves >= 0 {
			break
		}
	}
	return places
}

func (s *search) directions(ways []int) (list []space.Vec) {
	for _, w := range ways {
		list = append(list, s.way(w))
	}
	return list
}

// arrive looks around from a place.
func (s *search) arrive(u *unit, ways []int, at space.Vec, from, legs int) place {
	s.wandered++
	p := place{at: at, from: from, legs: legs, tried: make([][2]float64, len(ways)), leaves: -1}
	by := shifted(at)
	p.far = each(ways, func(way int) float64 { return s.farFrom(u, &by, s.way(way)) })
	for k, far := range p.far {
		if math.IsInf(far, 1) && legs > 0 && p.leaves < 0 {
			p.leaves = k
		}
	}
	return p
}

// grow chooses the place from which the tree grows, along which of its ways and how far: from the place nearest to where
// it is to go, the way that leads there best; to where that is nearest, or, every other time, until something is touched.
func grow(places []place, ways []space.Vec, towards space.Vec, draw *rand.Rand) (k, way int, far float64) {
	order := make([]int, len(places))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int {
		return cmp.Compare(r3.Norm(r3.Sub(towards, places[a].at)), r3.Norm(r3.Sub(towards, places[b].at)))
	})
	for _, k := range order {
		p := &places[k]
		if p.legs == mostTwists {
			continue
		}
		best, most := -1, math.Inf(-1)
		for i, d := range ways {
			score := r3.Dot(d, r3.Unit(r3.Sub(towards, p.at))) - p.tried[i][0]
			if room := p.far[i] - spare; room >= shortestLeg && p.tried[i][0] < 3 && score > most {
				best, most = i, score
			}
		}
		if best < 0 {
			continue
		}
		room := p.far[best] - spare
		far = room
		if along := r3.Dot(ways[best], r3.Sub(towards, p.at)); along > shortestLeg && along < room &&
			draw.IntN(2) == 0 {
			far = along
		}
		if math.Abs(far-p.tried[best][1]) < shortestLeg { // it has been there
			p.tried[best][0]++
			far = max(shortestLeg, far*draw.Float64())
		}
		p.tried[best][0]++
		p.tried[best][1] = max(p.tried[best][1], far)
		return k, best, far
	}
	return -1, 0, 0
}

// wayOut is how the unit came to the last place, and its way out from there.
func (s *search) wayOut(u *unit, ways []int, places []place) []leg {
	out := ways[places[len(places)-1].leaves]
	need := s.out(u, out)
	return append(s.stops(u, places), leg{along: s.way(out), need: need, far: need})
}

// stops is how a unit came to the last of some places, straightened where it can be.
func (s *search) stops(u *unit, places []place) (legs []leg) {
	last := len(places) - 1
	var stops []space.Vec
	for k := last; k >= 0; k = places[k].from {
		stops = append(stops, places[k].at)
	}
	slices.Reverse(stops)
	for i := 0; i+2 < len(stops); {
		if s.straight(u, stops[i], stops[i+2]) {
			stops = slices.Delete(stops, i+1, i+2)
			i = max(0, i-1)
		} else {
			i++
		}
	}
	for i := 1; i < len(stops); i++ {
		way := r3.Sub(stops[i], stops[i-1])
		length := r3.Norm(way)
		legs = append(legs, leg{along: r3.Scale(1/length, way), need: length, far: length})
	}
	return legs
}

// straight reports whether a unit goes straight from one place to another.
func (s *search) straight(u *unit, from, to space.Vec) bool {
	way := r3.Sub(to, from)
	length := r3.Norm(way)
	by := shifted(from)
	return length > shortestLeg && s.farFrom(u, &by, r3.Scale(1/length, way)) > length+spare
}
