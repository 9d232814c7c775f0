package proof

import (
	"fmt"
	"strings"
)

// Table lists the checks in Markdown: docs/proof.md.
func Table() string {
	var b strings.Builder
	b.WriteString(
		"# What a proof looks for\n\n*Which rules are there, how grave is what they find, and from where on is it found?* Made by `make generate` from `core/proof/check.go`.\n\n" +
			"| check | finds | level | limit | usual | from … to |\n|---|---|---|---|---|---|\n",
	)
	for _, c := range Checks {
		if c.Limit.Unit == "" {
			fmt.Fprintf(&b, "| %s (`%s`) | %s | %s | that of interference | | |\n", c.Title, c.Name, c.Finds, c.Level)
			continue
		}
		fmt.Fprintf(
			&b,
			"| %s (`%s`) | %s | %s | %s, %s | %g | %g … %g |\n",
			c.Title,
			c.Name,
			c.Finds,
			c.Level,
			strings.ToLower(c.Limit.Of[:1])+c.Limit.Of[1:],
			c.Limit.Unit,
			c.Limit.Usual,
			c.Limit.Least,
			c.Limit.Most,
		)
	}
	b.WriteString(
		"\nA finding that is meant so can be accepted with a reason. It stays accepted while the check finds the same parts by one of the same cues, and not worse by more than a tenth.\n",
	)
	return b.String()
}
