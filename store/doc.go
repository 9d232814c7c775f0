// Package store keeps everything that must not be lost: projects, assemblies,
// reveals with the log of their changes, and outputs in PostgreSQL; shapes and
// finished files in a blob store, by content or by id. Other processes are told
// of changes by PostgreSQL's notifications.
package store
