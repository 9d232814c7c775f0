package demo

import (
	"context"
	"math"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/formats"
)

// The LA-3's places on its base plate, mm: the main shaft stands at the origin.
const (
	motorX, motorY   = -72.0, 34.0
	rockerX, rockerY = 84.0, 8.0
	crankRadius      = 12.0
	couplerLength    = 80.0
	rockerLength     = 36.0
	stampLength      = 58.0
	crankAngle       = 75.0 // of the crank's pin, degrees, which both rods are on
	camBase, camLift = 18.0, 3.0
	camRoller        = 4.0
)

// crankPin is where the crank's pin stands.
func crankPin() point {
	s, c := math.Sincos(crankAngle * math.Pi / 180)
	return point{crankRadius * c, crankRadius * s}
}

// elbow is where the coupler and the rocker meet: above the line between their other ends.
func elbow() point {
	p := crankPin()
	ex, ey := rockerX-p[0], rockerY-p[1]
	e := math.Hypot(ex, ey)
	along := (couplerLength*couplerLength - rockerLength*rockerLength + e*e) / (2 * e)
	high := math.Sqrt(couplerLength*couplerLength - along*along)
	return point{p[0] + (along*ex-high*ey)/e, p[1] + (along*ey+high*ex)/e}
}

// stampAt is where the stamp's rod ends, below the main shaft.
func stampAt() point {
	p := crankPin()
	return point{0, p[1] - math.Sqrt(stampLength*stampLength-p[0]*p[0])}
}

// camAt is how far from the main shaft the middle of the cam's follower stands, on its left, when the shaft has turned.
func camAt(turned float64) float64 {
	return camBase + camLift*(1-math.Cos((180-turned)*math.Pi/180))
}

// Applicator builds the LA-3 label applicator, which sets labels on dosed bottles: a motor drives the main shaft by a
// belt; a crank swings the arm (four-bar linkage) and pushes a stamp (slider-crank), a cam draws back the peeling blade.
// The main shaft is the Z axis, the base plate ends at z = 0, +Y is up.
func Applicator() *product.Model {
	m := maker{
		build:  formats.NewBuilder(context.Background(), formats.Options{Name: "LA-3 label applicator"}, "computed"),
		worn:   map[string]int{},
		shapes: map[string]*solid.Shape{},
	}
	root := m.group(-1, "LA-3 label applicator", space.Identity)
	m.frame(root)
	m.mainShaft(root)
	m.linkages(root)
	m.cover(root)
	model, err := m.build.Model()
	if err != nil {
		panic("demo: " + err.Error())
	}
	applicatorJoints(model.Assembly)
	return model
}

// link is a flat bar from one hole to another.
func link(from, to point, width, hole, z0, z1 float64) *solid.Shape {
	along := math.Atan2(to[1]-from[1], to[0]-from[0])
	var p polygon
	for end, c := range []point{to, from} {
		for i := range 17 {
			s, k := math.Sincos(along + math.Pi*(float64(end)-0.5+float64(i)/16))
			p = append(p, point{c[0] + width/2*k, c[1] + width/2*s})
		}
	}
	return new(body).prism(z0, z1, p, circleAt(from[0], from[1], hole, 24), circleAt(to[0], to[1], hole, 24)).shape()
}

// around is the outline of a belt around two circles.
func around(a point, ra float64, b point, rb float64) (p polygon) {
	way, apart := math.Atan2(b[1]-a[1], b[0]-a[0]), math.Hypot(b[0]-a[0], b[1]-a[1])
	half := math.Acos((ra - rb) / apart)
	arc := func(c point, r, from, to float64) {
		for i := range 33 {
			s, k := math.Sincos(from + (to-from)*float64(i)/32)
			p = append(p, point{c[0] + r*k, c[1] + r*s})
		}
	}
	arc(b, rb, way-half, way+half)
	arc(a, ra, way+half, way-half+2*math.Pi)
	return p
}

