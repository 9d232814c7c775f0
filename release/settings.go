package release

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"slowreveal/clientpage"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/encode"
	"slowreveal/paper"
	"slowreveal/paper/manual"
	"slowreveal/paper/sheet"
	"slowreveal/render/lettering"
	"slowreveal/sequence"
)

// Kind is a kind of output.
type Kind string

// The kinds.
const (
	Film     Kind = "film"
	Frames   Kind = "frames"   // a sequence of pictures, as a ZIP
	Stills   Kind = "stills"   // chosen moments
	GLB      Kind = "glb"      // the reveal as an animated glTF 2.0 file
	Captions Kind = "captions" // the steps' words beside the film
	Lines    Kind = "lines"    // chosen moments as line drawings
	Sheet    Kind = "sheet"    // a drawing sheet with item references and a parts list
	Parts    Kind = "parts"    // the parts list as a table
	Manual   Kind = "manual"   // the step-by-step document
	Page     Kind = "page"     // the one HTML file that a client turns by hand
)

// SaysNames reports whether what is made says what parts are called, so that it is to be made again when one is called
// otherwise.
func (k Kind) SaysNames() bool {
	return slices.Contains([]Kind{GLB, Lines, Sheet, Parts, Manual, Page}, k)
}

// Settings are what a person chooses for an output.
type Settings struct {
	Kind Kind `json:"kind,omitempty"` // a film when empty
	// Name is the output's name; the reveal's when empty.
	Name string `json:"name,omitempty"`
	// Format is a video format's name, png, jpeg or tiff for pictures, vtt or srt for captions.
	Format   string          `json:"format,omitempty"`
	Purpose  encode.Purpose  `json:"purpose,omitempty"`
	Width    int             `json:"width,omitempty"`
	Height   int             `json:"height,omitempty"`
	Rate     int             `json:"rate,omitempty"`
	NTSC     bool            `json:"ntsc,omitempty"` // 1000/1001 of the rate
	From     reveal.Micros   `json:"from,omitempty"`
	To       reveal.Micros   `json:"to,omitempty"`
	Steps    []reveal.StepID `json:"steps,omitempty"`
	Speed    float64         `json:"speed,omitempty"`
	Reverse  bool            `json:"reverse,omitempty"`
	Captions bool            `json:"captions,omitempty"`
	// Fill lets frames of another shape than the reveal's cut off what does not fit into them; without it cameras step
	// back.
	Fill bool `json:"fill,omitempty"`
	// NoNotices leaves out the safety notices and tools of the steps.
	NoNotices bool `json:"noNotices,omitempty"`
	// ShutterSamples is how many moments a frame is the mean of: motion blur. 0 for none.
	ShutterSamples int `json:"shutterSamples,omitempty"`
	// Background is empty for the paper, "transparent" for none, a colour like #f4efe6, or
	// "picture" for the attachment Picture.
	Background string `json:"background,omitempty"`
	Picture    string `json:"picture,omitempty"`
	// Font is an attachment with signs for words that the shipped fonts lack.
	Font string `json:"font,omitempty"`
	// Fonts are further ones; each sign takes the first that has it.
	Fonts []string `json:"fonts,omitempty"`
	// Boxes lets signs that no font has be boxes; without it they are refused.
	Boxes bool `json:"boxes,omitempty"`
	// Aperture is the focal length over the diameter of the lens, for depth of field; 0 for
	// none. SafeAreas draws their borders, for a look.
	Aperture  float64 `json:"aperture,omitempty"`
	SafeAreas bool    `json:"safeAreas,omitempty"`
	// Samples is how many samples a pixel has, 4 or 16; 4 when left out. With 16 lines are finer, and it takes four
	// times as long.
	Samples int    `json:"samples,omitempty"`
	Author  string `json:"author,omitempty"`
	// Card stands before the reveal. Then are further reveals that follow it; where they
	// and their cards meet, they cross-fade.
	Card      *sequence.TitleCard `json:"card,omitempty"`
	Then      []Then              `json:"then,omitempty"`
	CrossFade reveal.Micros       `json:"crossFade,omitempty"`
	// Poster is the moment of the film that stands for it; its middle when there is none.
	Poster *reveal.Micros `json:"poster,omitempty"`
	Sound  *Sound         `json:"sound,omitempty"`
	Logo   *Logo          `json:"logo,omitempty"`
	// At are the moments of stills; Ends takes the end of every step, too, wherever that is when they are made. The end of
	// the reveal when there are none.
	At   []reveal.Micros `json:"at,omitempty"`
	Ends bool            `json:"ends,omitempty"`
	// Strip puts pictures of moments beside one another in one, instead of stills at moments of their own.
	Strip *StillStrip `json:"strip,omitempty"`
	// Eye is a camera of stills and sequences that is not the reveal's.
	Eye *reveal.Camera `json:"eye,omitempty"`
	// Layers are the pictures that are made of each frame: shaded when there are none.
	Layers []sequence.Layer `json:"layers,omitempty"`
	// SixteenBits gives pictures 16 bits a colour instead of 8; words keep 8.
	SixteenBits bool `json:"sixteenBits,omitempty"`
	// Lines are how line drawings are drawn, Sheet what is on a sheet; the latter's List also is that of a parts list.
	Lines  *paper.StillSettings `json:"lines,omitempty"`
	Sheet  *sheet.Settings      `json:"sheet,omitempty"`
	Manual *manual.Settings     `json:"manual,omitempty"`
	// Page is what a client page tells; further reveals on it are those of Then.
	Page *clientpage.Settings `json:"page,omitempty"`
	// Variant is the product's variant that it shows, by id or name; "-" for the whole assembly. When left out it is the
	// one that the reveal is for.
	Variant string `json:"variant,omitempty"`
	// Draft is how a film was asked for before there were purposes.
	Draft bool `json:"draft,omitempty"`
}

