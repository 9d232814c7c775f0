import { FlipHorizontal2, Trash2 } from 'lucide-react'
import { useMemo, type ReactNode } from 'react'
import type { Cue, Schemas } from '../api/client'
import type { Thread } from '../core/core'
import { Curve } from './Curve'
import { bare, changeCues, findCue, fulfil, insertSecond, removeSelected, reverseDirection, setLeftOut, setOpeningOpacity, splitHere, toggleMuted } from '../session/actions'
import { namesOf, nodeById, useSession } from '../session/session'
import { onScreen } from '../stage/StageView'
import { Button, Choice, IconButton, Select, Tip } from '../ui/controls'
import { hexOf, linearOf } from '../ui/colour'
import { Glyph, kindNames } from '../ui/glyphs'
import { NumberField } from '../ui/NumberField'

type Shot = Schemas['Shot']

const easings = [{ value: 'smooth', text: 'smooth' }, { value: 'linear', text: 'linear' }, { value: 'in', text: 'gathers speed' }, { value: 'out', text: 'comes to rest' }, { value: 'own', text: 'a curve of its own' }] as const

// Inspector shows what is selected, with everything as a number.
export function Inspector() {
  const selection = useSession((s) => s.selection)
  const doc = useSession((s) => s.doc)
  if (!doc) return null
  return (
    <section aria-label="Inspector" className="scroll h-full min-h-0 border-t border-ink bg-sheet px-3 py-3">
      {selection.cues.length > 0 ? <Cues ids={selection.cues} />
        : selection.step ? <StepFields id={selection.step} />
        : selection.opening ? <OpeningFields />
        : selection.nodes.length > 0 ? <Parts ids={selection.nodes} />
        : <Nothing />}
    </section>
  )
}

function Nothing() {
  return (
    <div className="space-y-2 px-1 pt-1 text-ink-2">
      <p>Pick a part to move it, a bar to change it, or a step to write it.</p>
      <p className="text-[12px]"><kbd className="mono">?</kbd> lists the shortcuts, <kbd className="mono">Ctrl K</kbd> finds everything.</p>
    </div>
  )
}

function Head({ title, note, children }: { title: ReactNode; note?: ReactNode; children?: ReactNode }) {
  return (
    <div className="mb-2 flex min-h-7 items-center gap-1.5">
      <h2 className="flex grow items-center gap-1.5 truncate text-[13.5px] font-semibold">{title}</h2>
      {note && <span className="mono truncate text-[11.5px] text-ink-2">{note}</span>}
      {children}
    </div>
  )
}

function Field({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="mb-[3px] grid grid-cols-[84px_1fr] items-center gap-2">
      <span className="text-[12.5px] text-ink-2">{label}</span>
      {children}
    </div>
  )
}

