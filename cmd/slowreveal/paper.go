package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"slowreveal/clientpage"
	"slowreveal/core/assembly"
	"slowreveal/core/item"
	"slowreveal/core/reveal"
	"slowreveal/paper"
	"slowreveal/paper/manual"
	"slowreveal/paper/sheet"
	"slowreveal/release"
	"slowreveal/render/lettering"
)

// onPaper is what commands share that put something on paper.
type onPaper struct {
	Font   []string `type:"path" help:"Font files for signs that the shipped fonts lack (TrueType, OpenType, WOFF); each sign takes the first that has it."`
	Boxes  bool     `help:"Make it although no font has some signs: they are boxes."`
	Author string   `help:"Author, for the file's metadata."`
	Out    string   `required:"" type:"path" help:"File to write: its ending says the format."`
}

// settings are those of an output of a kind; what the file's ending says is its format.
func (p *onPaper) settings(kind release.Kind) release.Settings {
	format := strings.ToLower(strings.TrimPrefix(filepath.Ext(p.Out), "."))
	if format == "zip" { // of several drawings
		format = "svg"
	}
	return release.Settings{Kind: kind, Format: format, Fonts: p.Font, Boxes: p.Boxes, Author: p.Author}
}

// cutOpen is a section as it is said on the command line.
type cutOpen paper.Section

// UnmarshalText reads AXIS=MM, with ,flip for the other half.
func (c *cutOpen) UnmarshalText(text []byte) error {
	said, flip := strings.CutSuffix(string(text), ",flip")
	axis, value, found := strings.Cut(said, "=")
	var at number
	if !found || at.UnmarshalText([]byte(value)) != nil {
		return fmt.Errorf("the section %q is not like z=12.5 or z=12.5,flip", text)
	}
	*c = cutOpen{Axis: axis, At: float64(at), Flip: flip}
	return (*paper.Section)(c).Check()
}

// readSettings fills settings from a file, in which nothing may be that they do not have.
func readSettings(path string, into any) error {
	if path == "" {
		return nil
	}
	data, err := os.ReadFile(path)
	if err != nil {
		return fmt.Errorf("the settings cannot be read: %w", err)
	}
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		return fmt.Errorf("the settings %s are not understood: %w", path, err)
	}
	return nil
}

type linesCommand struct {
	making
	onPaper
	Time       []moment `required:"" help:"The moment, seconds; several make a ZIP, or a PDF of several pages."`
	Size       string   `help:"Shape of the frame as width and height, such as 1920x1080. The reveal's own when left out."`
	Fill       bool     `help:"In frames of another shape than the reveal's, cut off what does not fit in place of stepping back."`
	Width      number   `default:"170" help:"Width of the drawing, mm."`
	LineWidth  number   `default:"0.5" help:"Width of wide lines, mm; narrow ones are half as wide."`
	Filling    string   `default:"none" enum:"none,shaded,tinted,flat" help:"What is under the lines: ${enum}."`
	Hidden     bool     `help:"Draw hidden lines, dashed."`
	Flow       bool     `default:"true" negatable:"" help:"Draw flow lines."`
	Notes      bool     `default:"true" negatable:"" help:"Draw notes."`
	References bool     `help:"Put item references around it, with the numbers of the parts list."`
	Section    *cutOpen `help:"Cut the product open across an axis, as z=12.5 (mm); z=12.5,flip shows the other half."`
}

// Run draws moments as lines.
func (c *linesCommand) Run(ctx context.Context) error {
	s := c.settings(release.Lines)
	s.Fill = c.Fill
	s.Lines = &paper.StillSettings{
		Width: float64(c.Width), LineWidth: float64(c.LineWidth), Filling: paper.Filling(c.Filling),
		Hidden: c.Hidden, NoFlow: !c.Flow, NoNotes: !c.Notes, References: c.References, Section: (*paper.Section)(c.Section),
	}
	for _, t := range c.Time {
		s.At = append(s.At, t.micros())
	}
	if c.Size != "" {
		if n, err := fmt.Sscanf(c.Size, "%dx%d", &s.Width, &s.Height); n != 2 || err != nil || s.Width <= 0 ||
			s.Height <= 0 {
			return fmt.Errorf("the size %q is not like 1920x1080", c.Size)
		}
	}
	return c.make(ctx, s, c.Out)
}

// listing is what is said of a parts list.
type listing struct {
	Order    string   `default:"tree" enum:"tree,name,quantity" help:"Order of the items: ${enum}."`
	Density  []string `sep:"none" help:"Density of a finish, FINISH=7.85 in g/cm³: masses of parts that wear it alone are told. Again for more."`
	Settings string   `type:"path" help:"JSON file with settings of the sheet as the API takes them; flags count more."`
}

