package main

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"os/exec"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"slowreveal/encode"
	"slowreveal/release"
	"slowreveal/server"
	"slowreveal/store"
)

// underEdits lets a few authors edit while harm is done, again and again, and holds afterwards what is
// stored against what they were told.
func underEdits(
	ctx context.Context,
	name string,
	times int,
	harm func(r *rig, random *rand.Rand) error,
) (*result, error) {
	out := &result{name: fmt.Sprintf("%s, %d times at random moments", name, times)}
	return onRig(ctx, out, 2, func(r *rig, ids []string) error {
		c := newCrowd(r, ids, 6)
		working, stop := context.WithCancel(ctx)
		var all sync.WaitGroup
		all.Go(func() { c.work(working, 20*time.Millisecond) })
		random := rand.New(rand.NewPCG(11, uint64(times)))
		for k := range times {
			time.Sleep(time.Duration(random.IntN(500)) * time.Millisecond)
			if err := harm(r, random); err != nil {
				stop()
				all.Wait()
				return fmt.Errorf("time %d: %w", k+1, err)
			}
		}
		err := r.healthy(ctx, 30*time.Second)
		time.Sleep(time.Second) // everybody gets their answer
		stop()
		all.Wait()
		if err != nil {
			return err
		}
		_, err = c.judge(ctx, r, out)
		return err
	})
}

func killServer(ctx context.Context, n scale) (*result, error) {
	return underEdits(ctx, "server killed (SIGKILL) and started again", n.kills, func(r *rig, _ *rand.Rand) error {
		r.kill()
		return r.start(ctx)
	})
}

func killDatabase(ctx context.Context, n scale) (*result, error) {
	return underEdits(
		ctx,
		"database killed (SIGKILL); the server starts it again",
		n.kills,
		func(r *rig, _ *rand.Rand) error {
			pid, err := r.postmaster()
			if err != nil {
				return err
			}
			if err := syscall.Kill(pid, syscall.SIGKILL); err != nil {
				return err
			}
			time.Sleep(100 * time.Millisecond)
			return r.healthy(ctx, 60*time.Second)
		},
	)
}

// stopUnderLoad ends the server by SIGTERM while authors edit: it ends by itself, and what it took it
// finishes.
func stopUnderLoad(ctx context.Context, n scale) (*result, error) {
	var longest time.Duration
	out, err := underEdits(ctx, "server asked to end (SIGTERM) under load", n.stops, func(r *rig, _ *rand.Rand) error {
		begun := time.Now()
		if err := r.stop(); err != nil {
			return fmt.Errorf("the server did not end well: %w", err)
		}
		longest = max(longest, time.Since(begun))
		return r.start(ctx)
	})
	if err == nil {
		out.figures += fmt.Sprintf("; ended within %v", ms(longest))
	}
	return out, err
}

