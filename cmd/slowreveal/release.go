package main

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"slowreveal/core/assembly"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/encode"
	"slowreveal/examine"
	"slowreveal/formats"
	"slowreveal/release"
	"slowreveal/render"
	"slowreveal/render/lettering"
	"slowreveal/sequence"
)

// making is what all commands share that make outputs of a reveal.
type making struct {
	source
	Threads int  `help:"Threads for rendering; 0 is one for each processor."`
	JSON    bool `name:"json" help:"Print what was made as JSON."`
	Quiet   bool `help:"Say nothing on the way."`
}

// looking is what those share that make pictures.
type looking struct {
	Size       string   `help:"Width and height in pixels, such as 1920x1080. The reveal's own when left out."`
	Captions   bool     `default:"true" negatable:"" help:"Set each step's title and instruction into the picture."`
	Fill       bool     `help:"In frames of another shape than the reveal's, cut off what does not fit in place of stepping back."`
	Notices    bool     `default:"true" negatable:"" help:"Set each step's safety notice and tools into the picture."`
	Background string   `help:"transparent for none (where the format keeps it), a colour like #f4efe6, or a picture's file (PNG, JPEG). The look's own when left out."`
	Font       []string `type:"path" help:"Font files for signs that the shipped fonts lack (TrueType, OpenType, WOFF); each sign takes the first that has it."`
	Boxes      bool     `help:"Make it although no font has some signs: they are boxes."`
	Samples    int      `default:"4" enum:"4,16" help:"Samples a pixel: ${enum}. With 16 lines are finer, and it takes four times as long."`
	SafeAreas  bool     `help:"Draw the borders of the safe areas."`
	Logo       string   `type:"path" help:"Picture (PNG, JPEG) for a corner."`
	Corner     string   `default:"lower-right" enum:"upper-left,upper-right,lower-left,lower-right" help:"Corner of the logo: ${enum}."`
}

func (l *looking) settings(s release.Settings) (release.Settings, error) {
	s.Captions, s.Fill, s.NoNotices, s.Background, s.Fonts, s.Boxes, s.Samples, s.SafeAreas = l.Captions, l.Fill, !l.Notices, l.Background, l.Font, l.Boxes, l.Samples, l.SafeAreas
	if l.Background != "" && l.Background != "transparent" && !strings.HasPrefix(l.Background, "#") {
		s.Background, s.Picture = "picture", l.Background
	}
	if l.Logo != "" {
		s.Logo = &release.Logo{Attachment: l.Logo, Corner: lettering.Corner(l.Corner)}
	}
	if l.Size != "" {
		if n, err := fmt.Sscanf(l.Size, "%dx%d", &s.Width, &s.Height); n != 2 || err != nil || s.Width <= 0 ||
			s.Height <= 0 {
			return s, fmt.Errorf("the size %q is not like 1920x1080", l.Size)
		}
	}
	return s, nil
}

// made is what the commands print of an output.
type made struct {
	File    string  `json:"file"`
	Kind    string  `json:"kind"`
	Format  string  `json:"format"`
	Width   int     `json:"width"`
	Height  int     `json:"height"`
	Frames  int     `json:"frames"`
	Length  float64 `json:"duration"` // s
	Bytes   int64   `json:"bytes"`
	Seconds float64 `json:"seconds"` // that it took
	Lost    string  `json:"lost,omitempty"`
}

// make makes one output.
func (m *making) make(ctx context.Context, s release.Settings, out string) error {
	if err := replaceable(out); err != nil {
		return err
	}
	model, doc, err := m.open(ctx)
	if err != nil {
		return err
	}
	return m.makeOf(ctx, s, model, doc, out)
}

func (m *making) makeOf(
	ctx context.Context,
	s release.Settings,
	model *formats.Model,
	doc *reveal.Reveal,
	out string,
) error {
	w, err := m.plan(ctx, s, model, doc)
	if err != nil {
		return err
	}
	if err := fitting(out, w.Extension()); err != nil {
		return err
	}
	done, err := m.output(ctx, w, out)
	if err != nil || !m.JSON {
		return err
	}
	return printJSON(done)
}

// plan works an output out, its files looked up.
func (m *making) plan(
	ctx context.Context,
	s release.Settings,
	model *formats.Model,
	doc *reveal.Reveal,
) (*release.Work, error) {
	w, err := release.Plan(s, model, doc, func(path string) (*formats.Model, *reveal.Reveal, error) {
		other, err := readReveal(path, model)
		return model, other, err
	})
	if err != nil {
		return nil, err
	}
	w.Threads(m.Threads)
	if err := w.Attach(attachedFile(ctx)); err != nil {
		return nil, err
	}
	return w, w.Readable()
}

func (m *making) output(ctx context.Context, w *release.Work, out string) (made, error) {
	begun := time.Now()
	var progress func(done, of int)
	if !m.Quiet {
		progress = func(done, of int) {
			if done%10 == 0 || done == of {
				fmt.Fprintf(
					os.Stderr,
					"\r%s: frame %d of %d, %.1f frames/s ",
					filepath.Base(out),
					done,
					of,
					float64(done)/time.Since(begun).Seconds(),
				)
			}
		}
		defer fmt.Fprintln(os.Stderr)
	}
	if err := w.Make(ctx, out, progress); err != nil {
		return made{}, err
	}
	info, err := os.Stat(out)
	if err != nil {
		return made{}, err
	}
	if lost := w.Lost(); lost != "" && !m.Quiet {
		fmt.Fprintln(os.Stderr, lost)
	}
	return made{
		out,
		string(w.Settings.Kind),
		w.Settings.Format,
		w.Settings.Width,
		w.Settings.Height,
		w.Frames(),
		float64(w.Length()) / 1e6,
		info.Size(),
		time.Since(begun).Seconds(),
		w.Lost(),
	}, nil
}