// cam is the outline on which a roller follows camAt: its middle's way, less the roller.
func cam() (p polygon) {
	const n = 120
	middle := func(i float64) (x, y float64) {
		a := 2 * math.Pi * i / n
		r := camBase + camLift*(1-math.Cos(a))
		return r * math.Cos(a), r * math.Sin(a)
	}
	for i := range n {
		x, y := middle(float64(i))
		x0, y0 := middle(float64(i) - 0.01)
		x1, y1 := middle(float64(i) + 0.01)
		l := math.Hypot(x1-x0, y1-y0)
		p = append(p, point{x - camRoller*(y1-y0)/l, y + camRoller*(x1-x0)/l})
	}
	return p
}

func pin(p point, r, z0, z1 float64) *solid.Shape {
	return new(body).prism(z0, z1, circleAt(p[0], p[1], r, 24)).shape()
}

func (m *maker) frame(root int) {
	f := m.group(root, "Frame", space.Identity)
	holes := []polygon{circle(4, 32), circleAt(motorX, motorY, 3, 24), circleAt(rockerX, rockerY, 4, 24)}
	m.part(f, "Base plate", new(body).prism(-6, 0, roundedRect(16, -14, 250, 168, 10), holes...).shape(),
		space.Identity, "panel")
	m.part(f, "Motor", new(body).lathe(48, point{0, -64}, point{20, -64}, point{20, -6}, point{0, -6}).shape(),
		at(motorX, motorY, 0), "motor")
	for _, c := range coverCorners() {
		m.part(f, "Standoff", new(body).ring(2.2, 5, 0, 44, 0.4, 24).shape(), at(c[0], c[1], 0), "aluminium")
	}
	s := stampAt()
	m.part(f, "Stamp guide", new(body).box(-9, s[1]-16, 12, 6, 34, 36).box(9, s[1]-16, 12, 6, 34, 36).shape(),
		space.Identity, "dark")
	x := -camAt(0)
	m.part(f, "Blade guide", new(body).box(x-34, 8, 9, 34, 6, 22).box(x-34, -8, 9, 34, 6, 22).shape(),
		space.Identity, "dark")
}

func coverCorners() []point { return []point{{-100, 60}, {132, 60}, {132, -88}, {-100, -88}} }

func (m *maker) mainShaft(root int) {
	d := m.group(root, "Motor drive", space.Identity)
	m.part(d, "Motor shaft", pin(point{motorX, motorY}, 3, -8, 16), space.Identity, "steel")
	m.part(
		d,
		"Drive pulley",
		new(body).prism(6, 12, circleAt(motorX, motorY, 9, 40), circleAt(motorX, motorY, 3, 24)).shape(),
		space.Identity,
		"aluminium",
	)
	belt := around(point{motorX, motorY}, 10.4, point{}, 28.4)
	m.part(root, "Belt", new(body).prism(6.5, 11.5, belt, around(point{motorX, motorY}, 9, point{}, 27)).shape(),
		space.Identity, "rubber")
	g := m.group(root, "Main shaft", space.Identity)
	m.part(g, "Shaft", new(body).rod(4, -6, 26, 0.4, 32).shape(), space.Identity, "steel")
	spokes := []polygon{circle(4, 32)}
	for k := range 5 {
		s, c := math.Sincos(2 * math.Pi * float64(k) / 5)
		spokes = append(spokes, circleAt(15.5*c, 15.5*s, 6, 28))
	}
	m.part(g, "Main pulley", new(body).prism(6, 12, circle(27, 72), spokes...).shape(), space.Identity, "aluminium")
	m.part(g, "Cam", new(body).prism(15, 19, cam(), circle(4, 32)).shape(), space.Identity, "brass")
	m.part(g, "Crank disc", new(body).prism(22, 26, circle(17, 56), circle(4, 32)).shape(), space.Identity, "steel")
	m.part(g, "Crank pin", pin(crankPin(), 2.5, 26, 37), space.Identity, "dark")
}

