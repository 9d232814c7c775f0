import { onStage, setEye } from '../session/eye'
import { Plus, Trash2 } from 'lucide-react'
import type { Camera, Cue, Schemas } from '../api/client'
import { namesOf, useSession } from '../session/session'
import { nameOf, show, useShape, type Shape } from '../session/shape'
import { Button, Choice, IconButton, Select } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { Field, Line, Num, Triple, type SettingsProps } from './fields'

type Shot = Schemas['Shot']

// CameraFields is what shots and orbits are set by.
export function CameraFields({ cues, set }: SettingsProps) {
  const cue = cues[0]!
  const one = cues.length === 1
  if (cue.kind === 'orbit') {
    return (
      <>
        <Num
          label="Angle"
          quantity="angle"
          cues={cues}
          of={(c) => c.orbit!.degrees}
          put={(c, degrees) => ({ ...c, orbit: { ...c.orbit!, degrees } })}
        />
        {one && (
          <Field label="About">
            <Triple
              label="About"
              value={cue.orbit!.about}
              plain
              onChange={(about) => set((c) => ({ ...c, orbit: { ...c.orbit!, about } }))}
            />
          </Field>
        )}
      </>
    )
  }
  const shot = cue.shot!
  const to = (change: Partial<Shot>) => set((c) => ({ ...c, shot: { ...c.shot!, ...change } }))
  return (
    <>
      {one && (
        <Field label="Name">
          <Line
            key={cue.id}
            label="Name"
            value={shot.name ?? ''}
            onChange={(name) => to({ name: name || undefined })}
          />
        </Field>
      )}
      <Num
        label="Lens"
        quantity="length"
        cues={cues}
        of={(c) => c.shot!.camera.focalLength}
        put={(c, lens) => ({ ...c, shot: { ...c.shot!, camera: { ...c.shot!.camera, focalLength: lens } } })}
      />
      <Field label="Sees">
        <Choice
          label="Sees"
          value={shot.camera.orthographic ? 'orthographic' : 'lens'}
          className="w-full"
          options={[
            { value: 'lens', text: 'By lens' },
            { value: 'orthographic', text: 'Parallel' },
          ]}
          onChange={(v) =>
            set((c) => ({
              ...c,
              shot: { ...c.shot!, camera: { ...c.shot!.camera, orthographic: v === 'orthographic' || undefined } },
            }))
          }
        />
      </Field>
      {one && <Way shot={shot} to={to} />}
      {one && <Keep cue={cue} set={set} />}
      {one && <Framings shot={shot} to={to} />}
    </>
  )
}

// Way is how the camera comes to the shot: on an arc, straight, or past other
// views.
function Way({ shot, to }: { shot: Shot; to(change: Partial<Shot>): boolean }) {
  const via = shot.via ?? []
  const present = (): Camera | null => onStage()?.eyes.present() ?? null
  return (
    <>
      <Field label="Comes">
        <Select
          label="Comes"
          value={via.length > 0 ? (shot.constantSpeed ? 'even' : 'via') : shot.straight ? 'straight' : 'arc'}
          options={
            via.length > 0
              ? [
                  { value: 'via', text: `past ${via.length} views` },
                  { value: 'even', text: `past ${via.length}, even speed` },
                ]
              : [
                  { value: 'arc', text: 'on the arc about it' },
                  { value: 'straight', text: 'straight' },
                ]
          }
          onChange={(v) =>
            to(
              via.length > 0
                ? { constantSpeed: v === 'even' || undefined }
                : { straight: v === 'straight' || undefined },
            )
          }
        />
      </Field>
      <Field label="">
        <div className="flex flex-wrap gap-1">
          {via.map((camera, i) => (
            <span key={i} className="inline-flex items-center rounded-[3px] border border-line text-[11.5px]">
              <button
                type="button"
                onClick={() => {
                  onStage()?.eyes.lookFrom(camera)
                  setEye('mine')
                }}
                className="px-1.5 py-px hover:bg-white"
                aria-label={`Look from view ${i + 1}`}
              >
                view {i + 1}
              </button>
              <IconButton
                label={`Remove view ${i + 1}`}
                onClick={() =>
                  to({
                    via: via.length > 1 ? via.filter((_, k) => k !== i) : undefined,
                    constantSpeed: via.length > 1 ? shot.constantSpeed : undefined,
                  })
                }
                className="!h-6 !w-6"
              >
                <Trash2 size={11} />
              </IconButton>
            </span>
          ))}
          <Button
            kind="quiet"
            onClick={() => {
              const c = present()
              if (c) to({ via: [...via, c], straight: undefined })
            }}
          >
            <Plus size={12} /> past my eye
          </Button>
        </div>
      </Field>
    </>
  )
}