function Cues({ ids }: { ids: string[] }) {
  const doc = useSession((s) => s.doc)!
  const schedule = useSession((s) => s.schedule)!
  const core = useSession((s) => s.core)!
  const assembly = useSession((s) => s.assembly)
  void doc
  const found = ids.flatMap((id) => findCue(id) ?? [])
  const first = found[0]
  if (!first) return null
  const cue = first.cue
  const one = found.length === 1
  const kinds = new Set(found.map((f) => f.cue.kind))
  const same = <T,>(of: (c: Cue) => T) => found.every((f) => of(f.cue) === of(cue))
  const set = (change: (c: Cue) => Cue) => changeCues(ids, change)
  const starts = found.map((f) => (schedule.steps.find((s) => s.step === f.step.id)?.start ?? 0) + f.cue.offset)
  const start = starts[0]! / 1e6
  const muted = found.every((f) => f.cue.muted)
  const moving = ['pull', 'turn', 'unscrew'].includes(cue.kind)

  return (
    <>
      <Head title={kinds.size === 1 ? <><Glyph kind={cue.kind} size={15} />{kindNames[cue.kind]}</> : `${found.length} cues`}
        note={one ? (!cue.targets?.length ? undefined : cue.targets!.length > 1 ? `${cue.targets!.length} targets` : namesOf(assembly, cue.targets!)) : `${found.length} selected`}>
        {moving && <IconButton label="Turn round" keys="R" onClick={reverseDirection}><FlipHorizontal2 size={14} /></IconButton>}
        <IconButton label="Delete" keys="Del" onClick={removeSelected}><Trash2 size={14} /></IconButton>
      </Head>
      {kinds.size === 1 && <Settings cue={cue} one={one} same={same} set={set} />}
      <Field label="From – to">
        <div className="grid grid-cols-2 gap-1">
          <NumberField label="Starts" quantity="time" value={start} disabled={!one} mixed={!one} className="!px-1.5"
            onChange={(v) => useSession.getState().run({ op: 'shiftCues', cueIds: ids, by: Math.round((v - start) * 1e6) })} />
          <NumberField label="Ends" quantity="time" value={start + cue.length / 1e6} disabled={!one} mixed={!one} className="!px-1.5"
            onChange={(v) => useSession.getState().run({ op: 'stretchCue', cueIds: ids, edge: 'end', by: Math.round((v - start) * 1e6) - cue.length })} />
        </div>
      </Field>
      <Field label="Lasts">
        <NumberField label="Lasts" quantity="time" value={cue.length / 1e6} mixed={!same((c) => c.length)} onChange={(v) => set((c) => ({ ...c, length: Math.round(v * 1e6) }))} />
      </Field>
      {found.some((f) => (f.cue.targets?.length ?? 0) > 1) && (
        <Field label="Each later by">
          <NumberField label="Each later by" quantity="time" value={(cue.stagger ?? 0) / 1e6} mixed={!same((c) => c.stagger ?? 0)} onChange={(v) => set((c) => ({ ...c, stagger: Math.round(v * 1e6) || undefined }))} />
        </Field>
      )}
      {found.length > 1 && (
        <div role="group" aria-label="All of them" className="my-1.5 grid grid-cols-2 gap-1.5">
          {together.map(({ text, ...wish }) => <Button key={text} onClick={() => fulfil({ ...wish, cueIds: ids })}>{text}</Button>)}
        </div>
      )}
      <Field label="Easing">
        <Select label="Easing" value={typeof cue.easing === 'string' ? cue.easing : 'own'} options={easings} onChange={(easing) => set((c) => ({ ...c, easing: easing === 'own' ? core.ask<number[]>({ ask: 'easing', easing: c.easing }) : easing }))} />
      </Field>
      {typeof cue.easing !== 'string' && <Curve value={cue.easing as [number, number, number, number]} onChange={(easing) => set((c) => ({ ...c, easing }))} />}
      <div className="mt-2 flex gap-1.5">
        <Button onClick={toggleMuted} aria-pressed={muted} className="grow">{muted ? 'Switch on' : 'Switch off'}</Button>
        {one && cue.kind === 'shot' && (
          <>
            <Button className="grow" onClick={() => { onScreen.stage?.lookFrom(cue.shot!.camera); onScreen.setEye('mine') }}>Look from here</Button>
            <Button className="grow" onClick={() => onScreen.stage && set((c) => ({ ...c, shot: { ...c.shot!, camera: onScreen.stage!.present() } }))}>Use my eye</Button>
          </>
        )}
      </div>
    </>
  )
}

const together = [{ do: 'alignStarts', text: 'Align starts' }, { do: 'alignEnds', text: 'Align ends' }, { do: 'distribute', text: 'Even starts' }, { do: 'sameLength', text: 'Same length' },
  { do: 'scaleTime', factor: 0.5, text: 'Twice as fast' }, { do: 'scaleTime', factor: 2, text: 'Half as fast' }]

interface SettingsProps {
  cue: Cue
  one: boolean
  same<T>(of: (c: Cue) => T): boolean
  set(change: (c: Cue) => Cue): boolean
}

const axesNames = [{ value: 'own', text: 'its own axes' }, { value: 'parent', text: 'its group’s axes' }, { value: 'assembly', text: 'the assembly’s axes' }] as const

function useThreads() {
  const core = useSession((s) => s.core)
  return useMemo(() => core?.ask<Thread[]>({ ask: 'threads' }) ?? [], [core])
}

