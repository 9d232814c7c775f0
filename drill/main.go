// Command drill puts the program under load, faults and bad input and prints one table of what held
// (docs/reliability.md): many authors, processes that are killed, answers that are cut off, a database
// that is away, a full disk, damaged files, hostile input. It needs bin/slowreveal, PostgreSQL and
// ffmpeg, and talks to addresses of this machine only.
//
//	make drill        all of it, some minutes
//	go run ./drill -short -only authors
package main

import (
	"context"
	"flag"
	"fmt"
	"os"
	"os/signal"
	"runtime"
	"slices"
	"strings"
	"syscall"
	"time"
)

// scale is how much of everything is done.
type scale struct {
	load             time.Duration // of each load
	authors          int
	kills            int // of server and database, each
	workers          int // kills of workers; 0 for none, and no film made by them
	stops            int // by SIGTERM
	cut              int // edits whose answers are cut off now and then
	away             time.Duration
	hostile, damaged int
}

var (
	full = scale{
		load:    30 * time.Second,
		authors: 50,
		kills:   34,
		workers: 34,
		stops:   12,
		cut:     600,
		away:    8 * time.Second,
		hostile: 200,
		damaged: 12,
	}
	short = scale{
		load:    2 * time.Second,
		authors: 50,
		kills:   2,
		stops:   1,
		cut:     60,
		away:    2 * time.Second,
		hostile: 40,
		damaged: 3,
	}
)

// result is a line of the table.
type result struct {
	name, figures string
	failures      []string
}

func (r *result) fail(format string, args ...any) {
	if len(r.failures) < 5 {
		r.failures = append(r.failures, fmt.Sprintf(format, args...))
	}
}

// check notes a failure unless it holds.
func (r *result) check(holds bool, format string, args ...any) {
	if !holds {
		r.fail(format, args...)
	}
}

type exercise struct {
	name string
	run  func(ctx context.Context, n scale) (*result, error)
}

var exercises = []exercise{
	{
		"authors",
		authorsOnSome(10),
	}, {"authors-one", authorsOnSome(1)}, {"authors-each", authorsOnSome(50)}, {"pressed", pressed},
	{
		"kill-server",
		killServer,
	}, {"kill-workers", killWorkers}, {"kill-database", killDatabase}, {"stop", stopUnderLoad},
	{
		"cut-off",
		answersCutOff,
	}, {"away", databaseAway}, {"disk-full", diskFull}, {"damaged", blobsDamaged}, {"hostile", hostileInput},
}

func main() {
	brief := flag.Bool("short", false, "a little of everything")
	only := flag.String("only", "", "names of exercises, with commas")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	n := full
	if *brief {
		n = short
	}
	if !run(ctx, n, strings.FieldsFunc(*only, func(r rune) bool { return r == ',' })) {
		os.Exit(1)
	}
}

// run does the exercises that are named, or all, and prints the table.
func run(ctx context.Context, n scale, only []string) bool {
	fmt.Printf(
		"%s · %d processors\n\n| exercise | what was seen | |\n| --- | --- | --- |\n",
		time.Now().Format("2 January 2006, 15:04"),
		runtime.NumCPU(),
	)
	all := true
	for _, e := range exercises {
		if len(only) > 0 && !slices.Contains(only, e.name) || e.name == "kill-workers" && n.workers == 0 {
			continue // server.TestKilledWorkersCostNoFilm is the short form of killing workers
		}
		r, err := e.run(ctx, n)
		if err != nil {
			r = &result{name: e.name, failures: []string{err.Error()}}
		}
		verdict := "held"
		if len(r.failures) > 0 {
			all, verdict = false, "**failed**: "+strings.Join(r.failures, "; ")
		}
		fmt.Printf("| %s | %s | %s |\n", r.name, r.figures, verdict)
	}
	return all
}
