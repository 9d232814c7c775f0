package demo

import (
	"fmt"
	"math"

	"slowreveal/core/space"
)

func (m *maker) housing(root int) {
	h := m.group(root, "Housing", space.Identity)
	corners := []space.Rigid{at(-46, 50, 0), at(86, 50, 0), at(86, -50, 0), at(-46, -50, 0)}
	m.screws(h, "Panel screw M4 × 12", m4, 12, corners...)
	holes := []polygon{circle(11, 48), roundedRect(68, 26, 34, 22, 2), circleAt(68, -22, 4, 24)}
	for _, c := range corners {
		holes = append(holes, circleAt(c.T.X, c.T.Y, 2.2, 20))
	}
	for _, p := range []point{{-36.5, -14}, {36.5, -14}, {36.5, 18}, {-36.5, 18}} {
		holes = append(holes, circleAt(p[0], p[1], 1.8, 20))
	}
	if m.b {
		holes = append(holes, circleAt(-13, -49.5, 1.5, 20), circleAt(13, -49.5, 1.5, 20))
	}
	m.part(
		h,
		"Front panel",
		new(body).prism(-6, 0, roundedRect(20, 0, 144, 112, 9), holes...).shape(),
		space.Identity,
		"panel",
	)

	display := m.group(h, "Display", space.Identity)
	m.part(
		display,
		"Display bezel",
		new(body).prism(0, 1.6, roundedRect(68, 26, 40, 28, 3), roundedRect(68, 26, 33, 21, 1.5)).shape(),
		space.Identity,
		"dark",
	)
	m.part(
		display,
		"Display glass",
		new(body).prism(-2, 0.6, roundedRect(68, 26, 33.8, 21.8, 2)).shape(),
		space.Identity,
		"glass",
	)
	m.part(
		h,
		"Dosing knob",
		new(body).prism(0, 0.5, circleAt(68, -22, 6, 48)).
			prism(0.5, 4, circleAt(68, -22, 13.5, 48)).
			prism(4, 17, gear(0.5, 48, false).at(68, -22)).
			box(68, -13, 17.2, 1.6, 7, 0.8).
			prism(-10, 0.5, circleAt(68, -22, 3.5, 24)).
			shape(),
		space.Identity,
		"head",
	)
	m.part(h, "Start button", new(body).prism(-1, 3, circleAt(68, 1, 4.2, 32)).shape(), space.Identity, "rotor")

	m.shells(h)
	inlet, wide := 60.0, 0.0
	if m.b {
		inlet, wide = 48, 2
	}
	m.part(
		h,
		"Rear panel",
		new(body).prism(-115, -112, roundedRect(20, 0, 144, 112, 9), roundedRect(inlet, -20, 28, 20, 2)).shape(),
		space.Identity,
		"panel",
	)
	m.part(
		h,
		"Power inlet",
		new(body).prism(-117, -100, roundedRect(inlet, -20, 27, 19, 2)).shape(),
		space.Identity,
		"chip",
	)
	foot := new(
		body,
	).lathe(36, point{0, 0}, point{8 + wide, 0}, point{9 + wide, 1}, point{8 + wide, 6}, point{0, 6}).
		shape()
	for _, p := range []point{{-38, -18}, {78, -18}, {78, -98}, {-38, -98}} {
		m.part(h, "Foot", foot, facing("-y", p[0], -56, p[1]), "rubber")
	}
}

// shells adds the two halves of the housing, which meet at half height, and
// the screws that hold the upper one from the sides.
func (m *maker) shells(h int) {
	const t, r = 3.0, 9.0
	half := func(sign float64) polygon {
		p := polygon{{-52, 0}}
		arc := func(cx, cy, radius, from, to float64) {
			for i := range 9 {
				s, c := math.Sincos(from + (to-from)*float64(i)/8)
				p = append(p, point{cx + radius*c, sign * (cy + radius*s)})
			}
		}
		arc(-52+r, 56-r, r, math.Pi, math.Pi/2)
		arc(92-r, 56-r, r, math.Pi/2, 0)
		p = append(p, point{92, 0}, point{92 - t, 0})
		arc(92-r, 56-r, r-t, 0, math.Pi/2)
		arc(-52+r, 56-r, r-t, math.Pi/2, math.Pi)
		p = append(p, point{-52 + t, 0})
		if sign > 0 {
			return p.reversed()
		}
		return p
	}
	m.part(h, "Hood", new(body).prism(-112, -6, half(1)).shape(), space.Identity, "housing")
	m.part(h, "Base", new(body).prism(-112, -6, half(-1)).shape(), space.Identity, "housing")
	length := 8.0
	if m.b {
		length = 10
	}
	m.screws(h, fmt.Sprintf("Hood screw M3 × %g", length), m3, length,
		facing("-x", -52, 7, -28), facing("+x", 92, 7, -28), facing("+x", 92, 7, -92), facing("-x", -52, 7, -92))
}

func (m *maker) controlBoard(root int) {
	// The board's own +Z looks towards the motor; its own X runs along world Z.
	pose := facing("-x", 74, 0, -58)
	b := m.group(root, "Control board", pose)
	corners := []point{{-38, -32}, {38, -32}, {38, 32}, {-38, 32}}
	var holes []polygon
	var poses []space.Rigid
	for _, c := range corners {
		holes = append(holes, circleAt(c[0], c[1], 1.65, 20))
		poses = append(poses, at(c[0], c[1], 0.8))
	}
	m.part(
		b,
		"Circuit board",
		new(body).prism(-0.8, 0.8, roundedRect(0, 0, 86, 74, 3), holes...).shape(),
		space.Identity,
		"board",
	)
	m.screws(b, "Board screw M3 × 6", m3, 6, poses...)
	m.part(b, "Controller", new(body).box(-4, 6, 1.6, 14, 14, 1.6).shape(), space.Identity, "chip")
	m.part(
		b,
		"Motor driver",
		new(body).box(20, -14, 1.8, 10, 12, 2).box(20, -14, 6, 9, 11, 6.4).shape(),
		space.Identity,
		"chip",
	)
	can := new(
		body,
	).lathe(32, point{0, 0.8}, point{4, 0.8}, point{4, 2}, point{3.8, 2.4}, point{4, 2.8}, point{4, 11}, point{3.4, 11.5}, point{0, 11.5}).
		shape()
	cans := []point{{-26, -18}, {-15, -18}, {-4, -18}}
	if m.b {
		cans = cans[:2]
	}
	for _, p := range cans {
		m.part(b, "Capacitor", can, at(p[0], p[1], 0), "aluminium")
	}
	m.part(b, "Motor terminal", new(body).box(22, 18, 5, 22, 9, 8.4).shape(), space.Identity, "panel")
	m.part(b, "Display connector", new(body).box(-30, 14, 3.3, 6, 20, 5).shape(), space.Identity, "roller")
}
