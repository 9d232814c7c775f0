package main

import (
	"context"
	"fmt"
	"path/filepath"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/encode"
	"slowreveal/release"
	"slowreveal/sequence"
)

type filmCommand struct {
	making
	looking
	Out          string   `required:"" type:"path" help:"File to write."`
	Format       string   `help:"Format: mp4-h264, mp4-h265, mp4-av1, webm-vp9, mov-prores, mov-png, avi-mjpeg, gif, webp. That of the file's ending when left out."`
	Purpose      string   `default:"web" enum:"draft,web,archive,edit" help:"What it is for: ${enum}."`
	FPS          int      `name:"fps" help:"Frames a second. The reveal's own when left out."`
	NTSC         bool     `name:"ntsc" help:"Take 1000/1001 of the rate (23.976, 29.97, 59.94)."`
	From         moment   `help:"Begin at this time, seconds."`
	To           moment   `help:"End at this time, seconds; 0 is the end."`
	Step         []string `help:"Show just these steps, by id."`
	Speed        number   `default:"1" help:"How fast time runs."`
	Reverse      bool     `help:"Show it backwards."`
	MotionBlur   int      `help:"Motion blur: how many moments a frame is the mean of."`
	Aperture     number   `help:"Depth of field: the focal length over the lens's diameter, such as 2.8; 0 for everything sharp."`
	Author       string   `help:"Author, for the file's metadata."`
	Sound        string   `type:"path" help:"Music or a voice (WAV, MP3, M4A …)."`
	SoundFrom    seconds  `help:"When the sound begins, seconds of the film; negative leaves its beginning out."`
	Gain         number   `help:"How much louder the sound is, dB."`
	FadeOut      moment   `help:"How long the sound fades before the end, seconds."`
	Draft        bool     `help:"The same as --purpose draft."`
	Card         string   `help:"Title of a card before the film."`
	CardText     string   `help:"What the card says under its title."`
	CardDuration moment   `default:"3" help:"How long the card stands, seconds."`
	Then         []string `sep:"none" help:"Reveal document that follows, or own for the same one again; with ,reverse behind it, backwards. Again for more."`
	CrossFade    moment   `help:"How long reveals and cards cross-fade, seconds."`
	Poster       *moment  `help:"The film's moment that stands for it, seconds; kept in MP4."`
}

// Run makes a film.
func (c *filmCommand) Run(ctx context.Context) (err error) {
	if c.Format == "" {
		if c.Format, err = encode.FormatOf(c.Out); err != nil {
			return err
		}
	}
	s := release.Settings{
		Kind:           release.Film,
		Format:         c.Format,
		Purpose:        encode.Purpose(c.Purpose),
		Rate:           c.FPS,
		NTSC:           c.NTSC,
		From:           c.From.micros(),
		To:             c.To.micros(),
		Speed:          float64(c.Speed),
		Reverse:        c.Reverse,
		Author:         c.Author,
		ShutterSamples: c.MotionBlur,
		Aperture:       float64(c.Aperture),
	}
	if c.Draft {
		s.Purpose = encode.Draft
	}
	for _, id := range c.Step {
		s.Steps = append(s.Steps, reveal.StepID(id))
	}
	if c.Sound != "" {
		s.Sound = &release.Sound{
			Attachment: c.Sound,
			Sound:      encode.Sound{Start: c.SoundFrom.micros(), Gain: float64(c.Gain), FadeOut: c.FadeOut.micros()},
		}
	}
	if c.Card != "" {
		s.Card = &sequence.TitleCard{Title: c.Card, Text: c.CardText, Duration: c.CardDuration.micros()}
	}
	for _, t := range c.Then {
		path, reverse := strings.CutSuffix(t, ",reverse")
		if path == "own" {
			path = ""
		}
		s.Then = append(s.Then, release.Then{Reveal: path, Reverse: reverse})
	}
	if s.CrossFade = c.CrossFade.micros(); c.Poster != nil {
		at := c.Poster.micros()
		s.Poster = &at
	}
	s, err = c.settings(s)
	if err != nil {
		return err
	}
	return c.make(ctx, s, c.Out)
}

type stillCommand struct {
	making
	looking
	Time  []moment `required:"" help:"The moment, seconds; several make a ZIP."`
	Strip int      `help:"So many pictures beside one another instead, evenly over the time --over from the moment on."`
	Over  moment   `help:"How long the strip goes on, seconds: a period of a mechanism shows how it works."`
	layered
	Format string `default:"png" enum:"png,jpeg,tiff" help:"Format: ${enum}."`
	Bits   int    `default:"8" enum:"8,16" help:"Bits a colour: ${enum}; 16 for PNG and TIFF."`
	Out    string `required:"" type:"path" help:"Picture, or ZIP, to write."`
}

