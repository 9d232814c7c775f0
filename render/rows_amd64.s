//go:build !purego

#include "go_asm.h"
#include "textflag.h"

// PACK brings a mask of four samples of each of eight pixels, two pixels a vector, into one byte for a
// sample and so one number for a pixel: the even ones in the lower half, the odd ones in the upper.
#define PACK(a, b, c, d) \
	VPACKSSDW b, a, a \
	VPACKSSDW d, c, c \
	VPACKSSWB c, a, a

// BITS moves a mask of pixels as PACK orders them into the bits of a register.
#define BITS(m, t, r) \
	VPERMD m, Y15, t \
	VMOVMSKPS t, r

// FIRSTS brings the first samples of eight pixels into their order.
#define FIRSTS(a, b, c, d, out, t) \
	VPUNPCKLDQ b, a, out \
	VPUNPCKLDQ d, c, t \
	VPUNPCKLQDQ t, out, out \
	VPERMD out, Y15, out

// SAMEPIXEL compares the samples of two pixels with the first of each.
#define SAMEPIXEL(a, out) \
	VPSHUFD $0x00, a, out \
	VPCMPEQD a, out, out

// INTO sets eight bits of a word from place CX on.
#define INTO(r, word) \
	SHLQ CX, r \
	ORQ r, word

// func classifyRowAVX2(face id *[256]int32) (whole, goesOn, background, ink uint64)
TEXT ·classifyRowAVX2(SB), NOSPLIT, $0-40
	MOVQ owner+0(FP), SI
	VMOVDQU ·pixelOrder(SB), Y15
	VMOVDQU ·oneOn(SB), Y14
	VPCMPEQD Y13, Y13, Y13
	VPXOR Y12, Y12, Y12
	VPSLLD $31, Y13, Y11 // counted, whom nobody is like
	XORQ R8, R8
	XORQ R9, R9
	XORQ R10, R10
	XORQ R11, R11
	XORQ CX, CX

eight:
	VMOVDQU 0(SI), Y0
	VMOVDQU 32(SI), Y1
	VMOVDQU 64(SI), Y2
	VMOVDQU 96(SI), Y3
	SAMEPIXEL(Y0, Y4)
	SAMEPIXEL(Y1, Y5)
	SAMEPIXEL(Y2, Y6)
	SAMEPIXEL(Y3, Y7)
	PACK(Y4, Y5, Y6, Y7)
	VPCMPEQD Y13, Y4, Y4
	BITS(Y4, Y4, AX)
	FIRSTS(Y0, Y1, Y2, Y3, Y5, Y6)
	VPCMPGTD Y12, Y5, Y6
	VPCMPEQD Y12, Y5, Y7
	VMOVMSKPS Y6, BX
	VMOVMSKPS Y7, DX
	ANDQ AX, BX
	ANDQ AX, DX
	INTO(BX, R8)
	INTO(DX, R10)
	VPERMD Y5, Y14, Y6 // one on, behind the last of the ones before
	VPBLENDD $1, Y11, Y6, Y7
	VPCMPEQD Y5, Y7, Y7
	VMOVDQA Y6, Y11
	VMOVMSKPS Y7, AX
	INTO(AX, R9)
	VMOVMSKPS Y5, AX
	TESTL AX, AX
	JEQ  next
	VPSRAD $31, Y0, Y0 // below noFace
	VPSRAD $31, Y1, Y1
	VPSRAD $31, Y2, Y2
	VPSRAD $31, Y3, Y3
	PACK(Y0, Y1, Y2, Y3)
	VPCMPEQD Y13, Y0, Y0
	BITS(Y0, Y0, AX)
	INTO(AX, R11)

next:
	ADDQ $128, SI
	ADDQ $8, CX
	CMPQ CX, $const_tileSide
	JLT  eight
	MOVQ R8, whole+8(FP)
	MOVQ R9, goesOn+16(FP)
	MOVQ R10, background+24(FP)
	MOVQ R11, ink+32(FP)
	VZEROUPPER
	RET

// func alikeAVX2(a, b *[256]int32) (alike uint64)
TEXT ·alikeAVX2(SB), NOSPLIT, $0-24
	MOVQ a+0(FP), SI
	MOVQ b+8(FP), DI
	VMOVDQU ·pixelOrder(SB), Y15
	VPCMPEQD Y13, Y13, Y13
	XORQ R8, R8
	XORQ CX, CX

