import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Paperclip, Trash2, X } from 'lucide-react'
import { useRef, useState, type ReactNode } from 'react'
import { answer, api, uploaded, words, type Schemas } from '../api/client'
import { useSession } from '../session/session'
import { Button, IconButton, Select } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { Row } from './fields'
import type { Settings } from './settings'
import { seconds } from '../core/written'

const corners = [
  ['lower-right', 'Lower right'],
  ['lower-left', 'Lower left'],
  ['upper-right', 'Upper right'],
  ['upper-left', 'Upper left'],
] as const

type Kind = 'sound' | 'logo' | 'picture' | 'font'

// kinds are what can be attached: what it is called, and which files are offered.
const kinds: Record<Kind, { row: string; name: string; files: string; without: string }> = {
  sound: { row: 'Music or voice', name: 'Sound', files: '.wav,.mp3,.m4a,.flac,.ogg', without: 'Without sound' },
  logo: { row: 'Logo', name: 'Logo', files: '.png,.jpg,.jpeg', without: 'Without a logo' },
  picture: {
    row: 'Picture behind everything',
    name: 'Picture',
    files: '.png,.jpg,.jpeg',
    without: 'Without a picture',
  },
  font: { row: 'Font for other scripts', name: 'Font', files: '.ttf,.otf,.ttc,.woff', without: 'Without a font' },
}

// Attached is a file of the user's that an output uses: taken once, used again and again.
export function Attached({
  kind,
  row = kinds[kind].row,
  id,
  onChange,
  children,
}: {
  kind: Kind
  row?: string
  id?: string
  onChange(a: Schemas['Attachment'] | undefined): void
  children?: (a: Schemas['Attachment']) => ReactNode
}) {
  const project = useSession((x) => x.project)!
  const client = useQueryClient()
  const picker = useRef<HTMLInputElement>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [busy, setBusy] = useState(false)
  const list = useQuery({
    queryKey: ['attachments', project.id],
    queryFn: () => answer(api.GET('/api/projects/{id}/attachments', { params: { path: { id: project.id } } })),
  })
  const all = (list.data ?? []).filter((a) => a.kind === kind)
  const chosen = all.find((a) => a.id === id)
  const { name, files, without } = kinds[kind]
  const take = async (file: File) => {
    setBusy(true)
    setProblem(null)
    try {
      const a = await uploaded<Schemas['Attachment']>(`/api/projects/${project.id}/attachments`, () => {
        const form = new FormData()
        form.set('kind', kind)
        form.set('file', file)
        return form
      })
      await client.invalidateQueries({ queryKey: ['attachments', project.id] })
      onChange(a)
    } catch (e) {
      setProblem(words(e))
    }
    setBusy(false)
  }
  const remove = async (a: Schemas['Attachment']) => {
    setProblem(null)
    try {
      await answer(api.DELETE('/api/attachments/{id}', { params: { path: { id: a.id } } }))
      onChange(undefined)
      await client.invalidateQueries({ queryKey: ['attachments', project.id] })
    } catch (e) {
      setProblem(words(e))
    }
  }
  return (
    <Row label={row} hint={chosen && chosen.length > 0 ? seconds(chosen.length, 1) : undefined}>
      <div className="flex items-center gap-1.5">
        <Select
          label={name}
          value={id ?? 'none'}
          onChange={(v) => onChange(all.find((a) => a.id === v))}
          className="min-w-0 grow"
          options={[{ value: 'none', text: 'None' }, ...all.map((a) => ({ value: a.id, text: a.name }))]}
        />
        <Button disabled={busy} onClick={() => picker.current?.click()}>
          <Paperclip size={13} /> {busy ? 'Reading…' : 'File'}
        </Button>
        {id && (
          <IconButton label={without} onClick={() => onChange(undefined)}>
            <X size={13} />
          </IconButton>
        )}
        {chosen && (
          <IconButton label={`Delete ${chosen.name} from the project`} onClick={() => void remove(chosen)}>
            <Trash2 size={13} />
          </IconButton>
        )}
        <input
          ref={picker}
          type="file"
          hidden
          aria-label={`${name} file`}
          accept={files}
          onChange={(e) => {
            const f = e.target.files?.[0]
            e.target.value = ''
            if (f) void take(f)
          }}
        />
      </div>
      {problem && (
        <p role="alert" className="mt-1 text-signal-ink">
          {problem}
        </p>
      )}
      {chosen && children?.(chosen)}
    </Row>
  )
}

interface Part {
  s: Settings
  change(by: Partial<Settings>): void
}

// Sound is what is heard beside a film, and from when to when.
export function Sound({ s, change }: Part) {
  const sound = s.sound
  const set = (by: Partial<NonNullable<Settings['sound']>>) => change({ sound: { ...sound!, ...by } })
  return (
    <Attached
      kind="sound"
      id={sound?.attachment}
      onChange={(a) => change({ sound: a ? { attachment: a.id, start: 0, gain: 0, fadeOut: 1e6 } : undefined })}
    >
      {(chosen) =>
        sound && (
          <div className="mt-1.5 grid grid-cols-3 items-end gap-x-2 gap-y-1.5 text-[12px] text-ink-2">
            <label>
              Begins
              <NumberField
                label="Sound begins"
                quantity="time"
                value={sound.start / 1e6}
                onChange={(v) => set({ start: Math.round(v * 1e6) })}
              />
            </label>
            <label>
              Gain, dB
              <NumberField label="Gain" quantity="plain" value={sound.gain} onChange={(gain) => set({ gain })} />
            </label>
            <label>
              Fades over
              <NumberField
                label="Fade out"
                quantity="time"
                value={sound.fadeOut / 1e6}
                onChange={(v) => set({ fadeOut: Math.round(v * 1e6) })}
              />
            </label>
            <Button
              className="col-span-3"
              onClick={() =>
                change({
                  from: 0,
                  to: Math.min(chosen.length, useSession.getState().schedule!.duration),
                  steps: undefined,
                })
              }
            >
              As long as the sound
            </Button>
          </div>
        )
      }
    </Attached>
  )
}

// Logo is a picture in a corner.
export function Logo({ s, change }: Part) {
  const logo = s.logo
  return (
    <Attached
      kind="logo"
      id={logo?.attachment}
      onChange={(a) => change({ logo: a ? { attachment: a.id, corner: 'lower-right' } : undefined })}
    >
      {() =>
        logo && (
          <Select
            label="Corner"
            value={logo.corner}
            onChange={(corner) => change({ logo: { ...logo, corner } })}
            className="mt-1.5 w-36"
            options={corners.map(([value, text]) => ({ value, text }))}
          />
        )
      }
    </Attached>
  )
}
