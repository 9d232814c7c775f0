package demo

import (
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// PumpB builds revision B of the DP-40, which is sold in three variants: a heater keeps what is dosed warm, the knob of
// the latch has more teeth, the hood has longer screws, feet are wider, the power inlet sits elsewhere, and one
// capacitor is saved.
func PumpB() *product.Model {
	model := pump(true)
	model.Assembly.Name += ", revision B"
	model.Assembly.Variants = variants()
	return model
}

// heater sits between the ends of the tube, on the front panel.
func (m *maker) heater(head int) {
	const y = -49.5
	h := m.group(head, "Heater", space.Identity)
	screws := []space.Rigid{at(-13, y, 20), at(13, y, 20)}
	m.screws(h, "Heater screw M3 × 25", m3, 25, screws...)
	holes := []polygon{circleAt(-4, y, 3, 32), circleAt(6, y, 1.5, 20)}
	for _, s := range screws {
		holes = append(holes, circleAt(s.T.X, s.T.Y, 1.65, 20))
	}
	m.part(
		h,
		"Heater block",
		new(body).prism(0, 20, roundedRect(0, y, 36, 12.5, 2), holes...).shape(),
		space.Identity,
		"aluminium",
	)
	m.part(h, "Heater cartridge 40 W", new(body).rod(3, 1, 25, 0.5, 32).shape(), at(-4, y, 0), "steel")
	m.part(h, "Temperature sensor", new(body).rod(1.5, 6, 24, 0.2, 20).shape(), at(6, y, 0), "brass")
}

// variants are the DP-40 as it is sold. The door that opens to the other side is the same one, turned round.
func variants() []assembly.Variant {
	const heater, door, pin = "pump-head/heater", "pump-head/door", "pump-head/hinge-pin"
	round := space.Rigid{R: space.AxisAngle(space.Vec{Z: 1}, 180), T: space.Vec{X: 47, Z: 38}}
	return []assembly.Variant{
		{ID: "standard", Name: "Standard", Without: []assembly.NodeID{heater}},
		{
			ID: "heated", Name: "Heated",
			Finishes: []assembly.NodeFinish{{Nodes: []assembly.NodeID{"pump-head/rotor-cover"}, Finish: assembly.Finish{
				Name: "Warm cover", Colour: space.Vec3{0.5, 0.16, 0.05}, Opacity: 1, Metalness: 0.6, Roughness: 0.45,
			}}},
			Names: []assembly.NodeName{{Node: "pump-head/rotor-cover", Name: "Rotor cover, heat-proof"}},
		},
		{
			ID: "left-hand", Name: "Left-hand door", Without: []assembly.NodeID{heater},
			Poses: []assembly.NodePose{
				{Node: door, Pose: assembly.PoseOf(round)},
				{Node: pin, Pose: assembly.PoseOf(facing("-y", 47, 0, 38))},
			},
		},
	}
}

// inVariants directs what only some variants have, where the assembly is one that has several.
func (d *director) inVariants() {
	if len(d.a.Variants) == 0 {
		return
	}
	d.r.Variants = &reveal.Variants{For: "standard"}
	d.r.Steps[0].Wordings = []reveal.Wording{{
		Variant: "left-hand", Instruction: "Pull the latch knob and swing the clear door to the right until it stops.",
	}}
	for i := range d.r.Steps {
		for k := range d.r.Steps[i].Cues {
			if card := d.r.Steps[i].Cues[k].Card; card != nil {
				card.Title += " {variant}"
			}
		}
	}
}

// takeOffHeater is a step of its own, where there is a heater.
func (d *director) takeOffHeater() {
	const heater = "pump-head/heater"
	if _, there := d.index[heater]; !there {
		return
	}
	screws := several(heater+"/heater-screw-m3-25", 2)
	s := d.step(
		"Take off the heater",
		5.6,
		"Let it cool down. Undo its two screws and draw it off with its cartridge and sensor.",
	)
	s.Tools = []string{"Hex key 2.5 mm"}
	s.Notice = &reveal.Notice{Signal: reveal.Warning, Text: "The heater block is 60 °C hot in use."}
	d.shot(0, 1.6, "Heater", d.look(24, -12, 0.36, space.Vec{Z: 60}, heater, "pump-head/track-block"))
	d.unscrew(0.8, 1.9, 16, 0.5, 0.2, screws...)
	flowing(d.pull(2.4, 0.9, reveal.OwnAxes, 0, 0, 1, 34, screws...))
	flowing(d.pull(2.9, 1.6, reveal.ParentAxes, 0, 0, 1, 60, heater))
	d.note(3.4, 1.9, "Heater, 40 W", heater+"/heater-block", space.Vec3{0, -1, 0})
	d.fade(4.8, 0.8, 0, heater)
}

// alike are the nodes whose ids begin like this: a length in their name may be another one in each revision.
func (d *director) alike(begin string) (ids []assembly.NodeID) {
	for i := range d.a.Nodes {
		if id := d.a.Nodes[i].ID; strings.HasPrefix(string(id), begin) {
			ids = append(ids, id)
		}
	}
	return ids
}

// aside is where the tube goes when it is out of its track: to the right, away from the open door, or upwards where a
// variant has its door at the right.
func (d *director) aside() space.Vec3 {
	if len(d.a.Variants) > 0 {
		return space.Vec3{0, 1, 0}
	}
	return space.Vec3{1, 0, 0}
}
