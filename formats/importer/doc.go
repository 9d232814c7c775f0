// Package importer reads an assembly from whatever files a person gives: it finds
// out the format, which of several files holds the assembly, and what lies
// beside it.
package importer
