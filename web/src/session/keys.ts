import { comeClose, onStage, setEye, useEye } from './eye'
import { useEffect } from 'react'
import { openPlan } from '../plan/plan'
import { draftNow } from '../release/settings'
import { flipAim, useAim } from './aim'
import { addCard, addMove, addOrbit, again, performHere, drive, takeShot, type MoveKind } from './actions'
import {
  copySelected,
  duplicateSelected,
  pasteBack,
  pasteHere,
  pasteTwins,
  removeSelected,
  reverseDirection,
  stagger,
  toggleMuted,
} from './cues'
import { addMarker, addStep, backTogether, openHere, splitHere } from './steps'
import { loopSelection, selectedSpan, zoomToAll, zoomToSelection } from '../timeline/view'
import { stepFeature } from '../stage/view'
import { growToParent, hidePicked, invertPick, isolatePicked, pickBy } from './picking'
import type { Phase } from './route'
import { useSession } from './session'
import { useTransport } from './transport'

export interface Shortcut {
  keys: string
  text: string
  group: 'Time' | 'Cues' | 'Eye' | 'All' | 'Parts'
  /** Where it works: in Direct unless said otherwise. */
  phases?: readonly Phase[]
  run?(): void
}

const direct: readonly Phase[] = ['direct']
const prepare: readonly Phase[] = ['prepare']
const both: readonly Phase[] = ['prepare', 'direct']

const seekBy = (by: number, frames = 0) => {
  const t = useTransport.getState()
  t.seek(useSession.getState().core!.ask('stepFrames', { time: Math.round(t.time + by), frames }))
}

// make moves the picked parts, or lets those of the selected cue do the next thing.
function make(kind: MoveKind, frames = 60) {
  const { selection, tell } = useSession.getState()
  if (selection.nodes.length === 0 && selection.cues.length === 0)
    return tell('Nothing is picked. Pick a part on the stage or in the tree first.')
  const { aim, nodes } = useAim.getState()
  if (aim && nodes !== selection.nodes && frames > 0) return void requestAnimationFrame(() => make(kind, frames - 1)) // the card is still to follow the pick
  if (aim && selection.nodes.length > 0) addMove(kind, [...nodes], aim)
  else again(kind)
}

// remove deletes what is selected; the focus goes to its neighbour.
function remove() {
  const at = document.activeElement
  const kind = at?.closest('[data-cue]')
    ? '[data-cue]'
    : at?.closest('#script [data-step]')
      ? '#script [data-step] [data-walk]'
      : null
  const all = kind ? [...document.querySelectorAll<HTMLElement>(kind)] : []
  const i = all.findIndex((e) => e === at || e.closest('article')?.contains(at))
  removeSelected()
  if (kind)
    requestAnimationFrame(() =>
      requestAnimationFrame(() =>
        [...all.slice(i + 1), ...all.slice(0, Math.max(i, 0)).reverse()].find((e) => e.isConnected)?.focus(),
      ),
    )
}

const toSelectionEnd = () => {
  const span = selectedSpan()
  if (span) useTransport.getState().seek(span.to)
}

// comeClose frames what is picked, or what the selected cues and step act on.
const comeCloser = () => {
  const { selection, doc } = useSession.getState()
  const cues =
    doc?.steps.flatMap((s) => (s.cues ?? []).filter((c) => selection.cues.includes(c.id) || s.id === selection.step)) ??
    []
  comeClose([...selection.nodes, ...cues.flatMap((c) => c.targets ?? [])])
}

