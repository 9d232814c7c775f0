// How the pictures of films, stills and paper look.
import { Choice, Tick } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { Attached } from './Attached'
import { Row, type Part } from './fields'
import { useOrder } from './settings'

// Aperture is depth of field: what is nearer or farther than what the camera looks at is unsharp.
export function Aperture({ s, change }: Part) {
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_72px] items-center gap-2">
      <Tick
        on={(s.aperture ?? 0) > 0}
        onChange={(on) => change({ aperture: on ? 5.6 : undefined, sixteenBits: on ? undefined : s.sixteenBits })}
      >
        Depth of field (takes far longer), f/
      </Tick>
      <NumberField
        label="Aperture"
        quantity="plain"
        disabled={!s.aperture}
        value={s.aperture ?? 5.6}
        onChange={(aperture) => change({ aperture })}
      />
    </div>
  )
}

export function Looks({ s, change, clear }: Part & { clear: boolean }) {
  const value =
    s.background === 'transparent' || s.background === 'picture' ? s.background : s.background ? 'colour' : 'paper'
  const options = [
    { value: 'paper', text: 'Paper' },
    { value: 'colour', text: 'Colour' },
    { value: 'picture', text: 'Picture' },
    ...(clear ? [{ value: 'transparent', text: 'None' }] : []),
  ]
  const choose = (v: string) => change({ background: v === 'paper' ? '' : v === 'colour' ? '#ffffff' : v })
  return (
    <>
      <Tick on={s.captions ?? false} onChange={(captions) => change({ captions })}>
        Titles and instructions in the picture
      </Tick>
      <Tick on={!s.noNotices} onChange={(on) => change({ noNotices: !on || undefined })}>
        Safety notices and tools in the picture
      </Tick>
      <Row label="Background">
        <div className="flex gap-1.5">
          <Choice label="Background" value={value} onChange={choose} options={options} className="grow" />
          {value === 'colour' && (
            <input
              type="color"
              aria-label="Colour of the background"
              value={s.background}
              onChange={(e) => change({ background: e.target.value })}
              className="h-7 w-10 rounded-md border border-line bg-white p-0.5"
            />
          )}
        </div>
      </Row>
      {value === 'picture' && <Attached kind="picture" id={s.picture} onChange={(a) => change({ picture: a?.id })} />}
      <Fonts s={s} change={change} />
    </>
  )
}

// Fonts are those that are attached, and room for one more where words still hold signs that none has.
export function Fonts({ s, change }: Part) {
  const lacking = useOrder((x) => x.lacking)
  const fonts = [s.font, ...(s.fonts ?? [])].filter((f): f is string => !!f)
  const put = (i: number, id: string | undefined) => {
    const [font, ...more] = [...fonts.slice(0, i), id, ...fonts.slice(i + 1)].filter((f): f is string => !!f)
    change({ font, fonts: more.length > 0 ? more : undefined })
  }
  return (
    <>
      {fonts.map((id, i) => (
        <Attached key={id} kind="font" id={id} onChange={(a) => put(i, a?.id)} />
      ))}
      {lacking && <Attached kind="font" onChange={(a) => put(fonts.length, a?.id)} />}
      {(lacking || s.boxes) && (
        <Tick on={s.boxes ?? false} onChange={(boxes) => change({ boxes: boxes || undefined })}>
          Make it with boxes for signs without a font
        </Tick>
      )}
    </>
  )
}

// Fine gives a pixel sixteen samples in place of four.
export function Fine({ s, change }: Part) {
  return (
    <Tick
      on={s.samples === 16}
      onChange={(on) => change({ samples: on ? 16 : undefined, sixteenBits: on ? undefined : s.sixteenBits })}
    >
      Finer lines (takes four times as long)
    </Tick>
  )
}
