import { DropdownMenu as M } from 'radix-ui'
import { create } from 'zustand'

export interface Entry {
  text: string
  keys?: string
  off?: boolean
  run(): void
}

interface Open {
  x: number
  y: number
  label: string
  groups: Entry[][]
}

const useMenu = create<{ open: Open | null }>(() => ({ open: null }))

// openMenu shows at a place of the page what fits the thing that is there.
export function openMenu(at: { x: number; y: number }, label: string, groups: Entry[][]) {
  useMenu.setState({ open: { ...at, label, groups: groups.filter((g) => g.length > 0) } })
}

// ContextMenu is the one menu of the page that comes with the right button.
export function ContextMenu() {
  const open = useMenu((s) => s.open)
  if (!open) return null
  return (
    <M.Root open onOpenChange={(on) => !on && useMenu.setState({ open: null })}>
      <M.Trigger asChild>
        <span aria-hidden className="fixed size-0" style={{ left: open.x, top: open.y }} />
      </M.Trigger>
      <M.Portal>
        <M.Content
          aria-label={`Actions for ${open.label}`}
          align="start"
          sideOffset={2}
          collisionPadding={8}
          className="scroll z-50 max-h-[90vh] min-w-56 rounded-md border border-line bg-white py-1 shadow-xl"
        >
          <M.Label className="max-w-72 truncate px-3 py-1 text-[12px] text-ink-2">{open.label}</M.Label>
          {open.groups.map((g, i) => (
            <M.Group key={i} className="border-t border-hair py-1">
              {g.map((e) => (
                <M.Item
                  key={e.text}
                  disabled={e.off}
                  onSelect={() => setTimeout(e.run)}
                  className="flex cursor-default items-center justify-between gap-6 px-3 py-1 text-[12.5px] outline-none data-[disabled]:text-ink-3 data-[highlighted]:bg-sheet-2"
                >
                  {e.text}
                  {e.keys && <kbd className="mono text-[11px] text-ink-3">{e.keys}</kbd>}
                </M.Item>
              ))}
            </M.Group>
          ))}
        </M.Content>
      </M.Portal>
    </M.Root>
  )
}
