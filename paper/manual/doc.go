// Package manual makes a step-by-step document of a reveal: cover, safety messages, what is needed, the steps with their
// pictures, and an index of parts; as PDF pages and as HTML.
package manual
