//go:build !player

package editor

import (
	"strconv"

	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/compose"
	"slowreveal/core/fastener"
	"slowreveal/core/film"
	"slowreveal/core/plan"
	"slowreveal/core/quantity"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/timecode"
)

// authoring are the queries of a page on which a reveal is made.
var authoring = []Query{
	query("quantity", func(_ *Editor, q Typed) (float64, error) { return quantity.Parse(q.Kind, q.Text) }),
	query("adjust", func(_ *Editor, q Typed) ([]float64, error) { return quantity.Adjust(q.Kind, q.Text, q.Values) }),
	query("plain", func(_ *Editor, q Text) (string, error) { return reveal.PlainProse(q.Text), nil }),
	query("easing", func(_ *Editor, q Eased) ([4]float64, error) { return q.Easing.Points(), nil }),
	query("frames", func(_ *Editor, q Counted) (int, error) { return timecode.FrameCount(q.Time, q.Rate), nil }),
	query("drag", func(_ *Editor, q Dragged) (float64, error) { return q.distance() }),
	constant("finishes", arrange.Library),
	constant("threads", fastener.Coarse),
	constant("mechanismWords", mechanismWords()),
	constant("hazards", plan.Hazards),
	query("jointAs", func(_ *Editor, q AlteredJoint) (assembly.Joint, error) { return q.joint(), nil }),
	ofAssembly("ties", (*Editor).ties),
	ofAssembly("newCoupling", (*Editor).newCoupling),
	ofFilm("ends", func(d *Editor, _ nothing) ([]reveal.Micros, error) { return d.film.Ends(), nil }),
	ofAssembly("between", func(d *Editor, q Pair) (solid.Relation, error) { return d.between(q.A, q.B) }),
	ofAssembly("edgeAt", (*Editor).edgeAt),
	ofAssembly("pick", (*Editor).pick),
	ofAssembly("ways", func(d *Editor, q Picked) (compose.Ways, error) { return d.subject().Ways(q.Nodes) }),
	ofAssembly("reference", func(d *Editor, q Referred) ([]compose.Offered, error) {
		return d.subject().Reference(q.By, q.Nodes)
	}),
	ofAssembly("differences", (*Editor).differences),
	ofAssembly("newJoint", (*Editor).newJoint),
	ofAssembly("axes", (*Editor).axes),
	ofAssembly("follow", (*Editor).follow),
	ofAssembly("local", (*Editor).local),
	ofFilm("compose", func(d *Editor, o compose.Operation) (compose.Composed, error) {
		return compose.Apply(d.subject(), o)
	}),
	ofFilm("planned", (*Editor).planned),
	ofFilm("snap", func(d *Editor, q Moment) (reveal.Micros, error) {
		return timecode.Snap(q.Time, d.reveal.Frame.Rate), nil
	}),
	ofFilm("stepFrames", func(d *Editor, q Stepped) (reveal.Micros, error) {
		return timecode.StepFrames(q.Time, q.Frames, d.reveal.Frame.Rate), nil
	}),
	ofFilm("digest", func(d *Editor, q Moment) (string, error) {
		return strconv.FormatUint(d.Digest(q.Time), 16), nil
	}),
	ofFilm("place", func(d *Editor, q Moment) (Place, error) { return d.place(q.Time), nil }),
	ofFilm("reach", (*Editor).reach),
	ofFilm("caption", func(d *Editor, q Moment) (Said, error) {
		step, opacity := d.film.Caption(q.Time)
		return Said{step, opacity}, nil
	}),
	ofFilm("captions", func(d *Editor, _ nothing) (reveal.Captions, error) { return d.reveal.CaptionStyle(), nil }),
	ofFilm("cards", func(d *Editor, q Moment) ([]film.Card, error) { return d.evaluate(q.Time).Cards, nil }),
	ofFilm("posed", (*Editor).posed),
	ofFilm("driven", (*Editor).driven),
	ofFilm("round", (*Editor).round),
	ofFilm("strip", (*Editor).strip),
	ofFilm("draft", func(d *Editor, _ nothing) (reveal.Frame, error) { return d.reveal.Frame.Draft(), nil }),
	ofFilm("leaving", (*Editor).leaving),
	ofFilm("drivenNodes", func(d *Editor, _ nothing) ([]assembly.NodeID, error) { return d.film.DrivenNodes(), nil }),
	ofFilm("threadGuessed", (*Editor).threadGuessed),
}
