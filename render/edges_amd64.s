//go:build !purego

#include "go_asm.h"
#include "textflag.h"

// What a face's rows share, from R8 on, aligned: by how much the edge functions grow from pair to pair;
// the four of them from row to row and from pixel to pixel, side by side and once more; and where edges
// cross a row, in pixels from the first, and how that grows: those on the left of the face and those on
// its right, a sixteenth of a pixel to spare, as the exact test follows.
#define step(i) (32*i)(R8)
#define downwards 128(R8)
#define along 160(R8)
#define column 192(R8)
#define least 224(R8)
#define nearest 256(R8)
#define deep 288(R8)
#define two 320(R8)
#define rows 352(R8)
#define cross 384(R8)
#define crossDown 400(R8)
#define isLeft 416(R8)
#define isRight 432(R8)
#define notRight 448(R8)
#define deepDown 464(R8)
#define scratch 512 // 468 and what aligning takes

// BOX begins a face: R9 and R10 are its last column and row, DI its first pixel, Y10 the depths there,
// Y12 and X13 how they grow from column to column and from row to row.
#define BOX \
	MOVLQSX edges_x0(SI), AX \
	MOVLQSX edges_y0(SI), BX \
	MOVL edges_x1(SI), R9 \
	MOVL edges_y1(SI), R10 \
	SUBL AX, R9 \
	SUBL BX, R10 \
	IMULQ $(4*const_rowStride), BX \
	SHLQ $4, AX \
	ADDQ BX, DI \
	ADDQ AX, DI \
	VBROADCASTSS edges_deep(SI), Y10 \
	VBROADCASTSS edges_dx(SI), Y12 \
	VBROADCASTSS edges_dy(SI), Y13 \
	VMULPS ·across(SB), Y12, Y8 \
	VMULPS ·down(SB), Y13, Y9 \
	VADDPS Y8, Y10, Y10 \
	VADDPS Y9, Y10, Y10 \
	VBROADCASTSS ·edgeNumbers+0(SB), Y8 \
	VMULPS Y8, Y12, Y12 \
	VMULSS X8, X13, X13

// PUT gives the samples of the pair at DX to the face of depths Y13 and id Y11: where that is nearer than
// what is there, or as near and of a higher id, and Y12 is not negative.
#define PUT \
	VCMPPS $0x1e, (DX), Y13, Y14 \
	VCMPPS $0x00, (DX), Y13, Y15 \
	VPCMPGTD layer_id(DX), Y11, Y10 \
	VPAND Y10, Y15, Y15 \
	VPOR Y15, Y14, Y14 \
	VPANDN Y14, Y12, Y14 \
	VMOVUPS (DX), Y15 \
	VBLENDVPS Y14, Y13, Y15, Y15 \
	VMOVUPS Y15, (DX) \
	VMOVUPS layer_id(DX), Y15 \
	VBLENDVPS Y14, Y11, Y15, Y15 \
	VMOVUPS Y15, layer_id(DX)

// SIDE sets up one edge function: its values at the samples of the first pair.
#define SIDE(i, at) \
	VPBROADCASTD (edges_a+4*i)(SI), Y8 \
	VPBROADCASTD (edges_b+4*i)(SI), Y9 \
	VPBROADCASTD (edges_c+4*i)(SI), at \
	VPMULLD Y14, Y8, Y8 \
	VPMULLD Y15, Y9, Y9 \
	VPSHUFD $(0x55*i), Y13, Y10 \
	VPADDD Y8, at, at \
	VPADDD Y9, at, at \
	VMOVDQA Y10, step(i)

