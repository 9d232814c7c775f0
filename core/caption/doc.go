// Package caption turns the steps of a reveal into captions beside a film: what is read
// when, and whether there is time to read it; written as WebVTT or SubRip.
package caption
