// Package match finds which node of a new revision of an assembly is which of the one before, from shapes, places, names and
// paths together, as one assignment, and how sure that is; and tells what has changed. Ids are kept for good: what is
// matched gets the id that it had, so that all that was made of it goes on.
package match
