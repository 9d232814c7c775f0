package sheet

import (
	"context"
	"fmt"
	"image"
	"image/color"
	"runtime"
	"slices"

	"github.com/sourcegraph/conc/pool"

	"slowreveal/core/film"
	"slowreveal/core/item"
	"slowreveal/core/survey"
	"slowreveal/paper"
)

var headColour = color.RGBA{0xee, 0xec, 0xe6, 0xff}

// Sheet is a sheet that was drawn.
type Sheet struct {
	Page *paper.Page
	// List is the parts list on a sheet of its own, where it leaves no room for the views; else nil.
	List  *paper.Page
	Items []item.Item
	// References are the item references, those of all views, and Radii how large each is, mm.
	References []item.Reference
	Radii      []float64
	// Missing are the items that no view shows, as indices.
	Missing []int
	// Scales are those of the views; 0 in perspective.
	Scales []float64
	// Boxes are where the views stand.
	Boxes []paper.Box
}

// drawer draws a sheet.
type drawer struct {
	subject *paper.Subject
	fonts   *paper.Fonts
	set     Settings
	page    *paper.Page
	out     *Sheet
}

// radius is that of a balloon, mm; its number is as high as that (ISO 6433 has numbers larger than those of dimensions,
// which are 2.5 to 3.5 mm high; from memory).
const (
	radius      = 4.3
	leastRadius = 2.2 // where there are very many
)

// Draw makes a sheet of a reveal. The settings must have been filled.
func Draw(ctx context.Context, s *paper.Subject, fonts *paper.Fonts, set Settings, logo image.Image) (*Sheet, error) {
	width, height, err := set.Size.Of(set.Upright)
	if err != nil {
		return nil, err
	}
	d := &drawer{subject: s, fonts: fonts, set: set, page: paper.NewPage(width, height)}
	d.out = &Sheet{Page: d.page}
	a := s.Model.Assembly
	facts := survey.Shapes(a, s.Model.Shapes)
	d.out.Items = item.List(a, facts, Shown(s.Film), set.List)
	views, err := d.views(ctx)
	if err != nil {
		return nil, err
	}
	space := frame(d.page, fonts)
	title := set.Title
	if title.Title == "" {
		title.Title = a.Name
		if title.Supplement == "" && s.Film.Reveal.Title != a.Name {
			title.Supplement = s.Film.Reveal.Title
		}
	}
	rows := tableOf(len(d.out.Items), space.Height-titleHeight)
	area, block := d.layOut(space, views, rows)
	apart := !set.NoList && smallest(views, area) < leastView
	if apart {
		d.set.NoList = true
		area, _ = d.layOut(space, views, rows)
	}
	boxes := divide(area, views)
	d.out.Boxes = boxes
	for i, v := range views {
		d.out.Scales = append(d.out.Scales, v.scale(boxes[i], set.NoReferences))
	}
	number := "1/1"
	if apart {
		number = "1/2"
		d.out.List = d.listPage(width, height, &title, logo)
	}
	titleBlock(d.page, fonts, space, &title, titled{d.scaleText(views), number}, set, logo)
	if !d.set.NoList {
		drawList(d.page, fonts, d.out.Items, rows, block, set.TopDown)
	}
	return d.out, d.draw(views, boxes)
}

// leastView is how large a view is at least on the paper, mm, for a parts list to stand beside it.
const leastView = 45

// smallest is how large the smallest of the views can be in an area, mm.
func smallest(views []*view, area paper.Box) float64 {
	least := -1.0
	for i, b := range divide(area, views) {
		if m := views[i].most(b, false) * views[i].span(); least < 0 || m < least {
			least = m
		}
	}
	return least
}

// listPage is a sheet of its own for the parts list, which is read from the top (ISO 7573).
func (d *drawer) listPage(width, height float64, title *TitleBlock, logo image.Image) *paper.Page {
	page := paper.NewPage(width, height)
	space := frame(page, d.fonts)
	box := titleBlock(page, d.fonts, space, title, titled{"–", "2/2"}, d.set, logo)
	rows := tableOf(len(d.out.Items), space.Height-titleHeight-4)
	drawList(page, d.fonts, d.out.Items, rows, paper.Box{X: box.X, Y: space.Y, Width: box.Width}, true)
	return page
}

// Shown returns the nodes that the reveal shows at some time: what is suppressed is no part of the product that it
// tells of.
func Shown(f *film.Film) []int {
	hidden := map[int]bool{}
	index := f.Assembly.Index()
	for _, id := range f.Reveal.Opening.Suppressed {
		hidden[index[id]] = true
	}
	list := []int{}
	for i := range f.Assembly.Nodes {
		if p := f.Assembly.Nodes[i].Parent; p >= 0 && hidden[p] {
			hidden[i] = true
		}
		if !hidden[i] {
			list = append(list, i)
		}
	}
	return list
}

