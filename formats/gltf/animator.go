package gltf

import (
	"fmt"

	"github.com/qmuntal/gltf"
	"github.com/qmuntal/gltf/modeler"

	"slowreveal/core/reveal"
)

// animator writes keys as channels.
type animator struct {
	writer *writer
	out    *gltf.Animation
	keys   *keys
	inputs map[string]int // accessors of times
	known  map[string]int // samplers by all that is in them
}

// picked returns the keys at which a value is needed: where it does not stay what it is
// before and after. same compares two keys.
func (a *animator) picked(same func(i, j int) bool) []int {
	n := len(a.keys.times)
	list := []int{0}
	for i := 1; i < n; i++ {
		if i == n-1 || !same(i-1, i) || !same(i, i+1) {
			list = append(list, i)
		}
	}
	for i := range list {
		if !same(list[0], list[i]) {
			return list
		}
	}
	return nil // it never changes
}

// thinned leaves out keys between which a straight way is near enough to those that are left out. near says so of key k
// on the way from i to j, of which u is behind it.
func (a *animator) thinned(list []int, near func(i, j, k int, u float64) bool) []int {
	if len(list) < 3 {
		return list
	}
	fits := func(from, to int) bool {
		i, j := list[from], list[to]
		long := float64(a.keys.times[j] - a.keys.times[i])
		for k := i + 1; k < j; k++ {
			if !near(i, j, k, float64(a.keys.times[k]-a.keys.times[i])/long) {
				return false
			}
		}
		return true
	}
	out := list[:1:1]
	for from := 0; from < len(list)-1; {
		// As far as it fits, in leaps that become longer, and then shorter again.
		to, leap := from+1, 1
		for to+leap < len(list) && fits(from, to+leap) {
			to, leap = to+leap, 2*leap
		}
		for leap /= 2; leap > 0; leap /= 2 {
			if to+leap < len(list) && fits(from, to+leap) {
				to += leap
			}
		}
		out = append(out, list[to])
		from = to
	}
	return out
}

// sampler writes keys of some numbers each and returns the sampler's index. What moves alike has one.
func (a *animator) sampler(list []int, interpolation gltf.Interpolation, data any) int {
	times := make([]float32, len(list))
	for i, k := range list {
		times[i] = float32(float64(a.keys.times[k]) / float64(reveal.Second))
	}
	key := fmt.Sprint(list)
	if a.inputs == nil {
		a.inputs, a.known = map[string]int{}, map[string]int{}
	}
	all := fmt.Sprint(key, interpolation, data)
	if i, ok := a.known[all]; ok {
		return i
	}
	a.known[all] = len(a.out.Samplers)
	in, ok := a.inputs[key]
	if !ok {
		in = modeler.WriteAccessor(a.writer.doc, gltf.TargetNone, times)
		accessor := a.writer.doc.Accessors[in]
		accessor.Min, accessor.Max = []float64{float64(times[0])}, []float64{float64(times[len(times)-1])}
		a.inputs[key] = in
	}
	out := modeler.WriteAccessor(a.writer.doc, gltf.TargetNone, data)
	a.out.Samplers = append(
		a.out.Samplers,
		&gltf.AnimationSampler{Input: in, Output: out, Interpolation: interpolation},
	)
	return len(a.out.Samplers) - 1
}

func (a *animator) channel(node int, path gltf.TRSProperty, sampler int) {
	a.out.Channels = append(
		a.out.Channels,
		&gltf.AnimationChannel{Sampler: sampler, Target: gltf.AnimationChannelTarget{Node: &node, Path: path}},
	)
}