// killWorkers has films made by three workers that are killed again and again: each film is complete, and
// the same to the byte as one that was made undisturbed.
func killWorkers(ctx context.Context, n scale) (*result, error) {
	out := &result{name: fmt.Sprintf("three workers killed (SIGKILL) %d times while they make films", n.workers)}
	return onRig(ctx, out, 1, func(r *rig, ids []string) error {
		settings := release.Settings{Width: 640, Height: 360, Rate: 24, Captions: true, Purpose: encode.Draft}
		calm, err := order(r, ids[0], settings)
		if err != nil {
			return err
		}
		want, err := r.made(ctx, calm[0].ID, 5*time.Minute)
		if err != nil {
			return err
		}
		films, killed, begun := 0, 0, time.Now()
		workers := make([]*exec.Cmd, 3)
		random := rand.New(rand.NewPCG(2, 2))
		defer func() {
			for _, w := range workers {
				if w != nil {
					w.Process.Kill()
					w.Wait()
				}
			}
		}()
		for killed < n.workers {
			list, err := order(r, ids[0], settings)
			if err != nil {
				return err
			}
			r.kill() // its own workers are gone, too: the film is made by the three
			for made := false; !made; {
				k := random.IntN(len(workers))
				if workers[k] == nil {
					workers[k] = r.command("work", "--threads", "1", "--database", r.db.URL, "--data", r.data)
					if err := workers[k].Start(); err != nil {
						return err
					}
				} else if killed < n.workers {
					workers[k].Process.Kill()
					workers[k].Wait()
					workers[k] = nil
					killed++
				}
				time.Sleep(time.Duration(300+random.IntN(1500)) * time.Millisecond)
				o, err := r.store.Output(ctx, list[0].ID)
				if err != nil {
					return err
				}
				if o.State == store.Failed {
					out.fail("a film failed: %s", o.Message)
				}
				made = o.State == store.Done || o.State == store.Failed
				if ctx.Err() != nil {
					return ctx.Err()
				}
			}
			got, err := r.made(ctx, list[0].ID, time.Second)
			if err != nil {
				return err
			}
			films++
			out.check(bytes.Equal(got, want), "film %d is another one than the film made undisturbed", films)
			if err := r.start(ctx); err != nil {
				return err
			}
		}
		out.figures = fmt.Sprintf(
			"%d films in %v, each complete and the same to the byte",
			films,
			time.Since(begun).Round(time.Second),
		)
		return nil
	})
}

func order(r *rig, id string, settings ...release.Settings) ([]store.Output, error) {
	a, err := ask(
		http.DefaultClient,
		"POST",
		r.url("/api/reveals/"+id+"/outputs"),
		server.Order{Outputs: settings, By: "Drill"},
	)
	if err != nil {
		return nil, err
	}
	var list []store.Output
	if a.status != http.StatusCreated {
		return nil, fmt.Errorf("ordering: %d %s", a.status, a.body)
	}
	return list, json.Unmarshal(a.body, &list)
}

// made waits for an output and returns the digest of its file.
func (r *rig) made(ctx context.Context, id string, within time.Duration) ([]byte, error) {
	for end := time.Now().Add(within); ; time.Sleep(100 * time.Millisecond) {
		o, err := r.store.Output(ctx, id)
		if err != nil {
			return nil, err
		}
		if o.State == store.Done {
			data, err := os.ReadFile(r.store.OutputPath(o))
			sum := sha256.Sum256(data)
			return sum[:], err
		}
		if o.State == store.Failed || time.Now().After(end) {
			return nil, fmt.Errorf("the output is %s: %s", o.State, o.Message)
		}
	}
}

// cutter is a proxy that cuts connections: before a request has passed, after it has, or in the middle of
// its answer.
type cutter struct {
	l    net.Listener
	to   string
	cuts atomic.Int64
}

func newCutter(to string) (*cutter, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	c := &cutter{l: l, to: to}
	go func() {
		for n := uint64(0); ; n++ {
			conn, err := l.Accept()
			if err != nil {
				return
			}
			go c.pass(conn, rand.New(rand.NewPCG(n, 5)))
		}
	}()
	return c, nil
}

// pass passes one request on, or part of it, or part of its answer.
func (c *cutter) pass(client net.Conn, random *rand.Rand) {
	defer client.Close()
	server, err := net.Dial("tcp", c.to)
	if err != nil {
		return
	}
	defer server.Close()
	how := random.IntN(6)
	if how < 3 {
		c.cuts.Add(1)
	}
	if how == 0 { // half of the request
		buffer := make([]byte, 200)
		n, _ := client.Read(buffer)
		server.Write(buffer[:n])
		return
	}
	go func() { io.Copy(server, client) }()
	switch how {
	case 1: // the request, and nothing of the answer
		server.Read(make([]byte, 1))
	case 2: // some of the answer
		io.CopyN(client, server, int64(20+random.IntN(300)))
	default:
		io.Copy(client, server)
	}
}

