package paper

import (
	"fmt"
	"regexp"
)

var languageTag = regexp.MustCompile(`^[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8})*$`)

// Language returns a language's tag (BCP 47), English where there is none; the error names one that is none.
func Language(tag string) (string, error) {
	if tag == "" {
		tag = "en"
	}
	if !languageTag.MatchString(tag) {
		return tag, fmt.Errorf("%q is no language's tag such as en or pt-BR", tag)
	}
	return tag, nil
}
