// Package gltf reads and writes assemblies as binary glTF 2.0 (GLB). Metres
// outside, millimetres inside. The reader trusts nothing: lengths are held
// against the file before memory is asked for, nodes against cycles.
package gltf
