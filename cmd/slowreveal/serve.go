package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"slowreveal/authoring"
	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/formats/gltf"
	"slowreveal/formats/importer"
	"slowreveal/formats/step"
	"slowreveal/jobs"
	"slowreveal/localdb"
	"slowreveal/server"
	"slowreveal/store"
)

// place says where the data is.
type place struct {
	Data     string `type:"path" default:".data" help:"Folder for the data."`
	Database string `env:"SLOWREVEAL_DATABASE" help:"PostgreSQL to use, as a URL. When left out, one of our own runs in the data folder."`
}

// open opens what is kept in a place to authors, and starts the database when it is our own. stop lets
// go of both.
func (p place) open(ctx context.Context) (a *authoring.Service, stop func(), err error) {
	if err := os.MkdirAll(p.Data, 0o755); err != nil {
		return nil, nil, fmt.Errorf("making the data folder: %w", err)
	}
	stopDB := func() {}
	if p.Database == "" {
		db, err := localdb.Start(ctx, filepath.Join(p.Data, "postgres"))
		if err != nil {
			return nil, nil, err
		}
		p.Database = db.URL
		db.Watch()
		stopDB = func() { db.Stop(context.WithoutCancel(ctx)) }
	}
	s, err := store.Open(ctx, p.Database, p.Data)
	if err != nil {
		stopDB()
		return nil, nil, err
	}
	return authoring.New(s), func() { s.Close(); stopDB() }, nil
}

type serveCommand struct {
	place
	Addr string `default:"127.0.0.1:7741" help:"Address to listen on; loopback only."`
	Demo bool   `help:"Fill an empty database with the example."`
	Log  string `default:"info" enum:"debug,info,warn,error" help:"What the log says: ${enum}; debug is every request."`
}

// logFrom has the log say what is of a level, or above it.
func logFrom(level string) {
	var l slog.Level
	if err := l.UnmarshalText([]byte(level)); err == nil { // the command line takes no other words
		slog.SetLogLoggerLevel(l)
	}
}

// Run serves until it is told to end.
func (c *serveCommand) Run(ctx context.Context) error {
	logFrom(c.Log)
	listener, err := listen(c.Addr)
	if err != nil {
		return err
	}
	defer listener.Close()
	a, stop, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer stop()
	if c.Demo {
		if err := seed(ctx, a); err != nil {
			return err
		}
	}
	queue, err := jobs.OpenWorkers(a, 0)
	if err != nil {
		return err
	}
	srv, err := server.New(a, queue)
	if err != nil {
		return err
	}
	working := make(chan error, 1)
	go func() { working <- queue.Work(ctx) }()
	fmt.Printf("Slow Reveal is at http://%s\n", listener.Addr())
	if err := srv.Serve(ctx, listener); err != nil {
		return err
	}
	return <-working
}

// listen refuses everything but loopback: there are no accounts yet.
func listen(addr string) (net.Listener, error) {
	host, _, err := net.SplitHostPort(addr)
	if err != nil {
		return nil, fmt.Errorf("the address %q is not like 127.0.0.1:7741", addr)
	}
	if ip := net.ParseIP(host); host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return nil, fmt.Errorf(
			"the address %q is not on loopback: without accounts, Slow Reveal serves this machine only",
			addr,
		)
	}
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, fmt.Errorf("listening on %s: %w (is another Slow Reveal running? choose another --addr)", addr, err)
	}
	return l, nil
}

type workCommand struct {
	place
	Threads int    `help:"Threads for rendering; 0 is one for each processor."`
	Log     string `default:"info" enum:"debug,info,warn,error" help:"What the log says: ${enum}."`
}

// Run works off the queue until it is told to end.
func (c *workCommand) Run(ctx context.Context) error {
	logFrom(c.Log)
	if c.Database == "" {
		return errors.New("a worker needs the server's database: give --database or SLOWREVEAL_DATABASE")
	}
	a, stop, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer stop()
	queue, err := jobs.OpenWorkers(a, c.Threads)
	if err != nil {
		return err
	}
	fmt.Println("working")
	return queue.Work(ctx)
}

type importCommand struct {
	place
	reading
	File    []string `arg:"" type:"path" help:"Assembly file, or several that belong together."`
	Project string   `help:"Name of the new project; the file's when left out."`
	Revises string   `help:"Id of a project whose next revision it is: what was made of the one before goes on."`
}

