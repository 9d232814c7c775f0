package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/encode"
	"slowreveal/examine"
	"slowreveal/release"
	"slowreveal/render/lettering"
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
	model *product.Model,
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
	model *product.Model,
	doc *reveal.Reveal,
) (*release.Work, error) {
	if s.Variant == "" {
		s.Variant = m.Variant
	}
	w, err := release.Plan(s, model, doc, func(path string) (*product.Model, *reveal.Reveal, error) {
		other, err := readReveal(path, model)
		return model, other, err
	})
	if err != nil {
		return nil, err
	}
	w.Origin.File = filepath.Base(m.Assembly)
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
