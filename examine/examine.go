// Package examine opens users' fonts and pictures in a process of its own, with bounds on memory and
// time, before anything else opens them: a file of some hundred bytes may ask for gigabytes, and what
// asks must not be the server. The process is this program itself, started once more.
package examine

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"syscall"
	"time"

	"slowreveal/render"
	"slowreveal/render/lettering"
)

// Bounds on one look at a file. A picture of 40 million pixels with 16 bits a channel takes 320 MB.
var memory uint64 = 900 << 20 // bytes of data, all together

const limit = 20 * time.Second

// Kind is what a file is to be.
type Kind string

// The kinds.
const (
	Font    Kind = "font"
	Picture Kind = "picture"
)

// ErrTooMuch says that a file asked for more than one of its kind may.
var ErrTooMuch = errors.New("it asks for more memory or time than it may: it is damaged, or made to do harm")

// asked holds the kind in the environment of the process that looks.
const asked = "SLOWREVEAL_EXAMINE"

// The process that looks is any program with this package in it: it looks, says what it found, and
// ends, before the program itself begins.
func init() {
	if kind := os.Getenv(asked); kind != "" && len(os.Args) == 3 {
		os.Exit(look(Kind(kind), os.Args[1], os.Args[2]))
	}
}

// File looks into a file. The error says in words what is wrong with it.
func File(ctx context.Context, kind Kind, path string) error {
	self, err := os.Executable()
	if err != nil {
		return fmt.Errorf("finding this program: %w", err)
	}
	ctx, cancel := context.WithTimeoutCause(ctx, limit, ErrTooMuch)
	defer cancel()
	var said bytes.Buffer
	c := exec.CommandContext(ctx, self, path, strconv.FormatUint(memory, 10))
	c.Env = []string{asked + "=" + string(kind), "GOMAXPROCS=1", "GOMEMLIMIT=700MiB"}
	c.Stdout = &said
	err = c.Run()
	var ended *exec.ExitError
	switch {
	case err == nil:
		return nil
	case errors.As(err, &ended) && ended.ExitCode() == refused:
		return errors.New(strings.TrimSpace(said.String()))
	case errors.Is(context.Cause(ctx), ErrTooMuch), errors.As(err, &ended) && ctx.Err() == nil:
		return fmt.Errorf("the %s cannot be used: %w", kind, ErrTooMuch)
	case ctx.Err() != nil:
		return ctx.Err()
	}
	return fmt.Errorf("looking into the %s: %w", kind, err)
}

// refused is the exit code of a look that found something wrong; another one but 0 means that the
// look itself broke down.
const refused = 3

func look(kind Kind, path, bound string) int {
	memory, err := strconv.ParseUint(bound, 10, 64)
	if err != nil {
		fmt.Println("the bound is no number:", bound)
		return refused
	}
	for of, most := range map[int]uint64{syscall.RLIMIT_DATA: memory, syscall.RLIMIT_CPU: uint64(limit.Seconds()), syscall.RLIMIT_CORE: 0} {
		if err := syscall.Setrlimit(of, &syscall.Rlimit{Cur: most, Max: most}); err != nil {
			fmt.Println("limits cannot be set:", err)
			return refused
		}
	}
	if err := open(kind, path); err != nil {
		fmt.Println(err)
		return refused
	}
	return 0
}

// open uses a file as it will be used.
func open(kind Kind, path string) error {
	if kind == Font {
		data, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		f, err := lettering.ReadFont(data)
		if err != nil {
			return err
		}
		return f.Try()
	}
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	defer f.Close()
	_, err = render.ReadImage(f, string(kind))
	return err
}
