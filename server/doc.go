// Package server is the HTTP side: it serves the page, the API that the page
// and other programs use, and the events that keep pages up to date. It holds
// no rule of the job. Routes stand in one table, from which both the handlers
// and the OpenAPI description come.
package server
