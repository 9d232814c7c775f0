package release

import (
	"cmp"
	"fmt"
	"image"
	"io"
	"os"

	"slowreveal/render"
	"slowreveal/render/lettering"
)

// Attachments finds the file of an attachment.
type Attachments func(id string, kind AttachmentKind) (path string, err error)

// AttachmentKind is what a file is used for.
type AttachmentKind string

// The kinds of attachments.
const (
	SoundFile   AttachmentKind = "sound"
	LogoFile    AttachmentKind = "logo"
	PictureFile AttachmentKind = "picture"
	FontFile    AttachmentKind = "font"
)

// AttachmentKinds are all of them.
var AttachmentKinds = []AttachmentKind{SoundFile, LogoFile, PictureFile, FontFile}

// Attach looks the attachments up that the settings name.
func (w *Work) Attach(find Attachments) error {
	s := &w.Settings
	if s.Sound != nil {
		path, err := find(s.Sound.Attachment, SoundFile)
		if err != nil {
			return gone("sound", err)
		}
		s.Sound.File = path
	}
	if s.Logo != nil {
		if err := opened(find, s.Logo.Attachment, LogoFile, "logo", func(f *os.File) (err error) {
			if w.plan.Logo, err = lettering.ReadLogo(f, s.Logo.Corner); err != nil || s.Kind != Page {
				return err
			}
			if _, err = f.Seek(0, io.SeekStart); err == nil { // a page has it as it is
				w.logo, err = io.ReadAll(f)
			}
			return err
		}); err != nil {
			return err
		}
	}
	if s.Background == "picture" {
		if err := opened(find, s.Picture, PictureFile, "background", func(f *os.File) error {
			img, err := render.ReadImage(f, "background")
			for _, r := range w.reels {
				r.Plan.Background.Image = img
			}
			return err
		}); err != nil {
			return err
		}
	}
	if err := w.attachSteps(find); err != nil {
		return err
	}
	return w.attachFonts(find)
}

// attachSteps reads the pictures that a manual has in place of its own.
func (w *Work) attachSteps(find Attachments) error {
	if w.Settings.Kind != Manual || len(w.Settings.Manual.Pictures) == 0 {
		return nil
	}
	images := map[string]image.Image{}
	for _, list := range w.Settings.Manual.Pictures {
		for _, id := range list {
			if err := opened(find, id, PictureFile, "picture of a step", func(f *os.File) (err error) {
				images[id], err = render.ReadImage(f, "picture of a step")
				return err
			}); err != nil {
				return err
			}
		}
	}
	set := *w.Settings.Manual
	set.Images = images
	w.Settings.Manual = &set
	return nil
}

func (w *Work) attachFonts(find Attachments) error {
	var fonts []*lettering.Font
	for _, id := range append([]string{w.Settings.Font}, w.Settings.Fonts...) {
		if id == "" {
			continue
		}
		if err := opened(find, id, FontFile, "font", func(f *os.File) error {
			data, err := io.ReadAll(io.LimitReader(f, MaxFont+1))
			if err != nil || len(data) > MaxFont {
				return cmp.Or(err, fmt.Errorf("the font has more than %d MB", MaxFont>>20))
			}
			font, err := lettering.ReadFont(data)
			fonts = append(fonts, font)
			return err
		}); err != nil {
			return err
		}
	}
	for _, r := range w.reels {
		r.Plan.Fonts = fonts
	}
	return nil
}

// MaxFont bounds the size of a font in bytes.
const MaxFont = 64 << 20

func opened(find Attachments, id string, kind AttachmentKind, what string, read func(f *os.File) error) error {
	path, err := find(id, kind)
	if err != nil {
		return gone(what, err)
	}
	f, err := os.Open(path)
	if err != nil {
		return fmt.Errorf("opening the %s: %w", what, err)
	}
	defer f.Close()
	return read(f)
}

func gone(what string, err error) error {
	return fmt.Errorf("the %s of this output is gone: attach it again (%w)", what, err)
}