// view is a view of the sheet.
type view struct {
	*paper.View
	set    View
	letter string // of a detail or a section
	detail *detail
}

// choose gives the views without a moment those that show most: each what those before it do not.
func (d *drawer) choose() error {
	if len(d.set.Views) > 0 && !slices.ContainsFunc(d.set.Views, func(v View) bool { return v.At == nil }) {
		return nil
	}
	moments, err := Fullest(d.subject, d.out.Items)
	if err != nil {
		return err
	}
	if len(d.set.Views) == 0 {
		d.set.Views = make([]View, len(moments))
	}
	d.set.Views = slices.Clone(d.set.Views)
	k := 0
	for i := range d.set.Views {
		v := &d.set.Views[i]
		if v.At == nil && v.Detail != "" {
			v.At, v.From = d.set.Views[0].At, d.set.Views[0].From
		}
		if v.At == nil && v.Section != nil && i > 0 {
			v.At = d.set.Views[0].At
		}
		if v.At == nil {
			v.At = &moments[min(k, len(moments)-1)]
			k++
		}
	}
	return nil
}

// views draws the lines of all views.
func (d *drawer) views(ctx context.Context) (list []*view, err error) {
	if err := d.choose(); err != nil {
		return nil, err
	}
	details, sections := 0, 0
	var draws []func(context.Context) error
	for i := range d.set.Views {
		set := d.set.Views[i]
		at := set.At
		if *at < 0 || *at > d.subject.Film.Duration() {
			return nil, fmt.Errorf(
				"the moment %.2f s of view %d does not lie within the reveal's %.2f s",
				float64(*at)/1e6,
				i+1,
				float64(d.subject.Film.Duration())/1e6,
			)
		}
		fr := d.subject.At(*at)
		c := fr.Camera
		c.Orthographic = !set.Perspective
		from := set.From
		if from == "" && set.Section != nil {
			from = set.Section.Side()
		}
		for _, named := range film.Views() {
			if named.Name == from {
				c.Orientation = named.Orientation
			}
		}
		v := &view{set: set}
		list = append(list, v)
		draws = append(draws, func(ctx context.Context) (err error) {
			v.View, err = d.subject.View(
				ctx,
				fr,
				c,
				paper.ViewSettings{
					Filling:   set.Filling,
					Hidden:    set.Hidden,
					FlowLines: !set.NoFlow && set.Section == nil,
					Section:   set.Section,
				},
			)
			if err != nil {
				return fmt.Errorf("view %d: %w", i+1, err)
			}
			return nil
		})
		if set.Detail != "" {
			if v.detail, err = d.detailOf(fr, c, set.Detail); err != nil {
				return nil, fmt.Errorf("view %d: %w", i+1, err)
			}
			v.letter = string(rune('X' + (details % 3)))
			details++
		}
		if set.Section != nil {
			v.letter = string(rune('A' + sections))
			sections++
		}
	}
	work := pool.New().WithContext(ctx).WithMaxGoroutines(runtime.GOMAXPROCS(0))
	for _, draw := range draws {
		work.Go(draw)
	}
	if err := work.Wait(); err != nil {
		return nil, err
	}
	for _, v := range list {
		if v.detail != nil {
			v.detail.clip(v.View)
		}
	}
	return list, nil
}

// layOut says where the views go and where the parts list does: its box, of which the side at the title block counts.
func (d *drawer) layOut(space paper.Box, views []*view, rows table) (area, list paper.Box) {
	width := min(titleWidth, space.Width)
	title := paper.Box{X: space.Right() - width, Y: space.Foot() - titleHeight, Width: width, Height: titleHeight}
	taken := float64(titleHeight)
	list = paper.Box{X: title.X, Y: title.Y, Width: width}
	if !d.set.NoList {
		h := rows.height()
		list.Y, list.Height = title.Y-h, h
		taken += h
		if d.set.TopDown {
			list.Y = space.Y
		}
	}
	above := paper.Box{X: space.X, Y: space.Y, Width: space.Width, Height: space.Height - taken}
	if d.set.TopDown && !d.set.NoList { // the list is at the top
		above.Y += list.Height
	}
	taken = width
	if !d.set.NoList {
		taken *= float64(rows.columns)
	}
	beside := paper.Box{X: space.X, Y: space.Y, Width: space.Width - taken, Height: space.Height}
	if beside.Width < 60 || total(views, above) > total(views, beside) {
		return above, list
	}
	return beside, list
}

// total is how large views can be in an area.
func total(views []*view, area paper.Box) (sum float64) {
	if area.Height < 20 || area.Width < 20 {
		return 0
	}
	for i, b := range divide(area, views) {
		sum += views[i].most(b, false)
	}
	return sum
}