func (l *listing) fill(s *sheet.Settings) error {
	if err := readSettings(l.Settings, s); err != nil {
		return err
	}
	if l.Order != "tree" || s.List.Order == "" {
		s.List.Order = item.Sorting(l.Order)
	}
	for _, text := range l.Density {
		name, value, found := strings.Cut(text, "=")
		var density number
		if !found || density.UnmarshalText([]byte(value)) != nil || density <= 0 {
			return fmt.Errorf("the density %q is not like Bare steel=7.85", text)
		}
		if s.List.Densities == nil {
			s.List.Densities = map[string]float64{}
		}
		s.List.Densities[name] = float64(density)
	}
	return nil
}

type sheetCommand struct {
	making
	onPaper
	listing
	Size        string    `help:"Size: A4, A3, A2, A1, A0, ANSI A to ANSI E. A3 when left out."`
	Upright     *bool     `negatable:"" help:"Let it stand, or lie; the usual way of its size when left out."`
	FirstAngle  bool      `help:"Symbol of first-angle projection in place of third-angle."`
	Time        []moment  `help:"A view of this moment, seconds. Again for more; without, the moments that show most of the items."`
	View        string    `help:"Side of the views: isometric, dimetric, front, back, left, right, top, bottom. Where the reveal's camera looks from when left out."`
	Perspective bool      `help:"Draw the views in perspective, without a scale."`
	Scale       number    `help:"Scale, paper over real size, such as 0.5. The largest of ISO 5455 that fits when left out."`
	Filling     string    `default:"none" enum:"none,shaded,tinted,flat" help:"What is under the lines: ${enum}."`
	Detail      []string  `name:"detail-of" help:"A detail of this part or group, by its id, twice as large. Again for more."`
	Section     []cutOpen `sep:"none" help:"A section of the first view's moment, as z=12.5 (mm across the axis; ,flip for the other half), seen square on. Again for more."`
	List        bool      `default:"true" negatable:"" help:"Draw the parts list."`
	References  bool      `default:"true" negatable:"" help:"Draw item references."`
	TopDown     bool      `help:"Read the parts list from the top."`
	Title       string    `help:"Title block: title. The assembly's name when left out."`
	Owner       string    `help:"Title block: legal owner."`
	Number      string    `help:"Title block: identification number."`
	Creator     string    `help:"Title block: created by."`
	Approver    string    `help:"Title block: approved by."`
	Revision    string    `help:"Title block: revision."`
	Date        string    `help:"Title block: date of issue. Today when left out."`
	Logo        string    `type:"path" help:"Picture (PNG, JPEG) for the title block."`
}

// Run makes a sheet.
func (c *sheetCommand) Run(ctx context.Context) error {
	s := c.settings(release.Sheet)
	s.Sheet = &sheet.Settings{}
	set := s.Sheet
	if err := c.fill(set); err != nil {
		return err
	}
	if c.Size != "" {
		set.Size = sheet.Size(c.Size)
	}
	if c.Upright != nil {
		set.Upright = c.Upright
	}
	set.FirstAngle, set.TopDown = set.FirstAngle || c.FirstAngle, set.TopDown || c.TopDown
	set.NoList, set.NoReferences = set.NoList || !c.List, set.NoReferences || !c.References
	like := sheet.View{
		From:        c.View,
		Perspective: c.Perspective,
		Scale:       float64(c.Scale),
		Filling:     paper.Filling(c.Filling),
	}
	for _, t := range c.Time {
		v, at := like, t.micros()
		v.At = &at
		set.Views = append(set.Views, v)
	}
	if len(set.Views) == 0 && (like != sheet.View{Filling: paper.NoFilling} || len(c.Detail)+len(c.Section) > 0) {
		set.Views = []sheet.View{like}
	}
	for _, id := range c.Detail {
		set.Views = append(set.Views, sheet.View{At: set.Views[0].At, From: c.View, Detail: assembly.NodeID(id)})
	}
	for i := range c.Section {
		cut := &c.Section[i]
		v := sheet.View{At: set.Views[0].At, Filling: like.Filling, Section: (*paper.Section)(cut)}
		set.Views = append(set.Views, v)
	}
	t := &set.Title
	for _, f := range []struct {
		field *string
		said  string
	}{{&t.Title, c.Title}, {&t.Owner, c.Owner}, {&t.Number, c.Number}, {&t.Creator, c.Creator}, {&t.Approver, c.Approver}, {&t.Revision, c.Revision}, {&t.Date, c.Date}} {
		if f.said != "" {
			*f.field = f.said
		}
	}
	if c.Logo != "" {
		s.Logo = &release.Logo{Attachment: c.Logo, Corner: lettering.LowerRight}
	}
	return c.make(ctx, s, c.Out)
}

type partsCommand struct {
	making
	onPaper
	listing
}

// Run writes the parts list.
func (c *partsCommand) Run(ctx context.Context) error {
	s := c.settings(release.Parts)
	s.Sheet = &sheet.Settings{}
	if err := c.fill(s.Sheet); err != nil {
		return err
	}
	return c.make(ctx, s, c.Out)
}