func (m *maker) linkages(root int) {
	p, q, r := crankPin(), elbow(), point{rockerX, rockerY}
	m.part(root, "Coupler", link(p, q, 9, 2.5, 28, 31), space.Identity, "rotor")
	arm := m.group(root, "Rocker arm", space.Identity)
	m.part(arm, "Rocker", link(q, r, 11, 2.5, 23, 27), space.Identity, "steel")
	m.part(arm, "Rocker shaft", pin(r, 4, -6, 27), space.Identity, "steel")
	m.part(arm, "Elbow pin", pin(q, 2.5, 23, 31.5), space.Identity, "dark")
	tip := point{r[0] - 1.4*(q[0]-r[0]) + 18, r[1] - 1.4*(q[1]-r[1])}
	m.part(arm, "Label arm", link(r, tip, 11, 2.5, 18, 22), space.Identity, "steel")
	m.part(
		arm,
		"Label pad",
		new(body).prism(8, 34, roundedRect(tip[0], tip[1]-5, 26, 6, 2)).shape(),
		space.Identity,
		"rubber",
	)
	s := stampAt()
	m.part(root, "Stamp rod", link(crankPin(), s, 9, 2.5, 33, 36), space.Identity, "rotor")
	stamp := m.group(root, "Stamp", space.Identity)
	m.part(
		stamp,
		"Stamp slide",
		new(body).prism(26, 32, roundedRect(s[0], s[1]-8, 11.6, 26, 2)).shape(),
		space.Identity,
		"brass",
	)
	m.part(stamp, "Stamp head", new(body).box(s[0], s[1]-24, 22, 24, 6, 18).shape(), space.Identity, "rubber")
	m.part(stamp, "Gudgeon pin", pin(s, 2.5, 26, 37), space.Identity, "dark")
	blade := m.group(root, "Peeling blade", space.Identity)
	x := -camAt(0)
	m.part(
		blade,
		"Follower",
		new(body).prism(13, 15, roundedRect(x-30, 0, 68, 9.6, 2)).shape(),
		space.Identity,
		"aluminium",
	)
	m.part(blade, "Follower roller", pin(point{x, 0}, camRoller, 15, 19.5), space.Identity, "steel")
	m.part(blade, "Blade", new(body).box(x-65, 0, 8, 8, 34, 20).shape(), space.Identity, "steel")
}

func (m *maker) cover(root int) {
	g := m.group(root, "Cover", space.Identity)
	var poses []space.Rigid
	var holes []polygon
	for _, c := range coverCorners() {
		poses = append(poses, at(c[0], c[1], 47))
		holes = append(holes, circleAt(c[0], c[1], 2.2, 24))
	}
	m.part(
		g,
		"Cover plate",
		new(body).prism(44, 47, roundedRect(16, -14, 250, 168, 10), holes...).shape(),
		space.Identity,
		"clear",
	)
	m.screws(root, "Cover screw M4 × 16", m4, 16, poses...)
}

