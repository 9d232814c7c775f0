import clsx from 'clsx'
import { useCallback, useState } from 'react'

export interface Split {
  /** px */
  size: number
  min: number
  max: number
  set(size: number): void
  /** Folds the panel away, or brings it back. */
  fold(): void
}

// useSplit remembers how large a panel is, for whoever sits here. A panel that is folded away has the size 0.
export function useSplit(name: string, usual: number, min: number, max: number): Split {
  const key = `slowreveal.split.${name}`
  const [size, setSize] = useState(() => {
    const kept = globalThis.localStorage?.getItem(key)
    return kept === null || kept === undefined || !Number.isFinite(Number(kept)) ? usual : Number(kept)
  })
  const held = size === 0 ? 0 : Math.max(min, Math.min(max, size))
  const put = useCallback(
    (n: number) => {
      setSize(n)
      globalThis.localStorage?.setItem(key, String(Math.round(n)))
    },
    [key],
  )
  return {
    size: held,
    min,
    max,
    set: (n) => put(n < min / 2 ? 0 : Math.max(min, Math.min(max, n))),
    fold: () => put(held === 0 ? usual : 0),
  }
}

// Splitter lies between two panels: dragged, or moved by arrow keys; Enter or a double click folds the panel
// away. `of` says at which side of the panel it lies.
export function Splitter({
  split,
  label,
  of,
  className,
}: {
  split: Split
  label: string
  of: 'left' | 'right' | 'top' | 'bottom'
  className?: string
}) {
  const across = of === 'left' || of === 'right'
  const sense = of === 'right' || of === 'bottom' ? 1 : -1
  const by = (px: number) => split.set((split.size === 0 ? 0 : split.size) + sense * px)
  return (
    <div
      role="separator"
      aria-orientation={across ? 'vertical' : 'horizontal'}
      aria-label={label}
      aria-valuenow={split.size}
      aria-valuemin={0}
      aria-valuemax={split.max}
      tabIndex={0}
      title={`${label}: drag, or arrow keys; Enter folds it away`}
      className={clsx(
        'absolute z-40 touch-none',
        across ? 'inset-y-0 w-2 cursor-ew-resize' : 'inset-x-0 h-2 cursor-ns-resize',
        of === 'left' ? '-left-1' : of === 'right' ? '-right-1' : of === 'top' ? '-top-1' : '-bottom-1',
        'hover:bg-ink/10 focus-visible:bg-ink/10',
        className,
      )}
      onDoubleClick={split.fold}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={(e) => e.buttons === 1 && by(across ? e.movementX : e.movementY)}
      onKeyDown={(e) => {
        const step = e.shiftKey ? 64 : 16
        if (e.key === 'Enter') split.fold()
        else if (e.key === (across ? 'ArrowRight' : 'ArrowDown')) by(step)
        else if (e.key === (across ? 'ArrowLeft' : 'ArrowUp')) by(-step)
        else return
        e.preventDefault()
        e.stopPropagation()
      }}
    />
  )
}
