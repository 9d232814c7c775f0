package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"time"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/encode"
	"slowreveal/render"
	"slowreveal/shoot"
)

// makeFilms prints how long the example takes to be made as H.264 at 1080p30, against how
// long it plays, and how much two workers with a thread each are faster than one.
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
	o := shoot.Order{Width: width, Height: height, Rate: 30, Captions: true}
	if err := shoot.Film(context.Background(), f, scene, o, encode.Whole{}, filepath.Join(folder, "film.mp4"), nil); err != nil {
		return err
	}
	took := time.Since(begun).Seconds()
	plays := float64(f.Duration()) / float64(reveal.Second)
	fmt.Printf("the example as H.264, 1080p30, loops %s: %.1f s for %.1f s, %.2f of real time\n", render.Kernel(), took, plays, plays/took)
	o.Threads, o.To = 1, 16*reveal.Second
	p, err := o.Plan(f)
	if err != nil {
		return err
	}
	cut := p.Alone(f, scene)
	one, err := workers(cut, folder, 1)
	if err != nil {
		return err
	}
	two, err := workers(cut, folder, 2)
	if err != nil {
		return err
	}
	fmt.Printf("its first 16 s, by one worker with one thread %.1f s, by two %.1f s: %.2f times as fast\n", one, two, one/two)
	return nil
}

// workers makes the pieces of a film by so many workers and returns the seconds.
func workers(cut *shoot.Cut, folder string, n int) (float64, error) {
	pieces := make(chan int, len(cut.Pieces()))
	for i := range cut.Pieces() {
		pieces <- i
	}
	close(pieces)
	begun := time.Now()
	var all sync.WaitGroup
	failed := make(chan error, n)
	for range n {
		all.Go(func() {
			for i := range pieces {
				if err := cut.Piece(context.Background(), folder, i, nil); err != nil {
					failed <- err
					return
				}
			}
		})
	}
	all.Wait()
	close(failed)
	return time.Since(begun).Seconds(), <-failed
}
