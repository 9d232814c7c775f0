package demo

import (
	"context"
	"fmt"
	"math"
	"strconv"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/formats"
)

// Stress builds an assembly for measurements: parts rollers on a square grid,
// in groups of ten, each of its own size and with about the given number of
// triangles.
func Stress(parts, triangles int) *product.Model {
	m := maker{
		build:  formats.NewBuilder(context.Background(), formats.Options{Name: "Stress"}, "computed"),
		worn:   map[string]int{},
		shapes: map[string]*solid.Shape{},
	}
	root := m.group(-1, "Stress", space.Identity)
	side := int(math.Ceil(math.Sqrt(float64(parts))))
	wears := []string{"steel", "rotor", "head", "brass", "panel", "aluminium"}
	segments := max(3, triangles/12)
	group := root
	for k := range parts {
		if k%10 == 0 {
			group = m.group(root, fmt.Sprintf("Row %d", k/10+1), space.Identity)
		}
		b := new(body).ring(2, 6+float64(k%7)*0.3, -8, 8, 0.8, segments)
		m.part(
			group,
			"Roller "+strconv.Itoa(k+1),
			b.shape(),
			at(float64(k%side)*16, float64(k%3)*9, float64(k/side)*20),
			wears[k%len(wears)],
		)
	}
	model, err := m.build.Model()
	if err != nil {
		panic("demo: " + err.Error())
	}
	return model
}

// StressReveal moves every part of a stress assembly all the time while the
// camera circles, with at least the given number of cues.
func StressReveal(a *assembly.Assembly, cues int) *reveal.Reveal {
	d := &director{a: a, index: a.Index(), boxes: a.BoundsOf(), poses: a.Worlds()}
	d.r = reveal.New("Stress", d.look(30, 35, 0.05, space.Vec{}, assembly.Root))
	d.step("Everything moves", 10, "")
	var parts []assembly.NodeID
	for i := range a.Nodes {
		if a.Nodes[i].IsPart() {
			parts = append(parts, a.Nodes[i].ID)
		}
	}
	each := max(1, len(parts)/max(1, cues-1))
	for i := 0; i < len(parts); i += each {
		to := parts[i:min(i+each, len(parts))]
		if (i/each)%2 == 0 {
			d.pull(0, 10, reveal.ParentAxes, 0, 1, 0.3, 30, to...)
		} else {
			d.add(0, 10, reveal.Cue{Kind: reveal.KindTurn, Targets: to, Turn: &reveal.Turn{Axes: reveal.OwnAxes, About: space.Vec3{1, 1, 0}, Degrees: 720}})
		}
	}
	d.shot(0, 10, "Around", d.look(150, 30, 0.05, space.Vec{}, assembly.Root))
	return d.r
}

// LongReveal is a reveal with so many cues in steps of 50, one after the other.
func LongReveal(a *assembly.Assembly, cues int) *reveal.Reveal {
	d := &director{a: a, index: a.Index(), boxes: a.BoundsOf(), poses: a.Worlds()}
	d.r = reveal.New("Long", d.look(30, 35, 0.05, space.Vec{}, assembly.Root))
	var parts []assembly.NodeID
	for i := range a.Nodes {
		if a.Nodes[i].IsPart() {
			parts = append(parts, a.Nodes[i].ID)
		}
	}
	for k := range cues {
		if k%50 == 0 {
			d.step("Row "+strconv.Itoa(k/50+1), 10, "")
		}
		part, at := parts[k%len(parts)], float64(k%50)*0.16
		switch k % 4 {
		case 0:
			d.pull(at, 1.5, reveal.OwnAxes, 0, 1, 0.3, 12, part)
		case 1:
			d.fade(at, 1, 0.4, part)
		case 2:
			d.unscrew(at, 1.5, 6, 0.5, 0, part)
		default:
			d.pull(at, 1.2, reveal.ParentAxes, 1, 0, 0, -8, part)
		}
	}
	return d.r
}
