// Package plan is a teardown plan as it is told of, and writes it: as steps and cues in a document, with shots and
// words, as one step in which everything goes apart at once, or as a first film. How it is found is for package
// removal.
package plan
