// Package clientpage writes one HTML file that a client opens from a folder: the product to turn by hand, the steps of
// a reveal to play, and its parts list, with the core, the shapes and the page's script inside. It needs no network.
package clientpage
