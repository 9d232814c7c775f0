package release

import "strings"

// FileName keeps of a title what is safe in a file name everywhere.
func FileName(title string) string {
	safe := strings.Map(func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z', r >= 'A' && r <= 'Z', r >= '0' && r <= '9', r == '-', r == '_', r == ' ':
			return r
		}
		return -1
	}, title)
	safe = strings.TrimSpace(safe[:min(len(safe), 80)])
	if safe == "" {
		return "output"
	}
	return safe
}
