// What is asked of stills and of sequences of frames.
import { useEye } from '../session/eye'
import { type Schemas } from '../api/client'
import { useSession } from '../session/session'
import { Choice, Tick } from '../ui/controls'
import { Row, type Part } from './fields'
import { Moments } from './Moments'
import { type Settings } from './settings'
import { StripOf } from './StripOf'
import { Aperture, Looks, Fine } from './Look'
import { Size, Rate, Time } from './Extent'

const pictures = [
  { value: 'png', text: 'PNG' },
  { value: 'jpeg', text: 'JPEG' },
  { value: 'tiff', text: 'TIFF' },
]

const layers = [
  ['shaded', 'Picture'],
  ['words', 'Words'],
  ['edges', 'Edges'],
  ['faces', 'Faces'],
  ['shadow', 'Shadow'],
  ['background', 'Background'],
  ['hidden', 'All edges'],
  ['depth', 'Depth'],
] as const

function Layers({ s, change }: Part) {
  const sets = useSession((x) => x.arrangement?.sets)
  const picked = useSession((x) => x.selection.nodes)
  const chosen = s.layers ?? [{ kind: 'shaded' }]
  const toggle = (layer: Schemas['Layer'], on: boolean) => {
    const rest = chosen.filter((l) => l.kind !== layer.kind || l.name !== layer.name)
    change({ layers: on ? [...rest, layer] : rest.length > 0 ? rest : [{ kind: 'shaded' }] })
  }
  const mattes: Schemas['Layer'][] = [
    ...(sets ?? []).map((x) => ({ kind: 'matte', name: x.name, nodes: x.nodes })),
    ...(picked.length > 0 ? [{ kind: 'matte', name: 'Picked', nodes: [...picked] }] : []),
  ]
  return (
    <Row label="Layers" hint="one lies on the other">
      <div className="grid grid-cols-2 gap-x-3">
        {layers.map(([kind, text]) => (
          <Tick key={kind} on={chosen.some((l) => l.kind === kind)} onChange={(on) => toggle({ kind }, on)}>
            {text}
          </Tick>
        ))}
        {mattes.map((m) => (
          <Tick
            key={m.name}
            on={chosen.some((l) => l.kind === 'matte' && l.name === m.name)}
            onChange={(on) => toggle(m, on)}
          >
            Matte: {m.name}
          </Tick>
        ))}
      </div>
    </Row>
  )
}

function Pictures({ s, change }: Part) {
  return (
    <>
      <Row label="Format">
        <Choice
          label="Format"
          value={s.format ?? 'png'}
          onChange={(format) => change({ format, sixteenBits: format === 'jpeg' ? undefined : s.sixteenBits })}
          options={pictures}
          className="w-full"
        />
      </Row>
      <Size s={s} change={change} />
      {!s.strip && <Layers s={s} change={change} />}
      <Looks s={s} change={change} clear={s.format !== 'jpeg'} />
      {chosenShaded(s) && <Aperture s={s} change={change} />}
      <Fine s={s} change={change} />
      <Tick
        on={s.sixteenBits ?? false}
        disabled={s.format === 'jpeg'}
        onChange={(deep) =>
          change({ sixteenBits: deep, aperture: deep ? undefined : s.aperture, samples: deep ? undefined : s.samples })
        }
      >
        16 bits a colour{s.format === 'jpeg' && ' (PNG and TIFF)'}
      </Tick>
    </>
  )
}

// OwnEye lets stills be seen as the author saw the assembly last in Direct.
function OwnEye({ s, change }: Part) {
  const revealId = useSession((x) => x.revealId)!
  const left = useEye((e) => e.left.get(revealId))
  return (
    <Tick
      on={s.eye !== undefined}
      disabled={!left && !s.eye}
      onChange={(on) => change({ eye: on && left ? left : undefined })}
    >
      Seen by my eye as I left it in Direct{!left && !s.eye && ' (look around there first)'}
    </Tick>
  )
}

const chosenShaded = (s: Settings) => (s.layers ?? [{ kind: 'shaded' }]).some((l) => l.kind === 'shaded')

export function Stills({ s, change }: Part) {
  return (
    <>
      {!s.strip && <Moments s={s} change={change} />}
      <StripOf s={s} change={change} />
      <OwnEye s={s} change={change} />
      <Pictures s={s} change={change} />
    </>
  )
}

export function Frames({ s, change }: Part) {
  return (
    <>
      <Rate s={s} change={change} />
      <Time s={s} change={change} />
      <Pictures s={s} change={change} />
    </>
  )
}
