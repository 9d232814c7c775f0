package demo

import (
	"math"
	"strconv"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// director writes a reveal step by step. Times are in seconds.
type director struct {
	a     *assembly.Assembly
	index map[assembly.NodeID]int
	boxes []space.Box
	poses []space.Rigid
	r     *reveal.Reveal
	cues  int
}

func sec(s float64) reveal.Micros { return reveal.Micros(math.Round(s * 1e6)) }

func (d *director) step(title string, length float64, instruction string) *reveal.Step {
	d.r.Steps = append(d.r.Steps, reveal.Step{ID: reveal.StepID("step-" + strconv.Itoa(len(d.r.Steps)+1)),
		// so that pointers to cues stay good
		Title: title, Instruction: instruction, Duration: sec(length), Cues: make([]reveal.Cue, 0, 32)})
	return &d.r.Steps[len(d.r.Steps)-1]
}

// add puts a cue into the last step.
func (d *director) add(at, length float64, c reveal.Cue) *reveal.Cue {
	d.cues++
	c.ID, c.Offset, c.Duration = reveal.CueID("cue-"+strconv.Itoa(d.cues)), sec(at), sec(length)
	if c.Easing == (reveal.Easing{}) {
		c.Easing = reveal.Smooth
	}
	s := &d.r.Steps[len(d.r.Steps)-1]
	s.Cues = append(s.Cues, c)
	return &s.Cues[len(s.Cues)-1]
}

func (d *director) pull(
	at, length float64,
	axes reveal.Axes,
	x, y, z, mm float64,
	targets ...assembly.NodeID,
) *reveal.Cue {
	return d.add(at, length, reveal.Cue{Kind: reveal.KindPull, Targets: targets,
		Pull: &reveal.Pull{Axes: axes, Along: space.Vec3{x, y, z}, Distance: mm}})
}

func (d *director) fade(at, length, to float64, targets ...assembly.NodeID) *reveal.Cue {
	return d.add(at, length, reveal.Cue{Kind: reveal.KindFade, Targets: targets, Fade: &reveal.Fade{To: to}})
}

func (d *director) unscrew(at, length, turns, lead, stagger float64, targets ...assembly.NodeID) *reveal.Cue {
	c := d.add(at, length, reveal.Cue{Kind: reveal.KindUnscrew, Targets: targets,
		Unscrew: &reveal.Unscrew{Axes: reveal.OwnAxes, Along: space.Vec3{0, 0, 1}, Turns: turns, Lead: lead}})
	c.Stagger = sec(stagger)
	return c
}

func (d *director) shot(at, length float64, name string, camera reveal.Camera) {
	d.add(at, length, reveal.Cue{Kind: reveal.KindShot, Shot: &reveal.Shot{Name: name, Camera: camera}})
}

// note points from the middle of its target some way to a side of its box.
func (d *director) note(at, length float64, text string, target assembly.NodeID, side space.Vec3) {
	box := d.boxes[d.index[target]]
	point, size := box.Centre(), box.Size()
	point.X, point.Y, point.Z = point.X+side[0]*size.X/2, point.Y+side[1]*size.Y/2, point.Z+side[2]*size.Z/2
	d.add(at, length, reveal.Cue{Kind: reveal.KindNote, Targets: []assembly.NodeID{target}, Easing: reveal.Linear,
		Note: &reveal.Note{Text: text, At: space.Vec3Of(point)}})
}

// flowing gives the cues their flow lines.
func flowing(cues ...*reveal.Cue) {
	for _, c := range cues {
		c.Flow = &reveal.FlowLine{Of: reveal.FlowEach}
	}
}

// look returns a camera at an azimuth and elevation in degrees that frames the
// given nodes at rest, each grown by room to the front (mm).
func (d *director) look(azimuth, elevation, margin float64, room space.Vec, nodes ...assembly.NodeID) reveal.Camera {
	sa, ca := math.Sincos(azimuth * math.Pi / 180)
	se, ce := math.Sincos(elevation * math.Pi / 180)
	o := space.LookAlong(space.Vec{X: -sa * ce, Y: -se, Z: -ca * ce}, space.Vec{Y: 1})
	var boxes []space.Box
	for _, n := range nodes {
		i := d.index[n]
		b := d.boxes[i].Moved(&d.poses[i])
		boxes = append(
			boxes,
			b,
			space.Box{Min: b.Min, Max: space.Vec{X: b.Max.X + room.X, Y: b.Max.Y + room.Y, Z: b.Max.Z + room.Z}},
		)
	}
	c, err := film.Fit(reveal.Camera{Orientation: o, FocalLength: 50}, 16.0/9, margin, boxes)
	if err != nil {
		panic("demo: " + err.Error())
	}
	return c
}

func several(id assembly.NodeID, n int) []assembly.NodeID {
	ids := []assembly.NodeID{id}
	for k := 2; k <= n; k++ {
		ids = append(ids, id+assembly.NodeID("~"+strconv.Itoa(k)))
	}
	return ids
}

// Teardown directs the service teardown of the DP-40 and its way back.
func Teardown(a *assembly.Assembly) *reveal.Reveal {
	d := &director{a: a, index: a.Index(), boxes: a.BoundsOf(), poses: a.Worlds()}
	whole := d.look(36, 24, 0.3, space.Vec{}, assembly.Root)
	d.r = reveal.New("Service teardown", whole)

	d.step("Open the door", 4.6, "Pull the latch knob and swing the clear door to the left until it stops.")
	d.shot(0.4, 3.2, "Pump head", d.look(24, 16, 0.24, space.Vec{Z: 60}, "pump-head"))
	d.add(1.5, 2.2, reveal.Cue{Kind: reveal.KindTurn, Targets: []assembly.NodeID{"pump-head/door"},
		Turn: &reveal.Turn{Axes: reveal.OwnAxes, About: space.Vec3{0, 1, 0}, Degrees: -112}})

	s := d.step("Undo the four cover screws", 6.2, "Loosen them crosswise with a 2.5 mm hex key, then take them out.")
	s.Notice = &reveal.Notice{
		Signal: reveal.Caution,
		Text:   "The tube may hold liquid under pressure. Close the inlet first.",
	}
	s.Tools = []string{"Hex key 2.5 mm", "Magnetic tray"}
	screws := several("pump-head/cover-screw-m3-12", 4)
	crosswise := []assembly.NodeID{screws[0], screws[2], screws[1], screws[3]}
	d.shot(0, 1.8, "Cover screws", d.look(32, 18, 0.32, space.Vec{Z: 70}, "pump-head/rotor-cover"))
	d.unscrew(0.9, 2.6, 16, 0.5, 0.35, crosswise...).Easing = reveal.In
	out := d.pull(3.5, 1.1, reveal.OwnAxes, 0, 0, 1, 40, crosswise...)
	out.Stagger = sec(0.35)
	flowing(out)
	d.note(1.2, 4.2, "Crosswise, half a turn each to begin with", screws[0], space.Vec3{})

	d.step("Take off the rotor cover", 3.6, "Lift it straight off. It may stick to its seat: do not lever it.")
	d.pull(0.3, 1.8, reveal.ParentAxes, 0, 0, 1, 70, append([]assembly.NodeID{"pump-head/rotor-cover"}, screws...)...)
	d.fade(1.7, 1.2, 0, append([]assembly.NodeID{"pump-head/rotor-cover"}, screws...)...)

	d.takeOffHeater()
	d.step("Slip off the tube", 4.2, "Turn the rotor by hand and pull the tube evenly towards you.")
	d.shot(0, 1.6, "Tube", d.look(30, 15, 0.28, space.Vec{Z: 92}, "pump-head/tube-6.4-9", "pump-head/track-block"))
	d.add(0.6, 2.6, reveal.Cue{Kind: reveal.KindTurn, Targets: []assembly.NodeID{"pump-head/rotor"},
		Turn: &reveal.Turn{Axes: reveal.ParentAxes, About: space.Vec3{0, 0, 1}, Degrees: -240}})
	d.add(
		0.2,
		0.6,
		reveal.Cue{
			Kind:    reveal.KindTint,
			Targets: []assembly.NodeID{"pump-head/tube-6.4-9"},
			Tint:    &reveal.Tint{Colour: space.Vec3{0.55, 0.06, 0.03}, Amount: 0.7},
		},
	)
	// Out of the track, then aside.
	d.add(
		1.4,
		2.3,
		reveal.Cue{
			Kind:    reveal.KindRoute,
			Targets: []assembly.NodeID{"pump-head/tube-6.4-9"},
			Flow:    &reveal.FlowLine{Of: reveal.FlowEach},
			Route: &reveal.Route{
				Axes:   reveal.ParentAxes,
				Radius: 24,
				Legs: []reveal.Leg{
					{Along: space.Vec3{0, 0, 1}, Distance: 70, Share: 2},
					{Along: d.aside(), Distance: 34},
				},
			},
		},
	)
	d.add(
		3.0,
		0.8,
		reveal.Cue{
			Kind:    reveal.KindTint,
			Targets: []assembly.NodeID{"pump-head/tube-6.4-9"},
			Tint:    &reveal.Tint{Colour: space.Vec3{0.55, 0.06, 0.03}, Amount: 0},
		},
	)
	d.note(0.5, 3.4, "Keep fingers away from the rollers", "pump-head/rotor/roller~3", space.Vec3{6.5})

	d.step("Draw the rotor", 5.2, "Undo the central screw and draw the rotor off the shaft.").Tools = []string{
		"Hex key 3 mm",
	}
	d.shot(0, 1.6, "Rotor", d.look(42, 18, 0.24, space.Vec{Z: 64}, "pump-head/track-block"))
	d.fade(0.2, 1, 0.0, "pump-head/tube-6.4-9")
	d.unscrew(0.8, 1.8, 10, 0.7, 0, "pump-head/rotor/rotor-screw-m4-16")
	flowing(d.pull(2.5, 0.9, reveal.OwnAxes, 0, 0, 1, 52, "pump-head/rotor/rotor-screw-m4-16"))
	d.pull(3.1, 1.7, reveal.ParentAxes, 0, 0, 1, 58, "pump-head/rotor")

	d.step("Lift the hood", 5.4, "Take out the four screws at the sides and lift the hood straight up.")
	d.shot(0, 2.2, "Housing", d.look(48, 30, 0.2, space.Vec{Y: 60, Z: 40}, "housing"))
	d.unscrew(0.9, 1.7, 12, 0.5, 0.12, d.alike("housing/hood-screw")...)
	d.pull(2.5, 0.9, reveal.OwnAxes, 0, 0, 1, 34, d.alike("housing/hood-screw")...)
	d.pull(3.0, 1.8, reveal.ParentAxes, 0, 1, 0, 96, "housing/hood")
	d.fade(3.9, 1.2, 0, append(d.alike("housing/hood-screw"), "housing/hood")...)

	d.step(
		"Look at the drive",
		6.4,
		"The motor drives the sun gear; three planets walk around inside the ring gear and turn the rotor shaft.",
	)
	d.add(
		0,
		2.6,
		reveal.Cue{
			Kind: reveal.KindShot,
			Shot: &reveal.Shot{Name: "Drive", Camera: d.look(64, 22, 0.2, space.Vec{}, "planet-stage", "drive"),
				Follow: &reveal.Follow{Nodes: []assembly.NodeID{"planet-stage", "drive"}, Margin: 0.22}},
		},
	)
	d.fade(0.3, 1.4, 0.1, "housing/base")
	d.add(
		0.3,
		1.4,
		reveal.Cue{
			Kind:    reveal.KindSurface,
			Targets: []assembly.NodeID{"pump-head/track-block"},
			Surface: &reveal.Surface{Style: reveal.SeeThrough},
		},
	)
	// The shaft and its bearings leave through the front: what they would go through is taken away with the rest.
	gone := d.fade(
		0.3,
		1.0,
		0,
		"control-board",
		"housing/front-panel",
		"housing/display",
		"housing/dosing-knob",
		"housing/start-button",
		"planet-stage/shaft-seal",
		"housing/rear-panel",
		"housing/power-inlet",
		"pump-head/door",
		"pump-head/hinge-pin",
		"pump-head/rotor",
	)
	gone.Stagger = sec(0.05)
	twin := d.add(
		0.6,
		0,
		reveal.Cue{
			Kind: reveal.KindFade,
			Twin: gone.ID,
			Targets: append(
				append(several("pump-head/track-screw-m4-30", 4), several("housing/panel-screw-m4-12", 4)...),
				several("housing/foot", 4)...),
		},
	)
	twin.Easing = reveal.Easing{}
	// The gear stage is peeled along its axis.
	flowing(d.pull(1.8, 2.2, reveal.ParentAxes, 0, 0, 1, -62, "drive"),
		d.pull(2.3, 2.0, reveal.ParentAxes, 0, 0, 1, -30, "planet-stage/ring-gear-48-teeth", "planet-stage/o-ring"),
		d.pull(2.6, 1.8, reveal.ParentAxes, 0, 0, 1, -26, "planet-stage/sun-gear-12-teeth"),
		d.pull(2.9, 1.6, reveal.ParentAxes, 0, 0, 1, 26, "planet-stage/carrier-and-shaft"),
		d.pull(3.0, 1.6, reveal.ParentAxes, 0, 0, 1, 46, "planet-stage/bearing-608", "planet-stage/bearing-608~2"))
	d.note(3.4, 2.9, "Sun gear, 12 teeth", "planet-stage/sun-gear-12-teeth", space.Vec3{})
	d.note(3.6, 2.7, "Ring gear, 48 teeth, held", "planet-stage/ring-gear-48-teeth", space.Vec3{0, 0.97, 0.6})
	d.note(3.8, 2.5, "Carrier: one turn for five of the motor", "planet-stage/carrier-and-shaft", space.Vec3{})

	back := d.step("Put it together again", 7.4, "Everything goes back the same way, in the opposite order.")
	back.Retrace = &reveal.Retrace{KeepCamera: true}
	for i := range d.r.Steps[:len(d.r.Steps)-1] {
		back.Retrace.Steps = append(back.Retrace.Steps, d.r.Steps[i].ID)
	}
	d.add(
		0,
		6.2,
		reveal.Cue{Kind: reveal.KindShot, Shot: &reveal.Shot{Name: "Whole pump", Camera: whole, ConstantSpeed: true,
			Via: []reveal.Camera{d.look(118, 26, 0.2, space.Vec{}, assembly.Root)}}},
	)

	d.step("Ready again", 8, "Open the inlet and let the pump fill the tube before it doses.")
	d.add(
		0.2,
		6,
		reveal.Cue{
			Kind:   reveal.KindOrbit,
			Easing: reveal.Smooth,
			Orbit:  &reveal.Orbit{About: space.Vec3{0, 1, 0}, Degrees: 360},
		},
	)
	d.add(
		6.2,
		1.8,
		reveal.Cue{
			Kind:   reveal.KindCard,
			Easing: reveal.Linear,
			Card:   &reveal.Card{Title: "DP-40 dosing pump", Text: "Tube and rollers: every 500 hours"},
		},
	)
	d.inVariants()
	return d.r
}
