//go:build player

package editor

var authoring []Query
