package render_test

import (
	"fmt"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/render"
)

// A scene is prepared once; a renderer draws any number of views of it, of a size, into pictures.
func Example() {
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	if err != nil {
		panic(err)
	}
	renderer, err := render.NewRenderer(scene, 160, 90, 1)
	if err != nil {
		panic(err)
	}
	frame, view, picture := f.NewFrame(), scene.NewView(), render.NewPicture(160, 90)
	f.At(10*reveal.Second, frame)
	view.Take(scene, frame, 16.0/9)
	renderer.Draw(view, picture)
	fmt.Println(picture.Image().Bounds(), len(picture.RGB))
	// Output: (0,0)-(160,90) 43200
}
