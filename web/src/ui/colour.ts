// Colours of finishes and tints are linear light; pages show display values.
import { Color, LinearSRGBColorSpace } from 'three'

export function hexOf(linear: readonly number[]): string {
  return '#' + new Color().setRGB(linear[0]!, linear[1]!, linear[2]!, LinearSRGBColorSpace).getHexString()
}

export function linearOf(hex: string): number[] {
  return new Color(hex).toArray()
}
