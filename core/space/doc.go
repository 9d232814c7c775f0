// Package space holds the geometry that everything else stands on: vectors,
// rotations, rigid motions and boxes. Right-handed, +Y up, lengths in
// millimetres, angles in radians. Vectors are gonum's r3.Vec; nothing here
// depends on the platform (no fused multiply-add is asked for, no function of
// package math with an assembly twin that rounds differently), so that the
// browser's build and the server's give the same bits.
package space
