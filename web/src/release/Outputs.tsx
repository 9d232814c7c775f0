import { lasting, megabytes } from '../core/written'
import { useQueryClient } from '@tanstack/react-query'
import { Download, ListChecks, Pause, Pin, PinOff, Play, RotateCw, Trash2, X } from 'lucide-react'
import { useState } from 'react'
import { answer, api, words, type Output } from '../api/client'
import { useSession } from '../session/session'
import { Button, IconButton } from '../ui/controls'
import { atFullSize, kindName, order, type Settings, rateName } from './settings'

const states: Record<string, string> = {
  waiting: 'Waiting for a worker',
  running: 'Being made',
  paused: 'Paused',
  done: 'Finished',
  failed: 'Failed',
  cancelled: 'Stopped',
}

// reasons say why an output is out of date.
const reasons: Record<string, (o: Output) => string> = {
  reveal: (o) => `the reveal is at version ${o.current}`,
  joined: () => 'a reveal that is joined in it has changed',
  model: () => 'the model has changed',
}

// intoView scrolls what has just been opened to where it is seen whole.
const intoView = (e: HTMLElement | null) => void e?.closest('li')?.scrollIntoView({ block: 'nearest' })

// Line is one output: on its way, or to be looked at and taken along.
export function Line({ output: o }: { output: Output }) {
  const client = useQueryClient()
  const [open, setOpen] = useState(false)
  const settings = o.settings as Settings
  const act = async (what: () => Promise<unknown>) => {
    try {
      await what()
    } catch (e) {
      useSession.getState().tell(words(e))
    }
    await client.invalidateQueries({ queryKey: ['outputs'] })
  }
  const path = { params: { path: { id: o.id } } }
  const busy = o.state === 'waiting' || o.state === 'running'
  const seen = o.media.startsWith('video/') || o.media.startsWith('image/')
  const behind = o.state === 'done' ? reasons[o.behind]?.(o) : undefined
  const again = (s: Settings) =>
    act(async () => {
      const wrong = await order([s])
      if (wrong) throw new Error(wrong)
    })
  return (
    <li data-output={o.state} className="border-b border-line py-3">
      <div className="flex items-center gap-3.5">
        <Thumb output={o} />
        <div className="min-w-0 grow">
          <div className="flex items-baseline gap-3">
            <b className="max-w-[75%] shrink-0 truncate text-[14px] font-semibold">{o.title}</b>
            <span className="mono truncate text-[11.5px] text-ink-2" title={about(settings)}>
              {about(settings)}
            </span>
          </div>
          <div className="text-[12.5px] text-ink-2">
            {states[o.state]}
            {o.state === 'done' &&
              `, ${megabytes(o.bytes)}${o.frames > 1 ? `, ${o.frames.toLocaleString('en')} frames` : ''}${took(o)}`}
            {(o.state === 'running' || o.state === 'paused') &&
              o.frames > 1 &&
              `: frame ${o.framesDone.toLocaleString('en')} of ${o.frames.toLocaleString('en')}${o.state === 'running' ? left(o) : ''}`}
            {' · '}
            {o.revision > 1 && `revision ${o.revision}, `}version {o.version}
            {o.madeBy && `, for ${o.madeBy}`}, {when(o.createdAt)}
            {behind && <span className="text-signal-ink"> · out of date: {behind}</span>}
          </div>
        </div>
        {busy && (
          <IconButton label="Pause" onClick={() => void act(() => answer(api.POST('/api/outputs/{id}/pause', path)))}>
            <Pause size={14} />
          </IconButton>
        )}
        {o.state === 'paused' && (
          <Button onClick={() => void act(() => answer(api.POST('/api/outputs/{id}/retry', path)))}>
            <Play size={13} /> Go on
          </Button>
        )}
        {(busy || o.state === 'paused') && (
          <Button onClick={() => void act(() => answer(api.POST('/api/outputs/{id}/cancel', path)))}>
            <X size={13} /> Stop
          </Button>
        )}
        {(o.state === 'failed' || o.state === 'cancelled') && (
          <Button onClick={() => void act(() => answer(api.POST('/api/outputs/{id}/retry', path)))}>
            <RotateCw size={13} /> Make it again
          </Button>
        )}
        {behind && (
          <Button onClick={() => void again(settings)}>
            <RotateCw size={13} /> Renew
          </Button>
        )}
        {o.state === 'done' && settings.purpose === 'draft' && !behind && (
          <Button onClick={() => void again(atFullSize(settings))}>At full size</Button>
        )}
        {o.state === 'done' && seen && (
          <Button onClick={() => setOpen(!open)}>
            {open ? 'Close' : o.media.startsWith('video/') ? 'Watch' : 'Look'}
          </Button>
        )}
        {o.state === 'done' && o.media.startsWith('text/html') && (
          <Button onClick={() => window.open(`/api/outputs/${o.id}/file`, '_blank', 'noreferrer')}>Open</Button>
        )}
        {o.state === 'done' && (
          <a
            href={`/api/outputs/${o.id}/file?download=1`}
            className="inline-flex h-7 items-center gap-1.5 rounded-md border border-line bg-sheet px-2.5 text-[12.5px] hover:bg-white"
          >
            <Download size={13} /> Download
          </a>
        )}
        {o.state === 'done' && (
          <IconButton
            label="Its proof, as a page to hand on"
            onClick={() => window.open(`/api/outputs/${o.id}/proof/page`, '_blank', 'noreferrer')}
          >
            <ListChecks size={14} />
          </IconButton>
        )}
        {o.state === 'done' && (
          <IconButton
            label={o.kept ? 'Delete after 90 days' : 'Keep it for good'}
            aria-pressed={o.kept}
            onClick={() =>
              void act(() => answer(api.POST('/api/outputs/{id}/kept', { ...path, body: { kept: !o.kept } })))
            }
          >
            {o.kept ? <PinOff size={14} /> : <Pin size={14} />}
          </IconButton>
        )}
        {!busy && (
          <IconButton label="Remove" onClick={() => void act(() => answer(api.DELETE('/api/outputs/{id}', path)))}>
            <Trash2 size={14} />
          </IconButton>
        )}
      </div>
      {(busy || o.state === 'paused') && (
        <div
          role="progressbar"
          aria-label={`Progress of ${o.title}`}
          aria-valuemin={0}
          aria-valuemax={o.frames}
          aria-valuenow={o.framesDone}
          className="mt-2 h-[5px] bg-hair"
        >
          <div
            className={`h-full transition-[width] duration-300 ${o.state === 'paused' ? 'bg-ink-3' : 'bg-advice'}`}
            style={{ width: `${(100 * o.framesDone) / o.frames}%` }}
          />
        </div>
      )}
      {o.state === 'failed' && (
        <p role="alert" className="mt-1 text-signal-ink">
          {o.message}
        </p>
      )}
      {open && o.media.startsWith('video/') && (
        <video
          controls
          autoPlay
          ref={intoView}
          className="mt-3 max-h-[calc(100vh-170px)] w-full border border-ink bg-ink"
          poster={`/api/outputs/${o.id}/picture`}
          src={`/api/outputs/${o.id}/file`}
        >
          <track
            kind="captions"
            label="Words of the steps"
            srcLang="en"
            default={!settings.captions}
            src={`/api/outputs/${o.id}/captions`}
          />
        </video>
      )}
      {open && o.media.startsWith('image/') && (
        <img
          alt={o.title}
          ref={intoView}
          onLoad={(e) => intoView(e.currentTarget)}
          className="mt-3 max-h-[70vh] max-w-full border border-line"
          src={`/api/outputs/${o.id}/file`}
        />
      )}
    </li>
  )
}

