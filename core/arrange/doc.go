// Package arrange makes an assembly as it was imported ready to be animated:
// names, groups, splits, finishes and part sets are a list of edits on top of
// it, and the import itself stays as it is. The list is the arrangement; taking
// the last edit off is undo. The ids of nodes never change.
package arrange
