//go:build goexperiment.simd

#include "go_asm.h"
#include "textflag.h"

// What a face's rows share, from R8 on, aligned: how the edge functions grow from pair to pair
// and from row to row, and the same of the bounds of spans.
#define step(i) (32*i)(R8)
#define down(i) (128+32*i)(R8)
#define column 256(R8)
#define least 288(R8)
#define nearest 320(R8)
#define deep 352(R8)
#define two 384(R8)
#define bounds 416(R8)
#define boundsDown 432(R8)
#define deepDown 448(R8)
#define scratch 512 // 452 and what aligning takes

// SIDE sets up one edge function: its values at the samples of the first pair.
#define SIDE(i, at) \
	VPBROADCASTD (edges_a+4*i)(SI), Y8 \
	VPBROADCASTD (edges_b+4*i)(SI), Y9 \
	VPBROADCASTD (edges_c+4*i)(SI), at \
	VPMULLD Y14, Y8, Y8 \
	VPMULLD Y15, Y9, Y9 \
	VPADDD Y8, at, at \
	VPADDD Y9, at, at \
	VPBROADCASTD (edges_column+4*i)(SI), Y8 \
	VPBROADCASTD (edges_row+4*i)(SI), Y9 \
	VPADDD Y8, Y8, Y8 \
	VMOVDQA Y8, step(i) \
	VMOVDQA Y9, down(i)

// func edgesAVX2(l *layer, e *edges)
//
// Y0 … Y3 are the edge functions at a pair, Y4 … Y7 at the row's first pair, Y8 the columns of the
// pair, Y9 the depths of the row's first pixel, Y11 the face's id.
TEXT ·edgesAVX2(SB), NOSPLIT, $scratch-16
	MOVQ l+0(FP), DI
	MOVQ e+8(FP), SI
	MOVQ SP, R8
	ADDQ $31, R8
	ANDQ $~31, R8
	VMOVDQU ·acrossPair(SB), Y14
	VMOVDQU ·downPair(SB), Y15
	SIDE(0, Y4)
	SIDE(1, Y5)
	SIDE(2, Y6)
	SIDE(3, Y7)
	MOVLQSX edges_x0(SI), AX
	MOVLQSX edges_y0(SI), BX
	MOVL edges_x1(SI), R9
	MOVL edges_y1(SI), R10
	SUBL AX, R9  // last column
	SUBL BX, R10 // last row
	IMULQ $(4*const_rowStride), BX
	SHLQ $4, AX // samples of four bytes
	ADDQ BX, DI
	ADDQ AX, DI // the row's first pixel
	VBROADCASTSS edges_deep(SI), Y10
	VBROADCASTSS edges_dx(SI), Y12
	VBROADCASTSS edges_dy(SI), Y13
	VMULPS ·across(SB), Y12, Y8
	VMULPS ·down(SB), Y13, Y9
	VADDPS Y8, Y10, Y10
	VADDPS Y9, Y10, Y10
	VMOVAPS Y10, deep
	MOVL $0x43800000, AX // subPixel
	VMOVD AX, X8
	VBROADCASTSS X8, Y8
	VMULPS Y8, Y12, Y12
	VMULSS X8, X13, X13
	VMOVAPS Y12, column
	VMOVSS X13, deepDown
	VBROADCASTSS edges_least(SI), Y12
	VBROADCASTSS edges_nearest(SI), Y13
	VMOVAPS Y12, least
	VMOVAPS Y13, nearest
	VPBROADCASTD edges_id(SI), Y11
	MOVL $0x40000000, AX // 2
	VMOVD AX, X12
	VBROADCASTSS X12, Y12
	VMOVAPS Y12, two
	XORL BX, BX // row
	CMPL R9, $const_spanSide
	JLT  row
	VMOVUPS edges_leftRow(SI), X12
	VMOVUPS edges_left(SI), X13
	VMOVUPS ·spare(SB), X14
	VSUBPS X12, X14, X14
	VADDPS X14, X13, X13
	VMOVAPS X12, boundsDown
	VMOVAPS X13, bounds

row:
	VXORPS X14, X14, X14
	VCVTSI2SSL BX, X14, X14
	VMULSS deepDown, X14, X14
	VBROADCASTSS X14, Y9
	VADDPS deep, Y9, Y9
	XORL AX, AX
	MOVL R9, CX
	MOVQ DI, DX
	CMPL R9, $const_spanSide
	JGE  span
	VMOVDQA Y4, Y0
	VMOVDQA Y5, Y1
	VMOVDQA Y6, Y2
	VMOVDQA Y7, Y3
	VMOVUPS ·rightPixel(SB), Y8
	JMP  pair

span:
	VMOVAPS bounds, X12
	VADDPS boundsDown, X12, X12
	VMOVAPS X12, bounds
	VCVTTPS2DQ X12, X12
	VPSHUFD $0xb1, X12, X13
	VPMAXSD X13, X12, X14
	VPMINSD X13, X12, X13
	VMOVD X14, R11
	VPEXTRD $2, X13, R12
	TESTL R11, R11
	CMOVLGT R11, AX
	CMPL R12, CX
	CMOVLLT R12, CX
	SUBL AX, CX // last pixel from there
	JLT  next
	MOVL AX, R11
	ANDL $1, R11
	ADDL R11, CX
	ANDL $~1, AX
	VMOVD AX, X12
	VPBROADCASTD X12, Y12
	VCVTDQ2PS Y12, Y8
	VADDPS ·rightPixel(SB), Y8, Y8
	VPSRLD $1, Y12, Y12
	VPMULLD step(0), Y12, Y0
	VPMULLD step(1), Y12, Y1
	VPMULLD step(2), Y12, Y2
	VPMULLD step(3), Y12, Y3
	VPADDD Y4, Y0, Y0
	VPADDD Y5, Y1, Y1
	VPADDD Y6, Y2, Y2
	VPADDD Y7, Y3, Y3
	SHLQ $4, AX
	ADDQ AX, DX

pair:
	VPOR Y1, Y0, Y12
	VPOR Y3, Y2, Y14
	VPOR Y14, Y12, Y12 // negative outside
	VMULPS column, Y8, Y13
	VADDPS Y13, Y9, Y13
	VMAXPS least, Y13, Y13
	VMINPS nearest, Y13, Y13
	VCMPPS $0x1e, (DX), Y13, Y14 // nearer than what is there
	VCMPPS $0x00, (DX), Y13, Y15 // as near, and of a higher id
	VPCMPGTD layer_owner(DX), Y11, Y10
	VPAND Y10, Y15, Y15
	VPOR Y15, Y14, Y14
	VPANDN Y14, Y12, Y14
	VMOVUPS (DX), Y15
	VBLENDVPS Y14, Y13, Y15, Y15
	VMOVUPS Y15, (DX)
	VMOVUPS layer_owner(DX), Y15
	VBLENDVPS Y14, Y11, Y15, Y15
	VMOVUPS Y15, layer_owner(DX)
	VPADDD step(0), Y0, Y0
	VPADDD step(1), Y1, Y1
	VPADDD step(2), Y2, Y2
	VPADDD step(3), Y3, Y3
	VADDPS two, Y8, Y8
	ADDQ $32, DX
	SUBL $2, CX
	JGE  pair

next:
	VPADDD down(0), Y4, Y4
	VPADDD down(1), Y5, Y5
	VPADDD down(2), Y6, Y6
	VPADDD down(3), Y7, Y7
	ADDQ $(4*const_rowStride), DI
	INCL BX
	CMPL BX, R10
	JLE  row
	VZEROUPPER
	RET
