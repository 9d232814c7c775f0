// Package encode hands raw frames to ffmpeg and looks after the process: what
// it lacks, when it dies, and that no half-written file is taken for a film.
package encode
