// Package formats says what every reader of a file hands over and every writer
// takes. The readers and writers themselves live in the folders below, one
// package for each format.
package formats
