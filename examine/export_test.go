package examine

// SetMemory sets the bound on a look's memory and returns what makes it as it was.
func SetMemory(bytes uint64) (back func()) {
	before := memory
	memory = bytes
	return func() { memory = before }
}
