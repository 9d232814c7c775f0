package arrange

import (
	"cmp"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/contact"
	"slowreveal/core/space"
)

func finish(name string, r, g, b float64, opacity, metalness, roughness float64) assembly.Finish {
	return assembly.Finish{
		Name:      name,
		Colour:    space.Vec3{assembly.Linear(r / 255), assembly.Linear(g / 255), assembly.Linear(b / 255)},
		Opacity:   opacity,
		Metalness: metalness,
		Roughness: roughness,
	}
}

// Library are the finishes on offer: name, sRGB colour, opacity, metalness,
// roughness. Chosen by eye for the stage's light.
var Library = []assembly.Finish{
	finish("Bare steel", 158, 162, 166, 1, 0.9, 0.42),
	finish("Bright steel", 196, 199, 203, 1, 1, 0.16),
	finish("Satin aluminium", 190, 192, 192, 1, 0.85, 0.5),
	finish("Black oxide", 52, 54, 57, 1, 0.7, 0.5),
	finish("Brass", 201, 164, 84, 1, 0.95, 0.3),
	finish("Copper", 196, 122, 86, 1, 0.95, 0.3),
	finish("Bronze", 158, 120, 76, 1, 0.9, 0.45),
	finish("Cast grey", 120, 122, 122, 1, 0.3, 0.75),
	finish("White plastic", 236, 234, 228, 1, 0, 0.5),
	finish("Grey plastic", 128, 133, 136, 1, 0, 0.55),
	finish("Black plastic", 44, 46, 48, 1, 0, 0.5),
	finish("Rubber", 34, 35, 36, 1, 0, 0.9),
	finish("Clear plastic", 205, 224, 226, 0.3, 0, 0.12),
	finish("Smoked plastic", 74, 80, 84, 0.5, 0, 0.15),
	finish("Glass", 220, 234, 232, 0.2, 0, 0.05),
	finish("Board green", 38, 96, 66, 1, 0, 0.55),
	finish("Signal orange", 214, 108, 44, 1, 0, 0.5),
	finish("Machine blue", 52, 92, 132, 1, 0, 0.5),
}

// Palette are the colours that tell neighbours apart.
var Palette = []assembly.Finish{
	finish("Apart 1", 196, 176, 128, 1, 0, 0.6), finish("Apart 2", 122, 150, 172, 1, 0, 0.6),
	finish("Apart 3", 150, 172, 130, 1, 0, 0.6), finish("Apart 4", 190, 140, 120, 1, 0, 0.6),
	finish("Apart 5", 160, 146, 178, 1, 0, 0.6), finish("Apart 6", 112, 160, 154, 1, 0, 0.6),
	finish("Apart 7", 206, 196, 176, 1, 0, 0.6), finish("Apart 8", 138, 138, 134, 1, 0, 0.6),
	finish("Apart 9", 178, 156, 96, 1, 0, 0.6), finish("Apart 10", 96, 116, 140, 1, 0, 0.6),
}

// Apart gives every part a number in Palette so that, as far as the palette
// goes, no two that touch have the same: greedily, those with the most
// neighbours first, and of the free colours the one used least.
func Apart(a *assembly.Assembly, contacts []contact.Contact) map[assembly.NodeID]int {
	near := map[assembly.NodeID][]assembly.NodeID{}
	for _, c := range contacts {
		near[c.A], near[c.B] = append(near[c.A], c.B), append(near[c.B], c.A)
	}
	var parts []assembly.NodeID
	for i := range a.Nodes {
		if a.Nodes[i].IsPart() {
			parts = append(parts, a.Nodes[i].ID)
		}
	}
	slices.SortStableFunc(parts, func(x, y assembly.NodeID) int { return cmp.Compare(len(near[y]), len(near[x])) })
	colours := make(map[assembly.NodeID]int, len(parts))
	used := make([]int, len(Palette))
	for _, p := range parts {
		taken := make([]int, len(Palette))
		for _, o := range near[p] {
			if c, ok := colours[o]; ok {
				taken[c]++
			}
		}
		best := 0
		for c := range Palette {
			if cmp.Or(cmp.Compare(taken[c], taken[best]), cmp.Compare(used[c], used[best])) < 0 {
				best = c
			}
		}
		colours[p] = best
		used[best]++
	}
	return colours
}
