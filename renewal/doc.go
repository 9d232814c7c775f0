// Package renewal takes the next revision of a project in and makes everything again that was made of the one before:
// what has changed, what a proof finds in each reveal and variant, and what is otherwise in each output, as a report.
package renewal