// func edgesAVX2(l *layer, e *edges)
//
// Y0 … Y3 are the edge functions at a pair, Y4 … Y7 at the first pair of all, Y8 the columns of the
// pair, Y9 the depths of the row's first pixel, Y11 the face's id.
TEXT ·edgesAVX2(SB), NOSPLIT, $scratch-16
	MOVQ l+0(FP), DI
	MOVQ e+8(FP), SI
	MOVQ SP, R8
	ADDQ $31, R8
	ANDQ $~31, R8
	VBROADCASTI128 edges_a(SI), Y0
	VBROADCASTI128 edges_b(SI), Y1
	VMOVDQU ·acrossPair(SB), Y14
	VMOVDQU ·downPair(SB), Y15
	VPSLLD $const_eighths, Y0, Y2 // from pixel to pixel
	VPSLLD $const_eighths, Y1, Y3 // and from row to row
	VPADDD Y2, Y2, Y13
	VMOVDQA Y2, along
	VMOVDQA Y3, downwards
	SIDE(0, Y4)
	SIDE(1, Y5)
	SIDE(2, Y6)
	SIDE(3, Y7)
	BOX
	VMOVAPS Y10, deep
	VMOVAPS Y12, column
	VMOVSS X13, deepDown
	VBROADCASTSS edges_least(SI), Y12
	VBROADCASTSS edges_nearest(SI), Y13
	VMOVAPS Y12, least
	VMOVAPS Y13, nearest
	VPBROADCASTD edges_id(SI), Y11
	VBROADCASTSS ·edgeNumbers+4(SB), Y12 // 2
	VMOVAPS Y12, two
	VPXOR Y12, Y12, Y12
	VMOVDQA Y12, rows
	XORL BX, BX // row
	CMPL R9, $const_spanSide
	JLT  row

	// Where spans end: most·slope, and by row·slope further in every row.
	VPSUBD X0, X2, X8 // seven eighths
	VPSUBD X1, X3, X9
	VPMAXSD X0, X8, X8
	VPMAXSD X1, X9, X9
	VPADDD edges_c(SI), X8, X8
	VPADDD X9, X8, X8
	VCVTDQ2PS X8, X8
	VCVTDQ2PS X3, X9
	VCVTDQ2PS X2, X10
	VBROADCASTSS ·edgeNumbers+8(SB), X12 // −1
	VDIVPS X10, X12, X12
	VMULPS X12, X8, X8
	VMULPS X12, X9, X9
	VPBROADCASTD ·edgeSteep+0(SB), X12
	VPCMPGTD X12, X2, X12 // on the left
	VPBROADCASTD ·edgeSteep+4(SB), X13
	VPCMPGTD X2, X13, X13 // on the right
	VBROADCASTSS ·edgeNumbers+12(SB), X14
	VBROADCASTSS ·edgeNumbers+16(SB), X15
	VBLENDVPS X12, X15, X14, X14 // to spare
	VSUBPS X9, X14, X14
	VADDPS X14, X8, X8
	VMOVAPS X8, cross
	VMOVAPS X9, crossDown
	VMOVDQA X12, isLeft
	VMOVDQA X13, isRight
	VMOVD R9, X14
	VPBROADCASTD X14, X14
	VPANDN X14, X13, X14
	VMOVDQA X14, notRight

row:
	VXORPS X14, X14, X14
	VCVTSI2SSL BX, X14, X14
	VMOVDQA rows, Y12
	VPADDD downwards, Y12, Y13
	VMOVDQA Y13, rows
	VMULSS deepDown, X14, X14
	VBROADCASTSS X14, Y9
	VADDPS deep, Y9, Y9
	MOVL R9, CX
	MOVQ DI, DX
	CMPL R9, $const_spanSide
	JGE  span
	VMOVUPS ·rightPixel(SB), Y8
	JMP  begin