// StillStrip is pictures of moments that follow one another evenly, from the left to the right: over one period of a mechanism
// they show how it works (N. Mitra and others, "Illustrating How Mechanical Assemblies Work", 2010, for the idea).
type StillStrip struct {
	Count int           `json:"count"`
	From  reveal.Micros `json:"from,omitempty"`
	// Over is from the first moment to the one after the last, which is not shown: after a whole period it is the first.
	Over reveal.Micros `json:"over"`
}

// times are the moments.
func (s *StillStrip) times() (list []reveal.Micros) {
	for k := range s.Count {
		list = append(list, s.From+s.Over*reveal.Micros(k)/reveal.Micros(s.Count))
	}
	return list
}

func (s *Settings) checkStrip() error {
	t := s.Strip
	switch {
	case t == nil:
		return nil
	case s.Kind != Stills:
		return fmt.Errorf("a strip is of stills, not of %s", s.Kind)
	case len(s.Layers) != 1 || s.Layers[0].Kind != sequence.Shaded:
		return fmt.Errorf("a strip is of the picture alone: leave other layers out")
	case len(s.At) > 0 || s.Ends:
		return fmt.Errorf("a strip has moments of its own: leave the others out")
	case t.Count < 2 || t.Count > MaxStrip:
		return fmt.Errorf("a strip has 2 to %d pictures, not %d", MaxStrip, t.Count)
	case t.Over <= 0 || t.From < 0:
		return fmt.Errorf("a strip goes over some time from a moment on, not over %.2f s", float64(t.Over)/1e6)
	}
	return nil
}

// Then is a reveal that follows in a joined film.
type Then struct {
	// Reveal is its id; empty for the output's own.
	Reveal  string              `json:"reveal,omitempty"`
	Reverse bool                `json:"reverse,omitempty"`
	Card    *sequence.TitleCard `json:"card,omitempty"` // before it
}