// Run makes pictures.
func (c *stillCommand) Run(ctx context.Context) error {
	s := release.Settings{Kind: release.Stills, Format: c.Format, SixteenBits: c.Bits == 16}
	for _, t := range c.Time {
		s.At = append(s.At, t.micros())
	}
	if c.Strip > 0 {
		s.Strip = &release.StillStrip{Count: c.Strip, From: s.At[0], Over: c.Over.micros()}
		s.At = s.At[1:]
	}
	s, err := c.settings(s)
	if err != nil {
		return err
	}
	return c.layers(ctx, &c.making, s, c.Out)
}

// layered is what commands share that make pictures in layers.
type layered struct {
	Layers []string `help:"Pictures of each moment: shaded; background, shadow, faces, edges, words, which laid over one another are the picture; hidden, depth. Several make a ZIP."`
	Matte  []string `sep:"none" help:"One more layer, NAME=PART,PART with the ids of parts or groups, or NAME=finish:FINISH: white where these are seen. Again for more."`
	Mattes string   `default:"" enum:",parts,finishes" help:"A matte for each of these: parts, finishes."`
}

// layers makes an output in the layers that were asked for.
func (l *layered) layers(ctx context.Context, m *making, s release.Settings, out string) error {
	if err := replaceable(out); err != nil {
		return err
	}
	for _, n := range l.Layers {
		s.Layers = append(s.Layers, sequence.Layer{Kind: sequence.LayerKind(n)})
	}
	for _, text := range l.Matte {
		name, of, found := strings.Cut(text, "=")
		if !found || name == "" || of == "" {
			return fmt.Errorf("the matte %q is not like NAME=PART,PART or NAME=finish:FINISH", text)
		}
		matte := sequence.Layer{Kind: sequence.Matte, Name: name}
		if finish, is := strings.CutPrefix(of, "finish:"); is {
			matte.Finish = finish
		} else {
			for _, id := range strings.Split(of, ",") {
				matte.Nodes = append(matte.Nodes, assembly.NodeID(id))
			}
		}
		s.Layers = append(s.Layers, matte)
	}
	model, doc, err := m.open(ctx)
	if err != nil {
		return err
	}
	if l.Mattes != "" {
		s.Layers = append(s.Layers, sequence.MattesOf(model.Assembly, l.Mattes == "parts")...)
	}
	return m.makeOf(ctx, s, model, doc, out)
}

type framesCommand struct {
	making
	looking
	FPS  int    `name:"fps" help:"Frames a second. The reveal's own when left out."`
	From moment `help:"Begin at this time, seconds."`
	To   moment `help:"End at this time, seconds; 0 is the end."`
	layered
	Format string `default:"png" enum:"png,jpeg,tiff" help:"Format: ${enum}."`
	Bits   int    `default:"8" enum:"8,16" help:"Bits a colour: ${enum}; 16 for PNG and TIFF."`
	Out    string `required:"" type:"path" help:"ZIP to write."`
}

// Run makes a sequence of pictures.
func (c *framesCommand) Run(ctx context.Context) error {
	s, err := c.settings(
		release.Settings{
			Kind:        release.Frames,
			Format:      c.Format,
			Rate:        c.FPS,
			From:        c.From.micros(),
			To:          c.To.micros(),
			SixteenBits: c.Bits == 16,
		},
	)
	if err != nil {
		return err
	}
	return c.layers(ctx, &c.making, s, c.Out)
}

type glbCommand struct {
	making
	Out string `required:"" type:"path" help:"GLB to write."`
}

// Run writes the reveal as an animated GLB.
func (c *glbCommand) Run(ctx context.Context) error {
	return c.make(ctx, release.Settings{Kind: release.GLB}, c.Out)
}

type captionsCommand struct {
	making
	Out string `required:"" type:"path" help:"Captions to write: .vtt or .srt."`
}

// Run writes the steps' words as captions.
func (c *captionsCommand) Run(ctx context.Context) error {
	return c.make(
		ctx,
		release.Settings{Kind: release.Captions, Format: strings.TrimPrefix(filepath.Ext(c.Out), ".")},
		c.Out,
	)
}
