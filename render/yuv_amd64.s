//go:build !purego

#include "go_asm.h"
#include "textflag.h"

#define number(k) (32*k)(R8)

// LOAD takes sixteen pixels of a row, four to each half of a vector: red and green as numbers of 16
// bits side by side (rg0, rg1), and blue with nothing (b0, b1). What stands twice is loaded in such a way
// that nothing past the pixels is touched.
#define LOAD(p, rg0, b0, rg1, b1) \
	VMOVDQU 0(p), X14 \
	VINSERTI128 $1, 24(p), Y14, Y14 \
	VMOVDQU 12(p), X15 \
	VINSERTI128 $1, 32(p), Y15, Y15 \
	VPSHUFB number(const_yuvRedGreen), Y14, rg0 \
	VPSHUFB number(const_yuvBlue), Y14, b0 \
	VPSHUFB number(const_yuvRedGreenLate), Y15, rg1 \
	VPSHUFB number(const_yuvBlueLate), Y15, b1

// LUMA turns eight pixels, four from each half of sixteen, into their luma; at is where their rounding stands.
#define LUMA(rg, b, at, out) \
	VPMADDWD Y12, rg, out \
	VPMADDWD Y13, b, Y15 \
	VPADDD Y15, out, out \
	VMOVDQU at(R10), X15 \
	VINSERTI128 $1, (at+32)(R10), Y15, Y15 \
	VPADDD Y15, out, out \
	VPSRLD $const_yuvBits, out, out

// CHROMA turns eight sums of four pixels, Y8 and Y9, into one of their chromas; at is where its rounding stands.
#define CHROMA(rg, b, at, out) \
	VPMADDWD number(rg), Y8, out \
	VPMADDWD number(b), Y9, Y15 \
	VPADDD Y15, out, out \
	VPADDD at(R11), out, out \
	VPSRAD $(const_yuvBits+2), out, out

// func yuvAVX2(a, b, lumaA, lumaB, u, v *byte, by *yuvRounding, sixteens int)
TEXT ·yuvAVX2(SB), NOSPLIT, $0-64
	MOVQ a+0(FP), SI
	MOVQ b+8(FP), DI
	MOVQ lumaA+16(FP), AX
	MOVQ lumaB+24(FP), BX
	MOVQ u+32(FP), CX
	MOVQ v+40(FP), DX
	MOVQ by+48(FP), R10
	LEAQ yuvRounding_u(R10), R11
	MOVQ sixteens+56(FP), R9
	LEAQ ·yuvWide(SB), R8
	VMOVDQU number(const_yuvLumaRedGreen), Y12
	VMOVDQU number(const_yuvLumaBlue), Y13

sixteen:
	LOAD(SI, Y0, Y1, Y2, Y3)
	LOAD(DI, Y4, Y5, Y6, Y7)
	LUMA(Y0, Y1, yuvRounding_lumaA, Y8)
	LUMA(Y2, Y3, (yuvRounding_lumaA+16), Y9)
	LUMA(Y4, Y5, yuvRounding_lumaB, Y10)
	LUMA(Y6, Y7, (yuvRounding_lumaB+16), Y14)
	VPACKSSDW Y9, Y8, Y8
	VPACKSSDW Y14, Y10, Y10
	VPACKUSWB Y10, Y8, Y8
	VPERMQ $0xd8, Y8, Y8
	VMOVDQU X8, (AX)
	VEXTRACTI128 $1, Y8, (BX)
	VPADDW Y4, Y0, Y0 // both rows
	VPADDW Y5, Y1, Y1
	VPADDW Y6, Y2, Y2
	VPADDW Y7, Y3, Y3
	VSHUFPS $0x88, Y2, Y0, Y8 // both columns
	VSHUFPS $0xdd, Y2, Y0, Y0
	VSHUFPS $0x88, Y3, Y1, Y9
	VSHUFPS $0xdd, Y3, Y1, Y1
	VPADDW Y0, Y8, Y8
	VPADDW Y1, Y9, Y9
	CHROMA(const_yuvURedGreen, const_yuvUBlue, 0, Y10)
	CHROMA(const_yuvVRedGreen, const_yuvVBlue, (yuvRounding_v-yuvRounding_u), Y14)
	VPACKSSDW Y14, Y10, Y10
	VPACKUSWB Y10, Y10, Y10
	VEXTRACTI128 $1, Y10, X14
	VPUNPCKLDQ X14, X10, X10
	VMOVQ X10, (CX)
	VPEXTRQ $1, X10, (DX)
	ADDQ $48, SI
	ADDQ $48, DI
	ADDQ $16, AX
	ADDQ $16, BX
	ADDQ $8, CX
	ADDQ $8, DX
	ADDQ $64, R10
	ADDQ $32, R11
	DECQ R9
	JNE  sixteen
	VZEROUPPER
	RET