// Thumb is a small picture of an output; of one on its way, the frame that was made last.
function Thumb({ output: o }: { output: Output }) {
  const [missing, setMissing] = useState('')
  const moment = o.state === 'done' ? 'done' : String(Math.floor(o.framesDone / 20))
  const pictured =
    o.media.startsWith('video/') ||
    o.media.startsWith('image/') ||
    o.media === 'application/zip' ||
    o.media === 'application/pdf'
  return (
    <div className="grid h-[54px] w-24 shrink-0 place-items-center overflow-hidden border border-line bg-sheet-2 text-[11px] text-ink-3">
      {pictured && (o.state === 'done' || o.framesDone > 0) && missing !== moment ? (
        <img
          alt=""
          src={`/api/outputs/${o.id}/picture?at=${moment}`}
          className="h-[52px] w-full object-contain"
          onError={() => setMissing(moment)}
        />
      ) : o.media === 'model/gltf-binary' ? (
        'GLB'
      ) : o.media.startsWith('text/html') ? (
        'Page'
      ) : o.media.startsWith('text/csv') || o.media === 'application/json' ? (
        'Table'
      ) : o.media.startsWith('text/') || o.media === 'application/x-subrip' ? (
        'Words'
      ) : (
        ''
      )}
    </div>
  )
}

// about says in figures what an output is.
function about(s: Settings): string {
  const kind = (s.kind ?? 'film') as string
  const parts = [
    kind === 'film'
      ? (s.format ?? 'mp4-h264').replace('-', ' ')
      : kind === 'glb'
        ? 'GLB'
        : `${kindName(kind).toLowerCase()} ${s.format ?? ''}`.trim(),
  ]
  if (kind === 'film' || kind === 'frames' || kind === 'stills') parts.push(`${s.width} × ${s.height}`)
  if (kind === 'film' || kind === 'frames') parts.push(rateName(s.rate!, s.ntsc))
  if ((s.layers?.length ?? 0) > 1) parts.push(`${s.layers!.length} layers`)
  if (s.purpose === 'draft') parts.push('draft')
  if (s.reverse) parts.push('backwards')
  if (s.then) parts.push(`${s.then.length + 1} reveals joined`)
  if (s.sixteenBits) parts.push('16 bits')
  if (s.eye) parts.push('own eye')
  return parts.join(' · ')
}

// when writes a time as people say it: the hour of today, else the day.
function when(at: string): string {
  const d = new Date(at)
  return d.toDateString() === new Date().toDateString()
    ? d.toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })
    : d.toLocaleDateString('en-GB', { day: 'numeric', month: 'short' })
}

function took(o: Output): string {
  if (!o.startedAt || !o.finishedAt) return ''
  return `, made in ${lasting((new Date(o.finishedAt).getTime() - new Date(o.startedAt).getTime()) / 1000)}`
}

function left(o: Output): string {
  if (!o.startedAt || o.framesDone < 3) return ''
  const passed = (Date.now() - new Date(o.startedAt).getTime()) / 1000
  return `, about ${lasting(Math.max(0, (passed / o.framesDone) * (o.frames - o.framesDone)))} left`
}
