package sheet

import (
	"slowreveal/core/item"
	"slowreveal/core/reveal"
	"slowreveal/paper"
	"slowreveal/render"
)

// enough is how many pixels of a small picture have to show an item for it to be seen.
const enough = 4

// mostMoments is how many moments are chosen, leastGain how many items a further one has to show that no other does.
const (
	mostMoments = 4
	leastGain   = 2
)

// Fullest returns the moments, at the ends of steps or at the opening, that together show most of the items, the one
// that shows most first (the greedy way to cover a set); of equal ones that in which more of each is seen.
func Fullest(s *paper.Subject, items []item.Item) (chosen []reveal.Micros, err error) {
	seen, moments, err := seenAt(s, items)
	if err != nil {
		return nil, err
	}
	covered := make([]bool, len(items))
	for len(chosen) < mostMoments {
		best, most, mostPixels := -1, 0, 0
		for k := range moments {
			gain, pixels := 0, 0
			for i, n := range seen[k] {
				if n >= enough && !covered[i] {
					gain++
					pixels += min(n, 40)
				}
			}
			if gain > most || gain == most && pixels > mostPixels {
				best, most, mostPixels = k, gain, pixels
			}
		}
		if best < 0 || len(chosen) > 0 && most < leastGain {
			break
		}
		for i, n := range seen[best] {
			covered[i] = covered[i] || n >= enough
		}
		chosen = append(chosen, moments[best])
	}
	if len(chosen) == 0 {
		chosen = moments[len(moments)-1:]
	}
	return chosen, nil
}

// seenAt counts the pixels of each item at each of the moments.
func seenAt(s *paper.Subject, items []item.Item) (seen [][]int, moments []reveal.Micros, err error) {
	scene, err := s.Scene()
	if err != nil {
		return nil, nil, err
	}
	eyes, err := render.NewEyes(scene.Opaque(), s.Film.Reveal.Frame.Aspect())
	if err != nil {
		return nil, nil, err
	}
	itemOf := map[int32]int{}
	for i := range items {
		for _, n := range items[i].Nodes {
			itemOf[int32(n)] = i
		}
	}
	fr := s.Film.NewFrame()
	look := func(t reveal.Micros) {
		s.Film.At(t, fr)
		solid := make([]bool, len(fr.Opacity))
		for i, o := range fr.Opacity {
			solid[i] = o >= 0.999
		}
		counts := make([]int, len(items))
		for _, n := range eyes.Nodes(fr, solid, true) {
			if i, ok := itemOf[n]; ok {
				counts[i]++
			}
		}
		seen, moments = append(seen, counts), append(moments, t)
	}
	look(0)
	for i := range s.Film.Schedule.Steps {
		look(s.Film.Schedule.Steps[i].Start + s.Film.Schedule.Steps[i].Duration)
	}
	return seen, moments, nil
}
