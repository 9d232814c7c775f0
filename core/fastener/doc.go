// Package fastener knows the standard threads, and tells screws, nuts, washers,
// pins and bearings by the form of their shapes.
package fastener
