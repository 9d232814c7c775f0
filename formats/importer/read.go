package importer

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/match"
	"slowreveal/core/product"
	"slowreveal/core/space"
	"slowreveal/formats"
	"slowreveal/formats/gltf"
	"slowreveal/formats/obj"
	"slowreveal/formats/step"
	"slowreveal/formats/stl"
	"slowreveal/formats/threemf"
)

// Formats are the endings of files that hold an assembly.
var Formats = Endings{".step", ".stp", ".iges", ".igs", ".glb", ".gltf", ".3mf", ".stl", ".obj"}

// Sidecars are the endings of files that go with one of Formats.
var Sidecars = Endings{".bin", ".mtl"}

// Endings are endings of file names, in lower case.
type Endings []string

// Has reports whether a file's name ends in one of them.
func (e Endings) Has(name string) bool { return slices.Contains(e, ending(name)) }

// MaxFiles is how many files may come together.
const MaxFiles = 500

// Read reads the assembly from files, which lie in folder under plain names.
func Read(ctx context.Context, folder string, files []string, o formats.Options) (*product.Model, error) {
	if err := o.Check(); err != nil {
		return nil, err
	}
	mains, err := Mains(folder, files)
	if err != nil {
		return nil, err
	}
	if len(mains) > 1 {
		return variants(ctx, folder, mains, files, o)
	}
	return one(ctx, folder, mains[0], files, o)
}

// one reads the assembly that one of the files holds.
func one(ctx context.Context, folder, main string, files []string, o formats.Options) (*product.Model, error) {
	if o.Name == "" {
		o.Name = plain(main)
	}
	m, err := read(ctx, folder, main, files, o)
	if err != nil {
		if ctx.Err() != nil {
			return nil, context.Cause(ctx)
		}
		if strings.HasPrefix(err.Error(), main) { // it names the file itself
			return nil, err
		}
		return nil, fmt.Errorf("%s: %w", main, err)
	}
	return m, nil
}

func plain(file string) string { return strings.TrimSuffix(file, filepath.Ext(file)) }

func read(ctx context.Context, folder, main string, files []string, o formats.Options) (*product.Model, error) {
	path := filepath.Join(folder, main)
	switch kind := ending(main); kind {
	case ".step", ".stp":
		return step.Read(ctx, "step", path, o)
	case ".iges", ".igs":
		return step.Read(ctx, "iges", path, o)
	case ".stl":
		if len(files) > 1 {
			return manySTL(ctx, folder, files, o)
		}
	}
	data, err := load(path)
	if err != nil {
		return nil, err
	}
	o.Tell("reading", 0.2)
	beside, err := os.OpenRoot(folder)
	if err != nil {
		return nil, err
	}
	defer beside.Close()
	switch ending(main) {
	case ".glb", ".gltf":
		return gltf.ReadWith(ctx, data, beside.FS(), o)
	case ".3mf":
		return threemf.Read(ctx, data, o)
	case ".obj":
		return obj.Read(ctx, data, beside.FS(), o)
	}
	return stl.Read(ctx, data, o)
}

// load reads a file within the limit.
func load(path string) ([]byte, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, fmt.Errorf("it cannot be opened: %w", err)
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	if info.Size() > formats.MaxFile {
		return nil, fmt.Errorf("it has %d bytes; the limit is %d", info.Size(), formats.MaxFile)
	}
	data := make([]byte, info.Size())
	if _, err := io.ReadFull(f, data); err != nil {
		return nil, fmt.Errorf("it cannot be read: %w", err)
	}
	return data, nil
}

// Check returns an error when files with these names cannot be one assembly.
func Check(files []string) error {
	_, err := candidates(files)
	return err
}

