package main

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"slowreveal/jobs"
	"slowreveal/renewal"
	"slowreveal/store"
)

type renewCommand struct {
	place
	reading
	Project string   `required:"" help:"The project whose next revision it is: its id, or its name where there is one of it."`
	File    []string `arg:"" type:"path" help:"Assembly file of the new revision, or several that belong together."`
	Out     string   `type:"path" help:"Folder for the report (report.html, report.json) and for what was made."`
	JSON    bool     `name:"json" help:"Print the report as JSON."`
	Quiet   bool     `help:"Say nothing on the way."`
	Watch   bool     `help:"Do it again whenever the first file has changed and rests, until told to end."`
	Threads int      `help:"Threads for rendering; 0 is one for each processor."`
}

// Run takes a revision in and makes everything again that was made of the one before. It ends with errFaults where a
// proof finds faults that nobody has accepted.
func (c *renewCommand) Run(ctx context.Context) error {
	a, stop, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer stop()
	p, err := projectCalled(ctx, a.Store, c.Project)
	if err != nil {
		return err
	}
	queue, err := jobs.OpenWorkers(a, c.Threads)
	if err != nil {
		return err
	}
	working, enough := context.WithCancel(ctx)
	ended := make(chan error, 1)
	go func() { ended <- queue.Work(working) }()
	defer func() { enough(); <-ended }()
	m := &renewal.Maker{Authoring: a, Queue: queue}
	if !c.Quiet {
		m.Tell = func(says string) { fmt.Fprintln(os.Stderr, says) }
	}
	if !c.Watch {
		return c.renew(ctx, m, p)
	}
	return c.watch(ctx, func() error { return c.renew(ctx, m, p) })
}

// projectCalled returns the project with an id, or the one that is called so.
func projectCalled(ctx context.Context, s *store.Store, called string) (store.Project, error) {
	all, err := s.Projects(ctx)
	if err != nil {
		return store.Project{}, err
	}
	var found []store.Project
	var names []string
	for _, p := range all {
		if p.ID == called {
			return p, nil
		}
		if strings.EqualFold(p.Name, called) {
			found = append(found, p)
		}
		names = append(names, fmt.Sprintf("%q", p.Name))
	}
	switch {
	case len(found) == 1:
		return found[0], nil
	case len(found) > 1:
		return store.Project{}, fmt.Errorf("%d projects are called %q: say which by its id", len(found), called)
	}
	return store.Project{}, fmt.Errorf("there is no project %q; there are %s", called, strings.Join(names, ", "))
}

func (c *renewCommand) renew(ctx context.Context, m *renewal.Maker, p store.Project) error {
	i := store.Import{ID: store.NewImport(), Name: p.Name, ProjectID: &p.ID, Reread: true}
	i.Source = i.ID
	if err := putFiles(ctx, m.Authoring.Store, &i, c.File); err != nil {
		m.Authoring.Store.DropFiles(ctx, i.Source)
		return err
	}
	report, err := m.Run(ctx, i, c.options(i.Name))
	if err != nil {
		return err
	}
	if err := c.write(&report); err != nil {
		return err
	}
	if c.JSON {
		err = printJSON(report)
	} else {
		tellRenewal(&report)
	}
	switch {
	case err != nil:
		return err
	case report.Failed() > 0:
		return fmt.Errorf("%d outputs could not be made again", report.Failed())
	case report.Faults() > 0:
		return errFaults
	}
	return nil
}

// write puts the report and what was made into the folder.
func (c *renewCommand) write(r *renewal.Report) error {
	if c.Out == "" {
		return nil
	}
	if err := os.MkdirAll(c.Out, 0o755); err != nil {
		return fmt.Errorf("making the folder: %w", err)
	}
	taken := map[string]bool{}
	for k := range r.Outputs {
		o := &r.Outputs[k]
		if o.File == "" {
			continue
		}
		to := filepath.Join(c.Out, freeName(taken, o.Title, filepath.Ext(o.File)))
		if err := copyFile(to, o.File); err != nil {
			return err
		}
		o.File = to
	}
	var page strings.Builder
	if err := r.Page(&page); err != nil {
		return err
	}
	text, err := asJSON(r)
	if err != nil {
		return err
	}
	return errors.Join(writeFile(filepath.Join(c.Out, "report.html"), []byte(page.String())),
		writeFile(filepath.Join(c.Out, "report.json"), text))
}

func tellRenewal(r *renewal.Report) {
	fmt.Printf("Revision %d of %s: %d as they were, %d changed or in doubt, %d new, %d gone.\n",
		r.Revision, r.Project, r.Changes.Same, len(r.Changes.Changed), len(r.Changes.Added), len(r.Changes.Gone))
	for _, line := range r.Changes.Lost {
		fmt.Println("Could not follow:", line)
	}
	for _, p := range r.Proofs {
		title := p.Title
		if p.Variant != "" {
			title += ", " + p.Variant
		}
		fmt.Printf("%s: %s\n", title, p.Counts)
	}
	for _, o := range r.Outputs {
		switch {
		case o.Problem != "":
			fmt.Printf("%s was not made: %s\n", o.Title, o.Problem)
		case len(o.Pictures) == 1:
			fmt.Printf(
				"%s: made in %.1f s, %.1f %% of its picture has changed\n",
				o.Title,
				o.Seconds,
				100*o.Pictures[0].Changed,
			)
		default:
			fmt.Printf("%s: made in %.1f s\n", o.Title, o.Seconds)
		}
	}
}

// looked is how often a watched file is looked at; one that has not changed for as long is complete.
const looked = 2 * time.Second

// watch does something whenever the first file has changed and rests. What goes wrong is said, and the next change waited
// for.
func (c *renewCommand) watch(ctx context.Context, do func() error) error {
	done, err := stamp(c.File[0])
	if err != nil {
		return err
	}
	fmt.Fprintf(os.Stderr, "Waiting for %s to change …\n", c.File[0])
	last := done
	for {
		select {
		case <-ctx.Done():
			return nil
		case <-time.After(looked):
		}
		now, err := stamp(c.File[0])
		if errors.Is(err, fs.ErrNotExist) {
			continue // it is being replaced
		}
		if err != nil {
			return err
		}
		if now == done || now != last {
			last = now
			continue
		}
		done = now
		if err := do(); err != nil && !errors.Is(err, errFaults) {
			fmt.Fprintln(os.Stderr, "slowreveal:", err)
		}
	}
}

// stamp tells one state of a file from another.
func stamp(path string) (string, error) {
	info, err := os.Stat(path)
	if err != nil {
		return "", fmt.Errorf("looking at %s: %w", path, err)
	}
	return fmt.Sprint(info.Size(), info.ModTime().UnixNano()), nil
}