// Run imports files as a new project.
func (c *importCommand) Run(ctx context.Context) error {
	a, stop, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer stop()
	queue, err := jobs.Open(a)
	if err != nil {
		return err
	}
	i := store.Import{ID: store.NewImport(), Name: c.Project}
	i.Source = i.ID
	if c.Revises != "" {
		p, err := a.Store.Project(ctx, c.Revises)
		if err != nil {
			return fmt.Errorf("the project %s: %w", c.Revises, err)
		}
		i.ProjectID, i.Reread, i.Name = &p.ID, true, p.Name
	}
	if i.Name == "" {
		i.Name = strings.TrimSuffix(filepath.Base(c.File[0]), filepath.Ext(c.File[0]))
	}
	if err := putFiles(ctx, a.Store, &i, c.File); err != nil {
		a.Store.DropFiles(ctx, i.Source)
		return err
	}
	o := c.options(i.Name)
	if i, err = queue.ImportNow(ctx, i, o); err != nil {
		return err
	}
	p, err := a.Store.Project(ctx, *i.ProjectID)
	if err != nil {
		return err
	}
	return printJSON(p)
}

// putFiles stores the files of an import.
func putFiles(ctx context.Context, s *store.Store, i *store.Import, paths []string) error {
	for _, path := range paths {
		f, err := os.Open(path)
		if err != nil {
			return fmt.Errorf("the assembly %s cannot be opened: %w", path, err)
		}
		n, err := s.PutFile(ctx, i.Source, filepath.Base(path), f)
		f.Close()
		if err != nil {
			return err
		}
		i.Files = append(i.Files, store.File{Name: filepath.Base(path), Bytes: n})
	}
	return importer.Check(i.Files.Names())
}

type seedCommand struct{ place }

// Run fills an empty database with the example.
func (c *seedCommand) Run(ctx context.Context) error {
	a, stop, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer stop()
	return seed(ctx, a)
}

// seed adds the example when there is no project yet. Its assembly goes the way
// of any user's file: out as GLB and in again.
func seed(ctx context.Context, a *authoring.Service) error {
	projects, err := a.Store.Projects(ctx)
	if err != nil || len(projects) > 0 {
		return err
	}
	if err := seedWith(ctx, a, demo.PumpB(), "dp-40-b.glb", demo.Teardown); err != nil {
		return err
	}
	if err := seedWith(ctx, a, demo.Applicator(), "la-3.glb", demo.Labelling); err != nil {
		return err
	}
	return seedWith(ctx, a, demo.Pump(), "dp-40.glb", demo.Running, demo.Teardown)
}

// seedWith adds a project with its reveals.
func seedWith(
	ctx context.Context,
	a *authoring.Service,
	made *product.Model,
	file string,
	directed ...func(*assembly.Assembly) *reveal.Reveal,
) error {
	glb, err := gltf.Write(made)
	if err != nil {
		return err
	}
	m, err := gltf.Read(glb, made.Assembly.Name)
	if err != nil {
		return err
	}
	p, err := a.CreateProject(ctx, made.Assembly.Name, file, m)
	if err != nil {
		return err
	}
	for _, direct := range directed {
		doc := direct(m.Assembly)
		text, err := json.Marshal(doc)
		if err != nil {
			return err
		}
		if doc, err = reveal.Parse(text); err != nil {
			return err
		}
		if _, err = a.CreateReveal(ctx, p.ID, doc); err != nil {
			return err
		}
	}
	return nil
}

type doctorCommand struct{}

// Run says what this machine lacks.
func (c *doctorCommand) Run(ctx context.Context) error {
	bad := false
	for _, need := range []struct{ program, pkg, why string }{
		{"ffmpeg", "ffmpeg", "films are encoded by it"},
		{"chromium", "chromium", "the tests of the interface drive it"},
	} {
		if path, err := exec.LookPath(need.program); err == nil {
			fmt.Printf("found    %-10s %s\n", need.program, path)
		} else {
			fmt.Printf("missing  %-10s %s: apt-get install %s\n", need.program, need.why, need.pkg)
			bad = true
		}
	}
	if path, err := step.Program(); err == nil {
		fmt.Printf("found    %-10s %s\n", "stepread", path)
	} else {
		fmt.Printf("missing  %-10s %v\n", "stepread", err)
		bad = true
	}
	folder, err := os.MkdirTemp("", "slowreveal-doctor-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(folder)
	if err := os.Chmod(folder, 0o755); err != nil { // the database's own user must get in
		return err
	}
	ctx, cancel := context.WithTimeout(ctx, time.Minute)
	defer cancel()
	if db, err := localdb.Start(ctx, filepath.Join(folder, "postgres")); err != nil {
		fmt.Printf("missing  %-10s %v\n", "postgres", err)
		bad = true
	} else {
		db.Stop(ctx)
		fmt.Printf("found    %-10s starts and stops\n", "postgres")
	}
	if bad {
		return errReported
	}
	return nil
}

type openapiCommand struct{}

// Run prints the description of the API.
func (c *openapiCommand) Run() error { return printJSON(server.Describe()) }

type typescriptCommand struct{}

// Run prints what the page can ask of the core, as TypeScript.
func (c *typescriptCommand) Run() error {
	_, err := fmt.Print(server.TypeScript())
	return err
}

type schemaCommand struct{}

// Run prints the JSON Schema of the reveal document.
func (c *schemaCommand) Run() error {
	return printJSON(server.Reflector().Reflect(reveal.Reveal{}))
}