eight:
	VMOVDQU 0(SI), Y0
	VMOVDQU 32(SI), Y1
	VMOVDQU 64(SI), Y2
	VMOVDQU 96(SI), Y3
	VPCMPEQD 0(DI), Y0, Y0
	VPCMPEQD 32(DI), Y1, Y1
	VPCMPEQD 64(DI), Y2, Y2
	VPCMPEQD 96(DI), Y3, Y3
	PACK(Y0, Y1, Y2, Y3)
	VPCMPEQD Y13, Y0, Y0
	BITS(Y0, Y0, AX)
	INTO(AX, R8)
	ADDQ $128, SI
	ADDQ $128, DI
	ADDQ $8, CX
	CMPQ CX, $const_tileSide
	JLT  eight
	MOVQ R8, alike+16(FP)
	VZEROUPPER
	RET

// func classifyTransparentAVX2(deep *[64]float32, face id *[256]int32, depth *[256]float32, from, to int) (some, full, goesOn uint64)
TEXT ·classifyTransparentAVX2(SB), NOSPLIT, $0-64
	MOVQ deep+0(FP), DI
	MOVQ owner+8(FP), SI
	MOVQ depth+16(FP), DX
	MOVQ from+24(FP), CX
	MOVQ to+32(FP), R12
	VMOVDQU ·pixelOrder(SB), Y15
	VMOVDQU ·oneOn(SB), Y14
	VPCMPEQD Y13, Y13, Y13
	VPXOR Y12, Y12, Y12
	VPXOR Y11, Y11, Y11
	VBROADCASTSS ·quarter(SB), Y10
	XORQ R8, R8
	XORQ R9, R9
	XORQ R10, R10
	ANDQ $~7, CX
	MOVQ CX, AX
	SHLQ $4, AX
	ADDQ AX, SI
	ADDQ AX, DX

eight:
	VMOVDQU 0(SI), Y0
	VMOVDQU 32(SI), Y1
	VMOVDQU 64(SI), Y2
	VMOVDQU 96(SI), Y3
	VPOR Y1, Y0, Y4
	VPOR Y3, Y2, Y5
	VPOR Y5, Y4, Y4
	VPTEST Y4, Y4
	JNE  there
	VPXOR Y11, Y11, Y11
	JMP  next

there:
	FIRSTS(Y0, Y1, Y2, Y3, Y5, Y6)
	VPERMD Y5, Y14, Y6
	VPBLENDD $1, Y11, Y6, Y7
	VPCMPEQD Y5, Y7, Y7
	VMOVDQA Y6, Y11
	VMOVMSKPS Y7, AX
	INTO(AX, R10)
	VPCMPGTD Y12, Y0, Y4
	VPCMPGTD Y12, Y1, Y5
	VPCMPGTD Y12, Y2, Y6
	VPCMPGTD Y12, Y3, Y7
	PACK(Y4, Y5, Y6, Y7)
	VPCMPEQD Y13, Y4, Y4
	BITS(Y4, Y4, AX)
	VPCMPEQD Y12, Y0, Y0
	VPCMPEQD Y12, Y1, Y1
	VPCMPEQD Y12, Y2, Y2
	VPCMPEQD Y12, Y3, Y3
	PACK(Y0, Y1, Y2, Y3)
	VPCMPEQD Y13, Y0, Y0 // nothing at all
	BITS(Y0, Y0, BX)
	XORL $255, BX
	INTO(BX, R8)
	TESTL AX, AX
	JEQ  next
	INTO(AX, R9)
	VMOVUPS 0(DX), Y0
	VMOVUPS 64(DX), Y2
	VHADDPS 32(DX), Y0, Y0
	VHADDPS 96(DX), Y2, Y2
	VHADDPS Y2, Y0, Y0
	VPERMD Y0, Y15, Y0
	VMULPS Y10, Y0, Y0
	VMOVUPS Y0, (DI)(CX*4)

next:
	ADDQ $128, SI
	ADDQ $128, DX
	ADDQ $8, CX
	CMPQ CX, R12
	JLT  eight
	MOVQ R8, some+40(FP)
	MOVQ R9, full+48(FP)
	MOVQ R10, goesOn+56(FP)
	VZEROUPPER
	RET

