import { DropdownMenu as M } from 'radix-ui'
import { create } from 'zustand'
import { growToParent, hidePicked, invertPick, isolatePicked, pickBy } from '../session/picking'
import { namesOf, useSession } from '../session/session'
import { show } from '../session/actions'
import { card, kinds } from '../stage/MoveCard'
import { kindNames } from '../ui/glyphs'

interface At { x: number; y: number }

const useMenu = create<{ at: At | null }>(() => ({ at: null }))

// openPartMenu shows at a place of the page what fits the picked parts.
export function openPartMenu(at: At) {
  if (useSession.getState().selection.nodes.length > 0) useMenu.setState({ at })
}

interface Entry { text: string; keys?: string; off?: boolean; run(): void }

export function PartMenu({ direct }: { direct?: boolean }) {
  const at = useMenu((s) => s.at)
  const assembly = useSession((s) => s.assembly)
  const nodes = useSession((s) => s.selection.nodes)
  const known = useSession((s) => s.survey !== null)
  const hidden = useSession((s) => s.hidden.length > 0)
  if (!at) return null
  const groups: Entry[][] = [
    direct ? [
      ...kinds.map((k, i) => ({ text: kindNames[k]!, keys: 'PTUWFDYN'[i], run: () => card.make?.(k) })),
      { text: 'Vanish at once', keys: 'Shift F', run: () => void show(nodes, 0, 1) },
      { text: 'Come back', keys: 'Alt F', run: () => void show(nodes, 1, 1_000_000) },
    ] : [],
    [
      { text: 'Pick all like this', keys: 'A', off: !known, run: () => pickBy('like') },
      { text: 'Pick what holds it', off: !known, run: () => pickBy('fasteners') },
      { text: 'Pick what it touches', off: !known, run: () => pickBy('neighbours') },
      { text: 'Pick the group that it is in', keys: 'G', run: growToParent },
      { text: 'Pick everything else', keys: 'I', run: invertPick },
    ],
    [
      { text: 'Put out of sight', keys: 'X', run: hidePicked },
      { text: 'Leave only this in sight', keys: 'L', run: isolatePicked },
      { text: 'Bring everything back', keys: 'Shift X', off: !hidden, run: () => useSession.getState().hide([]) },
    ],
  ].filter((g) => g.length > 0)
  return (
    <M.Root open onOpenChange={(open) => !open && useMenu.setState({ at: null })}>
      <M.Trigger asChild><span aria-hidden className="fixed size-0" style={{ left: at.x, top: at.y }} /></M.Trigger>
      <M.Portal>
        <M.Content aria-label="What fits the picked parts" align="start" sideOffset={2} collisionPadding={8} className="z-50 min-w-56 rounded-md border border-line bg-white py-1 shadow-xl">
          <M.Label className="truncate px-3 py-1 text-[12px] text-ink-2">{namesOf(assembly, nodes)}</M.Label>
          {groups.map((g, i) => (
            <M.Group key={i} className="border-t border-hair py-1">
              {g.map((e) => (
                <M.Item key={e.text} disabled={e.off} onSelect={() => setTimeout(e.run)} className="flex cursor-default items-center justify-between gap-6 px-3 py-1 text-[12.5px] outline-none data-[disabled]:text-ink-3 data-[highlighted]:bg-sheet-2">
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