// divide gives each view a box of the area: as a grid, or the first one large with the others in a row below or beside
// it, whichever shows the views largest.
func divide(area paper.Box, views []*view) []paper.Box {
	n := len(views)
	var best []paper.Box
	most := 0.0
	try := func(list []paper.Box) {
		worth := 1.0
		for i, b := range list {
			m := views[i].most(b, false) * views[i].span() // mm of paper
			if i == 0 {
				m *= m // it is the one that is looked at first
			}
			worth *= m
		}
		if worth > most || best == nil {
			most, best = worth, list
		}
	}
	for columns := 1; columns <= n; columns++ {
		try(cells(area, n, columns))
	}
	for _, share := range []float64{0.5, 0.6, 0.7} {
		if n < 2 {
			break
		}
		above, left := area, area
		above.Height, left.Width = share*area.Height, share*area.Width
		below := paper.Box{X: area.X, Y: above.Foot(), Width: area.Width, Height: area.Height - above.Height}
		right := paper.Box{X: left.Right(), Y: area.Y, Width: area.Width - left.Width, Height: area.Height}
		for columns := 1; columns < n; columns++ {
			try(append([]paper.Box{above}, cells(below, n-1, columns)...))
			try(append([]paper.Box{left}, cells(right, n-1, columns)...))
		}
	}
	return best
}

// cells divides an area into so many boxes, in rows of so many columns.
func cells(area paper.Box, n, columns int) []paper.Box {
	rows := (n + columns - 1) / columns
	w, h := area.Width/float64(columns), area.Height/float64(rows)
	list := make([]paper.Box, n)
	for i := range list {
		list[i] = paper.Box{X: area.X + w*float64(i%columns), Y: area.Y + h*float64(i/columns), Width: w, Height: h}
	}
	return list
}

// span is the larger side of a view on its picture plane.
func (v *view) span() float64 { return max(v.Max.X-v.Min.X, v.Max.Y-v.Min.Y) }

// around is what is left around a view: for balloons and their leaders, or for air; foot for its title.
func around(bare bool) (side, foot float64) {
	if bare {
		return 8, 12
	}
	return 2*radius + 7, 2*radius + 10
}

// most is the largest scale at which a view fits into a box.
func (v *view) most(box paper.Box, bare bool) float64 {
	side, foot := around(bare)
	w, h := box.Width-2*side, box.Height-side-foot
	if w <= 0 || h <= 0 {
		return 0
	}
	return min(w/max(v.Max.X-v.Min.X, 1e-6), h/max(v.Max.Y-v.Min.Y, 1e-6))
}

// scale is the one at which a view is drawn: mm of paper for a unit of its picture plane.
func (v *view) scale(box paper.Box, bare bool) float64 {
	most := v.most(box, bare)
	switch {
	case v.set.Perspective:
		return most
	case v.set.Scale > 0:
		return v.set.Scale
	}
	return fitting(most)
}

// scaleText is what the title block says: the scale of the first view.
func (d *drawer) scaleText(views []*view) string {
	if i := slices.IndexFunc(views, func(v *view) bool { return !v.set.Perspective }); i >= 0 {
		return scaleName(d.out.Scales[i])
	}
	return "–"
}

// draw puts the views on the sheet, and the item references around them.
func (d *drawer) draw(views []*view, boxes []paper.Box) error {
	pens := paper.UsualPens(d.set.LineWidth)
	left := make([]int, len(d.out.Items)) // the items that no view has shown yet
	for i := range left {
		left[i] = i
	}
	var places []paper.Place
	for i, v := range views {
		side, foot := around(d.set.NoReferences)
		inner := paper.Box{
			X:      boxes[i].X + side,
			Y:      boxes[i].Y + side,
			Width:  boxes[i].Width - 2*side,
			Height: boxes[i].Height - side - foot,
		}
		at := v.At(inner.X+inner.Width/2, inner.Y+inner.Height/2, d.out.Scales[i])
		places = append(places, at)
		if err := d.page.Draw(v.View, at, pens); err != nil {
			return err
		}
		d.label(v, boxes[i], d.out.Scales[i], at, places[0])
		if d.set.NoReferences || v.detail != nil {
			continue
		}
		var err error
		if left, err = d.refer(v, boxes[i], at, left); err != nil {
			return err
		}
	}
	for _, v := range views {
		if v.set.Section != nil {
			d.section(v, views, places)
		}
	}
	if d.set.NoReferences {
		return nil
	}
	d.out.Missing = left
	words := d.fonts.Words(paper.Label, 2.7, paper.Grey)
	if text := unseen(d.out.Items, left); text != "" {
		d.page.Say(words, words.Fitted(text, boxes[0].Width-8), boxes[0].X+4, boxes[len(boxes)-1].Foot()-1.6)
	}
	return nil
}
