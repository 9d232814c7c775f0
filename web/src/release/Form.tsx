import { Choice } from '../ui/controls'
import { Row, Words, type Part } from './fields'
import { Joined } from './Joined'
import { InVariants } from './InVariants'
import { Page } from './Page'
import { Lines, Manual, Parts, Sheet } from './Paper'
import { kinds, paperKinds, useOrder, type Kind } from './settings'
import { Film } from './Film'
import { Time } from './Extent'
import { Fonts } from './Look'
import { Stills, Frames } from './Pictures'

// Form is where an output is chosen: what it is, of which time, in which shape.
export function Form() {
  const s = useOrder((o) => o.settings)
  const { change, put } = useOrder.getState()
  const kind = (s.kind ?? 'film') as Kind
  const choose = (next: Kind) =>
    put({ kind: next, captions: s.captions ?? true, purpose: s.purpose ?? 'web', width: s.width, height: s.height })
  return (
    <div className="space-y-3.5">
      <div className="space-y-1.5">
        <Choice label="What to make" value={kind} onChange={choose} options={kinds} className="w-full" />
        <Choice
          label="What to make on paper and pages"
          value={kind}
          onChange={choose}
          options={paperKinds}
          className="w-full"
        />
      </div>
      <Row label="Name">
        <Words
          label="Name of the output"
          value={s.name ?? ''}
          placeholder="The reveal’s own"
          onChange={(name) => change({ name })}
        />
      </Row>
      <InVariants />
      {kind === 'film' && <Film s={s} change={change} />}
      {kind === 'stills' && <Stills s={s} change={change} />}
      {kind === 'frames' && <Frames s={s} change={change} />}
      {kind === 'glb' && (
        <p className="text-ink-2">
          One file that a client opens and turns by hand: parts, fades and the camera move as in the reveal (glTF 2.0).
          Surfaces, notes, cards and flow lines stay out.
        </p>
      )}
      {kind === 'captions' && <Captions s={s} change={change} />}
      {kind === 'lines' && <Lines s={s} change={change} />}
      {kind === 'sheet' && <Sheet s={s} change={change} />}
      {kind === 'manual' && <Manual s={s} change={change} />}
      {kind === 'parts' && <Parts s={s} change={change} />}
      {kind === 'page' && <Page s={s} change={change} />}
      {(kind === 'lines' || kind === 'sheet' || kind === 'manual') && <Fonts s={s} change={change} />}
    </div>
  )
}

function Captions({ s, change }: Part) {
  return (
    <>
      <Row label="Format">
        <Choice
          label="Format"
          value={s.format ?? 'vtt'}
          onChange={(format) => change({ format })}
          options={[
            { value: 'vtt', text: 'WebVTT' },
            { value: 'srt', text: 'SubRip' },
          ]}
          className="w-full"
        />
      </Row>
      <Time s={s} change={change} />
      <Joined s={s} change={change} />
      <p className="text-ink-2">The titles and instructions of the steps, each as long as its step stands.</p>
    </>
  )
}