// Sound is an attachment that is heard beside a film.
type Sound struct {
	Attachment string `json:"attachment"`
	encode.Sound
}

// Logo is an attachment that stands in a corner.
type Logo struct {
	Attachment string           `json:"attachment"`
	Corner     lettering.Corner `json:"corner"`
}

// Bounds of what is taken.
const (
	MaxName   = 120
	MaxStills = 200
	MaxFonts  = 8
	MaxStrip  = 24
	// maxStripWidth is how wide, pixels, the pictures of a strip are together.
	maxStripWidth = 32_000
)

// Check looks for what is wrong whatever the reveal is: before settings are kept for later.
func (s Settings) Check() error {
	s.Layers = slices.Clone(s.Layers)
	if err := s.fill(); err != nil {
		return err
	}
	_, err := s.order()
	return err
}

// fill completes the settings and checks what needs no reveal.
func (s *Settings) fill() error {
	if s.Kind == "" {
		s.Kind = Film
	}
	if s.Draft && s.Purpose == "" {
		s.Purpose = encode.Draft
	}
	s.Draft = false
	if len(s.Fonts) >= MaxFonts {
		return fmt.Errorf("%d fonts are more than %d: leave some out", len(s.Fonts)+1, MaxFonts)
	}
	if s.Purpose == "" {
		s.Purpose = encode.Web
	}
	usual := map[Kind]string{Film: "mp4-h264", Frames: "png", Stills: "png", GLB: "glb", Captions: "vtt"}
	for kind, formats := range paperFormats {
		usual[kind] = formats[0]
	}
	format, known := usual[s.Kind]
	if !known {
		return fmt.Errorf(
			"there is no output of the kind %q; there are film, frames, stills, glb, captions, lines, sheet, parts, manual, page",
			s.Kind,
		)
	}
	if s.Format == "" {
		s.Format = format
	}
	allowed := map[Kind][]string{Frames: {"png", "jpeg", "tiff"}, Stills: {"png", "jpeg", "tiff"}, GLB: {"glb"}, Captions: {"vtt", "srt"}}[s.Kind]
	if formats, is := paperFormats[s.Kind]; is {
		allowed = formats
		if err := s.fillPaper(); err != nil {
			return err
		}
	}
	if s.Kind == Film {
		if _, err := encode.Lookup(s.Format); err != nil {
			return err
		}
	} else if !slices.Contains(allowed, s.Format) {
		return fmt.Errorf("%s cannot be made as %q; they can as %s", s.Kind, s.Format, strings.Join(allowed, ", "))
	}
	if len([]rune(s.Name)) > MaxName || len([]rune(s.Author)) > MaxName {
		return fmt.Errorf("the name or the author has more than %d characters", MaxName)
	}
	if len(s.Then) >= sequence.MaxClips {
		return fmt.Errorf("a film is joined of at most %d reveals, not %d", sequence.MaxClips, len(s.Then)+1)
	}
	if s.Sound != nil &&
		(s.Sound.Gain < -encode.MaxGain || s.Sound.Gain > encode.MaxGain || s.Sound.FadeOut < 0 || s.Sound.FadeOut > encode.MaxSound || s.Sound.Start < -encode.MaxSound || s.Sound.Start > encode.MaxSound) {
		return fmt.Errorf("the sound's start, gain (±%d dB) or fade is out of bounds", encode.MaxGain)
	}
	if len(s.At) > MaxStills {
		return fmt.Errorf("%d stills at once are too many; %d are taken", len(s.At), MaxStills)
	}
	if (s.Card != nil || len(s.Then) > 0) && s.Kind != Film && s.Kind != Captions && (s.Kind != Page || s.Card != nil) {
		return fmt.Errorf("only films and their captions join reveals and have title cards, not %s", s.Kind)
	}
	if s.SixteenBits && (s.Kind != Frames && s.Kind != Stills || s.Format == "jpeg") {
		return fmt.Errorf("16 bits a colour are for pictures as PNG and TIFF, not for %s as %s", s.Kind, s.Format)
	}
	if s.Eye != nil {
		if s.Kind != Stills && s.Kind != Frames && s.Kind != Lines {
			return fmt.Errorf("an eye of its own is for stills, sequences and line drawings, not for %s", s.Kind)
		}
		if err := s.Eye.Check(); err != nil {
			return fmt.Errorf("the eye cannot look: %w", err)
		}
	}
	if s.Samples == 16 &&
		(s.SixteenBits || slices.ContainsFunc(s.Layers, func(l sequence.Layer) bool { return l.Kind == sequence.Depth || l.InStack() })) {
		return fmt.Errorf(
			"16 samples a pixel go with 8 bits a colour, and with the picture, all edges and mattes: leave the others out",
		)
	}
	if s.SixteenBits && s.Aperture > 0 {
		return fmt.Errorf("depth of field is a mean of pictures with 8 bits: choose either it or 16 bits a colour")
	}
	return s.fillLayers()
}