// func leastInverseZAVX2(first *float32, rows int) float32
TEXT ·leastInverseZAVX2(SB), NOSPLIT, $0-20
	MOVQ first+0(FP), SI
	MOVQ rows+8(FP), CX
	VMOVUPS 0(SI), Y0
	VMOVUPS 32(SI), Y1
	VMOVUPS 64(SI), Y2
	VMOVUPS 96(SI), Y3
	JMP  more

row:
	VMINPS 0(SI), Y0, Y0
	VMINPS 32(SI), Y1, Y1
	VMINPS 64(SI), Y2, Y2
	VMINPS 96(SI), Y3, Y3

more:
	ADDQ $(4*const_rowStride), SI
	DECQ CX
	JNE  row
	VMINPS Y1, Y0, Y0
	VMINPS Y3, Y2, Y2
	VMINPS Y2, Y0, Y0
	VEXTRACTF128 $1, Y0, X1
	VMINPS X1, X0, X0
	VPSHUFD $0x4e, X0, X1
	VMINPS X1, X0, X0
	VPSHUFD $0xb1, X0, X1
	VMINPS X1, X0, X0
	VMOVSS X0, ret+16(FP)
	VZEROUPPER
	RET

// func chooseAVX2(out, from *colours, set uint64)
TEXT ·chooseAVX2(SB), NOSPLIT, $0-24
	MOVQ out+0(FP), DI
	MOVQ from+8(FP), SI
	MOVQ set+16(FP), AX
	LEAQ ·pixelMask(SB), R8

eight:
	MOVBLZX AX, BX
	TESTL BX, BX
	JEQ  next
	VMOVUPS 0(SI), Y0
	VMOVUPS (4*const_tileSide)(SI), Y1
	VMOVUPS (8*const_tileSide)(SI), Y2
	CMPL BX, $255
	JEQ  all
	SHLL $5, BX
	VMOVUPS (R8)(BX*1), Y6
	VMOVUPS 0(DI), Y3
	VMOVUPS (4*const_tileSide)(DI), Y4
	VMOVUPS (8*const_tileSide)(DI), Y5
	VBLENDVPS Y6, Y0, Y3, Y0
	VBLENDVPS Y6, Y1, Y4, Y1
	VBLENDVPS Y6, Y2, Y5, Y2

all:
	VMOVUPS Y0, 0(DI)
	VMOVUPS Y1, (4*const_tileSide)(DI)
	VMOVUPS Y2, (8*const_tileSide)(DI)

next:
	ADDQ $32, SI
	ADDQ $32, DI
	SHRQ $8, AX
	JNE  eight
	VZEROUPPER
	RET

// STRAIGHT is a colour of eight pixels, straight between two of a flat facet's points.
#define STRAIGHT(c) \
	VBROADCASTSS (4*const_slots*c)(SI), Y0 \
	VBROADCASTSS (4*const_slots*c+4)(SI), Y1 \
	VSUBPS Y0, Y1, Y1 \
	VMULPS Y7, Y1, Y1 \
	VADDPS Y1, Y0, Y0

// func layAVX2(out *colours, first *float32, begin int, pixels uint64)
TEXT ·layAVX2(SB), NOSPLIT, $0-32
	MOVQ out+0(FP), DI
	MOVQ first+8(FP), SI
	MOVQ begin+16(FP), CX
	MOVQ pixels+24(FP), AX
	LEAQ ·pixelMask(SB), R8
	VMOVUPS ·eighthsOn(SB), Y7
	SHRQ CX, AX
	LEAQ (DI)(CX*4), DI

eight:
	MOVBLZX AX, BX
	CMPL BX, $255
	JEQ  all
	SHLL $5, BX
	VMOVUPS (R8)(BX*1), Y6
	STRAIGHT(0)
	VMOVUPS 0(DI), Y2
	VBLENDVPS Y6, Y0, Y2, Y2
	VMOVUPS Y2, 0(DI)
	STRAIGHT(1)
	VMOVUPS (4*const_tileSide)(DI), Y2
	VBLENDVPS Y6, Y0, Y2, Y2
	VMOVUPS Y2, (4*const_tileSide)(DI)
	STRAIGHT(2)
	VMOVUPS (8*const_tileSide)(DI), Y2
	VBLENDVPS Y6, Y0, Y2, Y2
	VMOVUPS Y2, (8*const_tileSide)(DI)
	JMP  next