span:
	VMOVAPS cross, X13
	VADDPS crossDown, X13, X13
	VMOVAPS X13, cross
	VCVTTPS2DQ X13, X13
	VPAND isLeft, X13, X14
	VPAND isRight, X13, X15
	VPADDD notRight, X15, X15
	VPSHUFD $0x4e, X14, X10
	VPSHUFD $0x4e, X15, X13
	VPMAXSD X10, X14, X14
	VPMINSD X13, X15, X15
	VPSHUFD $0xb1, X14, X10
	VPSHUFD $0xb1, X15, X13
	VPMAXSD X10, X14, X14
	VPMINSD X13, X15, X15
	VMOVD X14, AX
	VMOVD X15, R12
	XORL R11, R11
	TESTL AX, AX
	CMOVLLT R11, AX
	CMPL R12, CX
	CMOVLLT R12, CX
	SUBL AX, CX // last pixel from there
	JLT  next
	MOVL AX, R11
	ANDL $1, R11
	ADDL R11, CX
	ANDL $~1, AX
	VMOVD AX, X13
	VPBROADCASTD X13, Y13
	VPMULLD along, Y13, Y14
	VCVTDQ2PS Y13, Y8
	VPADDD Y14, Y12, Y12
	VADDPS ·rightPixel(SB), Y8, Y8
	SHLQ $4, AX
	ADDQ AX, DX

begin:
	VPSHUFD $0x00, Y12, Y0
	VPSHUFD $0x55, Y12, Y1
	VPSHUFD $0xaa, Y12, Y2
	VPSHUFD $0xff, Y12, Y3
	VPADDD Y4, Y0, Y0
	VPADDD Y5, Y1, Y1
	VPADDD Y6, Y2, Y2
	VPADDD Y7, Y3, Y3

pair:
	VPOR Y1, Y0, Y12
	VPOR Y3, Y2, Y14
	VPOR Y14, Y12, Y12 // negative outside
	VMULPS column, Y8, Y13
	VADDPS Y13, Y9, Y13
	VMAXPS least, Y13, Y13
	VMINPS nearest, Y13, Y13
	PUT
	VPADDD step(0), Y0, Y0
	VPADDD step(1), Y1, Y1
	VPADDD step(2), Y2, Y2
	VPADDD step(3), Y3, Y3
	VADDPS two, Y8, Y8
	ADDQ $32, DX
	SUBL $2, CX
	JGE  pair

next:
	ADDQ $(4*const_rowStride), DI
	INCL BX
	CMPL BX, R10
	JLE  row
	VZEROUPPER
	RET

// func fillBoxAVX2(l *layer, e *edges)
//
// Y8 are the columns of a pair, Y9 the depths of the row's first pixel, Y2 those of the first of all.
TEXT ·fillBoxAVX2(SB), NOSPLIT, $0-16
	MOVQ l+0(FP), DI
	MOVQ e+8(FP), SI
	BOX
	SHRL $1, R9
	INCL R9 // pairs; a box that is no whole number of them wide ends with the picture
	VMOVAPS Y10, Y2
	VMOVAPS Y12, Y4
	VMOVAPS Y13, Y5
	VPXOR Y12, Y12, Y12 // nowhere outside
	VBROADCASTSS edges_least(SI), Y6
	VBROADCASTSS edges_nearest(SI), Y7
	VPBROADCASTD edges_id(SI), Y11
	VBROADCASTSS ·edgeNumbers+4(SB), Y3
	XORL BX, BX

row:
	VXORPS X0, X0, X0
	VCVTSI2SSL BX, X0, X0
	VMULSS X5, X0, X0
	VBROADCASTSS X0, Y9
	VADDPS Y9, Y2, Y9
	VMOVUPS ·rightPixel(SB), Y8
	MOVQ DI, DX
	MOVL R9, CX

pair:
	VMULPS Y4, Y8, Y13
	VADDPS Y13, Y9, Y13
	VMAXPS Y6, Y13, Y13
	VMINPS Y7, Y13, Y13
	PUT
	VADDPS Y3, Y8, Y8
	ADDQ $32, DX
	DECL CX
	JNE  pair
	ADDQ $(4*const_rowStride), DI
	INCL BX
	CMPL BX, R10
	JLE  row
	VZEROUPPER
	RET
