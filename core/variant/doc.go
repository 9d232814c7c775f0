// Package variant shows a product, and a reveal of it, as one of its variants has them. Everything that draws, checks
// or writes gets the outcome like any other assembly and document, and knows nothing of variants.
package variant
