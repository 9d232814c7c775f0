package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/encode"
	"slowreveal/render"
	"slowreveal/sequence"
)

// makeFilms prints how long the example takes to be made as H.264 at 1080p30, against how
// long it plays, and how much two workers are faster than one.
func makeFilms() error {
	folder, err := os.MkdirTemp("", "slowreveal-bench-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(folder)
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	if err != nil {
		return err
	}
	begun := time.Now()
	o := sequence.Order{Width: width, Height: height, Rate: 30, Captions: true}
	if err := sequence.Film(context.Background(), f, scene, o, encode.Whole{}, filepath.Join(folder, "film.mp4"), nil); err != nil {
		return err
	}
	took := time.Since(begun).Seconds()
	plays := float64(f.Duration()) / float64(reveal.Second)
	fmt.Printf(
		"the example as H.264, 1080p30, loops %s: %.1f s for %.1f s, %.2f of real time\n",
		render.Kernel(),
		took,
		plays,
		plays/took,
	)
	return compareWorkers(folder)
}
