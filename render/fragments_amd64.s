//go:build !purego

#include "go_asm.h"
#include "textflag.h"

// of is where a level of fragments, R10, has a quantity of the pixels CX … CX+7 of a row, R9 being the
// row's first pixel.
#define of(quantity) quantity(R10)(R9*4)

// SWAP exchanges what a level has for what Y0 … Y4 hold, where Y5 says so.
#define SWAP(quantity, held) \
	VMOVUPS of(quantity), Y6 \
	VBLENDVPS Y5, held, Y6, Y7 \
	VBLENDVPS Y5, Y6, held, held \
	VMOVUPS Y7, of(quantity)

// func insertAVX2(levels *fragments, count int, w *row, at int, pixels uint64) (covered uint64, deepest int)
TEXT ·insertAVX2(SB), NOSPLIT, $0-56
	MOVQ levels+0(FP), SI
	MOVQ count+8(FP), R8
	MOVQ w+16(FP), DI
	MOVQ at+24(FP), R9
	MOVQ pixels+32(FP), AX
	LEAQ ·pixelMask(SB), R13
	VXORPS Y15, Y15, Y15
	XORQ R11, R11 // covered
	XORQ R12, R12 // how many levels are reached
	XORQ CX, CX

eight:
	MOVBLZX AX, BX
	TESTL BX, BX
	JEQ  next
	SHLL $5, BX
	VMOVUPS row_alpha(DI)(CX*4), Y4
	VCMPPS $0x1e, Y15, Y4, Y5
	VANDPS (R13)(BX*1), Y5, Y5
	VANDPS Y5, Y4, Y4
	VANDPS row_depth(DI)(CX*4), Y5, Y0
	VMOVUPS row_rgb(DI)(CX*4), Y1
	VMOVUPS (row_rgb+4*const_tileSide)(DI)(CX*4), Y2
	VMOVUPS (row_rgb+8*const_tileSide)(DI)(CX*4), Y3
	VMOVMSKPS Y5, BX
	SHLQ CX, BX
	ORQ  BX, R11
	VXORPS Y5, Y5, Y5 // who has found a place
	MOVQ SI, R10
	XORQ DX, DX

level:
	CMPQ DX, R8
	JGE  next
	VCMPPS $0x1e, Y15, Y4, Y6
	VMOVMSKPS Y6, BX
	TESTL BX, BX
	JEQ  next
	INCQ DX
	CMPQ DX, R12
	CMOVQGT DX, R12
	VCMPPS $0x1e, of(fragments_inverseZ), Y0, Y6
	VORPS Y6, Y5, Y5
	VMOVMSKPS Y5, BX
	TESTL BX, BX
	JEQ  deeper
	SWAP(fragments_inverseZ, Y0)
	SWAP(fragments_r, Y1)
	SWAP(fragments_g, Y2)
	SWAP(fragments_b, Y3)
	SWAP(fragments_alpha, Y4)

deeper:
	ADDQ $fragments__size, R10
	JMP  level

next:
	ADDQ $8, R9
	ADDQ $8, CX
	SHRQ $8, AX
	JNE  eight
	MOVQ R11, covered+40(FP)
	MOVQ R12, deepest+48(FP)
	VZEROUPPER
	RET

// OVER lays a level over one colour.
#define OVER(quantity, colour) \
	VMOVUPS of(quantity), Y5 \
	VSUBPS colour, Y5, Y5 \
	VMULPS Y4, Y5, Y5 \
	VADDPS Y5, colour, colour

// func blendAVX2(c *colours, farthest *fragments, count, at int, covered uint64)
TEXT ·blendAVX2(SB), NOSPLIT, $0-40
	MOVQ c+0(FP), DI
	MOVQ farthest+8(FP), SI
	MOVQ count+16(FP), R8
	MOVQ at+24(FP), R9
	MOVQ covered+32(FP), AX

eight:
	MOVBLZX AX, BX
	TESTL BX, BX
	JEQ  next
	VMOVUPS 0(DI), Y0
	VMOVUPS (4*const_tileSide)(DI), Y1
	VMOVUPS (8*const_tileSide)(DI), Y2
	MOVQ SI, R10
	MOVQ R8, DX

level:
	VMOVUPS of(fragments_alpha), Y4
	OVER(fragments_r, Y0)
	OVER(fragments_g, Y1)
	OVER(fragments_b, Y2)
	SUBQ $fragments__size, R10
	DECQ DX
	JNE  level
	VMOVUPS Y0, 0(DI)
	VMOVUPS Y1, (4*const_tileSide)(DI)
	VMOVUPS Y2, (8*const_tileSide)(DI)

next:
	ADDQ $8, R9
	ADDQ $32, DI
	SHRQ $8, AX
	JNE  eight
	VZEROUPPER
	RET