func applicatorJoints(a *assembly.Assembly) {
	add := func(id, name string, kind assembly.JointKind, moves, base assembly.NodeID, axis space.Vec3, p point) {
		a.Joints = append(a.Joints, assembly.Joint{
			ID: assembly.JointID(
				id,
			), Name: name, Kind: kind, Body: moves, Base: base, Axis: axis, Point: space.Vec3{p[0], p[1], 0},
		})
	}
	z := space.Vec3{0, 0, 1}
	q, r, s := elbow(), point{rockerX, rockerY}, stampAt()
	add("motor", "Motor", assembly.Revolute, "motor-drive", "frame", z, point{motorX, motorY})
	add("main", "Main shaft", assembly.Revolute, "main-shaft", "frame", z, point{})
	add("crank-pin", "Coupler on its crank", assembly.Revolute, "coupler", "main-shaft", z, crankPin())
	add("elbow", "Coupler on the rocker", assembly.Revolute, "coupler", "rocker-arm", z, q)
	add("rocker", "Rocker arm", assembly.Revolute, "rocker-arm", "frame", z, r)
	add("stamp-pin", "Stamp rod on its crank", assembly.Revolute, "stamp-rod", "main-shaft", z, crankPin())
	add("gudgeon", "Stamp on its rod", assembly.Revolute, "stamp", "stamp-rod", z, s)
	add("stamp", "Stamp", assembly.Prismatic, "stamp", "frame", space.Vec3{0, -1, 0}, s)
	add(
		"blade",
		"Peeling blade",
		assembly.Prismatic,
		"peeling-blade",
		"frame",
		space.Vec3{-1, 0, 0},
		point{-camAt(0), 0},
	)
	var table [][2]float64
	for v := 0.0; v <= 360; v += 5 {
		table = append(table, [2]float64{v, camAt(v) - camAt(0)})
	}
	a.Couplings = []assembly.Coupling{
		{ID: "belt", Name: "Belt", Kind: assembly.Belt, Joint: "main", By: "motor", Sizes: [2]float64{54, 18}},
		{ID: "cam", Name: "Cam and blade", Kind: assembly.Cam, Joint: "blade", By: "main", Table: table},
	}
}

// Labelling directs the LA-3 at work.
func Labelling(a *assembly.Assembly) *reveal.Reveal {
	d := &director{a: a, index: a.Index(), boxes: a.BoundsOf(), poses: a.Worlds()}
	whole := d.look(28, 26, 0.2, space.Vec{}, assembly.Root)
	d.r = reveal.New("A label in one turn", whole)
	run := func(at, length float64, drive reveal.Drive) {
		drive.Joint = "motor"
		d.add(at, length, reveal.Cue{Kind: reveal.KindDrive, Targets: []assembly.NodeID{"motor-drive"}, Drive: &drive})
	}
	screws := several("cover-screw-m4-16", 4)

	d.step("Start the motor", 6, "The belt turns the main shaft, once for three turns of the motor.")
	run(0.5, 2, reveal.Drive{Speed: new(36.0), RunUp: sec(1.5), Ongoing: true})
	d.shot(0.3, 3, "The works", d.look(14, 20, 0.14, space.Vec{}, "main-shaft", "rocker-arm", "stamp", "motor-drive"))

	d.step(
		"Take the cover off while it runs",
		8.6,
		"Unscrew the four screws and lift the cover straight off. Keep hands out.",
	)
	d.shot(0, 2.2, "Cover", d.look(32, 26, 0.3, space.Vec{Z: 130}, assembly.Root))
	d.unscrew(1.4, 2.4, 20, 0.7, 0.3, screws...)
	flowing(d.pull(4.8, 1, reveal.OwnAxes, 0, 0, 1, 40, screws...))
	d.pull(6, 1.8, reveal.ParentAxes, 0, 0, 1, 90, append([]assembly.NodeID{"cover"}, screws...)...)
	d.fade(7.2, 1.2, 0, append([]assembly.NodeID{"cover"}, screws...)...)

	d.step(
		"One turn sets one label",
		15,
		"The cam draws the blade back, the crank swings the arm down, and the stamp presses the label on.",
	)
	d.shot(
		0.2,
		3.6,
		"From the front",
		d.look(4, 8, 0.22, space.Vec{}, "main-shaft", "rocker-arm", "stamp", "peeling-blade"),
	)
	d.note(4, 6, "Cam: draws the peeling blade back", "main-shaft/cam", space.Vec3{-0.6, 0.4, 1})
	d.note(4.6, 6, "Crank and rocker swing the label arm", "coupler", space.Vec3{0.2, 0, 1})
	d.note(5.2, 6, "Stamp on a slider-crank", "stamp/stamp-slide", space.Vec3{0, 0, 1})

	d.step("Stop", 5, "It comes to rest where the blade is out.")
	run(0.4, 2, reveal.Drive{Speed: new(0.0), RunUp: sec(1.6), Ongoing: true})
	return d.r
}
