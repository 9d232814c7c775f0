// What a pointer means over the stage: a click that stays picks, the right button or a finger that stays asks for the
// menu, and what it moves over is told.
interface Meant {
  pick(e: PointerEvent): void
  menu(e: PointerEvent): void
  over(e: PointerEvent | null): void
}

const still = 4 // px within which a press is a click
const long = 550 // ms that a finger stays to ask for the menu

/** listen has it told what a pointer means over the canvas; the returned function ends it. */
export function listen(canvas: HTMLCanvasElement, meant: Meant): () => void {
  const ends: (() => void)[] = []
  const on = (
    name: 'pointerdown' | 'pointercancel' | 'pointerup' | 'pointermove' | 'pointerleave',
    f: (e: PointerEvent) => void,
  ) => {
    canvas.addEventListener(name, f)
    ends.push(() => canvas.removeEventListener(name, f))
  }
  let down: { x: number; y: number } | null = null
  let held: ReturnType<typeof setTimeout> | undefined
  const away = (e: PointerEvent) => (down ? Math.hypot(e.clientX - down.x, e.clientY - down.y) : Infinity)
  on('pointerdown', (e) => {
    down = { x: e.clientX, y: e.clientY }
    clearTimeout(held)
    if (e.pointerType === 'mouse') return
    held = setTimeout(() => {
      if (!down) return
      down = null
      meant.menu(e)
    }, long)
  })
  on('pointercancel', () => clearTimeout(held))
  on('pointerup', (e) => {
    clearTimeout(held)
    const stays = away(e) < still
    down = null
    if (stays && e.button === 2) meant.menu(e)
    if (stays && e.button === 0) meant.pick(e)
  })
  on('pointermove', (e) => {
    if (down && away(e) > 6) clearTimeout(held)
    if (e.buttons === 0) meant.over(e)
  })
  on('pointerleave', () => meant.over(null))
  ends.push(() => clearTimeout(held))
  return () => ends.forEach((end) => end())
}
