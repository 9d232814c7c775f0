//go:build !purego

#include "go_asm.h"
#include "textflag.h"

// number is one of the numbers of lightWide; light, each and finish are of a light and a surface,
// for a colour or for all; met is what the first loop finds.
#define number(k) ·lightWide+(32*k)(SB)
#define light(of, c) (lights_wide+of+32*c)(DX)
#define each(of, c) (surface_wide+of+32*c)(CX)
#define finish(of) (surface_wide+of)(CX)
#define met(k) (shadingSamples_met+4*const_slots*k)(SI)(AX*4)

// DOT multiplies the normal by a direction.
#define DOT(of, out, t) \
	VMULPS light(of, 0), Y0, out \
	VMULPS light(of, 1), Y1, t \
	VADDPS t, out, out \
	VMULPS light(of, 2), Y2, t \
	VADDPS t, out, out

// EYE multiplies the way to the eye by a direction.
#define EYE(of, out, t) \
	VMOVUPS light(of, 2), out \
	VMULPS light(of, 0), Y3, t \
	VSUBPS t, out, out \
	VMULPS light(of, 1), Y4, t \
	VSUBPS t, out, out \
	VMULPS Y5, out, out

// SMOOTH is stepUp: 3 is in Y3, and 1 in Y14.
#define SMOOTH(x, from, gain) \
	VADDPS number(from), x, x \
	VMULPS number(gain), x, x \
	VMAXPS Y15, x, x \
	VMINPS Y14, x, x \
	VADDPS x, x, Y2 \
	VSUBPS Y2, Y3, Y2 \
	VMULPS x, x, x \
	VMULPS Y2, x, x

// The steps by which a colour is found. The three colours take them together, so that there is always
// something to do: each operation waits four rounds of the clock for the one before.

// UNDER: the light from above and below, itself (u) and mirrored (m).
#define UNDER(c, u, m) \
	VMOVUPS light(wideLights_skyLess, c), u \
	VMULPS met(3), u, m \
	VMULPS met(2), u, u \
	VADDPS light(wideLights_groundColour, c), m, m \
	VADDPS light(wideLights_groundColour, c), u, u \
	VMULPS met(4), m, m

// FRONT: how much the surface mirrors (f), the key light (l) and its shine (t).
#define FRONT(c, u, f, l, t) \
	VMOVUPS each(wideSurface_f0Less, c), f \
	VMOVUPS light(wideLights_keyLight, c), l \
	VMULPS met(5), f, f \
	VMULPS met(6), l, t \
	VMULPS met(0), l, l \
	VADDPS each(wideSurface_f0, c), f, f \
	VADDPS l, u, l

#define ROUGH(u, m) \
	VSUBPS m, u, u \
	VMULPS finish(wideSurface_rough), u, u \
	VADDPS u, m, u

#define LIT(c, m, l) \
	VMOVUPS light(wideLights_fillLight, c), m \
	VMULPS met(1), m, m \
	VADDPS m, l, l \
	VMULPS each(wideSurface_diffuse, c), l, l

#define SUM(u, f, l, t) \
	VMULPS number(const_lightStrength), u, u \
	VADDPS t, u, u \
	VMULPS f, u, u \
	VADDPS u, l, u

// PIECE is encodeSRGB up to the piece of the curve: u is held to 0 … 4, and what its first bits say is
// kept.
#define PIECE(c, u, m) \
	VPMAXSD Y15, u, u \
	VPMINSD number(const_lightMost), u, u \
	VPSRLD $const_curveBits, u, m \
	VPSUBD number(const_lightFirst), m, m \
	VPMAXSD Y15, m, m \
	VMOVDQU m, (32*c)(SP)

// PAIR looks two pieces up: what they have at 0 and how they rise, side by side. Many processors take
// longer for what gathers eight at once.
#define PAIR(c, i, out) \
	MOVL (32*c+4*i)(SP), R10 \
	MOVL (32*c+4*i+4)(SP), R11 \
	VMOVSD (R9)(R10*8), out \
	VMOVHPS (R9)(R11*8), out, out

#define ENCODE(c, u, ym, yf, yl, m, f, l, t) \
	PAIR(c, 0, m) \
	PAIR(c, 4, l) \
	PAIR(c, 2, f) \
	PAIR(c, 6, t) \
	VINSERTF128 $1, l, ym, ym \
	VINSERTF128 $1, t, yf, yf \
	VSHUFPS $0xdd, yf, ym, yl \
	VSHUFPS $0x88, yf, ym, ym \
	VMULPS u, yl, yl \
	VADDPS yl, ym, ym \
	VMOVUPS ym, (shadingSamples_rgb+4*const_slots*c)(SI)(AX*4)

// Two loops take less time than one that does everything: the processor works on several rounds of
// them at once.
//
// func lightAVX2(p *points, from, to int, s *surface, l *lights)
TEXT ·lightAVX2(SB), NOSPLIT, $96-40
	MOVQ p+0(FP), SI
	MOVQ from+8(FP), AX
	MOVQ to+16(FP), BX
	MOVQ s+24(FP), CX
	MOVQ l+32(FP), DX
	MOVQ surface_shininessLog2(CX), R8
	VXORPS Y15, Y15, Y15
	VMOVUPS number(const_lightOne), Y14

