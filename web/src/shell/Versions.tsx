import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, words } from '../api/client'
import { useSession } from '../session/session'
import { Button, Dialog } from '../ui/controls'

// Versions gives the reveal's present state a name, says what has changed since one
// that has a name, and goes back to it.
export function Versions({ open, onClose }: { open: boolean; onClose(): void }) {
  return (
    <Dialog open={open} onClose={onClose} title="Versions" size="wide">
      {open && <List onClose={onClose} />}
    </Dialog>
  )
}

function List({ onClose }: { onClose(): void }) {
  const id = useSession((s) => s.revealId)!
  const { goBack, tell, idle } = useSession.getState()
  const client = useQueryClient()
  const [name, setName] = useState('')
  const [compared, setCompared] = useState<string | null>(null)
  const list = useQuery({
    queryKey: ['versions', id],
    queryFn: () => answer(api.GET('/api/reveals/{id}/versions', { params: { path: { id } } })),
  })
  const add = useMutation({
    mutationFn: async () => {
      await idle()
      return answer(api.POST('/api/reveals/{id}/versions', { params: { path: { id } }, body: { name } }))
    },
    onSuccess: () => {
      setName('')
      void client.invalidateQueries({ queryKey: ['versions', id] })
    },
    onError: (e) => tell(words(e)),
  })
  return (
    <>
      <form
        className="mb-3 flex gap-2"
        onSubmit={(e) => {
          e.preventDefault()
          if (name.trim()) add.mutate()
        }}
      >
        <input
          autoFocus
          value={name}
          maxLength={120}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => e.stopPropagation()}
          aria-label="Name of this version"
          placeholder="A name for how it is now: sent to the client"
          className="h-9 grow rounded-md border border-line bg-white px-3 text-[14px] placeholder:text-ink-3"
        />
        <Button kind="strong" className="!h-9" disabled={!name.trim() || add.isPending} onClick={() => add.mutate()}>
          Keep this version
        </Button>
      </form>
      {list.data?.length === 0 && (
        <p className="py-3 text-ink-2">
          Nothing is kept yet. Every change can be undone; a version with a name can be found again, compared and gone
          back to.
        </p>
      )}
      <ul>
        {list.data?.map((v) => (
          <li key={v.id} className="border-t border-hair py-2">
            <div className="flex items-baseline gap-3">
              <b className="grow truncate font-semibold">{v.name}</b>
              <span className="text-[12px] text-ink-2">
                {v.author && `${v.author}, `}
                {new Date(v.madeAt).toLocaleString('en', { dateStyle: 'medium', timeStyle: 'short' })}
              </span>
              <Button aria-expanded={compared === v.id} onClick={() => setCompared(compared === v.id ? null : v.id)}>
                What has changed
              </Button>
              <Button
                onClick={() => {
                  void goBack(v.id)
                  onClose()
                }}
              >
                Go back to it
              </Button>
            </div>
            {compared === v.id && <Differences id={v.id} />}
          </li>
        ))}
      </ul>
    </>
  )
}

function Differences({ id }: { id: string }) {
  const found = useQuery({
    queryKey: ['differences', id],
    gcTime: 0,
    queryFn: () => answer(api.GET('/api/versions/{id}/differences', { params: { path: { id } } })),
  })
  if (found.isPending) return <p className="py-1 text-ink-2">Comparing…</p>
  if (found.error)
    return (
      <p role="alert" className="py-1 text-signal-ink">
        {words(found.error)}
      </p>
    )
  const lines = found.data.lines
  return lines.length === 0 ? (
    <p className="py-1 text-ink-2">Nothing: it is as it was.</p>
  ) : (
    <ul aria-label="What has changed" className="mt-1 list-disc pl-5 text-[13px] text-ink-2">
      {lines.map((l) => (
        <li key={l}>{l}</li>
      ))}
    </ul>
  )
}