// shortcuts is the one list: the keys work by it, “?” shows it and Ctrl K finds
// its entries.
export const shortcuts: readonly Shortcut[] = [
  { keys: 'Space', text: 'Play or stop', group: 'Time', run: () => useTransport.getState().toggle() },
  { keys: 'Shift Space', text: 'Play backwards', group: 'Time', run: () => useTransport.getState().toggle(true) },
  { keys: '←', text: 'One frame back', group: 'Time', run: () => seekBy(0, -1) },
  { keys: '→', text: 'One frame on', group: 'Time', run: () => seekBy(0, 1) },
  { keys: 'Shift ←', text: 'One second back', group: 'Time', run: () => seekBy(-1e6) },
  { keys: 'Shift →', text: 'One second on', group: 'Time', run: () => seekBy(1e6) },
  { keys: 'Home', text: 'To the beginning', group: 'Time', run: () => useTransport.getState().seek(0) },
  { keys: 'End', text: 'To the end', group: 'Time', run: () => useTransport.getState().seek(Infinity) },
  { keys: 'P', text: 'Pull the picked parts', group: 'Cues', run: () => make('pull') },
  { keys: 'T', text: 'Turn the picked parts', group: 'Cues', run: () => make('turn') },
  { keys: 'U', text: 'Unscrew the picked parts', group: 'Cues', run: () => make('unscrew') },
  {
    keys: 'Shift U',
    text: 'Unscrew the picked parts and take them straight out, one after the other',
    group: 'Cues',
    run: () => make('unscrewOut'),
  },
  { keys: 'W', text: 'Move the picked parts along a path', group: 'Cues', run: () => make('route') },
  { keys: 'F', text: 'Fade the picked parts', group: 'Cues', run: () => make('fade') },
  {
    keys: 'Shift F',
    text: 'Hide the picked parts instantly',
    group: 'Cues',
    run: () => void performHere({ do: 'hide', nodes: useSession.getState().selection.nodes }),
  },
  {
    keys: 'Alt F',
    text: 'Show the picked parts again, solid',
    group: 'Cues',
    run: () => void performHere({ do: 'show', nodes: useSession.getState().selection.nodes }),
  },
  { keys: 'Y', text: 'Change the display style of the picked parts', group: 'Cues', run: () => make('surface') },
  { keys: 'D', text: 'Tint the picked parts', group: 'Cues', run: () => make('tint') },
  {
    keys: 'Shift D',
    text: 'Drive the joint that the picked part is on',
    group: 'Cues',
    run: () => void drive('drive', useSession.getState().selection.nodes),
  },
  {
    keys: 'Shift R',
    text: 'Let that joint run, until it is driven otherwise',
    group: 'Cues',
    run: () => void drive('run', useSession.getState().selection.nodes),
  },
  {
    keys: 'Alt R',
    text: 'Let that joint come to a stop',
    group: 'Cues',
    run: () => void drive('halt', useSession.getState().selection.nodes),
  },
  { keys: 'N', text: 'Write a note at the picked part', group: 'Cues', run: () => make('note') },
  { keys: 'Shift T', text: 'Show a title card', group: 'Eye', run: () => void addCard() },
  {
    keys: 'V',
    text: 'Parallel projection, or perspective',
    group: 'Eye',
    phases: both,
    run: () => onStage()?.eyes.setParallel(!onStage()!.eyes.isParallel()),
  },
  { keys: 'Shift O', text: 'Let the camera circle', group: 'Eye', run: () => void addOrbit() },
  {
    keys: 'R',
    text: 'Turn the movement round, or the direction of the next',
    group: 'Cues',
    run: () => (useSession.getState().selection.cues.length > 0 ? reverseDirection() : flipAim()),
  },
  { keys: 'O', text: 'Mute or unmute the selected cues', group: 'Cues', run: toggleMuted },
  {
    keys: 'Shift G',
    text: 'Stagger the selected cues, or all targets at once',
    group: 'Cues',
    run: stagger,
  },
  { keys: 'Ctrl D', text: 'Duplicate the selected cues', group: 'Cues', run: duplicateSelected },
  { keys: 'Ctrl C', text: 'Copy the selected cues', group: 'Cues', run: copySelected },
  { keys: 'Ctrl V', text: 'Paste them at the playhead, onto the picked parts', group: 'Cues', run: pasteHere },
  { keys: 'Ctrl Shift V', text: 'Paste them as twins: one setting for all', group: 'Cues', run: pasteTwins },
  { keys: 'Alt V', text: 'Paste them backwards: what they did is taken back', group: 'Cues', run: pasteBack },
  { keys: '.', text: 'Playhead to the end of what is selected', group: 'Time', run: toSelectionEnd },
  { keys: 'J', text: 'Set a marker at the playhead', group: 'Time', run: addMarker },
  { keys: 'Q', text: 'Zoom the timeline to all', group: 'Time', run: zoomToAll },
  { keys: 'Shift Q', text: 'Zoom the timeline to the selection', group: 'Time', run: zoomToSelection },
  { keys: 'Shift L', text: 'Loop the selection', group: 'Time', run: loopSelection },
  { keys: 'Ctrl B', text: 'Make it a whole film: pause, and all of it backwards', group: 'All', run: backTogether },
  { keys: 'Shift P', text: 'Plan a teardown from the playhead on', group: 'All', run: () => void openPlan() },
  {
    keys: 'Shift E',
    text: 'Draft now: a small, rough film',
    group: 'All',
    phases: ['direct', 'release'],
    run: () => void draftNow(),
  },
  { keys: 'Shift Home', text: 'Make this moment the opening', group: 'All', run: openHere },
  { keys: 'K', text: 'Split at the playhead', group: 'All', run: splitHere },
  { keys: 'Del', text: 'Delete what is selected', group: 'Cues', run: remove },
  {
    keys: 'Space ',
    text: 'Focused bar: select it beside the others, or not; arrows go to the next bar',
    group: 'Cues',
  },
  { keys: '↑ ↓', text: 'Focused step or part: the next one; with Shift, letters go to a name', group: 'All' },
  { keys: 'Arrows', text: 'Focused stage: turn (Shift: shift); + and − come nearer and go farther', group: 'Eye' },
  { keys: 'Alt ←', text: 'Focused bar: one frame earlier (Ctrl: a second; Shift: shorter)', group: 'Cues' },
  { keys: 'Alt →', text: 'Focused bar: one frame later (Ctrl: a second; Shift: longer)', group: 'Cues' },
  { keys: 'Alt ↑', text: 'Focused step: one place up', group: 'All' },
  { keys: 'Alt ↓', text: 'Focused step: one place down', group: 'All' },
  {
    keys: '↑ ↓ ',
    text: 'In Proof: the next finding; G goes there, M mends, A accepts, O opens it again',
    group: 'All',
    phases: ['proof'],
  },
  {
    keys: 'S',
    text: 'Take a shot of what your eye sees',
    group: 'Eye',
    run: () => onStage() && takeShot(onStage()!.eyes.present()),
  },
  { keys: 'Z', text: 'Come close to what is selected', group: 'Eye', run: comeCloser },
  {
    keys: 'E',
    text: 'Change between your eye and the shot',
    group: 'Eye',
    run: () => setEye(useEye.getState().eye === 'mine' ? 'shot' : 'mine'),
  },
  {
    keys: 'Ctrl Z',
    text: 'Undo',
    group: 'All',
    phases: ['direct', 'proof', 'release'],
    run: () => void useSession.getState().undo(),
  },
  {
    keys: 'Ctrl Shift Z',
    text: 'Redo',
    group: 'All',
    phases: ['direct', 'proof', 'release'],
    run: () => void useSession.getState().redo(),
  },
  {
    keys: 'Ctrl Z',
    text: 'Undo in Prepare',
    group: 'Parts',
    phases: prepare,
    run: () => void useSession.getState().undoArrange(),
  },
  {
    keys: 'Ctrl Shift Z',
    text: 'Redo in Prepare',
    group: 'Parts',
    phases: prepare,
    run: () => void useSession.getState().redoArrange(),
  },
  {
    keys: 'Shift Enter',
    text: 'Add a step',
    group: 'All',
    run: () => addStep(useSession.getState().selection.step ?? undefined),
  },
  { keys: 'A', text: 'Select identical parts', group: 'Parts', phases: both, run: () => pickBy('like') },
  { keys: 'G', text: 'Select the group above', group: 'Parts', phases: both, run: growToParent },
  { keys: 'I', text: 'Pick everything else instead', group: 'Parts', phases: both, run: invertPick },
  {
    keys: 'H',
    text: 'Point at the next face, axis or edge of the picked part',
    group: 'Parts',
    run: () => stepFeature(1),
  },
  { keys: 'Shift H', text: 'Point at the one before', group: 'Parts', run: () => stepFeature(-1) },
  { keys: 'X', text: 'Hide the picked parts', group: 'Parts', phases: both, run: hidePicked },
  { keys: 'L', text: 'Show only the picked parts', group: 'Parts', phases: both, run: isolatePicked },
  { keys: 'Shift X', text: 'Show all parts', group: 'Parts', phases: both, run: () => useSession.getState().hide([]) },
  {
    keys: 'B',
    text: 'Pick the next part behind the pointer',
    group: 'Parts',
    phases: both,
    run: () => onStage()?.pickBehind(),
  },
  { keys: 'Esc', text: 'Select nothing', group: 'All', phases: both, run: () => useSession.getState().select({}) },
]

