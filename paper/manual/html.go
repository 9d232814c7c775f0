package manual

import (
	"bytes"
	_ "embed"
	"fmt"
	"html/template"
	"slices"
	"strings"

	"slowreveal/core/look"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/paper"
	"slowreveal/render/lettering"
)

//go:embed page.html
var pageText string

//go:embed page.css
var pageStyle []byte

var page = template.Must(template.New("manual").Parse(pageText))

// shownStep is a step as the page shows it.
type shownStep struct {
	*Step
	Blocks   []reveal.Block
	Notice   *shownNotice
	Pictures []shownPicture
	Film     string
	Parts    []string
}

type shownNotice struct {
	Signal reveal.Signal
	Alert  bool
	Class  string
	Text   string
	Step   int
	Title  string
}

type shownPicture struct{ File, Alternative string }

// shownItem is a line of the index of parts.
type shownItem struct {
	Number, Quantity  int
	Name, Designation string
	Steps             []int
}

// HTML writes the manual as a folder: index.html, its style, fonts and pictures. It needs no scripts. film names the
// file of a step's film, "" for none.
func (c *Content) HTML(fonts *paper.Fonts, film func(s *Step) string) ([]paper.File, error) {
	files := []paper.File{{Name: "manual.css", Data: append(slices.Clip(pageStyle), signalStyle()...)}}
	for _, name := range []string{"schibsted-grotesk-latin-400", "schibsted-grotesk-latin-600", "literata-latin-400", "literata-latin-ext-400", "schibsted-grotesk-latin-ext-400"} {
		data, err := lettering.Shipped(name)
		if err != nil {
			return nil, err
		}
		files = append(files, paper.File{Name: "fonts/" + name + ".woff", Data: data})
	}
	picture := func(name string, width float64, draw func(p *paper.Page) error) (string, error) {
		p := paper.NewPage(width, width/Aspect)
		if err := draw(p); err != nil {
			return "", err
		}
		data, err := p.SVG()
		files = append(files, paper.File{Name: "pictures/" + name + ".svg", Data: data})
		return "pictures/" + name + ".svg", err
	}
	cover, err := picture("cover", 170, func(p *paper.Page) error {
		return c.drawCover(p, paper.Box{Width: p.Width, Height: p.Height}.In(2))
	})
	if err != nil {
		return nil, err
	}
	var steps []shownStep
	var notices []*shownNotice
	for i := range c.Steps {
		s := &c.Steps[i]
		out := shownStep{Step: s, Blocks: reveal.Prose(s.Instruction)}
		if film != nil {
			out.Film = film(s)
		}
		if s.Notice != nil {
			out.Notice = &shownNotice{
				s.Notice.Signal,
				look.Signals[s.Notice.Signal].Alert,
				classOf(s.Notice.Signal),
				s.Notice.Text,
				s.Number,
				s.Title,
			}
			notices = append(notices, out.Notice)
		}
		for k := range s.Pictures {
			pic := &s.Pictures[k]
			if !pic.seen() {
				continue
			}
			file, err := picture(fmt.Sprintf("step-%02d-%d", s.Number, k+1), 120, func(p *paper.Page) error {
				return c.drawPicture(p, fonts, pic, paper.Box{Width: p.Width, Height: p.Height})
			})
			if err != nil {
				return nil, err
			}
			out.Pictures = append(out.Pictures, shownPicture{file, pic.Alternative})
		}
		if !c.Settings.NoParts {
			for k, item := range s.Items {
				it := &c.Items[item]
				out.Parts = append(out.Parts, fmt.Sprintf("%d × %s (%d)", s.Count[k], it.Name, it.Number))
			}
		}
		steps = append(steps, out)
	}
	slices.SortStableFunc(notices, func(a, b *shownNotice) int { return gravity(a.Signal) - gravity(b.Signal) })
	var b bytes.Buffer
	err = page.Execute(&b, map[string]any{
		"Settings": c.Settings, "Cover": shownPicture{cover, c.Cover.Alternative}, "Steps": steps, "Notices": notices, "Tools": c.Tools,
		"Intro": reveal.Prose(c.Settings.Intro), "Closing": reveal.Prose(c.Settings.Closing), "Items": c.shownItems(),
		"Direction": direction(c.Settings.Language),
	})
	if err != nil {
		return nil, fmt.Errorf("writing the manual: %w", err)
	}
	return append([]paper.File{{Name: "index.html", Data: b.Bytes()}}, files...), nil
}

// signalStyle gives the notices of the page the colours of their signal words.
func signalStyle() []byte {
	var b bytes.Buffer
	for _, word := range []reveal.Signal{reveal.Danger, reveal.Warning, reveal.Caution, reveal.NoticeWord} {
		sign, class := look.Signals[word], classOf(word)
		panel, letters := hex(sign.Panel), hex(sign.Letters)
		fmt.Fprintf(
			&b,
			".%[1]s { border-color: %[2]s; } .%[1]s .signal { background: %[2]s; color: %[3]s; } .%[1]s .mark { fill: %[2]s; }\n",
			class,
			panel,
			letters,
		)
	}
	return b.Bytes()
}

func classOf(word reveal.Signal) string { return "signal-" + strings.ToLower(string(word)) }

func hex(c space.Vec3) string {
	v := paper.Colour(c)
	return fmt.Sprintf("#%02x%02x%02x", v.R, v.G, v.B)
}

func (c *Content) shownItems() (list []shownItem) {
	if c.Settings.NoParts {
		return nil
	}
	for i := range c.Items {
		it := &c.Items[i]
		out := shownItem{Number: it.Number, Quantity: it.Quantity, Name: it.Name, Designation: it.Designation}
		for k := range c.Steps {
			if slices.Contains(c.Steps[k].Items, i) {
				out.Steps = append(out.Steps, c.Steps[k].Number)
			}
		}
		list = append(list, out)
	}
	return list
}

// direction is the one in which a language is read: right to left for those in Arabic and Hebrew letters.
func direction(language string) string {
	first, _, _ := strings.Cut(strings.ToLower(language), "-")
	if slices.Contains([]string{"ar", "he", "fa", "ur", "yi", "ps", "sd", "ug", "dv", "ckb"}, first) {
		return "rtl"
	}
	return "ltr"
}