function Settings({ cue, one, same, set }: SettingsProps) {
  const threads = useThreads()
  const advance = useSession((s) => s.schedule?.bars.find((b) => b.cue === cue.id)?.advance ?? 0)
  const along = cue.pull?.along ?? cue.turn?.about ?? cue.unscrew?.along
  return (
    <>
      {cue.kind === 'pull' && (
        <Field label="Distance">
          <NumberField label="Distance" quantity="length" value={cue.pull!.distance} mixed={!same((c) => c.pull?.distance)} onChange={(v) => set((c) => ({ ...c, pull: { ...c.pull!, distance: v } }))} />
        </Field>
      )}
      {cue.kind === 'turn' && (
        <>
          <Field label="Angle"><NumberField label="Angle" quantity="angle" value={cue.turn!.degrees} mixed={!same((c) => c.turn?.degrees)} onChange={(v) => set((c) => ({ ...c, turn: { ...c.turn!, degrees: v } }))} /></Field>
          {one && <Field label="Pivot"><Triple label="Pivot" value={cue.turn!.pivot} onChange={(pivot) => set((c) => ({ ...c, turn: { ...c.turn!, pivot } }))} /></Field>}
        </>
      )}
      {cue.kind === 'unscrew' && (
        <>
          <Field label="Thread">
            <Select label="Thread" value={String(cue.unscrew!.lead)} onChange={(v) => set((c) => ({ ...c, unscrew: { ...c.unscrew!, lead: Number(v) } }))}
              options={[...threads.map((t) => ({ value: String(t.lead), text: `${t.name} · ${t.lead} mm` })), ...(threads.some((t) => t.lead === cue.unscrew!.lead) ? [] : [{ value: String(cue.unscrew!.lead), text: `${cue.unscrew!.lead} mm` }])]} />
          </Field>
          <Field label="Turns"><NumberField label="Turns" quantity="plain" value={cue.unscrew!.turns} mixed={!same((c) => c.unscrew?.turns)} onChange={(v) => set((c) => ({ ...c, unscrew: { ...c.unscrew!, turns: v } }))} /></Field>
          <Field label="Comes out"><span className="mono px-2 text-right text-[12.5px] text-advice">{Number(advance.toFixed(2))} mm</span></Field>
        </>
      )}
      {cue.kind === 'fade' && (
        <Field label="Opacity"><NumberField label="Opacity" quantity="percent" value={cue.fade!.to * 100} mixed={!same((c) => c.fade?.to)} onChange={(v) => set((c) => ({ ...c, fade: { to: v / 100 } }))} /></Field>
      )}
      {cue.kind === 'tint' && <TintFields cue={cue} same={same} set={set} />}
      {cue.kind === 'note' && one && (
        <textarea aria-label="Text of the note" defaultValue={cue.note!.text} key={cue.id + cue.note!.text} rows={3} maxLength={300} onKeyDown={(e) => e.stopPropagation()}
          onBlur={(e) => e.target.value.trim() && e.target.value !== cue.note!.text && set((c) => ({ ...c, note: { ...c.note!, text: e.target.value.trim() } }))}
          className="mb-1 w-full resize-none rounded-md border border-line bg-white px-2 py-1 text-[12.5px]" />
      )}
      {cue.kind === 'note' && one && <Field label="Points at"><Triple label="Points at" value={cue.note!.at} onChange={(at) => set((c) => ({ ...c, note: { ...c.note!, at } }))} /></Field>}
      {cue.kind === 'orbit' && <Field label="Angle"><NumberField label="Angle" quantity="angle" value={cue.orbit!.degrees} mixed={!same((c) => c.orbit?.degrees)} onChange={(v) => set((c) => ({ ...c, orbit: { ...c.orbit!, degrees: v } }))} /></Field>}
      {cue.kind === 'orbit' && one && <Field label="About"><Triple label="About" value={cue.orbit!.about} plain onChange={(about) => set((c) => ({ ...c, orbit: { ...c.orbit!, about } }))} /></Field>}
      {moves.includes(cue.kind) && (
        <Field label="Flow line">
          <Choice label="Flow line" value={cue.flow ? 'yes' : 'no'} options={[{ value: 'no', text: 'None' }, { value: 'yes', text: 'From the seat' }]} onChange={(v) => set((c) => ({ ...c, flow: v === 'yes' || undefined }))} className="w-full" />
        </Field>
      )}
      {cue.kind === 'shot' && one && <KeepFields cue={cue} set={set} />}
      {cue.kind === 'shot' && one && (
        <Field label="Name">
          <input aria-label="Name" defaultValue={cue.shot!.name ?? ''} key={cue.id + cue.shot!.name} onKeyDown={(e) => { e.stopPropagation(); if (e.key === 'Enter') e.currentTarget.blur() }}
            onBlur={(e) => e.target.value !== (cue.shot!.name ?? '') && set((c) => ({ ...c, shot: { ...c.shot!, name: e.target.value || undefined } }))}
            className="h-7 w-full rounded-md border border-line bg-white px-2 text-[12.5px]" />
        </Field>
      )}
      {cue.kind === 'shot' && (
        <Field label="Lens"><NumberField label="Lens" quantity="length" value={cue.shot!.camera.lens} mixed={!same((c) => c.shot?.camera.lens)} onChange={(v) => set((c) => ({ ...c, shot: { ...c.shot!, camera: { ...c.shot!.camera, lens: v } } }))} /></Field>
      )}
      {along && one && (
        <>
          <Field label="Along"><Triple label="Along" value={along} plain onChange={(v) => set((c) => ({ ...c, pull: c.pull && { ...c.pull, along: v }, turn: c.turn && { ...c.turn, about: v }, unscrew: c.unscrew && { ...c.unscrew, along: v } }))} /></Field>
          <Field label="In">
            <Select label="In" value={(cue.pull ?? cue.turn ?? cue.unscrew)!.axes} options={axesNames}
              onChange={(axes) => set((c) => ({ ...c, pull: c.pull && { ...c.pull, axes }, turn: c.turn && { ...c.turn, axes }, unscrew: c.unscrew && { ...c.unscrew, axes } }))} />
          </Field>
        </>
      )}
    </>
  )
}