// answersCutOff lets authors edit through a line that breaks half of the time.
func answersCutOff(ctx context.Context, n scale) (*result, error) {
	out := &result{name: fmt.Sprintf("%d edits and undos through a line that breaks half of the time", n.cut)}
	return onRig(ctx, out, 1, func(r *rig, ids []string) error {
		line, err := newCutter(r.addr)
		if err != nil {
			return err
		}
		defer line.l.Close()
		a := newAuthor(0, "http://"+line.l.Addr().String()+"/api/reveals/"+ids[0])
		a.client.Transport = &http.Transport{DisableKeepAlives: true}
		for range n.cut {
			a.edit(ctx, a.next())
		}
		before, err := r.store.Reveal(ctx, ids[0])
		if err != nil {
			return err
		}
		out.check(
			int(before.Version) == len(a.acknowledged),
			"%d edits were acknowledged, %d are stored",
			len(a.acknowledged),
			before.Version,
		)
		if err := undoCutOff(ctx, r, a, before, out); err != nil {
			return err
		}
		out.figures = fmt.Sprintf(
			"%d connections cut, %d edits stored, each once",
			line.cuts.Load(),
			len(a.acknowledged),
		)
		return r.verify(ctx, ids[0], a.acknowledged, out)
	})
}

// undoCutOff takes edits back through the same line: each undo takes back one.
func undoCutOff(ctx context.Context, r *rig, a *author, before store.StoredReveal, out *result) error {
	const undos = 20
	version := before.Version
	for k := range undos {
		key := fmt.Sprintf("00000000-0000-4000-8000-%012d", k)
		for {
			answer, err := ask(
				a.client,
				"POST",
				a.url+"/undo",
				server.Reverse{Version: version},
				"Idempotency-Key",
				key,
			)
			if err != nil {
				if ctx.Err() != nil {
					return ctx.Err()
				}
				continue
			}
			if answer.status != http.StatusOK {
				return fmt.Errorf("undo: %d %s", answer.status, answer.body)
			}
			version++
			break
		}
	}
	now, err := r.store.Reveal(ctx, before.ID)
	if err != nil {
		return err
	}
	out.check(now.Version == before.Version+undos, "%d undos made %d entries", undos, now.Version-before.Version)
	return nil
}

// databaseAway stops the database under load and starts it again after a while. The server is given a
// database that it does not look after.
func databaseAway(ctx context.Context, n scale) (*result, error) {
	out := &result{name: fmt.Sprintf("database away for %v under load", n.away)}
	return onRig(ctx, out, 3, func(r *rig, ids []string) error {
		r.kill()
		r.server = r.command("serve", "--addr", r.addr, "--data", r.data, "--database", r.db.URL)
		if err := r.server.Start(); err != nil {
			return err
		}
		if err := r.healthy(ctx, time.Minute); err != nil {
			return err
		}
		c := newCrowd(r, ids, 12)
		working, stop := context.WithCancel(ctx)
		defer stop()
		var all sync.WaitGroup
		all.Go(func() { c.work(working, 50*time.Millisecond) })
		time.Sleep(time.Second)
		if err := r.db.Halt(ctx); err != nil {
			return err
		}
		slowest, ends := time.Duration(0), time.Now().Add(n.away)
		for time.Now().Before(ends) {
			begun := time.Now()
			a, err := ask(http.DefaultClient, "GET", r.url("/api/health"), nil)
			if err != nil {
				return err
			}
			slowest = max(slowest, time.Since(begun))
			out.check(a.status == http.StatusServiceUnavailable, "health says %d while the database is away", a.status)
			time.Sleep(100 * time.Millisecond)
		}
		out.check(slowest < 2*time.Second, "health took %v", slowest)
		if err := r.db.Restart(ctx); err != nil {
			return err
		}
		begun := time.Now()
		if err := r.healthy(ctx, 20*time.Second); err != nil {
			return err
		}
		back := time.Since(begun)
		time.Sleep(2 * time.Second)
		stop()
		all.Wait()
		if _, err := c.judge(ctx, r, out); err != nil {
			return err
		}
		out.figures += fmt.Sprintf(
			"; health answered within %v meanwhile, and was well %v after the return",
			ms(slowest),
			ms(back),
		)
		return nil
	})
}
