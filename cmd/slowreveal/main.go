// Command slowreveal is the whole program: the server, the workers and the
// tools of the command line.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"github.com/alecthomas/kong"
)

type commands struct {
	Serve      serveCommand      `cmd:"" help:"Serve the application on this machine."`
	Work       workCommand       `cmd:"" help:"Work off the queue of outputs beside a server."`
	Import     importCommand     `cmd:"" help:"Import an assembly file as a new project."`
	Seed       seedCommand       `cmd:"" help:"Fill an empty database with the example."`
	Doctor     doctorCommand     `cmd:"" help:"Say what this machine lacks."`
	OpenAPI    openapiCommand    `cmd:"" name:"openapi" help:"Print the description of the API."`
	TypeScript typescriptCommand `cmd:"" name:"typescript" help:"Print what the page can ask of the core, as TypeScript."`
	Checks     checksCommand     `cmd:"" help:"Print what a proof looks for, as a table."`
	Schema     schemaCommand     `cmd:"" help:"Print the JSON Schema of the reveal document."`
	Film       filmCommand       `cmd:"" help:"Make a film of a reveal."`
	Still      stillCommand      `cmd:"" help:"Make pictures of moments of a reveal."`
	Frames     framesCommand     `cmd:"" help:"Make a sequence of pictures of a reveal, with layers."`
	GLB        glbCommand        `cmd:"" name:"glb" help:"Write a reveal as an animated GLB."`
	Captions   captionsCommand   `cmd:"" help:"Write the words of a reveal's steps as WebVTT or SubRip."`
	Lines      linesCommand      `cmd:"" help:"Draw moments of a reveal as lines: SVG, PDF."`
	Sheet      sheetCommand      `cmd:"" help:"Make a drawing sheet with item references and a parts list: PDF, SVG."`
	Parts      partsCommand      `cmd:"" help:"Write the parts list as a table: CSV, JSON."`
	Manual     manualCommand     `cmd:"" help:"Make a step-by-step document: PDF, HTML."`
	Page       pageCommand       `cmd:"" help:"Make one HTML file that a client turns by hand."`
	Pack       packCommand       `cmd:"" help:"Make a whole set of outputs of a reveal."`
	Sample     sampleCommand     `cmd:"" help:"Print poses, opacities and camera of one moment as JSON."`
	Validate   validateCommand   `cmd:"" help:"Check an assembly, and a reveal of it."`
	Proof      proofCommand      `cmd:"" help:"Say where parts go into one another in a reveal; the exit code is 3 where they do."`
	Plan       planCommand       `cmd:"" help:"Plan a teardown: order, directions, distances, words; also as a reveal."`
	Compare    compareCommand    `cmd:"" help:"Tell what has changed between two revisions of an assembly."`
	Gather     gatherCommand     `cmd:"" help:"Make one GLB of several files that are variants of one product."`
	Renew      renewCommand      `cmd:"" help:"Take the next revision of a project in, and make everything again that was made of the one before; the exit code is 3 where films have faults."`
	Inspect    inspectCommand    `cmd:"" help:"Print what an assembly file holds as JSON."`
	Demo       demoCommand       `cmd:"" help:"Write the example's assembly and reveal as files."`
}

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	os.Exit(run(ctx, os.Args[1:]))
}

// run executes one command and returns the exit code: 0, 1 for a failure, 2
// for words that are not understood, 3 for a film with faults.
func run(ctx context.Context, args []string) (code int) {
	defer func() {
		if p := recover(); p != nil {
			fmt.Fprintf(os.Stderr, "slowreveal: this is a mistake in Slow Reveal, not yours: %v\n", p)
			code = 1
		}
	}()
	var c commands
	parser, err := kong.New(
		&c,
		kong.Name("slowreveal"),
		kong.Description("Keyframed assembly animations: take things apart on film, and put them together again."),
		kong.UsageOnError(),
		kong.BindTo(ctx, (*context.Context)(nil)),
	)
	if err != nil {
		panic(err)
	}
	k, err := parser.Parse(args)
	if err != nil {
		fmt.Fprintln(os.Stderr, "slowreveal:", err)
		return 2
	}
	if err := k.Run(); err != nil {
		if errors.Is(err, errFaults) {
			return 3
		}
		if !errors.Is(err, errReported) {
			fmt.Fprintln(os.Stderr, "slowreveal:", err)
		}
		return 1
	}
	return 0
}

// errReported says that the command has already said what is wrong.
var errReported = errors.New("already reported")
