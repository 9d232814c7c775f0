package render

import (
	"slices"

	"slowreveal/core/film"
)

// Eyes see whose surface each pixel of a small picture shows, for package proof. They are for one goroutine.
type Eyes struct {
	renderer *Renderer
	view     *View
	picture  *Picture
	aspect   float64
}

// eyesHeight is how high the picture is that they see, pixels: what is 12 pixels large in 1080 lines is 3 there.
const eyesHeight = 270

// NewEyes returns eyes for frames of a shape, width over height.
func NewEyes(s *Scene, aspect float64) (*Eyes, error) { return NewEyesOf(s, aspect, eyesHeight, 1) }

// NewEyesOf returns eyes that see pictures of a height in pixels.
func NewEyesOf(s *Scene, aspect float64, height, threads int) (*Eyes, error) {
	width := max(2, min(int(float64(height)*aspect/2+0.5)*2, 4*height))
	r, err := NewRenderer(s, width, height, threads)
	if err != nil {
		return nil, err
	}
	r.withoutColours()
	return &Eyes{r, s.NewView(), NewPicture(width, height), aspect}, nil
}

// Size is the picture's, in pixels.
func (e *Eyes) Size() (width, height int) { return e.renderer.width, e.renderer.height }

// Nodes is for proof.Eyes.
func (e *Eyes) Nodes(fr *film.Frame, solid []bool, alone bool) []int32 {
	v := e.view
	v.Take(e.renderer.scene, fr, e.aspect)
	v.Unoccluded = true
	v.WithoutShadow()
	v.Flow, v.Filled = nil, solid
	for i := range v.Opacity {
		v.Surface[i] = film.Surface{Faces: 1}
		switch {
		case v.Opacity[i] == 0:
		case solid[i]:
			v.Opacity[i] = 1
		case alone || v.Opacity[i] < 1:
			v.Opacity[i] = 0 // it is not there, or hides nothing
		}
	}
	e.renderer.Draw(v, e.picture)
	return e.renderer.ids
}

// Opaque returns the scene with finishes that let nothing through: to find where clear parts are.
func (s *Scene) Opaque() *Scene {
	o := *s
	o.parts = slices.Clone(s.parts)
	for i := range o.parts {
		p := &o.parts[i]
		if !p.clear {
			continue
		}
		p.clear, p.worn, p.finishes = false, slices.Clone(p.worn), nil
		for k := range p.worn {
			p.worn[k].Opacity = 1
			surface := surfaceOf(&p.worn[k])
			p.finishes = append(p.finishes, &surface)
		}
	}
	return &o
}
