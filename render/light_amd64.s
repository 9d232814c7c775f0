//go:build goexperiment.simd

#include "go_asm.h"
#include "textflag.h"

// number is one of the numbers of lightWide, all of a light and all of a surface.
#define number(k) ·lightWide+(32*k)(SB)
#define light(of, c) (lights_wide+of+32*c)(DX)
#define finish(of) (surface_wide+of)(CX)
#define each(of, c) (surface_wide+of+32*c)(CX)

// DOT is the product of Y0, Y1, Y2, or of three others, and a vector of a light's.
#define DOT(x, y, z, of, out) \
	VMULPS light(of, 0), x, out \
	VMULPS light(of, 1), y, Y12 \
	VADDPS Y12, out, out \
	VMULPS light(of, 2), z, Y12 \
	VADDPS Y12, out, out

// HORNER is one step of a polynomial of Y8.
#define HORNER(k) \
	VMULPS Y8, Y9, Y9 \
	VADDPS number(k), Y9, Y9

// COLOUR finds one of the three colours, of what Y0 … Y6 hold.
#define COLOUR(c) \
	VMULPS light(wideLights_skyLess, c), Y2, Y7 \
	VADDPS light(wideLights_ground, c), Y7, Y7 \
	VMULPS light(wideLights_skyLess, c), Y3, Y8 \
	VADDPS light(wideLights_ground, c), Y8, Y8 \
	VMULPS Y4, Y8, Y8 \
	VMULPS each(wideSurface_f0Less, c), Y5, Y9 \
	VADDPS each(wideSurface_f0, c), Y9, Y9 \
	VMULPS light(wideLights_keyLight, c), Y0, Y10 \
	VADDPS Y10, Y7, Y10 \
	VMULPS light(wideLights_fillLight, c), Y1, Y11 \
	VADDPS Y11, Y10, Y10 \
	VMULPS each(wideSurface_diffuse, c), Y10, Y10 \
	VSUBPS Y8, Y7, Y7 \
	VMULPS finish(wideSurface_rough), Y7, Y7 \
	VADDPS Y7, Y8, Y7 \
	VMULPS number(const_lightStrength), Y7, Y7 \
	VMULPS light(wideLights_keyLight, c), Y6, Y11 \
	VADDPS Y11, Y7, Y7 \
	VMULPS Y9, Y7, Y7 \
	VADDPS Y7, Y10, Y7 \
	VMAXPS Y15, Y7, Y7 \
	VMINPS Y14, Y7, Y7 \
	VSQRTPS Y7, Y8 \
	VMULPS number(const_lightCurve5), Y8, Y9 \
	VADDPS number(const_lightCurve4), Y9, Y9 \
	HORNER(const_lightCurve3) \
	HORNER(const_lightCurve2) \
	HORNER(const_lightCurve1) \
	HORNER(const_lightCurve0) \
	VMULPS number(const_lightLinear), Y7, Y10 \
	VCMPPS $0x12, number(const_lightLineEnd), Y7, Y7 \
	VBLENDVPS Y7, Y10, Y9, Y9 \
	VMINPS Y14, Y9, Y9 \
	VMOVUPS Y9, (points_rgb+4*const_slots*c)(SI)(AX*4)

// func lightAVX2(p *points, from, to int, s *surface, l *lights)
TEXT ·lightAVX2(SB), NOSPLIT, $0-40
	MOVQ p+0(FP), SI
	MOVQ from+8(FP), AX
	MOVQ to+16(FP), BX
	MOVQ s+24(FP), CX
	MOVQ l+32(FP), DX
	MOVQ surface_squarings(CX), R8
	MOVBLZX lights_parallel(DX), R9
	VXORPS Y15, Y15, Y15
	VMOVUPS number(const_lightOne), Y14

