package server

import (
	"context"
	"encoding/json"
	"fmt"
	"image"
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/variant"
	"slowreveal/difference"
	"slowreveal/render"
	"slowreveal/store"
)

func (s *Server) revisedRoutes() []route {
	return []route{
		get("/reveals/{id}/revised/{shows}", "revisedPicture", s.revisedPicture).sends("image/png").
			asks(asked{"time", aNumber}, inVariant).
			says("A moment of the reveal on the revision before, on the one of now, or what is otherwise in it: before, now, difference (PNG)."),
	}
}

// besideWidth is that of the pictures by which two revisions are compared, pixels.
const besideWidth = 480

// revisedPicture draws a moment of a reveal as it is on the newest revision, on the one before, or their difference.
func (s *Server) revisedPicture(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	shows := c.Param("shows")
	at, err := strconv.ParseInt(c.DefaultQuery("time", "0"), 10, 64)
	if err != nil || shows != "before" && shows != "now" && shows != "difference" {
		fail(c, store.ErrMissing)
		return
	}
	ctx := c.Request.Context()
	on, err := s.stage(ctx, key, c.Query("variant"))
	if err != nil {
		fail(c, err)
		return
	}
	_, arrangement, err := s.authoring.Arranged(ctx, on.stored.RevisionID)
	if err != nil {
		fail(c, err)
		return
	}
	name := fmt.Sprintf("%s of %s %d at %d in %q on %s %d",
		shows, key, on.stored.Version, at, on.variant, on.stored.RevisionID, arrangement.Version)
	picture, err := s.kept(
		ctx,
		name,
		func() ([]byte, error) { return s.drawRevised(ctx, &on, shows, reveal.Micros(at)) },
	)
	if err != nil {
		fail(c, err)
		return
	}
	c.Header("Cache-Control", "private, max-age=86400")
	c.Data(http.StatusOK, "image/png", picture)
}

func (s *Server) drawRevised(ctx context.Context, on *staged, shows string, at reveal.Micros) ([]byte, error) {
	var before, now image.Image
	var err error
	if shows != "now" {
		m, doc, err := s.onBefore(ctx, on)
		if err != nil {
			return nil, err
		}
		if before, err = s.moment(&s.earlier, m, doc, at); err != nil {
			return nil, err
		}
	}
	if shows != "before" {
		if now, err = s.moment(&s.scenes, on.model, on.doc, at); err != nil {
			return nil, err
		}
	}
	switch shows {
	case "before":
		return asPNG(before)
	case "now":
		return asPNG(now)
	}
	found, ok := difference.Of(before, now)
	if !ok {
		return asPNG(now)
	}
	return asPNG(found.Marked)
}

// onBefore is a reveal on the revision before: cues whose parts are gone since then act there.
func (s *Server) onBefore(ctx context.Context, on *staged) (*product.Model, *reveal.Reveal, error) {
	revision, err := s.store.Revision(ctx, on.stored.ProjectID)
	if err != nil {
		return nil, nil, err
	}
	var report product.Report
	if err := json.Unmarshal([]byte(revision.Report), &report); err != nil {
		return nil, nil, fmt.Errorf("reading the report of a revision: %w", err)
	}
	if report.Changes == nil || report.Changes.Before == "" || revision.ID != on.stored.RevisionID {
		return nil, nil, store.ErrMissing
	}
	m, err := s.authoring.Model(ctx, report.Changes.Before, true)
	if err != nil { // what has been arranged since does not fit it
		if m, err = s.authoring.Imported(ctx, report.Changes.Before); err != nil {
			return nil, nil, err
		}
	}
	doc := reveal.Clone(on.written)
	reveal.Carry(doc, m.Assembly)
	if err := reveal.Validate(doc, m.Assembly); err != nil {
		return nil, nil, &store.Refused{Cause: fmt.Errorf("the reveal does not fit the revision before: %w", err)}
	}
	shown := variant.Of(m.Assembly, doc, on.variant)
	if shown.Variant != nil {
		m = s.dressed.model(m, on.variant, shown.Assembly)
	}
	return m, shown.Reveal, nil
}

// moment draws a moment of a reveal, the last one where it is shorter.
func (s *Server) moment(kept *scenes, m *product.Model, doc *reveal.Reveal, at reveal.Micros) (image.Image, error) {
	var scene *render.Scene
	scene, err := kept.ready(m)
	if err != nil {
		return nil, err
	}
	f := film.Compile(m.Assembly, doc)
	height := max(16, int(besideWidth/doc.Frame.Aspect())/2*2)
	return s.still(scene, f, besideWidth, height, max(0, min(at, f.Duration()-1)))
}
