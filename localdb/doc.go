// Package localdb runs a PostgreSQL server of one's own: in a folder, on
// loopback, as a user without rights, with a password that nobody has to know.
// The demo and the tests use it; an installation names its own server instead.
package localdb