const moves = ['pull', 'turn', 'unscrew']

function TintFields({ cue, same, set }: Pick<SettingsProps, 'cue' | 'same' | 'set'>) {
  return (
    <>
      <Field label="Colour"><input type="color" aria-label="Colour of the tint" value={hexOf(cue.tint!.colour)} onChange={(e) => set((c) => ({ ...c, tint: { ...c.tint!, colour: linearOf(e.target.value) } }))} className="h-7 w-full rounded-md border border-line bg-white p-0.5" /></Field>
      <Field label="Strength"><NumberField label="Strength" quantity="percent" value={cue.tint!.amount * 100} mixed={!same((c) => c.tint?.amount)} onChange={(v) => set((c) => ({ ...c, tint: { ...c.tint!, amount: v / 100 } }))} /></Field>
    </>
  )
}

// KeepFields lets a shot follow: what was picked last, or all that is seen.
function KeepFields({ cue, set }: Pick<SettingsProps, 'cue' | 'set'>) {
  const assembly = useSession((s) => s.assembly)
  const targets = useSession((s) => s.lastPick)
  const keep = cue.shot!.keep
  const to = (keep: Shot['keep']) => set((c) => ({ ...c, shot: { ...c.shot!, keep } }))
  return (
    <>
      <Field label="Follows">
        <Choice label="Follows" value={!keep ? 'no' : keep.nodes?.length ? 'pick' : 'all'} className="w-full"
          onChange={(v) => to(v === 'no' ? undefined : v === 'all' ? { margin: keep?.margin ?? 0.2 } : { nodes: targets, margin: keep?.margin ?? 0.2 })}
          options={[{ value: 'no', text: 'Nothing' }, { value: 'all', text: 'All' }, ...(targets.length > 0 || keep?.nodes?.length ? [{ value: 'pick', text: 'Parts' } as const] : [])]} />
      </Field>
      {keep?.nodes && keep.nodes.length > 0 && <p className="mb-1 truncate text-right text-[12px] text-advice">{namesOf(assembly, keep.nodes)} stay in the frame</p>}
      {keep && <Field label="Margin"><NumberField label="Margin" quantity="percent" value={keep.margin * 100} onChange={(v) => to({ ...keep, margin: v / 100 })} /></Field>}
    </>
  )
}

function Triple({ value, onChange, label, plain }: { value: readonly number[]; onChange(v: number[]): void; label: string; plain?: boolean }) {
  return (
    <div className="grid grid-cols-3 gap-1">
      {['X', 'Y', 'Z'].map((axis, i) => (
        <NumberField key={axis} label={`${label} ${axis}`} quantity={plain ? 'plain' : 'length'} value={value[i]!} className="!px-1 !text-[11px]" onChange={(v) => onChange(value.map((x, k) => (k === i ? v : x)))} />
      ))}
    </div>
  )
}

