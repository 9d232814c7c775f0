package demo

import (
	"context"
	"math"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/formats"
)

// Pump builds the DP-40 dosing pump. The pump's axis is Z, the operator looks
// along −Z at its front panel, which ends at z = 0; +Y is up; the feet stand
// on y = −62.
func Pump() *product.Model { return pump(false) }

// pump builds revision A, or B.
func pump(revisionB bool) *product.Model {
	m := maker{
		b:      revisionB,
		build:  formats.NewBuilder(context.Background(), formats.Options{Name: "DP-40 dosing pump"}, "computed"),
		worn:   map[string]int{},
		shapes: map[string]*solid.Shape{},
	}
	root := m.group(-1, "DP-40 dosing pump", space.Identity)
	m.pumpHead(root)
	m.planetStage(root)
	m.drive(root)
	m.housing(root)
	m.controlBoard(root)
	model, err := m.build.Model()
	if err != nil {
		panic("demo: " + err.Error())
	}
	joints(model.Assembly)
	return model
}

type maker struct {
	b      bool // revision B of the pump
	build  *formats.Builder
	worn   map[string]int
	shapes map[string]*solid.Shape
}

func (m *maker) group(parent int, name string, pose space.Rigid) int {
	return m.build.Node(parent, assembly.Node{Name: name, Shape: -1, Pose: assembly.PoseOf(pose)})
}

// part adds a part; wears gives each patch of the shape a finish.
func (m *maker) part(parent int, name string, s *solid.Shape, pose space.Rigid, wears ...string) int {
	n := assembly.Node{Name: name, Shape: m.build.Shape(s), Pose: assembly.PoseOf(pose)}
	for _, f := range wears {
		i, ok := m.worn[f]
		if !ok {
			i = m.build.Finish(finishes[f])
			m.worn[f] = i
		}
		n.Finishes = append(n.Finishes, i)
	}
	return m.build.Node(parent, n)
}

// screws adds a cap screw at each pose.
func (m *maker) screws(parent int, name string, s capScrew, length float64, poses ...space.Rigid) {
	shape := s.body(length).shape()
	for _, p := range poses {
		m.part(parent, name, shape, p, "steel")
	}
}

func at(x, y, z float64) space.Rigid { return space.Translation(space.Vec{X: x, Y: y, Z: z}) }

// facing returns a pose at a point whose own +Z looks along one of the axes.
func facing(direction string, x, y, z float64) space.Rigid {
	var r space.Mat3
	switch direction {
	case "+x":
		r = space.AxisAngle(space.Vec{Y: 1}, 90)
	case "-x":
		r = space.AxisAngle(space.Vec{Y: 1}, -90)
	case "-y":
		r = space.AxisAngle(space.Vec{X: 1}, 90)
	case "-z":
		r = space.AxisAngle(space.Vec{Y: 1}, 180)
	default:
		r = space.Identity3
	}
	return space.Rigid{R: r, T: space.Vec{X: x, Y: y, Z: z}}
}

func (m *maker) pumpHead(root int) {
	head := m.group(root, "Pump head", space.Identity)
	m.door(head)

	corners := []space.Rigid{at(-36, 36, 32), at(36, 36, 32), at(36, -36, 32), at(-36, -36, 32)}
	m.screws(head, "Cover screw M3 × 12", m3, 12, corners...)
	holes := []polygon{circle(24, 48)}
	for _, c := range corners {
		holes = append(holes, circleAt(c.T.X, c.T.Y, 1.65, 20))
	}
	m.part(
		head,
		"Rotor cover",
		new(body).prism(28, 32, roundedRect(0, 0, 84, 84, 6), holes...).shape(),
		space.Identity,
		"aluminium",
	)

	m.rotor(head)
	var path []space.Vec
	for _, y := range []float64{-58, -40, -20} {
		path = append(path, space.Vec{X: 26.5, Y: y, Z: 15})
	}
	for i := range 33 {
		s, c := math.Sincos(math.Pi * float64(i) / 32)
		path = append(path, space.Vec{X: 26.5 * c, Y: 26.5 * s, Z: 15})
	}
	for _, y := range []float64{-20, -40, -58} {
		path = append(path, space.Vec{X: -26.5, Y: y, Z: 15})
	}
	m.part(head, "Tube 6.4 × 9", new(body).sweep(path, 4.5, 3.2, 20).shape(), space.Identity, "silicone")
	m.trackBlock(head)
	if m.b {
		m.heater(head)
	}
}