// Framings are other cameras of a shot, for frames of other shapes.
function Framings({ shot, to }: { shot: Shot; to(change: Partial<Shot>): boolean }) {
  const shape = useShape((s) => s.shape)
  const list = shot.shapes ?? []
  const same = (a: Shape, b: Shape) => a.across === b.across && a.down === b.down
  const frame = (of: Shape) => {
    const camera = onStage()?.eyes.present()
    if (camera) to({ shapes: [...list.filter((f) => !same(f, of)), { ...of, camera }] })
  }
  const look = (f: Shape & { camera: Camera }) => {
    show({ across: f.across, down: f.down })
    onStage()?.eyes.lookFrom(f.camera)
    setEye('mine')
  }
  if (!shape && list.length === 0) return null
  return (
    <>
      {list.map((f) => (
        <Field key={nameOf(f)} label={nameOf(f)}>
          <div className="flex items-center justify-end gap-1">
            <Button kind="quiet" onClick={() => look(f)}>
              Look from there
            </Button>
            <IconButton
              label={`Frame ${nameOf(f)} like the reveal’s own shape again`}
              onClick={() => to({ shapes: list.length > 1 ? list.filter((x) => x !== f) : undefined })}
            >
              <Trash2 size={13} />
            </IconButton>
          </div>
        </Field>
      ))}
      {shape && (
        <Button className="mt-1 w-full" onClick={() => frame(shape)}>
          Use my eye in {nameOf(shape)}
        </Button>
      )}
    </>
  )
}

// Keep lets a shot follow: what was picked last, or all that is seen.
function Keep({ cue, set }: { cue: Cue; set: SettingsProps['set'] }) {
  const assembly = useSession((s) => s.assembly)
  const targets = useSession((s) => s.lastPick)
  const keep = cue.shot!.follow
  const to = (keep: Shot['follow']) => set((c) => ({ ...c, shot: { ...c.shot!, follow: keep } }))
  return (
    <>
      <Field label="Follows">
        <Choice
          label="Follows"
          value={!keep ? 'no' : keep.nodes?.length ? 'pick' : 'all'}
          className="w-full"
          onChange={(v) =>
            to(
              v === 'no'
                ? undefined
                : v === 'all'
                  ? { margin: keep?.margin ?? 0.2 }
                  : { nodes: targets, margin: keep?.margin ?? 0.2 },
            )
          }
          options={[
            { value: 'no', text: 'Nothing' },
            { value: 'all', text: 'All' },
            ...(targets.length > 0 || keep?.nodes?.length ? [{ value: 'pick', text: 'Parts' } as const] : []),
          ]}
        />
      </Field>
      {keep?.nodes && keep.nodes.length > 0 && (
        <p className="mb-1 truncate text-right text-[12px] text-advice">
          {namesOf(assembly, keep.nodes)} stay in the frame
        </p>
      )}
      {keep && (
        <Field label="Margin">
          <NumberField
            label="Margin"
            quantity="percent"
            value={keep.margin * 100}
            onChange={(v) => to({ ...keep, margin: v / 100 })}
          />
        </Field>
      )}
    </>
  )
}
