package renewal

import (
	_ "embed"
	"encoding/base64"
	"fmt"
	"html/template"
	"io"
)

//go:embed page.html
var pageText string

var page = template.Must(template.New("renewal").Funcs(template.FuncMap{
	"picture": func(data []byte) template.URL {
		return template.URL("data:image/png;base64," + base64.StdEncoding.EncodeToString(data))
	},
	"percent": func(share float64) string {
		switch {
		case share == 0:
			return "nothing"
		case share < 0.001:
			return "less than 0.1 %"
		}
		return fmt.Sprintf("%.1f %%", 100*share)
	},
	"seconds": func(s float64) string { return fmt.Sprintf("%.1f s", s) },
}).Parse(pageText))

// Page writes the report as a page of HTML to hand on: with its pictures in it, without a script.
func (r *Report) Page(w io.Writer) error { return page.Execute(w, r) }
