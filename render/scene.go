package render

import (
	"fmt"
	"math"
	"runtime"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Scene is an assembly with its shapes, ready to be drawn. It is read-only and
// may be shared between renderers.
type Scene struct {
	assembly *assembly.Assembly
	shapes   []*solid.Shape
	parts    []part
	// triangles is the number of triangles over all parts; edges likewise.
	triangles, edges int
	surfaces         []surface    // by finish of the assembly
	partOf           []int32      // by id of a triangle
	partOfEdge       []int32      // by number of an edge
	lines            [][]edgeLine // by shape: what its edges are
	orders           []order      // by shape
	triangle         [][]triangle // by shape
	bounds           space.Box    // of all parts at rest, in the world
	dash             float64      // of flow lines, mm
	depth            float64      // over which parallel lines of sight tell near from far, mm
}

// part is one node with a body.
type part struct {
	node, shape int
	// first is the id of the part's first triangle: ids count from 1 over the whole
	// scene. firstEdge is the number of its first edge.
	first, firstEdge int
	last             int32             // the id of its last triangle
	finishes         []*surface        // by patch
	worn             []assembly.Finish // what they are made from
	clear            bool              // some patch is see-through by itself
	closed           bool              // backs need not be drawn
}

// surface is a finish, ready for shading.
type surface struct {
	base, f0              [3]float32
	metal, rough          float32
	opacity               float32
	flat                  float32    // how far it goes to the flat colour
	transparent           [3]float32 // the colour of the flat colour
	shininessLog2         int
	diffuse               [3]float32
	shineGain, smoothness float32
	// denormalFloor is the least shine: its squares stay above the numbers with fewer digits, on
	// which processors lose much time.
	denormalFloor float32
	wide          wideSurface
}

// wideSurface holds the same numbers for the vector loops: each eight times.
type wideSurface struct {
	f0, f0Less, diffuse                         [3][lanes]float32 // f0Less is 1 − f0
	rough, smoothness, shineGain, denormalFloor [lanes]float32
}

func (s *surface) widen() {
	for k := range 3 {
		spread(&s.wide.f0[k], s.f0[k])
		spread(&s.wide.f0Less[k], 1-s.f0[k])
		spread(&s.wide.diffuse[k], s.diffuse[k])
	}
	spread(&s.wide.rough, s.rough)
	spread(&s.wide.smoothness, s.smoothness)
	spread(&s.wide.shineGain, s.shineGain)
	spread(&s.wide.denormalFloor, s.denormalFloor)
}

// NewScene prepares an assembly for drawing. shapes are in the order of
// a.Shapes.
func NewScene(a *assembly.Assembly, shapes []*solid.Shape) (*Scene, error) {
	if len(shapes) != len(a.Shapes) {
		return nil, fmt.Errorf("the assembly has %d shapes, %d were given", len(a.Shapes), len(shapes))
	}
	bounds := a.Bounds()
	s := &Scene{
		assembly: a,
		shapes:   shapes,
		bounds:   bounds,
		dash:     film.DashOf(bounds),
		depth:    orthographicDepth * r3.Norm(bounds.Size()),
	}
	for i := range a.Finishes {
		s.surfaces = append(s.surfaces, surfaceOf(&a.Finishes[i]))
	}
	s.partOf = []int32{-1} // none
	closed := make([]bool, len(shapes))
	s.orders = make([]order, len(shapes))
	s.triangle = make([][]triangle, len(shapes))
	s.lines = make([][]edgeLine, len(shapes))
	spreadOver(runtime.GOMAXPROCS(0), len(shapes), func(_, i int) {
		closed[i] = shapes[i].Closed()
		s.orders[i] = orderOf(shapes[i])
		s.triangle[i] = trianglesOf(shapes[i], s.orders[i].turn(shapes[i].Triangles))
		s.lines[i] = edgeLinesOf(shapes[i])
	})
	for i := range a.Nodes {
		n := &a.Nodes[i]
		if n.Shape < 0 {
			continue
		}
		p := part{node: i, shape: n.Shape, first: s.triangles + 1, firstEdge: s.edges, closed: closed[n.Shape]}
		for _, f := range n.Finishes {
			p.clear = p.clear || a.Finishes[f].Opacity < 1
			p.finishes, p.worn = append(p.finishes, &s.surfaces[f]), append(p.worn, a.Finishes[f])
		}
		for range s.triangle[n.Shape] {
			s.partOf = append(s.partOf, int32(len(s.parts)))
		}
		p.last = int32(s.triangles + len(shapes[n.Shape].Triangles)/3)
		s.triangles += len(shapes[n.Shape].Triangles) / 3
		s.edges += len(shapes[n.Shape].Edges)
		for range shapes[n.Shape].Edges {
			s.partOfEdge = append(s.partOfEdge, int32(len(s.parts)))
		}
		s.parts = append(s.parts, p)
	}
	return s, nil
}

// FinishesOf returns which of the assembly's finishes a node wears, patch by patch.
func (s *Scene) FinishesOf(node int) []int { return s.assembly.Nodes[node].Finishes }

// triangle is one of a shape: its corners, and what is asked of it together with them.
type triangle struct {
	// corner are vertices. A triangle that begins a quadrangle is turned to begin with the corner that
	// it does not share.
	corner [3]uint32
	look   uint32 // twice its patch, and one more when its normals are all the same
}

func (t *triangle) flat() bool { return t.look&1 == 1 }
func (t *triangle) patch() int { return int(t.look >> 1) }

// trianglesOf returns a shape's triangles, of which corners says how they are turned.
func trianglesOf(s *solid.Shape, corners []uint32) []triangle {
	list := make([]triangle, len(corners)/3)
	for p, patch := range s.Submeshes {
		for i := patch.First; i < patch.First+patch.Count; i++ {
			list[i].look = 2 * uint32(p)
		}
	}
	for i := range list {
		t := &list[i]
		t.corner = [3]uint32(corners[3*i:])
		far := float32(0)
		for k := range 3 {
			n := s.Normals[3*t.corner[0]+uint32(k)]
			for _, other := range t.corner[1:] {
				d := s.Normals[3*other+uint32(k)] - n
				far = max(far, d, -d)
			}
		}
		if far < 1e-5 {
			t.look++
		}
	}
	return list
}

func surfaceOf(f *assembly.Finish) surface {
	s := surface{metal: float32(f.Metalness), rough: float32(f.Roughness), opacity: float32(f.Opacity)}
	for k := range 3 {
		s.base[k] = float32(f.Colour[k])
		s.f0[k] = look.Dielectric + (s.base[k]-look.Dielectric)*s.metal
		s.diffuse[k] = s.base[k] * (1 - s.metal)
	}
	s.shininessLog2 = int(look.ShininessLog2 - look.ShininessLog2Rough*s.rough + 0.5)
	s.denormalFloor = float32(math.Exp2(-100 / float64(int(1)<<s.shininessLog2)))
	s.shineGain = look.Shine - look.ShineRough*s.rough
	s.smoothness = 1 - s.rough
	s.widen()
	return s
}

// View is what a frame is drawn from: poses, opacities, camera, and the
// contact shadow. It may outlive the film's frame that it was taken from.
type View struct {
	World   []space.Rigid
	Opacity []float64
	Tint    []film.Tint
	Surface []film.Surface
	Flow    []film.Segment
	// Transparent are the colours of the flat colour that parts take by node, where their surface
	// goes to it; nil for that of the look.
	Transparent []space.Vec3
	// TransparentFinish are the same by finish of the assembly, before those by node.
	TransparentFinish []space.Vec3
	// Inks are the colours of parts' lines by node, nil for that of the look.
	Inks []space.Vec3
	// AllEdges draws edges behind faces that are gone as strongly as those in front.
	AllEdges bool
	// Unoccluded lets parts not darken each other.
	Unoccluded bool
	// Filled are parts, by node, whose finishes let nothing through; nil for those of which that is so anyway.
	Filled []bool
	Camera viewCamera
	shadow *look.Shadow
}

func (v *View) fills(node int) bool { return v.Filled != nil && v.Filled[node] }

// WithoutShadow takes the contact shadow off the floor.
func (v *View) WithoutShadow() { clear(v.shadow.Dark) }

// NewView returns an empty view of the scene.
func (s *Scene) NewView() *View {
	return &View{
		World:   make([]space.Rigid, len(s.assembly.Nodes)),
		Opacity: make([]float64, len(s.assembly.Nodes)),
		Tint:    make([]film.Tint, len(s.assembly.Nodes)),
		Surface: make([]film.Surface, len(s.assembly.Nodes)),
		shadow:  look.NewShadow(s.bounds),
	}
}

// Take copies a frame of a film into the view, for a picture of the given
// aspect.
func (v *View) Take(s *Scene, fr *film.Frame, aspect float64) {
	copy(v.World, fr.World)
	copy(v.Opacity, fr.Opacity)
	copy(v.Tint, fr.Tint)
	copy(v.Surface, fr.Surface)
	v.Flow = append(v.Flow[:0], fr.Flow...)
	v.Unoccluded, v.Filled = fr.NoOcclusion, nil
	v.Camera = s.camera(fr.Camera, aspect)
	v.shadow.Cast(s.assembly, fr)
}

// Shows reports whether the view already shows exactly what fr shows.
func (v *View) Shows(s *Scene, fr *film.Frame, aspect float64) bool {
	return v.Camera == s.camera(fr.Camera, aspect) && slices.Equal(v.World, fr.World) &&
		slices.Equal(v.Opacity, fr.Opacity) &&
		slices.Equal(v.Tint, fr.Tint) &&
		slices.Equal(v.Surface, fr.Surface) &&
		slices.Equal(v.Flow, fr.Flow)
}
