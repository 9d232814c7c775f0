package film

import (
	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
)

// Opening returns the moment t as an opening: camera, poses, opacities, tints and
// ways of being drawn. What is left out stays so.
func (f *Film) Opening(t reveal.Micros) reveal.Opening {
	fr := f.NewFrame()
	f.At(t, fr)
	o := reveal.Opening{Camera: fr.Camera, Suppressed: f.Reveal.Opening.Suppressed}
	out := map[assembly.NodeID]bool{}
	for _, id := range o.Suppressed {
		out[id] = true
	}
	for i := range f.Assembly.Nodes {
		n := &f.Assembly.Nodes[i]
		local := fr.World[i]
		tinted, drawn := Tint{}, UsualSurface
		if n.Parent >= 0 {
			inverse := fr.World[n.Parent].Inverse()
			local = inverse.Mul(&fr.World[i])
			tinted, drawn = fr.Tint[n.Parent], fr.Surface[n.Parent]
		}
		if f.displaced(i, fr) {
			o.Poses = append(o.Poses, reveal.NodePose{Node: n.ID, Pose: assembly.PoseOf(local)})
		}
		if own := f.opacity.own(i, 1, fr.progress); own != 1 && !out[n.ID] {
			o.Opacities = append(o.Opacities, reveal.NodeOpacity{Node: n.ID, Opacity: own})
		}
		if fr.Tint[i] != tinted {
			o.Tints = append(
				o.Tints,
				reveal.NodeTint{Node: n.ID, Tint: reveal.Tint{Colour: fr.Tint[i].Colour, Amount: fr.Tint[i].Amount}},
			)
		}
		if fr.Surface[i] != drawn {
			if s := f.styleAt(i, fr); s != "" {
				o.Surfaces = append(o.Surfaces, reveal.NodeSurface{Node: n.ID, Style: s})
			}
		}
	}
	return o
}

// displaced reports whether a node stands elsewhere in its parent than in the
// assembly.
func (f *Film) displaced(i int, fr *Frame) bool {
	if f.rest[i] != f.Assembly.Nodes[i].Pose.Rigid() {
		return true
	}
	if fr.driven != nil && f.seat(i, fr.driven) != f.rest[i] {
		return true
	}
	for _, m := range f.moves[i] {
		if fr.motionStates[m].moves {
			return true
		}
	}
	return false
}

// styleAt returns the style that a node has come to, or is more than half way to.
func (f *Film) styleAt(i int, fr *Frame) reveal.Style {
	var style reveal.Style
	if own := f.surface.opened[i]; own != nil {
		style = styleOf(*own)
	}
	for _, c := range f.surface.changes[i] {
		if fr.progress[c.track] >= 0.5 {
			style = styleOf(c.to)
		}
	}
	return style
}
