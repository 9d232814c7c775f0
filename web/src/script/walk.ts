import { nextOf, typeAhead } from '../ui/roving'

// walkSteps goes with arrows, Home and End from one step to the next, and by letters with Shift to one by its title.
export function walkSteps(e: React.KeyboardEvent) {
  const all = [...document.querySelectorAll<HTMLElement>('#script [data-walk]')]
  const at = all.indexOf(e.currentTarget as HTMLElement)
  let to = nextOf(e, at, all.length, 'ArrowUp', 'ArrowDown')
  if (to < 0 && e.shiftKey)
    to = typeAhead(
      e,
      all.map((b) => b.closest('article')?.querySelector('textarea')?.value ?? 'Opening'),
      at,
    )
  if (to < 0) return
  e.preventDefault()
  e.stopPropagation()
  all[to]!.focus()
}
