package step

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"slowreveal/formats"
)

// Bounds on one run of the program.
const (
	memory = 6 << 10 // MB
	limit  = 15 * time.Minute
)

// Program returns where stepread lies: where SLOWREVEAL_STEPREAD says, beside
// this program, or on the path.
func Program() (string, error) {
	if p := os.Getenv("SLOWREVEAL_STEPREAD"); p != "" {
		return p, nil
	}
	if self, err := os.Executable(); err == nil {
		if p := filepath.Join(filepath.Dir(self), "stepread"); exists(p) {
			return p, nil
		}
	}
	if p, err := exec.LookPath("stepread"); err == nil {
		return p, nil
	}
	return "", errors.New(
		"the program stepread, which reads STEP and IGES, is missing; “make build” makes it from Debian's libocct packages",
	)
}

func exists(path string) bool {
	_, err := os.Stat(path)
	return err == nil
}

// run starts stepread on a file and hands its output to take.
func run(
	ctx context.Context,
	kind, path string,
	d formats.Detail,
	tell func(string, float64),
	take func(io.Reader) error,
) error {
	program, err := Program()
	if err != nil {
		return err
	}
	if path, err = filepath.Abs(path); err != nil { // the kernel finds what lies beside a file only so
		return err
	}
	ctx, cancel := context.WithTimeout(ctx, limit)
	defer cancel()
	c := exec.CommandContext(
		ctx,
		program,
		"--kind",
		kind,
		"--tolerance",
		fmt.Sprint(d.Share),
		"--angle",
		fmt.Sprint(d.Angle),
		"--memory",
		fmt.Sprint(memory),
		"--seconds",
		fmt.Sprint(int(2*limit.Seconds())),
		path,
	)
	c.Env = append(os.Environ(), "MMGT_OPT=0") // the kernel's own allocator would keep memory to itself
	out, err := c.StdoutPipe()
	if err != nil {
		return err
	}
	said := &listener{tell: tell}
	c.Stderr = said
	if err := c.Start(); err != nil {
		return fmt.Errorf("starting stepread: %w", err)
	}
	taken := take(out)
	if taken != nil {
		cancel() // what it still has to say is of no use
	}
	ended := c.Wait()
	switch {
	case said.reason != "":
		return errors.New(said.reason)
	case errors.Is(context.Cause(ctx), context.DeadlineExceeded):
		return fmt.Errorf("reading took more than %v", limit)
	case taken != nil && ended == nil:
		return taken
	case ended != nil && ctx.Err() != nil && taken == nil:
		return context.Cause(ctx)
	case ended != nil:
		return fmt.Errorf("the geometry kernel broke down over this file (%w)", ended)
	}
	return taken
}

// listener takes in the lines of stepread's standard error.
type listener struct {
	rest   []byte
	tell   func(string, float64)
	reason string
}

func (l *listener) Write(p []byte) (int, error) {
	l.rest = append(l.rest, p...)
	for {
		line, rest, ok := bytes.Cut(l.rest, []byte("\n"))
		if !ok {
			if len(l.rest) > 1<<16 {
				l.rest = nil
			}
			return len(p), nil
		}
		l.rest = rest
		word, what, _ := strings.Cut(string(line), " ")
		if word == "error" {
			l.reason = formats.Clipped(what)
		} else if share, err := strconv.ParseFloat(what, 64); err == nil {
			l.tell(word, share)
		}
	}
}

// maxHead bounds the description that stepread writes, in bytes.
const maxHead = 256 << 20

// headLine reads the line of JSON.
func headLine(r *bufio.Reader) ([]byte, error) {
	var line []byte
	for {
		part, err := r.ReadSlice('\n')
		line = append(line, part...)
		switch {
		case err == nil:
			return line, nil
		case !errors.Is(err, bufio.ErrBufferFull):
			return nil, errors.New("stepread ended before it described the file")
		case len(line) > maxHead:
			return nil, errors.New("the description of the file is too large")
		}
	}
}
