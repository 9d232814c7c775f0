import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Paperclip, X } from 'lucide-react'
import { useRef, useState } from 'react'
import { answer, api, words, type Schemas } from '../api/client'
import { useSession } from '../session/session'
import { Button, IconButton, Select } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { Row } from './fields'
import type { Settings } from './settings'

const corners = [['lower-right', 'Lower right'], ['lower-left', 'Lower left'], ['upper-right', 'Upper right'], ['upper-left', 'Upper left']] as const

// Attached is a sound or a logo of the film: taken from a file once, used again and again.
export function Attached({ kind, s, change }: { kind: 'sound' | 'logo'; s: Settings; change(by: Partial<Settings>): void }) {
  const project = useSession((x) => x.project)!
  const client = useQueryClient()
  const picker = useRef<HTMLInputElement>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [busy, setBusy] = useState(false)
  const list = useQuery({ queryKey: ['attachments', project.id], queryFn: () => answer(api.GET('/api/projects/{id}/attachments', { params: { path: { id: project.id } } })) })
  const all = (list.data ?? []).filter((a) => a.kind === kind)
  const id = kind === 'sound' ? s.sound?.attachment : s.logo?.attachment
  const chosen = all.find((a) => a.id === id)
  const wear = (a: Schemas['Attachment'] | null) =>
    change(kind === 'sound' ? { sound: a ? { attachment: a.id, start: 0, gain: 0, fadeOut: 1e6 } : undefined } : { logo: a ? { attachment: a.id, corner: 'lower-right' } : undefined })
  const take = async (file: File) => {
    setBusy(true)
    setProblem(null)
    const form = new FormData()
    form.set('kind', kind)
    form.set('file', file)
    try {
      const reply = await fetch(`/api/projects/${project.id}/attachments`, { method: 'POST', body: form })
      const said: unknown = await reply.json()
      if (!reply.ok) setProblem((said as Schemas['Problem']).message)
      else {
        await client.invalidateQueries({ queryKey: ['attachments', project.id] })
        wear(said as Schemas['Attachment'])
      }
    } catch (e) {
      setProblem(words(e))
    }
    setBusy(false)
  }
  return (
    <Row label={kind === 'sound' ? 'Music or voice' : 'Logo'} hint={kind === 'sound' && chosen ? `${(chosen.length / 1e6).toFixed(1)} s` : undefined}>
      <div className="flex items-center gap-1.5">
        <Select label={kind === 'sound' ? 'Sound' : 'Logo'} value={id ?? 'none'} onChange={(v) => wear(all.find((a) => a.id === v) ?? null)} className="min-w-0 grow"
          options={[{ value: 'none', text: 'None' }, ...all.map((a) => ({ value: a.id, text: a.name }))]} />
        <Button disabled={busy} onClick={() => picker.current?.click()}><Paperclip size={13} /> {busy ? 'Reading…' : 'File'}</Button>
        {id && <IconButton label={kind === 'sound' ? 'Without sound' : 'Without a logo'} onClick={() => wear(null)}><X size={13} /></IconButton>}
        <input ref={picker} type="file" hidden aria-label={kind === 'sound' ? 'Sound file' : 'Logo file'} accept={kind === 'sound' ? '.wav,.mp3,.m4a,.flac,.ogg' : '.png,.jpg,.jpeg'}
          onChange={(e) => { const f = e.target.files?.[0]; e.target.value = ''; if (f) void take(f) }} />
      </div>
      {problem && <p role="alert" className="mt-1 text-signal-ink">{problem}</p>}
      {s.sound && kind === 'sound' && (
        <div className="mt-1.5 grid grid-cols-3 items-end gap-x-2 gap-y-1.5 text-[12px] text-ink-2">
          <label>Begins<NumberField label="Sound begins" quantity="time" value={s.sound.start / 1e6} onChange={(v) => change({ sound: { ...s.sound!, start: Math.round(v * 1e6) } })} /></label>
          <label>Gain, dB<NumberField label="Gain" quantity="plain" value={s.sound.gain} onChange={(gain) => change({ sound: { ...s.sound!, gain } })} /></label>
          <label>Fades over<NumberField label="Fade out" quantity="time" value={s.sound.fadeOut / 1e6} onChange={(v) => change({ sound: { ...s.sound!, fadeOut: Math.round(v * 1e6) } })} /></label>
          {chosen && <Button className="col-span-3" onClick={() => change({ from: 0, to: Math.min(chosen.length, useSession.getState().schedule!.duration), steps: undefined })}>As long as the sound</Button>}
        </div>
      )}
      {s.logo && kind === 'logo' && (
        <Select label="Corner" value={s.logo.corner} onChange={(corner) => change({ logo: { ...s.logo!, corner } })} className="mt-1.5 w-36" options={corners.map(([value, text]) => ({ value, text }))} />
      )}
    </Row>
  )
}
