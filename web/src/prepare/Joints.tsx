import { useEffect, useState } from 'react'
import type { Schemas } from '../api/client'
import { useSession } from '../session/session'
import { addJoint, choose, doesWhat, lookAtJoints, useMechanism, type Joint } from '../session/mechanism'
import { nodeById } from '../session/session'
import { Button, Tip } from '../ui/controls'
import { JointGlyph } from '../ui/glyphs'

// Joints lists what moves against what: the joints of the assembly, and those that its shapes offer.
export function Joints() {
  const assembly = useSession((s) => s.assembly)!
  const picked = useSession((s) => s.selection.nodes)
  const chosen = useMechanism((s) => s.chosen)
  const now = useMechanism((s) => s.now)
  useEffect(lookAtJoints, [])
  const joints = assembly.joints ?? []
  const wrong = new Set(now?.problems.filter((p) => p.joint).map((p) => p.of))
  return (
    <>
      <div className="mb-1.5 flex items-center gap-1.5 px-1">
        <Tip text="Pick what moves, then with Ctrl what it moves on">
          <Button
            className="grow"
            disabled={picked.length === 0 || picked.length > 2}
            onClick={() => void addJoint(picked)}
          >
            New joint of what is picked
          </Button>
        </Tip>
      </div>
      {joints.length === 0 && (
        <p className="px-1 pb-1 text-[12.5px] text-ink-2">
          Joints say what turns or slides on what. Then the product can run, in the film too.
        </p>
      )}
      <ul>
        {joints.map((j) => (
          <li key={j.id}>
            <Row
              joint={j}
              pressed={chosen === j.id}
              wrong={wrong.has(j.id)}
              onClick={() => choose(chosen === j.id ? null : j)}
            />
          </li>
        ))}
      </ul>
      {joints.length > 0 && (
        <p className="mt-1 px-1 text-[11.5px] text-ink-2">
          While they are listed, what is on a joint is moved by dragging it on the stage.
        </p>
      )}
      <Found joints={joints} />
    </>
  )
}

function Row({ joint, pressed, wrong, onClick }: { joint: Joint; pressed: boolean; wrong: boolean; onClick(): void }) {
  const names = nodeById(useSession((s) => s.assembly))
  const says = `${doesWhat(joint.kind)} ${names.get(joint.base)?.name ?? 'what is gone'}`
  return (
    <button
      type="button"
      aria-pressed={pressed}
      onClick={onClick}
      className="flex h-[27px] w-full min-w-0 items-center gap-2 rounded-[3px] px-1 text-left hover:bg-sheet-2 aria-pressed:bg-ink aria-pressed:text-sheet"
    >
      <JointGlyph kind={joint.kind} />
      <span className="shrink-0 truncate" style={{ maxWidth: '55%' }}>
        {joint.name}
      </span>
      <span className="min-w-0 grow truncate text-[11.5px] opacity-70">{says}</span>
      {wrong && (
        <span title="It has no effect" aria-label="has no effect" className="text-signal-ink">
          !
        </span>
      )}
    </button>
  )
}

// Found offers what the shapes say, singly or all at once.
function Found({ joints }: { joints: readonly Joint[] }) {
  const found = useSession((s) => s.survey?.mechanism)
  const names = nodeById(useSession((s) => s.assembly))
  const couplings = useSession((s) => s.assembly?.couplings)
  const { arrange, setHover } = useSession.getState()
  const [busy, setBusy] = useState(false)
  const held = new Set(joints.map((j) => j.body))
  const here = new Set([...joints.map((j) => j.id), ...(couplings ?? []).map((c) => c.id)])
  const open = found?.joints.filter((j) => !held.has(j.body) && names.has(j.body)) ?? []
  const ties =
    found?.couplings.filter(
      (c) => !here.has(c.id) && [c.joint, c.by].every((id) => here.has(id) || open.some((j) => j.id === id)),
    ) ?? []
  const accept = async (list: readonly Schemas['FoundJoint'][], tie: readonly Schemas['FoundCoupling'][]) => {
    setBusy(true)
    await arrange({
      do: 'setJoints',
      joints: list.map(bare),
      couplings: tie.map(bare),
    })
    setBusy(false)
  }
  if (found === undefined)
    return (
      <p role="status" className="mt-2 px-1 text-[12.5px] text-ink-2">
        The parts are being looked at…
      </p>
    )
  if (open.length + ties.length === 0) return null
  return (
    <section aria-label="Joints found by their shapes" className="mt-2 border-t border-hair pt-2">
      <div className="mb-1 flex items-center gap-2 px-1">
        <h2 className="grow text-[12px] text-ink-2">Found by their shapes</h2>
        <Button kind="quiet" disabled={busy} onClick={() => void accept(open, ties)}>
          Take all {open.length + ties.length}
        </Button>
      </div>
      <ul>
        {open.map((j) => (
          <li
            key={j.id}
            onMouseEnter={() => setHover(j.body)}
            onMouseLeave={() => setHover(null)}
            className="px-1 pb-1 text-[12.5px]"
          >
            <div className="flex items-center gap-2">
              <JointGlyph kind={j.kind} />
              <span className="min-w-0 grow truncate">{names.get(j.body)?.name}</span>
              <span className="shrink-0 text-[11.5px] text-advice">{Math.round(j.confidence * 100)} %</span>
              <Button
                kind="quiet"
                aria-label={`Take: ${names.get(j.body)?.name} ${doesWhat(j.kind)} ${names.get(j.base)?.name}`}
                disabled={busy}
                onClick={() =>
                  void accept(
                    [j],
                    ties.filter((c) => [c.joint, c.by].every((id) => here.has(id) || id === j.id)),
                  )
                }
              >
                Take
              </Button>
            </div>
            <p className="pl-6 text-[11.5px] text-ink-2">
              {doesWhat(j.kind)} {names.get(j.base)?.name}: {j.why}
            </p>
          </li>
        ))}
        {ties.map((c) => (
          <li key={c.id} className="px-1 pb-1 text-[12.5px]">
            <div className="flex items-center gap-2">
              <JointGlyph kind="gear" />
              <span className="min-w-0 grow truncate">{c.name}</span>
              <span className="shrink-0 text-[11.5px] text-advice">{Math.round(c.confidence * 100)} %</span>
            </div>
            <p className="pl-6 text-[11.5px] text-ink-2">{c.why}</p>
          </li>
        ))}
      </ul>
    </section>
  )
}

// bare is what was found without what is said of it.
function bare<T extends { confidence: number; why: string }>(found: T): Omit<T, 'confidence' | 'why'> {
  const kept: Partial<T> = { ...found }
  delete kept.confidence
  delete kept.why
  return kept as Omit<T, 'confidence' | 'why'>
}
