import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Trash2, X } from 'lucide-react'
import { useState } from 'react'
import { useShallow } from 'zustand/react/shallow'
import { answer, api, words } from '../api/client'
import { useSession } from '../session/session'
import { Button, IconButton } from '../ui/controls'
import { Words } from './fields'
import { order, useOrder, type Settings } from './settings'

// Sets are outputs that are ordered together: gathered, kept under a name, made again of
// the next revision.
export function Sets({ onMade }: { onMade(): void }) {
  const project = useSession((s) => s.project)!
  const { set, variants, drop, use, put } = useOrder(
    useShallow(({ set, variants, drop, use, put }) => ({ set, variants, drop, use, put })),
  )
  const client = useQueryClient()
  const [name, setName] = useState('')
  const [problem, setProblem] = useState<string | null>(null)
  const kept = useQuery({
    queryKey: ['presets', project.id],
    queryFn: () => answer(api.GET('/api/projects/{id}/presets', { params: { path: { id: project.id } } })),
  })
  const attempt = async (what: () => Promise<unknown>) => {
    setProblem(null)
    try {
      await what()
    } catch (e) {
      setProblem(words(e))
    }
    await client.invalidateQueries({ queryKey: ['presets', project.id] })
  }
  const all = async () => {
    const wrong = await order(set, { variants })
    setProblem(wrong)
    if (!wrong) onMade()
  }
  const keep = () =>
    attempt(async () => {
      await answer(
        api.POST('/api/projects/{id}/presets', {
          params: { path: { id: project.id } },
          body: { name, outputs: [...set] },
        }),
      )
      setName('')
    })
  if (set.length === 0 && (kept.data ?? []).length === 0) return null
  return (
    <section aria-label="Sets of outputs" className="mt-6 border-t border-line pt-4">
      <h3 className="mb-2 text-[13px] font-semibold">Set</h3>
      {set.length > 0 && (
        <>
          <ul className="mb-2 border-t border-hair">
            {set.map((s, i) => (
              <li key={s.name} className="flex items-center gap-2 border-b border-hair py-1">
                <button className="min-w-0 grow truncate text-left hover:underline" onClick={() => put(s)}>
                  {s.name}{' '}
                  <span className="mono text-[11px] text-ink-3">
                    {s.format ?? ''} {s.width ? `${s.width} × ${s.height}` : ''}
                  </span>
                </button>
                <IconButton label={`Take ${s.name} out`} onClick={() => drop(i)}>
                  <X size={13} />
                </IconButton>
              </li>
            ))}
          </ul>
          <Button kind="strong" className="mb-2 h-8 w-full" onClick={() => void all()}>
            {set.length === 1 && variants.length < 2
              ? 'Make the set'
              : `Make all ${set.length * Math.max(1, variants.length)}`}
          </Button>
          <div className="flex gap-1.5">
            <Words label="Name of the set" value={name} onChange={setName} placeholder="Name, such as client pack" />
            <Button disabled={name.trim() === ''} onClick={() => void keep()}>
              Keep
            </Button>
          </div>
        </>
      )}
      {(kept.data ?? []).map((p) => (
        <div key={p.id} className="mt-1.5 flex items-center gap-2">
          <button
            className="min-w-0 grow truncate text-left hover:underline"
            onClick={() => use(p.settings as Settings[])}
          >
            {p.name} <span className="text-ink-3">{(p.settings as Settings[]).length} outputs</span>
          </button>
          <Button
            onClick={() =>
              void order(p.settings as Settings[], { variants }).then((w) => {
                setProblem(w)
                if (!w) onMade()
              })
            }
          >
            Make again
          </Button>
          <IconButton
            label={`Forget ${p.name}`}
            onClick={() =>
              void attempt(() => answer(api.DELETE('/api/presets/{id}', { params: { path: { id: p.id } } })))
            }
          >
            <Trash2 size={13} />
          </IconButton>
        </div>
      ))}
      {problem && (
        <p role="alert" className="mt-2 text-signal-ink">
          {problem}
        </p>
      )}
    </section>
  )
}