function StepFields({ id }: { id: string }) {
  const step = useSession((s) => s.doc?.steps.find((x) => x.id === id))
  const done = useSession((s) => s.schedule?.steps.find((x) => x.step === id)?.done ?? 0)
  const { run } = useSession.getState()
  if (!step) return null
  const ends = Math.max(500_000, done)
  return (
    <>
      <Head title="Step" note={step.cues?.length === 1 ? '1 cue' : `${step.cues?.length ?? 0} cues`}><IconButton label="Delete" keys="Del" onClick={removeSelected}><Trash2 size={14} /></IconButton></Head>
      <Field label="Length"><NumberField label="Length" quantity="time" value={step.length / 1e6} onChange={(v) => run({ op: 'setStep', step: bare(step, { length: Math.round(v * 1e6) }) })} /></Field>
      {step.retrace && (
        <Field label="Camera">
          <Select label="Camera" value={step.retrace.keepCamera ? 'keep' : 'back'} options={[{ value: 'back', text: 'goes back too' }, { value: 'keep', text: 'stays' }]}
            onChange={(v) => run({ op: 'setStep', step: bare(step, { retrace: { ...step.retrace!, keepCamera: v === 'keep' || undefined } }) })} />
        </Field>
      )}
      <div className="mt-2 flex gap-1.5">
        {!step.retrace && <Button className="grow" disabled={done === 0 || ends === step.length} onClick={() => run({ op: 'setStep', step: bare(step, { length: ends }) })}>As long as its cues</Button>}
        <Button className="grow" onClick={() => run({ op: 'setStep', step: bare(step, { muted: !step.muted || undefined }) })}>{step.muted ? 'Switch on' : 'Switch off'}</Button>
      </div>
      {!step.retrace && (
        <div className="mt-1.5 grid grid-cols-2 gap-1.5">
          <Tip text="At the playhead" keys="K"><Button onClick={splitHere}>Split here</Button></Tip>
          <Button onClick={() => fulfil({ do: 'joinStep', stepId: id })}>Join the next</Button>
          <Button onClick={() => fulfil({ do: 'duplicateStep', stepId: id, fresh: `step-${crypto.randomUUID().slice(0, 8)}` })}>Duplicate</Button>
          <Tip text="At the playhead; what is later moves along"><Button onClick={() => insertSecond(id)}>Insert 1 s here</Button></Tip>
        </div>
      )}
    </>
  )
}

function OpeningFields() {
  const doc = useSession((s) => s.doc)!
  const assembly = useSession((s) => s.assembly)
  const { run } = useSession.getState()
  const names = nodeById(assembly)
  return (
    <>
      <Head title="Opening" note="before 0 s" />
      <Field label="Lens"><NumberField label="Lens" quantity="length" value={doc.opening.camera.lens} onChange={(lens) => run({ op: 'setOpening', opening: { ...doc.opening, camera: { ...doc.opening.camera, lens } } })} /></Field>
      <div className="mt-2 mb-3 flex gap-1.5">
        <Button className="grow" onClick={() => onScreen.stage && run({ op: 'setOpening', opening: { ...doc.opening, camera: onScreen.stage.present() } })}>Open with my eye</Button>
        <Button className="grow" onClick={() => onScreen.stage?.lookFrom(doc.opening.camera)}>Look from there</Button>
      </div>
      {(doc.opening.leftOut ?? []).map((n) => (
        <div key={n} className="flex items-center justify-between py-0.5"><span className="truncate">{names.get(n)?.name ?? n}, left out</span><Button kind="quiet" onClick={() => setLeftOut([n], false)}>Bring back</Button></div>
      ))}
      {(doc.opening.opacities ?? []).map((o) => (
        <Field key={o.node} label={names.get(o.node)?.name ?? o.node}><NumberField label="Opacity" quantity="percent" value={o.opacity * 100} onChange={(v) => setOpeningOpacity(o.node, v / 100)} /></Field>
      ))}
      <p className="mt-1 text-[12px] text-ink-2">To leave a part out, pick it and choose “Leave out”.</p>
    </>
  )
}

function Parts({ ids }: { ids: string[] }) {
  const assembly = useSession((s) => s.assembly)!
  const doc = useSession((s) => s.doc)!
  const node = nodeById(assembly).get(ids[0]!)
  const shape = node && node.shape >= 0 ? assembly.shapes[node.shape] : undefined
  const out = ids.every((id) => doc.opening.leftOut?.includes(id))
  const size = shape && shape.max.map((v, i) => v - shape.min[i]!)
  return (
    <>
      <Head title={<span className="truncate">{namesOf(assembly, ids)}</span>} />
      {ids.length === 1 && shape && size && (
        <>
          <Field label="Size"><span className="mono text-right text-[11.5px]">{size.map((v) => Number(v.toFixed(1))).join(' × ')} mm</span></Field>
          <Field label="Finish"><span className="truncate text-right">{assembly.finishes[node!.finishes?.[0] ?? 0]?.name}</span></Field>
        </>
      )}
      {ids.length === 1 && (
        <Field label="Opens with">
          <NumberField label="Opacity in the opening" quantity="percent" value={(doc.opening.opacities?.find((o) => o.node === ids[0])?.opacity ?? 1) * 100} onChange={(v) => setOpeningOpacity(ids[0]!, v / 100)} />
        </Field>
      )}
      <div className="mt-2"><Button className="w-full" onClick={() => setLeftOut(ids, !out)}>{out ? 'Bring back' : 'Leave out of this reveal'}</Button></div>
    </>
  )
}
