import { useSession } from '../session/session'
import { Cues } from './Cues'
import { OpeningFields } from './OpeningFields'
import { PartFields } from './PartFields'
import { StepFields } from './StepFields'

// Inspector shows what is selected, with everything as a number.
export function Inspector() {
  const selection = useSession((s) => s.selection)
  const doc = useSession((s) => s.doc)
  if (!doc) return null
  return (
    <section aria-label="Inspector" className="scroll h-full min-h-0 border-t border-ink bg-sheet px-3 py-3">
      {selection.cues.length > 0 ? (
        <Cues ids={selection.cues} />
      ) : selection.step ? (
        <StepFields id={selection.step} />
      ) : selection.opening ? (
        <OpeningFields />
      ) : selection.nodes.length > 0 ? (
        <PartFields ids={selection.nodes} />
      ) : (
        <Nothing />
      )}
    </section>
  )
}

function Nothing() {
  return (
    <div className="space-y-2 px-1 pt-1 text-ink-2">
      <p>Pick a part to move it, a bar to change it, or a step to write it.</p>
      <p className="text-[12px]">
        <kbd className="mono">?</kbd> lists the shortcuts, <kbd className="mono">Ctrl K</kbd> finds everything.
      </p>
    </div>
  )
}