func (m *maker) door(head int) {
	// The door's own frame lies on its hinge, so that it turns about its own Y.
	door := m.group(head, "Door", at(-47, 0, 38))
	x := 47.0
	m.part(door, "Door panel", new(body).prism(-2, 2, roundedRect(x, 0, 90, 90, 7)).shape(), space.Identity, "clear")
	m.part(
		door,
		"Door gasket",
		new(body).prism(-5.5, -2, roundedRect(x, 0, 88, 88, 6), roundedRect(x, 0, 82, 82, 4)).shape(),
		space.Identity,
		"rubber",
	)
	knob := gear(0.75, 20, false)
	if m.b {
		knob = gear(0.625, 24, false)
	}
	m.part(door, "Latch knob", new(body).prism(2, 9, knob.at(x+37, 0)).
		prism(-5, 2, circleAt(x+37, 0, 2, 20)).shape(), space.Identity, "dark")
	knuckle := new(body).ring(1.5, 3.2, -14, 14, 0.4, 24).box(4, 0, 0, 5, 2.4, 27).shape()
	m.part(door, "Hinge leaf", knuckle, facing("-y", 0, 0, 0), "dark")
	m.part(head, "Hinge pin", new(body).rod(1.5, -24, 24, 0.3, 20).shape(), facing("-y", -47, 0, 38), "steel")
}

func (m *maker) rotor(head int) {
	rotor := m.group(head, "Rotor", space.Identity)
	m.screws(rotor, "Rotor screw M4 × 16", m4, 16, at(0, 0, 26))
	var through []polygon
	for k := range 3 {
		s, c := math.Sincos(2 * math.Pi * (float64(k)/3 + 0.25))
		through = append(through, circleAt(15.5*c, 15.5*s, 2, 20))
	}
	plate := new(body).prism(-1, 1, lobed(22, 3), append([]polygon{circle(2.2, 20)}, through...)...).shape()
	m.part(rotor, "Rotor plate, front", plate, at(0, 0, 25), "rotor")
	roller := new(body).ring(2, 6.5, -8.5, 8.5, 0.8, 36).shape()
	pin := new(body).rod(2, -12, 12, 0.3, 20).shape()
	for k := range 3 {
		s, c := math.Sincos(2 * math.Pi * (float64(k)/3 + 0.25))
		m.part(rotor, "Roller", roller, at(15.5*c, 15.5*s, 15), "roller")
		m.part(rotor, "Roller pin", pin, at(15.5*c, 15.5*s, 15), "steel")
	}
	m.part(rotor, "Rotor hub", new(body).ring(2.2, 7, 6, 24, 0.3, 36).shape(), space.Identity, "rotor")
	m.part(rotor, "Rotor plate, back", plate, at(0, 0, 5), "rotor")
}

// lobed is a round outline of radius r with n shallow waists.
func lobed(r float64, n int) polygon {
	p := make(polygon, 96)
	for i := range p {
		a := 2 * math.Pi * float64(i) / 96
		k := r - 3.5*(0.5+0.5*math.Cos(float64(n)*(a+math.Pi/2)))
		p[i] = point{k * math.Cos(a), k * math.Sin(a)}
	}
	return p
}

func (m *maker) trackBlock(head int) {
	screws := []point{{-36.5, -14}, {36.5, -14}, {36.5, 18}, {-36.5, 18}}
	corners := []point{{-36, 36}, {36, 36}, {36, -36}, {-36, -36}}
	outline := append(polygon{}, roundedRect(0, 0, 84, 84, 6)...)
	// The track is open towards the bottom: cut the channel into the outline
	// between its two lower corners.
	lower := len(outline) / 4 * 3
	track := append(polygon(nil), outline[:lower]...)
	track = append(track, point{-31, -42})
	for i := range 33 {
		s, c := math.Sincos(math.Pi * (1 - float64(i)/32))
		track = append(track, point{31 * c, 31 * s})
	}
	track = append(track, point{31, -42})
	track = append(track, outline[lower:]...)

	var through, wide, threaded []polygon
	for _, p := range screws {
		through, wide = append(through, circleAt(p[0], p[1], 2.2, 24)), append(wide, circleAt(p[0], p[1], 4, 24))
	}
	for _, p := range corners {
		threaded = append(threaded, circleAt(p[0], p[1], 1.5, 20))
	}
	b := new(body).cap(0, false, track, through...).wall(track, 0, 28, true)
	b.cap(28, true, track, append(append([]polygon(nil), wide...), threaded...)...)
	var poses []space.Rigid
	for i, p := range screws {
		b.wall(wide[i], 23.5, 28, false).cap(23.5, true, wide[i], through[i]).wall(through[i], 0, 23.5, false)
		b.wall(threaded[i], 14, 28, false).cap(14, true, threaded[i])
		poses = append(poses, at(p[0], p[1], 23.5))
	}
	m.screws(head, "Track screw M4 × 30", m4, 30, poses...)
	m.part(head, "Track block", b.shape(), space.Identity, "head")
}

