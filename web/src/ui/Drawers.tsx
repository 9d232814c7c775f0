import clsx from 'clsx'
import { useState, type ReactNode } from 'react'

/** A panel that lies over the others while it is open. */
export interface Drawer {
  text: string
  at: 'left' | 'right' | 'foot'
  content: ReactNode
}

/** Below this width, in CSS pixels, panels do not stand side by side: small windows, and large ones at 200 %. */
export const narrow = 900

// Drawers has the stage in all of the room; panels are drawn over it by the buttons below, one at a time.
export function Drawers({
  drawers,
  children,
  note,
}: {
  drawers: readonly Drawer[]
  children: ReactNode
  note?: string
}) {
  const [open, setOpen] = useState<string | null>(null)
  const drawer = drawers.find((d) => d.text === open)
  return (
    <div
      className="grid h-full min-h-0 grid-rows-[minmax(0,1fr)_auto]"
      onKeyDown={(e) => {
        if (e.key === 'Escape' && drawer) {
          e.stopPropagation()
          setOpen(null)
        }
      }}
    >
      <div className="relative min-h-0 min-w-0 overflow-hidden">
        <div className="h-full">{children}</div>
        {drawer && (
          <div
            role="group"
            aria-label={drawer.text}
            data-drawer
            className={clsx(
              'absolute z-30 grid grid-cols-[minmax(0,1fr)] grid-rows-[minmax(0,1fr)] overflow-hidden border-ink bg-sheet shadow-xl',
              drawer.at === 'left' && 'inset-y-0 left-0 w-[min(300px,86%)] border-r',
              drawer.at === 'right' && 'inset-y-0 right-0 w-[min(300px,86%)] border-l',
              drawer.at === 'foot' && 'inset-x-0 bottom-0 h-[min(70%,300px)] border-t',
            )}
          >
            {drawer.content}
          </div>
        )}
      </div>
      <div
        id="panels"
        tabIndex={-1}
        role="group"
        aria-label="Panels"
        className="flex flex-wrap items-center gap-1.5 border-t border-ink bg-paper px-3 py-1.5"
      >
        {drawers.map((d) => (
          <button
            key={d.text}
            type="button"
            aria-expanded={d.text === open}
            onClick={() => setOpen(d.text === open ? null : d.text)}
            className="h-8 rounded-md border border-line bg-sheet px-3 text-[12.5px] hover:bg-white aria-expanded:bg-ink aria-expanded:text-sheet pointer-coarse:h-11"
          >
            {d.text}
          </button>
        ))}
        {note && <p className="min-w-0 text-[12px] text-ink-2">{note}</p>}
      </div>
    </div>
  )
}