type manualCommand struct {
	making
	onPaper
	Settings   string   `type:"path" help:"JSON file with settings of the manual as the API takes them; flags count more."`
	Template   string   `help:"How it is laid out: pages, single (one step a page), columns, cards, strip. pages when left out."`
	Size       string   `help:"Size of the paper: A4, A3, ANSI A, ANSI B. A4 when left out."`
	Title      string   `help:"Title. The reveal's when left out."`
	Number     string   `help:"Number of the document."`
	Revision   string   `help:"Its revision."`
	Date       string   `help:"Its date. Today when left out."`
	Owner      string   `help:"Whose it is."`
	Intro      string   `help:"Text before the steps."`
	Closing    string   `help:"Text behind the steps."`
	Language   string   `help:"Language of the words, a tag such as en or pt-BR. en when left out."`
	Filling    string   `help:"What is under the lines: none, shaded, tinted, flat. tinted when left out."`
	Step       []string `help:"Tell just these steps, by id, in this order."`
	Picture    []string `sep:"none" help:"Picture (PNG, JPEG) in place of a step's own, STEP=FILE. Again for more."`
	Cover      bool     `default:"true" negatable:"" help:"Begin with a cover."`
	Parts      bool     `default:"true" negatable:"" help:"List the parts."`
	References bool     `default:"true" negatable:"" help:"Draw item references in pictures."`
	Films      bool     `help:"Put a film of each step into the HTML."`
}

// Run makes a manual.
func (c *manualCommand) Run(ctx context.Context) error {
	s := c.settings(release.Manual)
	if strings.EqualFold(filepath.Ext(c.Out), ".zip") {
		s.Format = "html"
	}
	set := &manual.Settings{}
	if err := readSettings(c.Settings, set); err != nil {
		return err
	}
	for _, f := range []struct {
		field *string
		said  string
	}{
		{(*string)(&set.Template), c.Template}, {(*string)(&set.Size), c.Size}, {&set.Title, c.Title}, {&set.Number, c.Number}, {&set.Revision, c.Revision},
		{&set.Date, c.Date}, {&set.Owner, c.Owner}, {&set.Intro, c.Intro}, {&set.Closing, c.Closing}, {&set.Language, c.Language}, {(*string)(&set.Filling), c.Filling},
	} {
		if f.said != "" {
			*f.field = f.said
		}
	}
	for _, id := range c.Step {
		set.Steps = append(set.Steps, reveal.StepID(id))
	}
	for _, text := range c.Picture {
		step, file, found := strings.Cut(text, "=")
		if !found {
			return fmt.Errorf("the picture %q is not like STEP=photo.jpg", text)
		}
		if set.Pictures == nil {
			set.Pictures = map[reveal.StepID][]string{}
		}
		set.Pictures[reveal.StepID(step)] = append(set.Pictures[reveal.StepID(step)], file)
	}
	set.NoCover, set.NoParts, set.NoReferences = set.NoCover ||
		!c.Cover, set.NoParts ||
		!c.Parts, set.NoReferences ||
		!c.References
	set.Films = set.Films || c.Films
	s.Manual = set
	return c.make(ctx, s, c.Out)
}

type pageCommand struct {
	making
	Out      string   `required:"" type:"path" help:"HTML file to write, or a ZIP with the folder for a web server."`
	Title    string   `help:"Title. The reveal's when left out."`
	Subtitle string   `help:"What stands below it. The assembly's name when left out."`
	Field    []string `help:"What the parts list tells beside number, quantity and name: designation, finish, mass, remark. The first two when left out."`
	Colour   string   `help:"Accent, such as #b5311b."`
	Until    string   `help:"Day after which the page says that it is old, such as 2027-06-30."`
	Simplify float64  `help:"How far surfaces may lie from what they are, mm: the page is smaller, and tells less of how the product is made. As they are when left out."`
	Logo     string   `type:"path" help:"Picture (PNG, JPEG) for its head."`
	Then     []string `help:"Reveal document that is on it, too. Again for more."`
	Density  []string `sep:"none" help:"Density of a finish, FINISH=7.85 in g/cm³. Again for more."`
	Language string   `help:"Language of the words, a tag such as en or pt-BR. en when left out."`
}

// Run makes a client page.
func (c *pageCommand) Run(ctx context.Context) error {
	list := listing{Order: "tree", Density: c.Density}
	var of sheet.Settings
	if err := list.fill(&of); err != nil {
		return err
	}
	s := release.Settings{Kind: release.Page, Page: &clientpage.Settings{
		Title: c.Title, Subtitle: c.Subtitle, Fields: c.Field, Colour: c.Colour, Until: c.Until, Language: c.Language, List: of.List,
		Simplify: c.Simplify,
	}}
	if strings.EqualFold(filepath.Ext(c.Out), ".zip") {
		s.Format = "folder"
	}
	if c.Logo != "" {
		s.Logo = &release.Logo{Attachment: c.Logo, Corner: lettering.LowerRight}
	}
	for _, path := range c.Then {
		s.Then = append(s.Then, release.Then{Reveal: path})
	}
	return c.make(ctx, s, c.Out)
}
