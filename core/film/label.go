package film

import (
	"math"
	"strconv"

	"slowreveal/core/reveal"
)

// Label says in a few characters what a cue does: "58 mm", "8 × 0.5 mm".
func Label(c *reveal.Cue) string {
	switch c.Kind {
	case reveal.KindPull:
		return Number(c.Pull.Distance) + " mm"
	case reveal.KindTurn:
		return Number(c.Turn.Degrees) + "°"
	case reveal.KindUnscrew:
		return Number(c.Unscrew.Turns) + " × " + Number(c.Unscrew.Lead) + " mm"
	case reveal.KindRoute:
		if len(c.Route.Legs) == 1 {
			return Number(c.Route.Legs[0].Distance) + " mm"
		}
		return strconv.Itoa(len(c.Route.Legs)) + " legs"
	case reveal.KindSurface:
		return styleNames[c.Surface.Style]
	case reveal.KindCard:
		return c.Card.Title
	case reveal.KindFade:
		return Number(c.Fade.To*100) + " %"
	case reveal.KindTint:
		return Number(c.Tint.Amount*100) + " %"
	case reveal.KindNote:
		return c.Note.Text
	case reveal.KindShot:
		return c.Shot.Name
	case reveal.KindOrbit:
		return Number(c.Orbit.Degrees) + "°"
	}
	return ""
}

var styleNames = map[reveal.Style]string{
	reveal.ShadedEdges: "shaded, edges",
	reveal.Shaded:      "shaded",
	reveal.EdgesOnly:   "edges only",
	reveal.SeeThrough:  "see-through edges",
}

// Number writes v with at most two decimals and a true minus sign.
func Number(v float64) string {
	r := math.Round(v*100) / 100
	if r < 0 {
		return "−" + strconv.FormatFloat(-r, 'f', -1, 64)
	}
	return strconv.FormatFloat(r, 'f', -1, 64)
}
