//go:build !purego

#include "go_asm.h"
#include "textflag.h"

// func moveAVX2(out *vertex, position, normal *float32, columns *[4][4]float32, n int)
TEXT ·moveAVX2(SB), NOSPLIT, $0-40
	MOVQ out+0(FP), DI
	MOVQ position+8(FP), SI
	MOVQ normal+16(FP), DX
	MOVQ columns+24(FP), AX
	MOVQ n+32(FP), CX
	VMOVUPS 0(AX), X0
	VMOVUPS 16(AX), X1
	VMOVUPS 32(AX), X2
	VMOVUPS 48(AX), X3

next:
	VBROADCASTSS 0(SI), X4
	VBROADCASTSS 4(SI), X5
	VBROADCASTSS 8(SI), X6
	VBROADCASTSS 0(DX), X7
	VBROADCASTSS 4(DX), X8
	VBROADCASTSS 8(DX), X9
	VMULPS X0, X4, X4
	VMULPS X1, X5, X5
	VMULPS X2, X6, X6
	VMULPS X0, X7, X7
	VMULPS X1, X8, X8
	VMULPS X2, X9, X9
	VADDPS X5, X4, X4
	VADDPS X8, X7, X7
	VADDPS X6, X4, X4
	VADDPS X9, X7, X7
	VADDPS X3, X4, X4
	VMOVUPS X4, vertex_at(DI) // the fourth number is written over
	VMOVUPS X7, vertex_normal(DI)
	ADDQ $12, SI
	ADDQ $12, DX
	ADDQ $vertex__size, DI
	DECQ CX
	JNE  next
	RET

// func screenAVX2(out *onScreen, in *vertex, viewport *[4]float64, n int)
TEXT ·screenAVX2(SB), NOSPLIT, $0-32
	MOVQ out+0(FP), DI
	MOVQ in+8(FP), SI
	MOVQ window+16(FP), AX
	MOVQ n+24(FP), CX
	VMOVUPD 0(AX), X0
	VMOVUPD 16(AX), X1
	VMOVUPD ·screenNumbers+0(SB), X2 // ½
	VMOVUPD ·screenNumbers+16(SB), X3 // guard
	VMOVUPD ·screenNumbers+32(SB), X4 // −guard
	VMOVSD ·screenNumbers+48(SB), X5 // −1
	VMOVSS ·screenNear(SB), X6

next:
	VMOVSS (vertex_at+8)(SI), X7
	VCVTSS2SD X7, X7, X8
	VDIVSD X8, X5, X8 // 1/z, z being in front of the eye
	VCMPSS $0x12, X6, X7, X7 // not too near
	VCVTPS2PD vertex_at(SI), X9
	VMOVDDUP X8, X10
	VMULPD X10, X9, X9
	VMULPD X1, X9, X9
	VADDPD X9, X0, X9
	VCMPPD $0x12, X3, X9, X11 // within the guard
	VCMPPD $0x1d, X4, X9, X12
	VANDPD X12, X11, X11
	VADDPD X2, X9, X9
	VROUNDPD $1, X9, X9
	VCVTTPD2DQX X9, X9
	VCVTSD2SS X8, X8, X8
	VSHUFPD $1, X11, X11, X12
	VANDPS X11, X7, X7
	VANDPS X12, X7, X7
	VPSHUFD $0, X7, X7
	VSHUFPS $0x44, X8, X9, X9 // x, y, 1/z
	VANDPS X7, X9, X9
	VMOVUPS X9, (DI) // the fourth number is written over
	ADDQ $vertex__size, SI
	ADDQ $onScreen__size, DI
	DECQ CX
	JNE  next
	RET
