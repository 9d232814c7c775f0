// Package joint finds the joints and couplings of an assembly from its shapes: wheels by the teeth that their sections
// show, gears in mesh by module and centre distance, shafts in bores, and what is held between guides. What it finds is to
// be accepted by somebody who knows the product: each finding says how sure it is, and why.
package joint
