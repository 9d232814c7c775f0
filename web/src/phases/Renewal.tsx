import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, words } from '../api/client'
import { useSession } from '../session/session'
import { Button } from '../ui/controls'

const link = 'underline decoration-line underline-offset-2 hover:decoration-ink'

// Renewal makes everything again that is out of date, in one go, and says what came of it: what looks otherwise, and
// what the proofs found. `due` is how many outputs are out of date.
export function Renewal({ due, label, className }: { due: number; label: string; className?: string }) {
  const project = useSession((s) => s.project)!
  const client = useQueryClient()
  const [wrong, setWrong] = useState('')
  const path = { params: { path: { id: project.id } } }
  const { data: r } = useQuery({
    queryKey: ['renewal', project.id],
    queryFn: () => answer(api.GET('/api/projects/{id}/renewals/newest', path)),
  })
  const running = r?.state === 'running'
  const [stopping, setStopping] = useState(false)
  const ask = async (what: Promise<unknown>) => {
    setWrong('')
    try {
      await what
    } catch (e) {
      setWrong(words(e))
    }
    await client.invalidateQueries({ queryKey: ['renewal', project.id] })
  }
  const renew = () => ask(answer(api.POST('/api/projects/{id}/renewals', path)))
  const stop = async () => {
    setStopping(true)
    await ask(answer(api.POST('/api/renewals/{id}/stop', { params: { path: { id: r!.id } } })))
    setStopping(false)
  }
  return (
    <div
      className={`flex flex-wrap items-center gap-x-3 gap-y-1 text-[12.5px] text-ink-2 empty:hidden ${className ?? ''}`}
    >
      <span role="status" className="min-w-0">
        {running && (r.says || 'It begins …')}
        {r?.state === 'cancelled' && r.says}
        {r?.state === 'done' && (
          <>
            Renewed {new Date(r.finishedAt!).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}:{' '}
            {came(r)}{' '}
            <a className={link} href={`/api/renewals/${r.id}/report`} target="_blank" rel="noreferrer">
              The report
            </a>
          </>
        )}
      </span>
      {(wrong || r?.state === 'failed') && (
        <span role="alert" className="text-signal-ink">
          {wrong || r?.says}
        </span>
      )}
      {(due > 0 || running) && (
        <Button disabled={running} onClick={() => void renew()}>
          {running ? 'Being renewed' : label}
        </Button>
      )}
      {running && (
        <Button kind="quiet" disabled={stopping} onClick={() => void stop()}>
          {stopping ? 'Stopping' : 'Stop'}
        </Button>
      )}
    </div>
  )
}

interface Came {
  made: number
  failed: number
  changed: number
  faults: number
}

// came says in a sentence what a renewal has come to.
export function came({ made, failed, changed, faults }: Came) {
  const said = [
    made === 0
      ? 'nothing was out of date'
      : `${made} made again, ${changed === 0 ? 'none' : changed} ${changed === 1 ? 'looks' : 'look'} otherwise`,
  ]
  if (failed > 0) said.push(`${failed} could not be made`)
  said.push(faults === 0 ? 'no fault is open' : faults === 1 ? 'one fault is open' : `${faults} faults are open`)
  return said.join(', ') + '.'
}
