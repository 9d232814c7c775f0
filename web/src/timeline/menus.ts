// What fits a bar, a step, or a place on the ruler.
import { bare } from '../session/actions'
import {
  copySelected,
  duplicateSelected,
  pasteBack,
  pasteHere,
  pasteTwins,
  removeSelected,
  reverseDirection,
  toggleMuted,
} from '../session/cues'
import { useSession } from '../session/session'
import { perform } from '../session/actions'
import { addMarker, insertTime, removeMarker, splitHere } from '../session/steps'
import { useTransport } from '../session/transport'
import { openMenu } from '../ui/ContextMenu'
import { loopSelection, zoomToAll, zoomToSelection } from './view'

interface At {
  x: number
  y: number
}

export function openBarMenu(at: At, cue: string, name: string) {
  const s = useSession.getState()
  if (!s.selection.cues.includes(cue)) s.select({ cues: [cue] })
  openMenu(at, s.selection.cues.length > 1 ? `${s.selection.cues.length} cues` : name, [
    [
      { text: 'Duplicate', keys: 'Ctrl D', run: duplicateSelected },
      { text: 'Copy', keys: 'Ctrl C', run: copySelected },
      { text: 'Turn round', keys: 'R', run: reverseDirection },
      { text: 'Mute or unmute', keys: 'O', run: toggleMuted },
    ],
    [
      { text: 'Zoom to it', keys: 'Shift Q', run: zoomToSelection },
      { text: 'Loop it', keys: 'Shift L', run: loopSelection },
      {
        text: 'Playhead to its start',
        run: () => useTransport.getState().seek(s.schedule?.bars.find((b) => b.cue === cue)?.start ?? 0),
      },
    ],
    [{ text: 'Delete', keys: 'Del', run: removeSelected }],
  ])
}

export function openStepMenu(at: At, id: string) {
  const { doc, schedule, run, select } = useSession.getState()
  const i = doc?.steps.findIndex((x) => x.id === id) ?? -1
  const step = doc?.steps[i]
  const span = schedule?.steps[i]
  if (!step || !span) return
  select({ step: id })
  const forward = !step.retrace
  openMenu(at, `${i + 1} ${step.title}`, [
    [
      { text: 'Playhead to its start', run: () => useTransport.getState().seek(span.start) },
      { text: 'Zoom to it', keys: 'Shift Q', run: zoomToSelection },
      { text: 'Loop it', keys: 'Shift L', run: loopSelection },
    ],
    [
      { text: 'Split at the playhead', keys: 'K', off: !forward, run: splitHere },
      {
        text: 'Move up',
        keys: 'Alt ↑',
        off: i === 0,
        run: () => void run({ op: 'moveStep', stepId: id, index: i - 1 }),
      },
      {
        text: 'Move down',
        keys: 'Alt ↓',
        off: i === doc!.steps.length - 1,
        run: () => void run({ op: 'moveStep', stepId: id, index: i + 1 }),
      },
      { text: 'Join the next', off: !forward, run: () => void perform({ do: 'joinStep', stepId: id }) },
      {
        text: 'Duplicate',
        off: !forward,
        run: () => void perform({ do: 'duplicateStep', stepId: id }),
      },
      {
        text: 'As long as its cues',
        off: !forward || span.fitting === 0 || span.fitting === step.duration,
        run: () => void perform({ do: 'fitStep', stepId: id }),
      },
    ],
    [
      {
        text: 'Pause of 1 s before',
        off: !forward,
        run: () => void perform({ do: 'insertTime', stepId: id, at: 0, by: 1_000_000 }),
      },
      {
        text: 'Pause of 1 s after',
        run: () => void perform({ do: 'insertTime', stepId: id, at: step.duration, by: 1_000_000 }),
      },
    ],
    [
      {
        text: step.muted ? 'Unmute' : 'Mute',
        run: () => void run({ op: 'setStep', step: bare(step, { muted: !step.muted || undefined }) }),
      },
      { text: 'Delete', keys: 'Del', run: removeSelected },
    ],
  ])
}

export function openRulerMenu(at: At) {
  openMenu(at, 'At the playhead', [
    [
      { text: 'Paste', keys: 'Ctrl V', run: pasteHere },
      { text: 'Paste as twins', keys: 'Ctrl Shift V', run: pasteTwins },
      { text: 'Paste backwards', keys: 'Alt V', run: pasteBack },
    ],
    [
      { text: 'Set a marker', keys: 'J', run: addMarker },
      { text: 'Split at the playhead', keys: 'K', run: splitHere },
      { text: 'Insert 1 s', run: () => insertTime(1_000_000) },
      { text: 'Take 1 s out', run: () => insertTime(-1_000_000) },
    ],
    [
      { text: 'Zoom to all', keys: 'Q', run: zoomToAll },
      { text: 'Loop everything', run: () => useTransport.getState().setSpan(null) },
    ],
  ])
}

export function openMarkerMenu(at: At, step: string, index: number, text: string) {
  openMenu(at, text, [
    [
      { text: 'Rename…', run: () => useSession.setState({ renaming: { step, index } }) },
      { text: 'Delete', run: () => removeMarker(step, index) },
    ],
  ])
}