func (s *Settings) fillLayers() error {
	if s.Kind != Frames && s.Kind != Stills {
		return s.checkStrip()
	}
	if len(s.Layers) == 0 {
		s.Layers = []sequence.Layer{{Kind: sequence.Shaded}}
	}
	seen := map[string]bool{}
	for i := range s.Layers {
		if err := s.Layers[i].Check(); err != nil {
			return err
		}
		name := s.Layers[i].Folder()
		if seen[name] {
			return fmt.Errorf("the layer %q is asked for twice", name)
		}
		seen[name] = true
	}
	if see := slices.IndexFunc(s.Layers, sequence.Layer.Transparent); s.Format == "jpeg" && see >= 0 {
		return fmt.Errorf("JPEG cannot keep what the layer %q lets through; PNG and TIFF can", s.Layers[see].Kind)
	}
	if s.Format == "jpeg" && s.Background == "transparent" {
		return fmt.Errorf("JPEG cannot keep a transparent background; PNG and TIFF can")
	}
	return s.checkStrip()
}

var colour = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)

func (s *Settings) background() (b sequence.Background, err error) {
	switch {
	case s.Background == "":
		return b, nil
	case s.Background == "transparent":
		return sequence.Background{Transparent: true}, nil
	case s.Background == "picture":
		if s.Picture == "" {
			return b, fmt.Errorf("the background is to be a picture, but none is attached")
		}
		return b, nil // it is looked up by Attach
	case !colour.MatchString(s.Background):
		return b, fmt.Errorf(
			"the background %q is not empty, transparent, picture, or a colour like #f4efe6",
			s.Background,
		)
	}
	var c space.Vec3
	for k := range 3 {
		v, _ := strconv.ParseUint(s.Background[1+2*k:3+2*k], 16, 8)
		c[k] = float64(v) / 255
	}
	return sequence.Background{Top: &c, Foot: &c}, nil
}

func (s *Settings) order() (sequence.Order, error) {
	b, err := s.background()
	o := sequence.Order{
		Format:         s.Format,
		Purpose:        s.Purpose,
		Width:          s.Width,
		Height:         s.Height,
		Rate:           s.Rate,
		NTSC:           s.NTSC,
		From:           s.From,
		To:             s.To,
		Steps:          s.Steps,
		Speed:          s.Speed,
		Reverse:        s.Reverse,
		Captions:       s.Captions,
		Notices:        !s.NoNotices,
		Fill:           s.Fill,
		Steady:         s.Kind == Stills,
		Background:     b,
		ShutterSamples: s.ShutterSamples,
		Aperture:       s.Aperture,
		Samples:        s.Samples,
		SafeAreas:      s.SafeAreas,
		Eye:            s.Eye,
	}
	if s.Kind != Film {
		o.Format = "mov-png" // any size, with alpha
	}
	return o, err
}
