import clsx from 'clsx'
import { Redo2, Undo2 } from 'lucide-react'
import { useLine } from '../api/line'
import { sendAll } from '../session/outbox'
import { useSession } from '../session/session'
import { Button, IconButton } from '../ui/controls'

const words = {
  saved: 'Saved',
  saving: 'Saving…',
  waiting: 'Not saved yet: the server does not answer',
  stuck: 'Not saved: kept in this browser',
  offline: 'Saved, but the server does not answer',
}

// Saved says whether everything is stored, and whether the server answers.
export function Saved() {
  const saving = useSession((s) => s.saving)
  const silent = useLine((l) => l.silent)
  const again = useLine((l) => l.again)
  const state = saving === 'saving' && again > 0 ? 'waiting' : saving === 'saved' && silent ? 'offline' : saving
  return (
    <>
      <span
        role="status"
        data-saving={state}
        title={words[state]}
        className={clsx(
          'mr-1 truncate text-[12px]',
          state === 'saved' || state === 'saving' ? 'text-ink-2' : 'text-signal-ink',
        )}
      >
        {words[state]}
      </span>
      {saving === 'stuck' && <Button onClick={sendAll}>Save now</Button>}
    </>
  )
}

// ArrangementHistory takes back what was done to the assembly, and does it again.
export function ArrangementHistory() {
  const undo = useSession((s) => s.arrangement?.undo)
  const redo = useSession((s) => s.arrangement?.redo)
  return (
    <>
      <IconButton
        label={undo ? `Undo: ${undo}` : 'Undo'}
        keys="Ctrl Z"
        disabled={!undo}
        onClick={() => void useSession.getState().undoArrange()}
      >
        <Undo2 size={15} />
      </IconButton>
      <IconButton
        label={redo ? `Redo: ${redo}` : 'Redo'}
        keys="Ctrl Shift Z"
        disabled={!redo}
        onClick={() => void useSession.getState().redoArrange()}
      >
        <Redo2 size={15} />
      </IconButton>
    </>
  )
}

// RevealHistory takes back what one has done to the reveal, and does it again.
export function RevealHistory() {
  const nothing = useSession((s) => s.undoTo === 0 && s.saving === 'saved')
  const nothingAgain = useSession((s) => s.redoTo === 0)
  return (
    <>
      <IconButton label="Undo" keys="Ctrl Z" disabled={nothing} onClick={() => void useSession.getState().undo()}>
        <Undo2 size={15} />
      </IconButton>
      <IconButton
        label="Redo"
        keys="Ctrl Shift Z"
        disabled={nothingAgain}
        onClick={() => void useSession.getState().redo()}
      >
        <Redo2 size={15} />
      </IconButton>
    </>
  )
}
