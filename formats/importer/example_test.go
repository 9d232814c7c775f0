package importer_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"slowreveal/demo"
	"slowreveal/formats"
	"slowreveal/formats/gltf"
	"slowreveal/formats/importer"
)

// Files of any format that is known become an assembly with its shapes, and a report of what was put right.
func ExampleRead() {
	folder, err := os.MkdirTemp("", "example")
	if err != nil {
		panic(err)
	}
	defer os.RemoveAll(folder)
	glb, err := gltf.Write(demo.Pump())
	if err == nil {
		err = os.WriteFile(filepath.Join(folder, "pump.glb"), glb, 0o600)
	}
	if err != nil {
		panic(err)
	}
	m, err := importer.Read(context.Background(), folder, []string{"pump.glb"}, formats.Options{Name: "Pump"})
	if err != nil {
		panic(err)
	}
	fmt.Println(m.Assembly.Name, m.Report.Parts, "parts of", m.Report.Shapes, "shapes;", m.Report.Unit)
	// Output: Pump 80 parts of 47 shapes; metre (fixed by glTF 2.0)
}
