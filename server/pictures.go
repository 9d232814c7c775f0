package server

import (
	"bytes"
	"context"
	"image"
	"image/png"
	"net/http"
	"sync"

	"github.com/gin-gonic/gin"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/release"
	"slowreveal/render"
	"slowreveal/sequence"
	"slowreveal/store"
)

func (s *Server) pictureRoutes() []route {
	return []route{
		get("/projects/{id}/picture", "projectPicture", s.projectPicture).sends("image/png").
			says("The product at rest, small (PNG)."),
		get("/reveals/{id}/steps/{step}/picture", "stepPicture", s.stepPicture).sends("image/png").asks(inVariant).
			says("How a step ends, small (PNG)."),
	}
}

// scenes keeps the assembly that was drawn last ready for the next picture.
type scenes struct {
	mu    sync.Mutex
	of    *assembly.Assembly
	scene *render.Scene
}

func (s *scenes) ready(m *product.Model) (*render.Scene, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.of != m.Assembly {
		scene, err := render.NewScene(m.Assembly, m.Shapes)
		if err != nil {
			return nil, err
		}
		s.of, s.scene = m.Assembly, scene
	}
	return s.scene, nil
}

// pictureWidth is that of the pictures in the script and in the list of projects, in pixels: twice what is
// shown.
const pictureWidth = 192

// projectPicture draws the product as it is arranged, at rest.
func (s *Server) projectPicture(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	ctx := c.Request.Context()
	p, err := s.store.Project(ctx, key)
	if err != nil {
		fail(c, err)
		return
	}
	picture, err := s.kept(ctx, "project "+p.Look, func() ([]byte, error) { return s.drawProject(ctx, key) })
	if err != nil {
		fail(c, err)
		return
	}
	c.Header("Cache-Control", "private, max-age=86400")
	c.Data(http.StatusOK, "image/png", picture)
}

func (s *Server) drawProject(ctx context.Context, project string) ([]byte, error) {
	revision, err := s.store.Revision(ctx, project)
	if err != nil {
		return nil, err
	}
	m, err := s.authoring.Model(ctx, revision.ID, true)
	if err != nil {
		return nil, err
	}
	camera, err := film.Fit(film.FirstLook(m.Assembly), 4.0/3, 0.1, []space.Box{m.Assembly.Bounds()})
	if err != nil {
		return nil, err
	}
	r := reveal.New("At rest", camera)
	r.Frame = reveal.Frame{Width: pictureWidth, Height: pictureWidth * 3 / 4, Rate: 30}
	r.Steps = []reveal.Step{{ID: "rest", Duration: reveal.Second}}
	return s.draw(m, film.Compile(m.Assembly, r), pictureWidth*3/4, 0)
}

// kept is a small picture that is drawn once by this build of the program: another one may draw it otherwise.
func (s *Server) kept(ctx context.Context, of string, draw func() ([]byte, error)) ([]byte, error) {
	by, err := release.Program()
	if err != nil {
		return nil, err
	}
	return s.store.Kept(ctx, of+" by "+by, draw)
}

// draw makes a small picture of a moment, as PNG.
func (s *Server) draw(m *product.Model, f *film.Film, height int, at reveal.Micros) ([]byte, error) {
	scene, err := s.scenes.ready(m)
	if err != nil {
		return nil, err
	}
	img, err := s.still(scene, f, pictureWidth, height, at)
	if err != nil {
		return nil, err
	}
	return asPNG(img)
}

// still draws a moment. One is drawn at a time: films come first.
func (s *Server) still(scene *render.Scene, f *film.Film, width, height int, at reveal.Micros) (image.Image, error) {
	s.drawing <- struct{}{}
	defer func() { <-s.drawing }()
	p, err := sequence.Still(f, scene, sequence.Order{Width: width, Height: height, Threads: 1}, at)
	if err != nil {
		return nil, err
	}
	return p.Image(), nil
}

func asPNG(img image.Image) ([]byte, error) {
	var b bytes.Buffer
	err := png.Encode(&b, img)
	return b.Bytes(), err
}

// stepPicture draws how a step ends, small, for the script. Its address says the
// version, so that a page may keep it.
func (s *Server) stepPicture(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	picture, err := s.drawStep(c, key, reveal.StepID(c.Param("step")))
	if err != nil {
		fail(c, err)
		return
	}
	c.Header("Cache-Control", "private, max-age=86400")
	c.Data(http.StatusOK, "image/png", picture)
}

func (s *Server) drawStep(c *gin.Context, key string, step reveal.StepID) ([]byte, error) {
	on, err := s.stage(c.Request.Context(), key, c.Query("variant"))
	if err != nil {
		return nil, err
	}
	i := on.doc.FindStep(step)
	if i < 0 {
		return nil, store.ErrMissing
	}
	f := film.Compile(on.model.Assembly, on.doc)
	span := f.Schedule.Steps[i]
	order := sequence.Order{Width: pictureWidth, Height: max(16, int(pictureWidth/on.doc.Frame.Aspect())/2*2)}
	at := max(span.Start, span.Start+span.Duration-1)
	seen, err := sequence.StillDigest(f, order, at)
	if err != nil {
		return nil, err
	}
	// Most edits leave most steps to end as they did; so do copies of a reveal.
	return s.kept(c.Request.Context(), "still "+seen, func() ([]byte, error) {
		return s.draw(on.model, f, order.Height, at)
	})
}
