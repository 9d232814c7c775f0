package paper

// File is one of several that belong together, in a folder.
type File struct {
	Name string // with slashes
	Data []byte
}
