import { Trash2 } from 'lucide-react'
import { useState } from 'react'
import { bare, perform } from '../session/actions'
import { removeSelected } from '../session/cues'
import type { Schemas, Step } from '../api/client'
import { useSession } from '../session/session'
import { useShownVariant } from '../session/variants'
import { useWriting } from '../session/writing'
import { insertTime, splitHere, useOutrun } from '../session/steps'
import { Button, Choice, IconButton, Select, Tick, Tip } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { Field, Head } from './fields'

// StepFields shows a step.
export function StepFields({ id }: { id: string }) {
  const index = useSession((s) => s.doc?.steps.findIndex((x) => x.id === id) ?? -1)
  const step = useSession((s) => s.doc?.steps[index])
  const fitting = useSession((s) => s.schedule?.steps[index]?.fitting ?? 0)
  const outrun = useOutrun(index)
  const [room, setRoom] = useState(1)
  const { run } = useSession.getState()
  if (!step) return null
  return (
    <>
      <Head title="Step" note={step.cues?.length === 1 ? '1 cue' : `${step.cues?.length ?? 0} cues`}>
        <IconButton label="Delete" keys="Del" onClick={removeSelected}>
          <Trash2 size={14} />
        </IconButton>
      </Head>
      {!step.retrace?.speed && (
        <Field label="Length">
          <NumberField
            label="Length"
            quantity="time"
            value={step.duration / 1e6}
            onChange={(v) => run({ op: 'setStep', step: bare(step, { duration: Math.round(v * 1e6) }) })}
          />
        </Field>
      )}
      {step.retrace ? (
        <>
          <Field label="Lasts">
            <Choice
              label="Lasts"
              value={step.retrace.speed ? 'speed' : 'length'}
              className="w-full"
              options={[
                { value: 'speed', text: 'By speed' },
                { value: 'length', text: 'By length' },
              ]}
              onChange={(v) => perform({ do: 'bySpeed', stepId: id, on: v === 'speed' })}
            />
          </Field>
          {step.retrace.speed ? (
            <Field label="Speed">
              <NumberField
                label="Speed"
                quantity="plain"
                value={step.retrace.speed}
                onChange={(speed) => run({ op: 'setStep', step: bare(step, { retrace: { ...step.retrace!, speed } }) })}
              />
            </Field>
          ) : null}
          <Field label="Camera">
            <Select
              label="Camera"
              value={step.retrace.keepCamera ? 'keep' : 'back'}
              options={[
                { value: 'back', text: 'goes back too' },
                { value: 'keep', text: 'stays' },
              ]}
              onChange={(v) =>
                run({
                  op: 'setStep',
                  step: bare(step, { retrace: { ...step.retrace!, keepCamera: v === 'keep' || undefined } }),
                })
              }
            />
          </Field>
        </>
      ) : (
        <Field label="">
          <Tip text="Off: it grows with the cues that are put in">
            <div>
              <Tick
                on={step.held ?? false}
                onChange={(held) => run({ op: 'setStep', step: bare(step, { held: held || undefined }) })}
              >
                Hold this length
              </Tick>
            </div>
          </Tip>
        </Field>
      )}
      {outrun && <p className="mt-1 text-[12px] text-signal-ink">{outrun}</p>}
      <div className="mt-2 flex gap-1.5">
        {!step.retrace && (
          <Button
            className="grow"
            disabled={fitting === 0 || fitting === step.duration}
            onClick={() => perform({ do: 'fitStep', stepId: id })}
          >
            As long as its cues
          </Button>
        )}
        <Button
          className="grow"
          onClick={() => run({ op: 'setStep', step: bare(step, { muted: !step.muted || undefined }) })}
        >
          {step.muted ? 'Unmute' : 'Mute'}
        </Button>
      </div>
      <WordsInVariant step={step} />
      {!step.retrace && (
        <>
          <div className="mt-1.5 grid grid-cols-[auto_auto] gap-1.5">
            <Tip text="At the playhead" keys="K">
              <Button className="!px-2" onClick={splitHere}>
                Split at the playhead
              </Button>
            </Tip>
            <Button className="!px-2" onClick={() => perform({ do: 'joinStep', stepId: id })}>
              Join the next
            </Button>
            <Button onClick={() => perform({ do: 'duplicateStep', stepId: id })}>Duplicate</Button>
          </div>
          <div className="mt-1.5 grid grid-cols-[84px_1fr] items-center gap-2">
            <NumberField label="Time to insert" quantity="time" value={room} onChange={setRoom} />
            <Tip text="At the playhead; what is later moves along. Less than nothing takes time out">
              <Button onClick={() => insertTime(Math.round(room * 1e6), id)}>
                {room < 0 ? 'Take out here' : 'Insert here'}
              </Button>
            </Tip>
          </div>
        </>
      )}
    </>
  )
}

// WordsInVariant is what the step says in the variant that is shown, where that is not what it says as usual.
function WordsInVariant({ step }: { step: Step }) {
  const v = useShownVariant()
  if (!v) return null
  const own = step.wordings?.find((w) => w.variant === v.id)
  const set = (change: Partial<Schemas['Wording']>) => {
    const now = { variant: v.id, ...own, ...change }
    const kept = (step.wordings ?? []).filter((w) => w.variant !== v.id)
    const wordings = now.title || now.instruction ? [...kept, now] : kept
    return useSession
      .getState()
      .run({ op: 'setStep', step: bare(step, { wordings: wordings.length > 0 ? wordings : undefined }) })
  }
  return (
    <section aria-label={`Words in ${v.name}`} className="mt-3 border-t border-hair pt-2">
      <Head title={`Words in “${v.name}”`} />
      <Written
        key={`${v.id} title`}
        label={`Title in ${v.name}`}
        usual={step.title}
        value={own?.title ?? ''}
        onChange={(title) => set({ title: title || undefined })}
      />
      <Written
        key={`${v.id} instruction`}
        label={`Instruction in ${v.name}`}
        usual={step.instruction ?? ''}
        value={own?.instruction ?? ''}
        onChange={(instruction) => set({ instruction: instruction || undefined })}
      />
      <p className="text-[12px] text-ink-2">Empty: as usual. {'{variant}'} in any words is the variant’s name.</p>
    </section>
  )
}

function Written({
  label,
  usual,
  value,
  onChange,
}: {
  label: string
  usual: string
  value: string
  onChange(v: string): boolean
}) {
  const w = useWriting(value, label, onChange)
  return (
    <textarea
      aria-label={label}
      placeholder={usual}
      rows={2}
      value={w.text}
      maxLength={2000}
      onChange={(e) => w.write(e.target.value)}
      onBlur={w.done}
      onKeyDown={(e) => {
        e.stopPropagation()
        if (e.key === 'Escape') {
          w.forget()
          e.currentTarget.blur()
        }
      }}
      className="mb-1.5 w-full resize-none rounded-md border border-line bg-white px-2 py-1 text-[12.5px]"
    />
  )
}
