package editor

import (
	"math"
	"slices"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/core/variant"
)

// At puts the playhead at t and fills Matrices, Opacities and Camera.
// Without a reveal everything stands at rest.
func (d *Editor) At(t reveal.Micros) {
	if d.assembly == nil {
		return
	}
	if d.film == nil {
		d.reveal = reveal.New("At rest", reveal.Camera{Orientation: space.NoRotation, Distance: 500, FocalLength: 50})
		d.compile()
	}
	d.film.At(t, d.frame)
	d.publish(d.frame)
}

// AtRest fills the arrays with the assembly as it was imported: everything is
// there, solid and in its place, but for a joint that is tried out, whatever the reveal says.
func (d *Editor) AtRest() {
	if d.assembly == nil {
		return
	}
	if d.tried != nil {
		d.publish(d.tried.frame)
		return
	}
	d.publish(d.rest())
}

// rest is the assembly as it was imported.
func (d *Editor) rest() *film.Frame {
	if d.resting == nil {
		r := reveal.New("At rest", reveal.Camera{Orientation: space.NoRotation, Distance: 500, FocalLength: 50})
		f := film.Compile(d.assembly, variant.Of(d.product, r, d.variant).Reveal)
		d.resting = f.NewFrame()
		f.At(0, d.resting)
	}
	return d.resting
}

// publish copies a frame into the arrays that the page reads. Where they hold an earlier moment of the
// same film, only what changes in the film is looked at.
func (d *Editor) publish(fr *film.Frame) {
	d.altering = d.altering[:0]
	if fr == d.shown && fr == d.frame {
		for _, i := range d.film.Changing() {
			d.publishNode(fr, i)
		}
	} else {
		for i := range fr.World {
			d.publishNode(fr, int32(i))
		}
	}
	before := d.Flow
	d.Flow = d.otherFlow[:0]
	for i := range fr.Flow {
		fr.Flow[i].Dashes(d.dash, func(a, b space.Vec) {
			d.Flow = append(d.Flow, float32(a.X), float32(a.Y), float32(a.Z), float32(b.X), float32(b.Y), float32(b.Z))
		})
	}
	d.otherFlow = before
	camera := d.cameraOf(fr)
	unlike := camera
	unlike[stepField], unlike[timeField] = d.Camera[stepField], d.Camera[timeField]
	if d.shown == nil || len(d.altering) > 0 || unlike != d.Camera || !slices.Equal(before, d.Flow) {
		d.Version++
		d.Altered, d.altering = d.altering, d.Altered
	}
	d.Camera, d.shown = camera, fr
}

// publishNode copies one node, without a branch for each number: with ten thousand parts that all move it is half of
// what a picture takes.
func (d *Editor) publishNode(fr *film.Frame, i int32) {
	w, t, s := &fr.World[i], &fr.Tint[i], &fr.Surface[i]
	r, m := &w.R, (*[16]float32)(d.Matrices[16*i:])
	differs := put(&m[0], r[0]) | put(&m[1], r[3]) | put(&m[2], r[6]) |
		put(&m[4], r[1]) | put(&m[5], r[4]) | put(&m[6], r[7]) |
		put(&m[8], r[2]) | put(&m[9], r[5]) | put(&m[10], r[8]) |
		put(&m[12], w.T.X) | put(&m[13], w.T.Y) | put(&m[14], w.T.Z) | put(&m[15], 1)
	surface, tint := (*[3]float32)(d.Surfaces[3*i:]), (*[4]float32)(d.Tints[4*i:])
	differs |= put(&surface[0], s.Flat) | put(&surface[1], s.Faces) | put(&surface[2], s.Edges) |
		put(&tint[0], t.Colour[0]) | put(&tint[1], t.Colour[1]) | put(&tint[2], t.Colour[2]) | put(&tint[3], t.Amount) |
		put(&d.Opacities[i], fr.Opacity[i])
	if differs != 0 {
		d.altering = append(d.altering, i)
	}
}

// put stores a number and tells by which bits it is another one than before.
func put(to *float32, value float64) uint32 {
	v := float32(value)
	differs := math.Float32bits(*to) ^ math.Float32bits(v)
	*to = v
	return differs
}

func (d *Editor) cameraOf(fr *film.Frame) [cameraFields]float64 {
	c := &fr.Camera
	across, up := film.Field(c.FocalLength, d.aspect())
	parallel := 0.0
	if c.Orthographic {
		parallel = 1
	}
	return [cameraFields]float64{
		c.Target[0],
		c.Target[1],
		c.Target[2],
		c.Orientation[0],
		c.Orientation[1],
		c.Orientation[2],
		c.Orientation[3],
		c.Distance,
		c.FocalLength,
		float64(fr.Step),
		float64(fr.Time),
		across,
		up,
		parallel,
	}
}
