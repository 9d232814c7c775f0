// Package step reads STEP (ISO 10303-21) and IGES files by the program stepread
// (native/stepread), which runs the OpenCascade kernel in a process of its own
// with bounds on memory and time.
package step
