package edit_test

import (
	"fmt"

	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// A command changes a document and returns the command that takes the change back.
func Example() {
	assembly := demo.Pump().Assembly
	r := demo.Teardown(assembly)
	title := "Cover off"
	back, err := edit.Do(r, assembly, edit.Command{Op: edit.Batch, Commands: []edit.Command{
		{Op: edit.SetTitle, Title: &title},
		{Op: edit.ChangeDuration, StepID: r.Steps[0].ID, By: reveal.Second},
	}})
	fmt.Println(r.Title, r.Steps[0].Duration, err)
	_, err = edit.Do(r, assembly, back)
	fmt.Println(r.Title, r.Steps[0].Duration, err)
	// Output:
	// Cover off 5600000 <nil>
	// Service teardown 4600000 <nil>
}
