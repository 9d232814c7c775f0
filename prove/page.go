package prove

import (
	"bytes"
	_ "embed"
	"encoding/base64"
	"fmt"
	"html/template"
	"image/png"
	"io"

	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/render"
)

//go:embed page.html
var pageText string

var page = template.Must(template.New("proof").Parse(pageText))

// pagePicture is how high the pictures of the page are, pixels; mostPictures how many findings have one.
const (
	pagePicture  = 270
	mostPictures = 100
)

// group is the findings of a step, as the page has them.
type group struct {
	Title    string
	Findings []told
}

// told is a finding, as the page has it.
type told struct {
	proof.Finding
	Title, From, To string
	Picture         template.URL
}

// limited is a check, and its limit in the reveal.
type limited struct {
	proof.Check
	At float64
}

// Page writes an outcome as a page of HTML to hand on: with its pictures in it, without a script. version is what the
// outcome is of, empty for none.
func Page(
	w io.Writer,
	m *product.Model,
	scene *render.Scene,
	doc *reveal.Reveal,
	o *proof.Outcome,
	version string,
) error {
	var groups []group
	titles := map[string]string{}
	for _, c := range proof.Checks {
		titles[c.Name] = c.Title
	}
	for i := range o.Findings {
		f := &o.Findings[i]
		step := "The whole film"
		if k := doc.FindStep(f.Step); k >= 0 {
			step = fmt.Sprintf("%d %s", k+1, doc.Steps[k].Title)
		}
		if n := len(groups); n == 0 || groups[n-1].Title != step {
			groups = append(groups, group{Title: step})
		}
		one := told{
			Finding: *f,
			Title:   titles[f.Check],
			From:    fmt.Sprintf("%.2f", float64(f.From)/1e6),
			To:      fmt.Sprintf("%.2f", float64(f.To)/1e6),
		}
		if i < mostPictures {
			p, err := Picture(m, scene, doc, f, pagePicture)
			if err != nil {
				return err
			}
			var b bytes.Buffer
			if err := png.Encode(&b, p.Image()); err != nil {
				return fmt.Errorf("writing a picture of the proof: %w", err)
			}
			one.Picture = template.URL("data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes()))
		}
		g := &groups[len(groups)-1]
		g.Findings = append(g.Findings, one)
	}
	var limits []limited
	for i := range proof.Checks {
		c := &proof.Checks[i]
		limits = append(limits, limited{*c, c.LimitIn(doc)})
	}
	return page.Execute(
		w,
		map[string]any{
			"Title":    doc.Title,
			"Assembly": m.Assembly.Name,
			"Version":  version,
			"Outcome":  o,
			"Groups":   groups,
			"Checks":   limits,
			"Counts":   Counts(o),
			"Seconds":  fmt.Sprintf("%.2f", float64(o.Duration)/1e6),
			"Passed":   len(o.Passed) + o.Beyond,
		},
	)
}

// Counts says in words how much is open and how much is accepted.
func Counts(o *proof.Outcome) string {
	accepted := 0
	for i := range o.Findings {
		if o.Findings[i].Accepted != "" {
			accepted++
		}
	}
	return fmt.Sprintf(
		"Open: %d faults, %d warnings, %d hints. Accepted: %d.",
		o.Open(proof.Fault),
		o.Open(proof.Warning),
		o.Open(proof.Hint),
		accepted,
	)
}
