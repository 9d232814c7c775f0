import { useQuery, useQueryClient } from '@tanstack/react-query'
import { RotateCw, X } from 'lucide-react'
import { answer, api, uploaded, words, type Import } from '../api/client'
import { megabytes } from '../core/written'
import { useSession } from '../session/session'
import { Button, IconButton } from '../ui/controls'

const stages: Record<string, string> = {
  waiting: 'Waiting',
  reading: 'Reading',
  meshing: 'Making triangles',
  checking: 'Checking',
}

// useImports follows what is on its way, closely while something is.
export function useImports() {
  return useQuery({
    queryKey: ['imports'],
    queryFn: () => answer(api.GET('/api/imports')),
    refetchInterval: (q) => (q.state.data?.some(busy) ? 400 : false),
  })
}

const busy = (i: Import) => i.state === 'waiting' || i.state === 'running'

// sendFiles uploads files that are one assembly together: a new project, or the next revision of one.
export async function sendFiles(files: readonly File[], project?: string): Promise<Import> {
  return uploaded('/api/imports', () => {
    const form = new FormData()
    if (project) form.append('project', project)
    for (const f of files) form.append('files', f)
    return form
  })
}

// Imports lists the files on their way to becoming a project.
export function Imports() {
  const imports = useImports()
  const shown = imports.data?.filter((i) => i.state !== 'done') ?? []
  if (shown.length === 0) return null
  return (
    <section aria-label="On their way" className="mt-5">
      <ul className="border-t border-line">
        {shown.map((i) => (
          <Line key={i.id} item={i} />
        ))}
      </ul>
    </section>
  )
}

function Line({ item: i }: { item: Import }) {
  const client = useQueryClient()
  const act = async (what: 'cancel' | 'retry' | 'delete') => {
    const path = { params: { path: { id: i.id } } }
    try {
      if (what === 'delete') await answer(api.DELETE('/api/imports/{id}', path))
      else
        await answer(
          what === 'cancel' ? api.POST('/api/imports/{id}/cancel', path) : api.POST('/api/imports/{id}/retry', path),
        )
    } catch (e) {
      useSession.getState().tell(words(e))
    }
    await client.invalidateQueries({ queryKey: ['imports'] })
  }
  const files = i.files.length === 1 ? i.files[0]!.name : `${i.files[0]!.name} and ${i.files.length - 1} more`
  return (
    <li data-import={i.state} className="border-b border-line py-2.5">
      <div className="flex items-center gap-3">
        <div className="min-w-0 grow">
          <b className="font-semibold">{i.name}</b>{' '}
          <span className="mono ml-1 text-[12px] text-ink-2">
            {files}, {megabytes(i.files.reduce((n, f) => n + f.bytes, 0))}
          </span>
          <div className="text-[12.5px] text-ink-2">
            {i.state === 'running'
              ? `${stages[i.stage] ?? i.stage}, ${Math.round(i.share * 100)} %`
              : i.state === 'waiting'
                ? 'Waiting for a worker'
                : i.state === 'failed'
                  ? 'This did not work'
                  : 'Stopped'}
          </div>
        </div>
        {busy(i) ? (
          <Button onClick={() => void act('cancel')}>
            <X size={13} /> Stop
          </Button>
        ) : (
          <>
            <Button onClick={() => void act('retry')}>
              <RotateCw size={13} /> Try again
            </Button>
            <IconButton label="Dismiss" onClick={() => void act('delete')}>
              <X size={14} />
            </IconButton>
          </>
        )}
      </div>
      {busy(i) && (
        <div
          role="progressbar"
          aria-label={`Progress of ${i.name}`}
          aria-valuemin={0}
          aria-valuemax={100}
          aria-valuenow={Math.round(i.share * 100)}
          className="mt-2 h-[5px] bg-hair"
        >
          <div className="h-full bg-advice transition-[width] duration-300" style={{ width: `${100 * i.share}%` }} />
        </div>
      )}
      {i.message && (
        <p role="alert" className="mt-1 text-signal-ink">
          {i.message}
        </p>
      )}
    </li>
  )
}
