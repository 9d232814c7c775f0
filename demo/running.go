package demo

import (
	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// joints lets the pump run: the motor's shaft carries the sun, planets walk in the ring gear, and the carrier's shaft
// turns the rotor, whose rollers roll along the tube.
func joints(a *assembly.Assembly) {
	const carrier, rotor = "planet-stage/carrier-and-shaft", "pump-head/rotor"
	add := func(id, name string, kind assembly.JointKind, body, base assembly.NodeID) {
		a.Joints = append(a.Joints, assembly.Joint{
			ID: assembly.JointID(id), Name: name, Kind: kind, Body: body, Base: base, Axis: space.Vec3{0, 0, 1},
		})
	}
	couple := func(id, name string, c assembly.Coupling) {
		c.ID, c.Name = assembly.JointID(id), name
		a.Couplings = append(a.Couplings, c)
	}
	add("motor", "Motor shaft", assembly.Revolute, "drive/motor-shaft", "drive/motor")
	add("sun", "Sun on its shaft", assembly.Fixed, "planet-stage/sun-gear-12-teeth", "drive/motor-shaft")
	add("ring", "Ring gear, held", assembly.Fixed, "planet-stage/ring-gear-48-teeth", "planet-stage")
	add("carrier", "Carrier", assembly.Revolute, carrier, "planet-stage")
	add("rotor", "Rotor on its shaft", assembly.Fixed, rotor, carrier)
	planets, pins := several("planet-stage/planet-gear-18-teeth", 3), several("planet-stage/planet-pin", 3)
	rollers := several("pump-head/rotor/roller", 3)
	for i, k := range []string{"1", "2", "3"} {
		planet, roller := assembly.JointID("planet-"+k), assembly.JointID("roller-"+k)
		add(string(planet), "Planet "+k, assembly.Revolute, planets[i], carrier)
		add("pin-"+k, "Planet pin "+k, assembly.Fixed, pins[i], carrier)
		add(string(roller), "Roller "+k, assembly.Revolute, rollers[i], rotor)
		couple("sun-planet-"+k, "Sun and planet "+k, assembly.Coupling{
			Kind: assembly.Gear, Joint: planet, By: "sun", Sizes: [2]float64{18, 12},
		})
		couple("ring-planet-"+k, "Ring and planet "+k, assembly.Coupling{
			Kind: assembly.Gear, Joint: planet, By: "ring", Sizes: [2]float64{18, 48}, Inner: true,
		})
		// A roller of 6.5 mm rolls on the tube, 22 mm from the pump's axis.
		couple("roller-tube-"+k, "Roller "+k+" along the tube", assembly.Coupling{
			Kind: assembly.Ratio, Joint: roller, By: "carrier", Ratio: -22 / 6.5,
		})
	}
}

// Running directs the DP-40 at work: it runs, and comes open while it does.
func Running(a *assembly.Assembly) *reveal.Reveal {
	d := &director{a: a, index: a.Index(), boxes: a.BoundsOf(), poses: a.Worlds()}
	whole := d.look(36, 24, 0.3, space.Vec{}, assembly.Root)
	d.r = reveal.New("The pump at work", whole)
	run := func(at, length float64, drive reveal.Drive) {
		drive.Joint = "motor"
		d.add(
			at,
			length,
			reveal.Cue{Kind: reveal.KindDrive, Targets: []assembly.NodeID{"drive/motor-shaft"}, Drive: &drive},
		)
	}

	d.step("Switch it on", 5.6, "The rotor turns and its rollers squeeze the tube, one after the other.")
	run(0.6, 2, reveal.Drive{Speed: new(40.0), RunUp: sec(1.6), Ongoing: true})
	d.shot(0.4, 2.6, "Pump head", d.look(24, 16, 0.24, space.Vec{Z: 60}, "pump-head"))
	d.fade(1.2, 1, 0.15, "pump-head/door/door-panel", "pump-head/rotor-cover")

	d.step("Open the hood while it runs", 7, "Take out the four screws at the sides and lift the hood straight up.")
	d.shot(0, 2.2, "Housing", d.look(48, 30, 0.2, space.Vec{Y: 60, Z: 40}, "housing"))
	d.unscrew(0.9, 1.7, 12, 0.5, 0.12, d.alike("housing/hood-screw")...)
	d.pull(2.5, 0.9, reveal.OwnAxes, 0, 0, 1, 34, d.alike("housing/hood-screw")...)
	d.pull(3.0, 1.8, reveal.ParentAxes, 0, 1, 0, 96, "housing/hood")
	d.fade(3.9, 1.2, 0, append(d.alike("housing/hood-screw"), "housing/hood")...)

	d.step(
		"Five turns of the motor, one of the rotor",
		15,
		"The motor drives the sun gear; three planets walk around inside the ring gear, which is held, and take the carrier along.",
	)
	d.shot(0.2, 4.6, "Drive", d.look(158, 14, 0.3, space.Vec{}, "planet-stage/ring-gear-48-teeth"))
	d.fade(0.3, 1.2, 0, "drive/motor-flange", "drive/motor", "drive/motor-end-cap", "housing/base", "housing/rear-panel",
		"housing/power-inlet", "control-board", "planet-stage/o-ring").Stagger = sec(
		0.05,
	)
	d.fade(0.6, 1.2, 0, append(several("drive/flange-screw-m3-10", 4), several("housing/foot", 4)...)...)
	d.add(7, 5, reveal.Cue{
		Kind: reveal.KindArrow, Easing: reveal.Linear, Arrow: &reveal.Arrow{Ahead: sec(2)},
		Targets: []assembly.NodeID{
			"planet-stage/sun-gear-12-teeth",
			"planet-stage/planet-gear-18-teeth",
		},
	})
	d.note(4.8, 6, "Sun gear, 12 teeth, on the motor's shaft", "planet-stage/sun-gear-12-teeth", space.Vec3{})
	d.note(5.2, 5.6, "Ring gear, 48 teeth, held", "planet-stage/ring-gear-48-teeth", space.Vec3{0, 0.97, 0.6})

	stop := d.step("Switch it off", 9.4, "Wait until the rotor stands still before you open the door.")
	stop.Notice = &reveal.Notice{
		Signal: reveal.Warning,
		Text:   "Rollers can crush fingers. Open the door only when they stand still.",
	}
	run(0.6, 2, reveal.Drive{Speed: new(0.0), RunUp: sec(1.8), Ongoing: true})
	d.shot(0.6, 5.4, "From the front", d.look(20, 12, 0.24, space.Vec{}, "pump-head"))
	return d.r
}