// attachedFile takes the names of attachments for files.
func attachedFile(ctx context.Context) release.Attachments {
	return func(path string, kind release.AttachmentKind) (string, error) {
		var err error
		switch kind {
		case release.SoundFile:
			_, err = encode.Listen(ctx, path)
		case release.FontFile:
			err = examine.File(ctx, examine.Font, path)
		default:
			err = examine.File(ctx, examine.Picture, path)
		}
		if err != nil {
			return "", fmt.Errorf("%s: %w", path, err)
		}
		return path, nil
	}
}

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
	Time []moment `required:"" help:"The moment, seconds; several make a ZIP."`
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

type packCommand struct {
	making
	Set string `required:"" type:"path" help:"JSON file with a list of outputs: settings as the API takes them, each with a name."`
	Out string `required:"" type:"path" help:"Folder to write into."`
	// Proof and Refuse say what is done about faults of the film.
	Proof  bool `help:"Also write what was looked for and found: proof.html and proof.json."`
	Refuse bool `name:"refuse-faults" help:"Make nothing of a film with faults that are not accepted."`
}

// proven looks at the film where that is asked for.
func (c *packCommand) proven(ctx context.Context, m *formats.Model, doc *reveal.Reveal) error {
	if !c.Proof && !c.Refuse {
		return nil
	}
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	if err != nil {
		return err
	}
	r, err := found(ctx, m, scene, doc, proof.Settings{}, false)
	if err != nil {
		return err
	}
	if c.Proof {
		if err := os.MkdirAll(c.Out, 0o755); err != nil {
			return fmt.Errorf("making the folder: %w", err)
		}
		if err := writePage(filepath.Join(c.Out, "proof.html"), m, scene, doc, &r); err != nil {
			return err
		}
		text, err := json.MarshalIndent(r, "", "  ")
		if err != nil {
			return err
		}
		if err := os.WriteFile(filepath.Join(c.Out, "proof.json"), append(text, '\n'), 0o644); err != nil {
			return fmt.Errorf("writing the proof: %w", err)
		}
	}
	if n := r.Open(proof.Fault); c.Refuse && n > 0 {
		return fmt.Errorf("nothing was made: the film has %d faults, the first: %s", n, firstFault(&r))
	}
	return nil
}

func firstFault(r *proof.Outcome) string {
	for i := range r.Findings {
		if f := &r.Findings[i]; f.Level == proof.Fault && f.Accepted == "" {
			return f.Says
		}
	}
	return ""
}

// Run makes a set of outputs. All of them are checked before the first is begun.
func (c *packCommand) Run(ctx context.Context) error {
	data, err := os.ReadFile(c.Set)
	if err != nil {
		return fmt.Errorf("the set of outputs cannot be read: %w", err)
	}
	var list []release.Settings
	decoder := json.NewDecoder(strings.NewReader(string(data)))
	decoder.DisallowUnknownFields()
	if err := decoder.Decode(&list); err != nil {
		return fmt.Errorf("the set of outputs %s is not a list of settings: %w", c.Set, err)
	}
	model, doc, err := c.open(ctx)
	if err != nil {
		return err
	}
	works, paths, err := c.check(ctx, list, model, doc)
	if err != nil {
		return err
	}
	if err := c.proven(ctx, model, doc); err != nil {
		return err
	}
	if err := os.MkdirAll(c.Out, 0o755); err != nil {
		return fmt.Errorf("making the folder: %w", err)
	}
	all := []made{}
	for i, w := range works {
		done, err := c.output(ctx, w, paths[i])
		if err != nil {
			return fmt.Errorf("output %d (%s): %w", i+1, w.Settings.Name, err)
		}
		all = append(all, done)
	}
	if c.JSON {
		return printJSON(all)
	}
	return nil
}

// check works all outputs of a set out, and what their files are called.
func (c *packCommand) check(
	ctx context.Context,
	list []release.Settings,
	model *formats.Model,
	doc *reveal.Reveal,
) (works []*release.Work, paths []string, err error) {
	names := map[string]bool{}
	for i, s := range list {
		w, err := c.plan(ctx, s, model, doc)
		if err != nil {
			return nil, nil, fmt.Errorf("output %d (%s): %w", i+1, s.Name, err)
		}
		name := release.FileName(s.Name)
		if s.Name == "" {
			name = fmt.Sprintf("output-%d", i+1)
		}
		path := filepath.Join(c.Out, name+"."+w.Extension())
		if names[path] {
			return nil, nil, fmt.Errorf("two outputs would be called %s: give one another name", path)
		}
		if err := replaceable(path); err != nil {
			return nil, nil, err
		}
		names[path] = true
		works, paths = append(works, w), append(paths, path)
	}
	return works, paths, nil
}
