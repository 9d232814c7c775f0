//go:build !purego

#include "go_asm.h"
#include "textflag.h"

// PLANE is the product of a row of rays, Y0 and Y1, and a direction of the facet.
#define PLANE(of, out) \
	VBROADCASTSS (of+0)(DI), out \
	VBROADCASTSS (of+4)(DI), Y10 \
	VBROADCASTSS (of+8)(DI), Y11 \
	VMULPS Y0, out, out \
	VMULPS Y1, Y10, Y10 \
	VADDPS Y10, out, out \
	VSUBPS Y11, out, out

// NORMAL is one of the three numbers of the normal.
#define NORMAL(c, out) \
	VBROADCASTSS (triangleSetup_n+4*c)(DI), Y10 \
	VBROADCASTSS (triangleSetup_du+4*c)(DI), Y11 \
	VBROADCASTSS (triangleSetup_dv+4*c)(DI), Y12 \
	VMULPS Y2, Y10, Y10 \
	VMULPS Y3, Y11, Y11 \
	VMULPS Y4, Y12, Y12 \
	VADDPS Y11, Y10, Y10 \
	VADDPS Y12, Y10, Y10 \
	VMOVUPS Y10, out(SI)(AX*4)

// func normalsAVX2(p *shadingSamples, f *triangleSetup, first, n int)
TEXT ·normalsAVX2(SB), NOSPLIT, $0-32
	MOVQ p+0(FP), SI
	MOVQ f+8(FP), DI
	MOVQ first+16(FP), AX
	MOVQ n+24(FP), BX
	ADDQ AX, BX
	VBROADCASTSS shadingSamples_height(SI), Y1
	VXORPS Y15, Y15, Y15
	VBROADCASTSS ·normalNumbers+0(SB), Y14 // the sign
	VBROADCASTSS ·normalNumbers+4(SB), Y13 // 3
	VBROADCASTSS ·normalNumbers+8(SB), Y9 // 1

eight:
	VMOVUPS shadingSamples_dx(SI)(AX*4), Y0
	PLANE(triangleSetup_det, Y2)
	PLANE(triangleSetup_u, Y3)
	PLANE(triangleSetup_v, Y4)
	VCMPPS $0x11, Y15, Y2, Y5
	VANDPS Y14, Y5, Y5
	VXORPS Y5, Y2, Y2
	VXORPS Y5, Y3, Y3
	VXORPS Y5, Y4, Y4
	VMAXPS Y15, Y3, Y3 // held inside the facet
	VMAXPS Y15, Y4, Y4
	VMINPS Y2, Y3, Y3
	VMINPS Y2, Y4, Y4
	VCMPPS $0x00, Y15, Y2, Y5 // seen along its plane
	VBLENDVPS Y5, Y13, Y2, Y2
	VBLENDVPS Y5, Y9, Y3, Y3
	VBLENDVPS Y5, Y9, Y4, Y4
	NORMAL(0, shadingSamples_nx)
	NORMAL(1, shadingSamples_ny)
	NORMAL(2, shadingSamples_nz)
	ADDQ $const_lanes, AX
	CMPQ AX, BX
	JLT  eight
	VZEROUPPER
	RET
