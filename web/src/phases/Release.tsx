import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Download, RotateCw, Trash2, X } from 'lucide-react'
import { useState } from 'react'
import { answer, api, words, type Output } from '../api/client'
import { useSession } from '../session/session'
import { Button, Choice, IconButton, Select } from '../ui/controls'

const sizes = [[1280, 720, '720p'], [1920, 1080, '1080p'], [3840, 2160, '4K'], [1080, 1080, 'square'], [1080, 1920, 'upright']] as const
const rates = [24, 25, 30, 50, 60] as const

// Release: choose a film, watch it being made, watch it.
export function Release() {
  const project = useSession((s) => s.project)!
  const outputs = useQuery({ queryKey: ['outputs', project.id], queryFn: () => answer(api.GET('/api/projects/{id}/outputs', { params: { path: { id: project.id } } })) })
  return (
    <div className="grid h-full min-h-0 grid-cols-[340px_minmax(0,1fr)]">
      <Order />
      <section aria-label="Outputs" className="scroll min-h-0 px-8 py-6">
        <h2 className="serif mb-3 text-[20px] font-semibold">Outputs</h2>
        {outputs.isError && <p role="alert" className="text-signal-ink">{words(outputs.error)}</p>}
        {outputs.data?.length === 0 && (
          <p className="serif max-w-[46ch] text-[15px] leading-relaxed text-ink-2">No film has been made of this product yet. A draft is ready soonest: it shows whether the timing is right.</p>
        )}
        {outputs.data && outputs.data.length > 0 && <ul className="max-w-[860px] border-t border-line">{outputs.data?.map((o) => <Line key={o.id} output={o} />)}</ul>}
      </section>
    </div>
  )
}

function Order() {
  const core = useSession((s) => s.core)
  const doc = useSession((s) => s.doc)
  const schedule = useSession((s) => s.schedule)
  const saving = useSession((s) => s.saving)
  const client = useQueryClient()
  const own = doc ? `${doc.frame.width}x${doc.frame.height}` : '1920x1080'
  const [size, setSize] = useState<string | null>(null)
  const [rate, setRate] = useState<number | null>(null)
  const [captions, setCaptions] = useState(true)
  const [draft, setDraft] = useState(false)
  const [busy, setBusy] = useState(false)
  const [problem, setProblem] = useState<string | null>(null)
  if (!core || !doc || !schedule) return <aside className="border-r border-line bg-sheet" />
  const [w, h] = (size ?? own).split('x').map(Number) as [number, number]
  const fps = rate ?? doc.frame.rate
  const frames = core.ask<number>({ ask: 'frames', time: schedule.duration, rate: fps })
  const options = sizes.map(([a, b, name]) => ({ value: `${a}x${b}`, text: `${a} × ${b} · ${name}` }))
  if (!options.some((o) => o.value === own)) options.unshift({ value: own, text: own.replace('x', ' × ') })

  const make = async () => {
    const { revealId, project } = useSession.getState()
    setBusy(true)
    setProblem(null)
    try {
      await answer(api.POST('/api/reveals/{id}/outputs', { params: { path: { id: revealId! } }, body: { width: w, height: h, rate: fps, captions, draft } }))
      await client.invalidateQueries({ queryKey: ['outputs', project!.id] })
    } catch (e) {
      setProblem(words(e))
    }
    setBusy(false)
  }
  return (
    <aside aria-label="Make a film" className="scroll min-h-0 border-r border-line bg-sheet px-6 py-6">
      <h2 className="serif text-[20px] leading-tight font-semibold">{doc.title}</h2>
      <p className="mt-0.5 mb-5 text-ink-2"><span className="mono">{(schedule.duration / 1e6).toFixed(2)} s</span>, {doc.steps.length} steps</p>
      <div className="space-y-3.5">
        <Row label="Film"><span>MP4, H.264, BT.709</span></Row>
        <Row label="Size"><Select label="Size" value={size ?? own} onChange={setSize} options={options} className="w-full" /></Row>
        <Row label="Frames a second"><Choice label="Frames a second" value={String(fps)} onChange={(v) => setRate(Number(v))} options={rates.map((r) => ({ value: String(r), text: String(r) }))} className="w-full" /></Row>
        <Row label="Words"><Choice label="Words" value={captions ? 'yes' : 'no'} onChange={(v) => setCaptions(v === 'yes')} options={[{ value: 'yes', text: 'Titles and text' }, { value: 'no', text: 'None' }]} className="w-full" /></Row>
        <Row label="Purpose"><Choice label="Purpose" value={draft ? 'draft' : 'full'} onChange={(v) => setDraft(v === 'draft')} options={[{ value: 'draft', text: 'Draft' }, { value: 'full', text: 'Delivery' }]} className="w-full" /></Row>
      </div>
      <div className="mt-6 border-t border-line pt-4">
        <p className="mb-3 text-ink-2"><span className="mono text-ink">{frames.toLocaleString('en')}</span> frames{draft && w > 1280 ? '; a draft is quicker at 1280 × 720' : ''}</p>
        <Button kind="strong" className="h-9 w-full text-[13.5px]" disabled={busy || schedule.duration === 0 || saving !== 'saved'} onClick={() => void make()}>{busy ? 'Queueing…' : 'Make the film'}</Button>
        {schedule.duration === 0 && <p className="mt-2 text-ink-2">This reveal has no step yet: write one in Direct.</p>}
        {problem && <p role="alert" className="mt-2 text-signal-ink">{problem}</p>}
      </div>
    </aside>
  )
}