eight:
	VMOVUPS points_nx(SI)(AX*4), Y0
	VMOVUPS points_ny(SI)(AX*4), Y1
	VMOVUPS points_nz(SI)(AX*4), Y2
	VMOVAPS Y15, Y3 // to the eye
	VMOVAPS Y15, Y4
	VMOVAPS Y14, Y5
	TESTL R9, R9
	JNE  normal
	VMOVUPS points_dx(SI)(AX*4), Y3
	VMOVUPS points_dy(SI)(AX*4), Y4
	VMULPS Y3, Y3, Y5
	VMULPS Y4, Y4, Y6
	VADDPS Y6, Y5, Y5
	VADDPS Y14, Y5, Y5
	VSQRTPS Y5, Y5
	VDIVPS Y5, Y14, Y5
	VSUBPS Y3, Y15, Y3
	VSUBPS Y4, Y15, Y4
	VMULPS Y5, Y3, Y3
	VMULPS Y5, Y4, Y4

normal:
	VMULPS Y0, Y0, Y6
	VMULPS Y1, Y1, Y7
	VADDPS Y7, Y6, Y6
	VMULPS Y2, Y2, Y7
	VADDPS Y7, Y6, Y6
	VMAXPS number(const_lightTiniest), Y6, Y6
	VSQRTPS Y6, Y6
	VDIVPS Y6, Y14, Y6
	VMULPS Y6, Y0, Y0
	VMULPS Y6, Y1, Y1
	VMULPS Y6, Y2, Y2
	VMULPS Y3, Y0, Y6
	VMULPS Y4, Y1, Y7
	VADDPS Y7, Y6, Y6
	VMULPS Y5, Y2, Y7
	VADDPS Y7, Y6, Y6 // by how much it looks at the eye
	VCMPPS $0x11, Y15, Y6, Y7
	VANDPS number(const_lightSign), Y7, Y7
	VXORPS Y7, Y0, Y0
	VXORPS Y7, Y1, Y1
	VXORPS Y7, Y2, Y2
	VXORPS Y7, Y6, Y6
	VADDPS Y6, Y6, Y7 // mirror the eye
	VMULPS Y0, Y7, Y8
	VMULPS Y1, Y7, Y9
	VMULPS Y2, Y7, Y10
	VSUBPS Y3, Y8, Y8
	VSUBPS Y4, Y9, Y9
	VSUBPS Y5, Y10, Y10
	VSUBPS Y6, Y14, Y7 // fresnel
	VMAXPS Y15, Y7, Y7
	VMULPS Y7, Y7, Y5
	VMULPS Y5, Y5, Y5
	VMULPS Y7, Y5, Y5
	VMULPS finish(wideSurface_satin), Y5, Y5
	DOT(Y8, Y9, Y10, wideLights_key, Y6)
	VMAXPS finish(wideSurface_dullest), Y6, Y6
	MOVQ R8, R10
	TESTQ R10, R10
	JEQ  shone

square:
	VMULPS Y6, Y6, Y6
	DECQ R10
	JNE  square

shone:
	VMULPS finish(wideSurface_shineGain), Y6, Y6
	DOT(Y8, Y9, Y10, wideLights_up, Y4)
	VMULPS number(const_lightHalf), Y4, Y3
	VADDPS number(const_lightHalf), Y3, Y3
	VADDPS number(const_lightThreshold), Y4, Y4 // the ceiling
	VMULPS number(const_lightGainOfUp), Y4, Y4
	VMAXPS Y15, Y4, Y4
	VMINPS Y14, Y4, Y4
	VADDPS Y4, Y4, Y7
	VMOVUPS number(const_lightThree), Y8
	VSUBPS Y7, Y8, Y7
	VMULPS Y4, Y4, Y4
	VMULPS Y7, Y4, Y4
	VMULPS number(const_lightRise), Y4, Y4
	VADDPS number(const_lightFloor), Y4, Y4
	DOT(Y0, Y1, Y2, wideLights_up, Y7)
	DOT(Y0, Y1, Y2, wideLights_fill, Y8)
	DOT(Y0, Y1, Y2, wideLights_key, Y9)
	VMULPS number(const_lightHalf), Y7, Y2
	VADDPS number(const_lightHalf), Y2, Y2
	VMAXPS Y15, Y8, Y1
	VMAXPS Y15, Y9, Y0
	COLOUR(0)
	COLOUR(1)
	COLOUR(2)
	ADDQ $const_lanes, AX
	CMPQ AX, BX
	JLT  eight
	VZEROUPPER
	RET
