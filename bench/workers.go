package main

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"sync"
	"time"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/render"
	"slowreveal/sequence"
)

// workerLength is how much of the example workers make: twelve pieces.
const workerLength = 48 * reveal.Second

func workerCut(scene bool) (*sequence.Sequence, error) {
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	p, err := sequence.Order{
		Width:    width,
		Height:   height,
		Rate:     30,
		Captions: true,
		Threads:  1,
		To:       workerLength,
	}.Plan(f)
	if err != nil || !scene {
		return p.Alone(f, nil), err
	}
	s, err := render.NewScene(m.Assembly, m.Shapes)
	return p.Alone(f, s), err
}

// work is a worker: it reads numbers of pieces, makes them and says so.
func work(folder string) error {
	cut, err := workerCut(true)
	if err != nil {
		return err
	}
	fmt.Println("ready")
	for in := bufio.NewScanner(os.Stdin); in.Scan(); {
		i, err := strconv.Atoi(in.Text())
		if err != nil {
			return err
		}
		if err := cut.Segment(context.Background(), folder, i, nil); err != nil {
			return err
		}
		fmt.Println("done")
	}
	return nil
}

// worker is a process that is held to one processor, its encoder too: as a machine that has
// no other.
type worker struct {
	process *exec.Cmd
	in      io.WriteCloser
	out     *bufio.Scanner
}

func startWorker(folder string, processor int) (*worker, error) {
	self, err := os.Executable()
	if err != nil {
		return nil, err
	}
	w := &worker{process: exec.Command("taskset", "-c", strconv.Itoa(processor), self, "work", folder)}
	w.process.Stderr = os.Stderr
	if w.in, err = w.process.StdinPipe(); err != nil {
		return nil, err
	}
	out, err := w.process.StdoutPipe()
	if err != nil {
		return nil, err
	}
	w.out = bufio.NewScanner(out)
	if err := w.process.Start(); err != nil {
		return nil, err
	}
	return w, w.heard("ready")
}

func (w *worker) heard(word string) error {
	if !w.out.Scan() || strings.TrimSpace(w.out.Text()) != word {
		return fmt.Errorf("a worker did not say %q", word)
	}
	return nil
}

// byWorkers makes the pieces by so many workers, each on a processor of its own, and
// returns the seconds.
func byWorkers(folder string, pieces, n int) (float64, error) {
	list := make(chan int, pieces)
	for i := range pieces {
		list <- i
	}
	close(list)
	workers := make([]*worker, n)
	for i := range workers {
		var err error
		if workers[i], err = startWorker(folder, i); err != nil {
			return 0, err
		}
	}
	begun := time.Now()
	var all sync.WaitGroup
	failed := make(chan error, n)
	for _, w := range workers {
		all.Go(func() {
			for i := range list {
				fmt.Fprintln(w.in, i)
				if err := w.heard("done"); err != nil {
					failed <- err
					return
				}
			}
		})
	}
	all.Wait()
	took := time.Since(begun).Seconds()
	for _, w := range workers {
		w.in.Close()
		w.process.Wait()
	}
	close(failed)
	return took, <-failed
}

// compareWorkers prints how much faster two workers are than one.
func compareWorkers(folder string) error {
	cut, err := workerCut(false)
	if err != nil {
		return err
	}
	one, err := byWorkers(folder, len(cut.Segments()), 1)
	if err != nil {
		return err
	}
	two, err := byWorkers(folder, len(cut.Segments()), 2)
	if err != nil {
		return err
	}
	fmt.Printf(
		"its first %d s, by one worker on one processor %.1f s, by two on one each %.1f s: %.2f times as fast\n",
		workerLength/reveal.Second,
		one,
		two,
		one/two,
	)
	return nil
}