const names: Record<string, string> = {
  ' ': 'Space',
  ArrowLeft: '←',
  ArrowRight: '→',
  Delete: 'Del',
  Backspace: 'Del',
  Escape: 'Esc',
}

function nameOf(e: KeyboardEvent): string {
  const key = names[e.key] ?? (e.key.length === 1 ? e.key.toUpperCase() : e.key)
  return [e.ctrlKey || e.metaKey ? 'Ctrl' : '', e.altKey ? 'Alt' : '', e.shiftKey && key !== '?' ? 'Shift' : '', key]
    .filter(Boolean)
    .join(' ')
}

// useKeys makes the shortcuts work wherever no field has the focus.
export function useKeys(phase: Phase | null, find: () => void, help: () => void) {
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      const name = nameOf(e)
      if (name === 'Ctrl K') {
        e.preventDefault()
        find()
        return
      }
      const at = e.target as HTMLElement
      if (at.closest('input:not([type=checkbox]), textarea, [role=dialog], [role=menu], [role=listbox]')) return
      if (name === '?') return help()
      if (!phase) return
      // A focused button keeps Space and Enter for itself.
      if (name === 'Space' && at.closest('button, [role=treeitem], a, input')) return
      const s = shortcuts.find((x) => x.keys === name && (x.phases ?? direct).includes(phase))
      if (!s?.run) return
      e.preventDefault()
      s.run()
    }
    window.addEventListener('keydown', key)
    return () => window.removeEventListener('keydown', key)
  }, [phase, find, help])
}
