// Package mechanism tells where the bodies of an assembly are when some of its joints are driven: the others follow
// through couplings and closed loops.
//
// Each joint is one or more coordinates, turns in degrees and slides in mm, which are 0 as the assembly stands. A body's
// displacement from there is the product of the exponentials of its coordinates from the frame on (Brockett 1984), in the
// world at rest. Couplings are linear equations between coordinates and are eliminated once. Joints that close loops are
// equations of the displacements of their two bodies: they are solved by Newton's method with the derivatives in closed
// form, as least squares where some of them say the same (a plane four-bar linkage has three too many).
//
// A loop can be closed in several ways. Which one it is does not depend on what was shown before: for each loop, the
// solution that is continuous with the assembly as it stands is followed along the values of its driver when the
// mechanism is made, and kept as a table, from which Newton's method starts. Where it cannot be followed farther, the
// mechanism has come to its end: beyond that it stands still.
//
// Linear algebra is the package's own: what it gives must be the same bits natively and in a browser, and libraries add
// up in another order in each.
package mechanism