all:
	STRAIGHT(0)
	VMOVUPS Y0, 0(DI)
	STRAIGHT(1)
	VMOVUPS Y0, (4*const_tileSide)(DI)
	STRAIGHT(2)
	VMOVUPS Y0, (8*const_tileSide)(DI)

next:
	ADDQ $4, SI
	ADDQ $32, DI
	SHRQ $8, AX
	JNE  eight
	VZEROUPPER
	RET

// func quantiseAVX2(in *colours, more *[tileSide]float32, out *rowBytes)
TEXT ·quantiseAVX2(SB), NOSPLIT, $0-24
	MOVQ in+0(FP), SI
	MOVQ more+8(FP), DX
	MOVQ out+16(FP), DI
	VBROADCASTSS ·fullByte(SB), Y15
	VMOVDQU ·threeBytes(SB), Y13
	MOVQ $(const_tileSide/8), CX

eight:
	VMULPS 0(SI), Y15, Y0
	VMULPS (4*const_tileSide)(SI), Y15, Y1
	VMULPS (8*const_tileSide)(SI), Y15, Y2
	VMOVUPS (DX), Y14
	VADDPS Y14, Y0, Y0
	VADDPS Y14, Y1, Y1
	VADDPS Y14, Y2, Y2
	VCVTTPS2DQ Y0, Y0
	VCVTTPS2DQ Y1, Y1
	VCVTTPS2DQ Y2, Y2
	VPSLLD $8, Y1, Y1
	VPSLLD $16, Y2, Y2
	VPOR Y1, Y0, Y0
	VPOR Y2, Y0, Y0
	VPSHUFB Y13, Y0, Y0
	VMOVDQU X0, (DI)
	VEXTRACTI128 $1, Y0, 12(DI)
	ADDQ $32, SI
	ADDQ $32, DX
	ADDQ $24, DI
	DECQ CX
	JNE  eight
	VZEROUPPER
	RET

// func fillAVX2(out *colours, rgb *[3]float32)
TEXT ·fillAVX2(SB), NOSPLIT, $0-16
	MOVQ out+0(FP), DI
	MOVQ rgb+8(FP), SI
	VBROADCASTSS 0(SI), Y0
	VBROADCASTSS 4(SI), Y1
	VBROADCASTSS 8(SI), Y2
	MOVQ $(const_tileSide/8), CX

eight:
	VMOVUPS Y0, 0(DI)
	VMOVUPS Y1, (4*const_tileSide)(DI)
	VMOVUPS Y2, (8*const_tileSide)(DI)
	ADDQ $32, DI
	DECQ CX
	JNE  eight
	VZEROUPPER
	RET

// DARKEN mixes ink into one colour, as much of it as Y0 says.
#define DARKEN(c, ink) \
	VMOVUPS (4*const_tileSide*c)(DI), Y2 \
	VSUBPS Y2, ink, Y3 \
	VMULPS Y0, Y3, Y3 \
	VADDPS Y3, Y2, Y2 \
	VMOVUPS Y2, (4*const_tileSide*c)(DI)

// func darkenAVX2(rgb *colours, ink *[3]float32, dark *gloomRow)
TEXT ·darkenAVX2(SB), NOSPLIT, $0-24
	MOVQ rgb+0(FP), DI
	MOVQ ink+8(FP), SI
	MOVQ dark+16(FP), DX
	VBROADCASTSS 0(SI), Y4
	VBROADCASTSS 4(SI), Y5
	VBROADCASTSS 8(SI), Y6
	VMOVUPS ·eighthsOn(SB), Y7
	MOVQ $(const_tileSide/8), CX

eight:
	VBROADCASTSS 0(DX), Y0
	VBROADCASTSS 4(DX), Y1
	VSUBPS Y0, Y1, Y1
	VMULPS Y7, Y1, Y1
	VADDPS Y1, Y0, Y0
	DARKEN(0, Y4)
	DARKEN(1, Y5)
	DARKEN(2, Y6)
	ADDQ $4, DX
	ADDQ $32, DI
	DECQ CX
	JNE  eight
	VZEROUPPER
	RET
