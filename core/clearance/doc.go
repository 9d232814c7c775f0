// Package clearance says how far parts can go in a direction before they touch
// what stays where it is: the advice beside a movement's number.
package clearance