function Row({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <div>
      <div className="mb-1 text-[12px] text-ink-2">{label}</div>
      {children}
    </div>
  )
}

const states: Record<string, string> = { waiting: 'Waiting for a worker', running: 'Being made', done: 'Finished', failed: 'Failed', cancelled: 'Stopped' }

function Line({ output: o }: { output: Output }) {
  const client = useQueryClient()
  const [open, setOpen] = useState(false)
  const settings = o.settings as { width: number; height: number; rate: number; draft: boolean }
  const act = async (what: 'cancel' | 'retry' | 'delete') => {
    const path = { params: { path: { id: o.id } } }
    try {
      if (what === 'delete') await answer(api.DELETE('/api/outputs/{id}', path))
      else await answer(what === 'cancel' ? api.POST('/api/outputs/{id}/cancel', path) : api.POST('/api/outputs/{id}/retry', path))
    } catch (e) {
      useSession.getState().tell(words(e))
    }
    await client.invalidateQueries({ queryKey: ['outputs'] })
  }
  const busy = o.state === 'waiting' || o.state === 'running'
  return (
    <li data-output={o.state} className="border-b border-line py-3">
      <div className="flex items-center gap-4">
        <div className="min-w-0 grow">
          <div className="flex items-baseline gap-3">
            <b className="truncate text-[14px] font-semibold">{o.title}</b>
            <span className="mono text-[11.5px] text-ink-2">{settings.width} × {settings.height} · {settings.rate}{settings.draft && ' · draft'}</span>
          </div>
          <div className="text-[12.5px] text-ink-2">
            {states[o.state]}{o.state === 'done' && `, ${(o.bytes / 1e6).toFixed(1)} MB, ${o.frames.toLocaleString('en')} frames`}
            {o.state === 'running' && `: frame ${o.framesDone.toLocaleString('en')} of ${o.frames.toLocaleString('en')}${left(o)}`} · version {o.version}
          </div>
        </div>
        {busy && <Button onClick={() => void act('cancel')}><X size={13} /> Stop</Button>}
        {(o.state === 'failed' || o.state === 'cancelled') && <Button onClick={() => void act('retry')}><RotateCw size={13} /> Make it again</Button>}
        {o.state === 'done' && (
          <>
            <Button onClick={() => setOpen(!open)}>{open ? 'Close' : 'Watch'}</Button>
            <a href={`/api/outputs/${o.id}/file?download=1`} className="inline-flex h-7 items-center gap-1.5 rounded-md border border-line bg-sheet px-2.5 text-[12.5px] hover:bg-white"><Download size={13} /> Download</a>
          </>
        )}
        {!busy && <IconButton label="Remove" onClick={() => void act('delete')}><Trash2 size={14} /></IconButton>}
      </div>
      {busy && (
        <div role="progressbar" aria-label={`Progress of ${o.title}`} aria-valuemin={0} aria-valuemax={o.frames} aria-valuenow={o.framesDone} className="mt-2 h-[5px] bg-hair">
          <div className="h-full bg-advice transition-[width] duration-300" style={{ width: `${(100 * o.framesDone) / o.frames}%` }} />
        </div>
      )}
      {o.state === 'failed' && <p role="alert" className="mt-1 text-signal-ink">{o.message}</p>}
      {open && <video controls autoPlay className="mt-3 w-full border border-ink bg-ink" src={`/api/outputs/${o.id}/file`} />}
    </li>
  )
}

function left(o: Output): string {
  if (!o.startedAt || o.framesDone < 3) return ''
  const passed = (Date.now() - new Date(o.startedAt).getTime()) / 1000
  const s = Math.max(0, Math.round((passed / o.framesDone) * (o.frames - o.framesDone)))
  return s >= 90 ? `, about ${Math.round(s / 60)} minutes left` : `, about ${s} s left`
}