// candidates returns the files that may hold the assembly, all of one kind.
func candidates(files []string) ([]string, error) {
	var models []string
	for _, name := range files {
		switch {
		case !fs.ValidPath(name) || strings.ContainsAny(name, `/\`) || name == ".":
			return nil, fmt.Errorf("%q is no plain file name", formats.Clipped(name))
		case Formats.Has(name):
			models = append(models, name)
		case !Sidecars.Has(name):
			return nil, fmt.Errorf(
				"%s: files ending in %q are not read; known are %s",
				formats.Clipped(name),
				ending(name),
				strings.Join(Formats, " "),
			)
		}
	}
	switch {
	case len(files) > MaxFiles:
		return nil, fmt.Errorf("%d files came together; the limit is %d", len(files), MaxFiles)
	case len(models) == 0:
		return nil, fmt.Errorf("there is no assembly among the files; known endings are %s", strings.Join(Formats, " "))
	case len(models) == 1, all(models, ".stl"):
		return models, nil
	case slices.ContainsFunc(models, func(n string) bool { return ending(n) == ".stl" }):
		return nil, fmt.Errorf("%s and %s both hold an assembly; give one of them", models[0], models[1])
	case len(models) > assembly.MaxVariants && !all(models, ".step", ".stp"):
		return nil, fmt.Errorf(
			"%d assemblies came together; the limit is %d variants",
			len(models),
			assembly.MaxVariants,
		)
	}
	return models, nil
}

// Mains returns the files among several that hold assemblies: the only one of its kind, or the STEP file that no other
// one refers to. Several STL files are one assembly together; several other ones are variants of one product, in the
// order of their names.
func Mains(folder string, files []string) ([]string, error) {
	models, err := candidates(files)
	switch {
	case err != nil || len(models) == 1:
		return models, err
	case all(models, ".stl"):
		return models[:1], nil
	}
	steps := slices.DeleteFunc(slices.Clone(models), func(n string) bool { return !all([]string{n}, ".step", ".stp") })
	mains := slices.DeleteFunc(models, func(n string) bool { return slices.Contains(steps, n) })
	if len(steps) > 0 {
		if steps, err = tops(folder, steps); err != nil {
			return nil, err
		}
	}
	mains = append(mains, steps...)
	slices.Sort(mains)
	return mains, nil
}

// tops returns the STEP files that none of the others refers to.
func tops(folder string, models []string) (list []string, err error) {
	referred := map[string]bool{}
	for _, name := range models {
		data, err := load(filepath.Join(folder, name))
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		for _, ref := range step.References(data) {
			if ref != name {
				referred[ref] = true
			}
		}
	}
	for _, name := range models {
		if !referred[name] {
			list = append(list, name)
		}
	}
	if len(list) == 0 {
		return nil, errors.New("the STEP files refer to each other in a circle")
	}
	return list, nil
}

// variants reads files that each hold a configuration of one product: one assembly with a variant for each.
func variants(ctx context.Context, folder string, mains, files []string, o formats.Options) (*product.Model, error) {
	var m *product.Model
	var list []match.Configured
	tell, name := o.Progress, o.Name
	for i, main := range mains {
		own := o
		own.Name = plain(main)
		if tell != nil {
			own.Progress = func(stage string, share float64) { tell(stage, (float64(i)+share)/float64(len(mains))) }
		}
		next, err := one(ctx, folder, main, files, own)
		if err != nil {
			return nil, err
		}
		if len(next.Assembly.Variants) > 0 {
			next.Report.Ignored = append(next.Report.Ignored, "its own variants: each file is one")
		}
		list = append(list, match.Configured{
			Name: plain(main), Side: match.Side{Assembly: next.Assembly, Shapes: next.Shapes},
		})
		if m == nil {
			m = next
			continue
		}
		for _, line := range next.Report.Ignored {
			m.Report.Ignored = append(m.Report.Ignored, main+": "+line)
		}
	}
	a, shapes, says, err := match.Together(list)
	if err != nil {
		return nil, err
	}
	if m.Assembly, m.Shapes = a, shapes; name != "" {
		a.Name, a.Nodes[0].Name = name, name
	}
	m.Report.Variants = says
	m.Count()
	return m, nil
}

// manySTL makes one assembly of several STL files, a part for each.
func manySTL(ctx context.Context, folder string, files []string, o formats.Options) (*product.Model, error) {
	b := formats.NewBuilder(ctx, o, "STL")
	mm := b.Unit(formats.Unit{}, "")
	b.Up("z", "usual for STL")
	finish := b.Finish(formats.DefaultFinish)
	root := b.Node(-1, assembly.Node{Name: o.Name, Shape: -1, Pose: assembly.PoseOf(space.Identity)})
	for i, name := range files {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		data, err := load(filepath.Join(folder, name))
		if err != nil {
			return nil, err
		}
		bodies, err := stl.Bodies(ctx, data)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		for _, body := range bodies {
			if body.Name == "" || len(bodies) == 1 {
				body.Name = strings.TrimSuffix(name, filepath.Ext(name))
			}
			if err := stl.Add(b, root, body.Name, body, mm, finish); err != nil {
				return nil, fmt.Errorf("%s: %w", name, err)
			}
		}
		o.Tell("reading", float64(i+1)/float64(len(files)))
	}
	return b.Model()
}

func ending(name string) string { return strings.ToLower(filepath.Ext(name)) }

func all(names []string, endings ...string) bool {
	return !slices.ContainsFunc(names, func(n string) bool { return !Endings(endings).Has(n) })
}
