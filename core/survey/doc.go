// Package survey gathers what is known of an assembly from its shapes alone:
// what parts measure, which are alike, which seem to be fasteners, and which
// touch.
package survey
