import { ChevronDown } from 'lucide-react'
import { useRef } from 'react'
import { bringFile, duplicateReveal, newReveal, removeReveal, reverseReveal, saveReveal } from '../session/documents'
import { go, type Phase } from '../session/route'
import { useSession } from '../session/session'
import { Menu } from '../ui/controls'

// RevealMenu names the reveal that is open; the others of the project, and what can be done with one, are under it.
export function RevealMenu({ project, phase, onVersions }: { project: string; phase: Phase; onVersions(): void }) {
  const title = useSession((s) => s.doc?.title ?? '')
  const reveals = useSession((s) => s.reveals)
  const open = useSession((s) => s.revealId)
  const file = useRef<HTMLInputElement>(null)
  const choose = (id: string) => go(`/p/${project}/${phase}/${id}`)
  return (
    <>
      <Menu
        label="Reveals"
        actions={[
          ...reveals.map((r) => ({ text: r.id === open ? `${title} ·` : r.title, run: () => choose(r.id) })),
          { text: 'New reveal', run: () => void newReveal().then((id) => id && choose(id)) },
          { text: 'Duplicate this one', run: () => void duplicateReveal().then((id) => id && choose(id)) },
          {
            text: 'Show it backwards, as another one',
            run: () => void reverseReveal().then((id) => id && choose(id)),
          },
          { text: 'Versions…', run: onVersions },
          { text: 'Save it as a file (JSON)', run: saveReveal },
          { text: 'Bring one in from a file…', run: () => file.current?.click() },
          {
            text: 'Delete this one',
            disabled: reveals.length < 2,
            run: () => {
              const next = reveals.find((r) => r.id !== open)
              void removeReveal(open!).then((done) => done && next && choose(next.id))
            },
          },
        ]}
      >
        <button
          type="button"
          className="flex min-w-0 items-center gap-1 rounded-md px-1 py-0.5 text-ink-2 hover:bg-hair hover:text-ink"
        >
          <span className="truncate" title={title}>
            {title || 'Opening…'}
          </span>
          <ChevronDown size={13} className="shrink-0" />
        </button>
      </Menu>
      <input
        ref={file}
        type="file"
        accept=".json,application/json"
        aria-label="Reveal file"
        className="sr-only"
        tabIndex={-1}
        onChange={(e) => {
          void bringFile(e.target.files?.[0]).then((id) => id && choose(id))
          e.target.value = ''
        }}
      />
    </>
  )
}
