// Package compose turns what a hand does to steps and cues as a whole (split,
// join, duplicate, align, distribute, insert time, paste, twins, and the way back) into one command that
// core/edit carries out and can take back.
package compose
