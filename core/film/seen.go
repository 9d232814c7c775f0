package film

import "slices"

// Seen are the pieces of film time, µs, in order, outside of which a node is not there at all: its opacity is 0.
func (f *Film) Seen(node int) (list [][2]float64) {
	var tracks []int
	stops := []float64{0, float64(f.Duration())}
	for i := node; i >= 0; i = f.Assembly.Nodes[i].Parent {
		for _, c := range f.opacity.changes[i] {
			tracks = append(tracks, c.track)
			stops = f.looks(f.looks(stops, &f.tracks[c.track], 0), &f.tracks[c.track], 1)
		}
	}
	slices.Sort(stops)
	stops = slices.Compact(stops)
	progress := make([]float64, len(f.tracks))
	for i := 1; i < len(stops); i++ {
		from, to := stops[i-1], stops[i]
		changes := false
		for _, k := range tracks {
			progress[k] = f.tracks[k].progress((from + to) / 2)
			changes = changes || f.tracks[k].runs((from+to)/2)
		}
		if !changes && f.opacityWith(node, progress) == 0 {
			continue
		}
		if n := len(list); n > 0 && list[n-1][1] == from {
			list[n-1][1] = to
		} else {
			list = append(list, [2]float64{from, to})
		}
	}
	return list
}

// opacityWith is the opacity of a node for a progress of each track.
func (f *Film) opacityWith(node int, progress []float64) float64 {
	above := f.opacity.usual
	if p := f.Assembly.Nodes[node].Parent; p >= 0 {
		above = f.opacityWith(p, progress)
	}
	return f.opacity.under(above, f.opacity.own(node, f.opacity.usual, progress))
}

// runs reports whether a track is on its way at film time t, µs, forwards or backwards.
func (b *track) runs(t float64) bool {
	in := func(t float64) bool { return b.start < t && t < b.start+b.duration }
	return in(t) || b.back != nil && t > b.back.at && in(b.back.forward-(t-b.back.at)*b.back.speed)
}
