// Package jobs makes outputs in the background: a queue in PostgreSQL (River),
// worked off by this process and by any number of `slowreveal work` processes.
// A worker that dies costs time, not the output: another one begins it again.
package jobs
