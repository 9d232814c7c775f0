// Command bench makes the example's film and says how that compares to its length, and how
// two workers compare to one. Then it draws the same frames twice on this machine, by our
// rasteriser and by three.js in the installed Chromium (software WebGL, antialiased), and
// prints both speeds and their ratio. The scene is 200 parts with 200,000 triangles, all
// moving, the camera circling.
package main

import (
	"context"
	"embed"
	"encoding/json"
	"fmt"
	"net"
	"net/http"
	"os"
	"sort"
	"time"

	"github.com/chromedp/chromedp"

	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/e2e/browser"
	"slowreveal/render"
)

const (
	width, height = 1920, 1080
	frames        = 12
)

//go:embed page.html page.js
var page embed.FS

// scene is what the page draws.
type scene struct {
	Shapes []shape `json:"shapes"`
	Parts  []part  `json:"parts"`
	Frames []frame `json:"frames"`
}

type shape struct {
	Positions []float32    `json:"positions"`
	Normals   []float32    `json:"normals"`
	Triangles []uint32     `json:"triangles"`
	Edges     [][3]float32 `json:"edges"`
}

type part struct {
	Shape  int        `json:"shape"`
	Colour [3]float64 `json:"colour"`
	Metal  float64    `json:"metal"`
	Rough  float64    `json:"rough"`
}

type frame struct {
	Matrices []float64 `json:"matrices"` // 16 a part
	Eye      []float64 `json:"eye"`
	Up       float64   `json:"up"` // tangent of half the field of view
}

func main() {
	do := run
	if len(os.Args) == 3 && os.Args[1] == "work" {
		do = func() error { return work(os.Args[2]) }
	}
	if err := do(); err != nil {
		fmt.Fprintln(os.Stderr, "bench:", err)
		os.Exit(1)
	}
}

func run() error {
	if err := makeFilms(); err != nil {
		return err
	}
	m := demo.Stress(200, 1000)
	f := film.Compile(m.Assembly, demo.StressReveal(m.Assembly, 200))
	ours, err := drawOurs(m, f)
	if err != nil {
		return err
	}
	theirs, err := drawTheirs(describe(m, f))
	if err != nil {
		return err
	}
	fmt.Printf(
		"200 parts, %d triangles, all moving, camera circling, %d × %d, %d frames; medians\n",
		triangles(m),
		width,
		height,
		frames,
	)
	fmt.Printf("our rasteriser:                       %6.2f frames/s\n", 1/ours.Seconds())
	fmt.Printf("three.js, software WebGL in Chromium: %6.2f frames/s\n", 1/theirs.Seconds())
	fmt.Printf("ratio:                                %6.1f\n", theirs.Seconds()/ours.Seconds())
	return nil
}

func triangles(m *product.Model) (n int) {
	for i := range m.Assembly.Nodes {
		if s := m.Assembly.Nodes[i].Shape; s >= 0 {
			n += len(m.Shapes[s].Triangles) / 3
		}
	}
	return n
}

func moment(k int) reveal.Micros { return reveal.Micros(k) * 10 * reveal.Second / frames }

func drawOurs(m *product.Model, f *film.Film) (time.Duration, error) {
	s, err := render.NewScene(m.Assembly, m.Shapes)
	if err != nil {
		return 0, err
	}
	r, err := render.NewRenderer(s, width, height, 0)
	if err != nil {
		return 0, err
	}
	view, fr, picture := s.NewView(), f.NewFrame(), render.NewPicture(width, height)
	var times []time.Duration
	for k := range 4 * frames {
		f.At(moment(k%frames), fr)
		begun := time.Now()
		view.Take(s, fr, float64(width)/height)
		r.Draw(view, picture)
		times = append(times, time.Since(begun))
	}
	return median(times[frames:]), nil
}

func median(times []time.Duration) time.Duration {
	sort.Slice(times, func(i, k int) bool { return times[i] < times[k] })
	return times[len(times)/2]
}

func describe(m *product.Model, f *film.Film) scene {
	var s scene
	for _, x := range m.Shapes {
		out := shape{Positions: x.Positions, Normals: x.Normals, Triangles: x.Triangles, Edges: [][3]float32{}}
		for i := range x.Edges {
			if x.Edges[i].Feature() {
				out.Edges = append(out.Edges, x.Edges[i].A, x.Edges[i].B)
			}
		}
		s.Shapes = append(s.Shapes, out)
	}
	var nodes []int
	for i := range m.Assembly.Nodes {
		if n := &m.Assembly.Nodes[i]; n.IsPart() {
			finish := m.Assembly.Finishes[n.Finishes[0]]
			s.Parts = append(s.Parts, part{n.Shape, finish.Colour, finish.Metalness, finish.Roughness})
			nodes = append(nodes, i)
		}
	}
	fr := f.NewFrame()
	for k := range frames {
		f.At(moment(k), fr)
		_, up := film.Field(fr.Camera.FocalLength, float64(width)/height)
		out := frame{Up: up}
		for _, i := range nodes {
			w := &fr.World[i]
			out.Matrices = append(out.Matrices, columns(w.R, w.T.X, w.T.Y, w.T.Z)...)
		}
		eye := film.Eye(fr.Camera)
		out.Eye = columns(eye.R, eye.T.X, eye.T.Y, eye.T.Z)
		s.Frames = append(s.Frames, out)
	}
	return s
}

// columns is a motion as a 4 × 4 matrix, column by column.
func columns(r [9]float64, x, y, z float64) []float64 {
	return []float64{r[0], r[3], r[6], 0, r[1], r[4], r[7], 0, r[2], r[5], r[8], 0, x, y, z, 1}
}

// drawTheirs serves the page on loopback and has Chromium draw.
func drawTheirs(s scene) (time.Duration, error) {
	text, err := json.Marshal(s)
	if err != nil {
		return 0, err
	}
	mux := http.NewServeMux()
	mux.Handle("/", http.FileServerFS(page))
	mux.Handle("/three/", http.StripPrefix("/three/", http.FileServer(http.Dir("web/node_modules/three/build"))))
	mux.HandleFunc("/scene.json", func(w http.ResponseWriter, _ *http.Request) { w.Write(text) })
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	go http.Serve(l, mux)
	ctx, cancel := browser.New(context.Background(), width, height)
	defer cancel()
	if err := chromedp.Do(ctx); err != nil {
		return 0, err
	}
	ctx, stop := context.WithTimeout(ctx, 5*time.Minute)
	defer stop()
	if err := chromedp.Do(ctx, chromedp.Navigate("http://"+l.Addr().String()+"/page.html"), chromedp.WaitVisible("#done")); err != nil {
		return 0, err
	}
	covered, err := chromedp.Run(ctx, chromedp.Evaluate[float64](`window.covered`))
	if err != nil {
		return 0, err
	}
	if covered < 0.1 {
		return 0, fmt.Errorf("the page has drawn next to nothing: %.0f %% of its picture", 100*covered)
	}
	fmt.Printf("three.js covered %.0f %% of the last picture\n", 100*covered)
	ms, err := chromedp.Run(ctx, chromedp.Evaluate[[]float64](`window.times`))
	if err != nil {
		return 0, err
	}
	var times []time.Duration
	for _, t := range ms {
		times = append(times, time.Duration(t*1e6))
	}
	return median(times), nil
}
