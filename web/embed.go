// Package web carries the built page. Its sources are TypeScript; `make build`
// puts what Vite makes of them into dist/.
package web

import "embed"

// Dist is the folder dist. It is empty but for a marker until the page has been
// built.
//
//go:embed all:dist
var Dist embed.FS