func (m *maker) planetStage(root int) {
	stage := m.group(root, "Planet stage", space.Identity)
	m.part(stage, "Shaft seal", new(body).ring(4, 9, 1, 3.4, 0.4, 40).shape(), space.Identity, "rubber")
	ball := bearing(8, 22, 7).shape() // 608
	m.part(stage, "Bearing 608", ball, at(0, 0, -6), "steel", "dark")
	m.part(stage, "Bearing 608", ball, at(0, 0, -13.2), "steel", "dark")
	carrier := new(body).ring(0, 22, -18, -14.5, 0.4, 48).rod(4, -14.5, 23, 0.5, 32)
	m.part(stage, "Carrier and shaft", carrier.shape(), space.Identity, "steel")
	planet := new(body).prism(-5, 5, gear(1, 18, false), circle(2, 24)).shape()
	pin := new(body).rod(2, -8, 8, 0.3, 20).shape()
	for k := range 3 {
		s, c := math.Sincos(2 * math.Pi * (float64(k)/3 + 0.25))
		m.part(stage, "Planet gear, 18 teeth", planet, at(15*c, 15*s, -25), "brass")
		m.part(stage, "Planet pin", pin, at(15*c, 15*s, -24), "steel")
	}
	m.part(
		stage,
		"Sun gear, 12 teeth",
		new(body).prism(-31, -19, gear(1, 12, false), circle(2.5, 24)).shape(),
		space.Identity,
		"steel",
	)
	m.part(
		stage,
		"Ring gear, 48 teeth",
		new(body).prism(-34, -14, circle(31, 64), gear(1, 48, true)).shape(),
		space.Identity,
		"aluminium",
	)
	m.part(stage, "O-ring", new(body).lathe(48, oval(29, -34.6, 0.9)...).shape(), space.Identity, "rubber")
}

// oval is a round lathe profile: the section of an O-ring.
func oval(r, z, d float64) []point {
	var p []point
	for i := range 12 {
		s, c := math.Sincos(2 * math.Pi * float64(i) / 12)
		p = append(p, point{r + d*c, z + d*s})
	}
	return p
}

func (m *maker) drive(root int) {
	drive := m.group(root, "Drive", space.Identity)
	var poses []space.Rigid
	holes := []polygon{circle(9, 40)}
	for k := range 4 {
		s, c := math.Sincos(math.Pi/4 + math.Pi/2*float64(k))
		poses = append(poses, facing("-z", 27*c, 27*s, -39))
		holes = append(holes, circleAt(27*c, 27*s, 1.65, 20))
	}
	m.part(
		drive,
		"Motor flange",
		new(body).prism(-39, -35.5, circle(31, 64), holes...).shape(),
		space.Identity,
		"aluminium",
	)
	m.screws(drive, "Flange screw M3 × 10", m3, 10, poses...)
	profile := []point{{0, -92}, {20, -92}}
	for i := range 9 {
		z := -90 + float64(i)*5.5
		profile = append(profile, point{21, z}, point{21, z + 3.5}, point{20.2, z + 4}, point{20.2, z + 5})
	}
	profile = append(profile, point{21, -39.5}, point{8.8, -39.5}, point{8.8, -36}, point{0, -36})
	m.part(drive, "Motor", new(body).lathe(56, profile...).shape(), space.Identity, "motor")
	m.part(drive, "Motor shaft", new(body).rod(2.5, -36, -17, 0.4, 24).shape(), space.Identity, "steel")
	m.part(
		drive,
		"Motor end cap",
		new(body).rod(19, -96, -92, 0.8, 48).box(0, -10, -98.5, 16, 7, 5).shape(),
		space.Identity,
		"dark",
	)
}