meet:
	VMOVUPS light(wideLights_perspective, 0), Y4
	VMOVUPS shadingSamples_nx(SI)(AX*4), Y0
	VMOVUPS shadingSamples_ny(SI)(AX*4), Y1
	VMOVUPS shadingSamples_nz(SI)(AX*4), Y2
	VMULPS shadingSamples_dx(SI)(AX*4), Y4, Y3
	VMULPS shadingSamples_dy(SI)(AX*4), Y4, Y4
	VMULPS Y0, Y0, Y6 // the normal's length
	VMULPS Y1, Y1, Y7
	VMULPS Y2, Y2, Y8
	VADDPS Y7, Y6, Y6
	VADDPS Y8, Y6, Y6
	VMAXPS number(const_lightTiniest), Y6, Y6
	VSQRTPS Y6, Y6
	VDIVPS Y6, Y14, Y6
	VMULPS Y3, Y3, Y5 // the ray's
	VMULPS Y4, Y4, Y7
	VADDPS Y7, Y5, Y5
	VADDPS Y14, Y5, Y5
	VSQRTPS Y5, Y5
	VDIVPS Y5, Y14, Y5
	VMULPS Y3, Y0, Y7
	VMULPS Y4, Y1, Y8
	VSUBPS Y7, Y2, Y7
	VSUBPS Y8, Y7, Y7
	VCMPPS $0x11, Y15, Y7, Y8 // where it looks away from the eye it is turned
	VANDPS number(const_lightSign), Y8, Y8
	VXORPS Y8, Y6, Y6
	DOT(wideLights_key, Y8, Y12)
	DOT(wideLights_fill, Y9, Y13)
	DOT(wideLights_up, Y10, Y12)
	EYE(wideLights_key, Y11, Y13)
	EYE(wideLights_up, Y12, Y13)
	EYE(wideLights_fill, Y2, Y13)
	VMULPS Y5, Y7, Y7
	VMULPS Y6, Y7, Y7 // by how much it looks at the eye
	VMULPS Y6, Y8, Y8
	VMULPS Y6, Y9, Y9
	VMULPS Y6, Y10, Y10
	VADDPS Y7, Y7, Y13
	VMULPS Y9, Y13, Y5
	VSUBPS Y2, Y5, Y5 // how near to the fill light it mirrors
	VMULPS Y8, Y13, Y0
	VMULPS Y10, Y13, Y1
	VSUBPS Y11, Y0, Y0 // the shine
	VMOVUPS Y0, Y6
	VSUBPS Y12, Y1, Y1 // how far up it mirrors
	VMAXPS finish(wideSurface_denormalFloor), Y0, Y0
	VMAXPS Y15, Y8, Y8
	VMAXPS Y15, Y9, Y9
	VMOVUPS Y8, met(0)
	VMOVUPS Y9, met(1)
	VMULPS number(const_lightHalf), Y10, Y10
	VMULPS number(const_lightHalf), Y1, Y2
	VADDPS number(const_lightHalf), Y10, Y10
	VADDPS number(const_lightHalf), Y2, Y2
	VMOVUPS Y10, met(2)
	VMOVUPS Y2, met(3)
	MOVQ R8, R9
	TESTQ R9, R9
	JEQ  shone

square:
	VMULPS Y0, Y0, Y0
	DECQ R9
	JNE  square

shone:
	VMULPS finish(wideSurface_shineGain), Y0, Y0
	VMOVUPS Y0, met(6)
	VMOVUPS number(const_lightThree), Y3
	SMOOTH(Y1, const_lightThreshold, const_lightGainOfUp) // the room: floor and ceiling, and two soft boxes
	SMOOTH(Y6, const_lightKeyBox, const_lightKeyBoxGain)
	SMOOTH(Y5, const_lightFillBox, const_lightFillBoxGain)
	VMULPS number(const_lightRise), Y1, Y1
	VMULPS number(const_lightKeyBoxLight), Y6, Y6
	VMULPS number(const_lightFillBoxLight), Y5, Y5
	VADDPS number(const_lightFloor), Y1, Y1
	VADDPS Y6, Y1, Y1
	VADDPS Y5, Y1, Y1
	VMOVUPS Y1, met(4)
	VSUBPS Y7, Y14, Y7 // Schlick's fifth power
	VMAXPS Y15, Y7, Y7
	VMULPS Y7, Y7, Y4
	VMULPS Y4, Y4, Y4
	VMULPS Y7, Y4, Y4
	VMULPS finish(wideSurface_smoothness), Y4, Y4
	VMOVUPS Y4, met(5)
	ADDQ $const_lanes, AX
	CMPQ AX, BX
	JLT  meet
	MOVQ from+8(FP), AX
	LEAQ ·curve(SB), R9

colour:
	UNDER(0, Y0, Y1)
	UNDER(1, Y5, Y6)
	UNDER(2, Y10, Y11)
	FRONT(0, Y0, Y2, Y3, Y4)
	FRONT(1, Y5, Y7, Y8, Y9)
	FRONT(2, Y10, Y12, Y13, Y14)
	ROUGH(Y0, Y1)
	ROUGH(Y5, Y6)
	ROUGH(Y10, Y11)
	LIT(0, Y1, Y3)
	LIT(1, Y6, Y8)
	LIT(2, Y11, Y13)
	SUM(Y0, Y2, Y3, Y4)
	SUM(Y5, Y7, Y8, Y9)
	SUM(Y10, Y12, Y13, Y14)
	PIECE(0, Y0, Y1)
	PIECE(1, Y5, Y6)
	PIECE(2, Y10, Y11)
	ENCODE(0, Y0, Y1, Y2, Y3, X1, X2, X3, X4)
	ENCODE(1, Y5, Y6, Y7, Y8, X6, X7, X8, X9)
	ENCODE(2, Y10, Y11, Y12, Y13, X11, X12, X13, X14)
	ADDQ $const_lanes, AX
	CMPQ AX, BX
	JLT  colour
	VZEROUPPER
	RET
