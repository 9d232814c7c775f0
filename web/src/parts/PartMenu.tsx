import { openPlan } from '../plan/plan'
import { addMove, performHere } from '../session/actions'
import { growToParent, hidePicked, invertPick, isolatePicked, pickBy } from '../session/picking'
import { namesOf, useSession } from '../session/session'
import { phaseNow } from '../session/route'
import { moves } from '../session/moves'
import { useAim } from '../session/aim'
import { openMenu, type Entry } from '../ui/ContextMenu'

// openPartMenu shows at a place of the page what fits the picked parts. In Direct
// they can be moved as well.
export function openPartMenu(at: { x: number; y: number }) {
  const s = useSession.getState()
  const nodes = s.selection.nodes
  if (nodes.length === 0) return
  const known = s.survey !== null
  const offered: Entry[] =
    phaseNow() === 'direct' // the card follows the pick a moment later
      ? [
          ...moves.map((m) => ({
            text: m.kind === 'hide' ? 'Hide instantly' : m.text,
            keys: m.keys,
            run: () => {
              const { aim } = useAim.getState()
              if (aim) addMove(m.kind, [...nodes], aim)
            },
          })),
          { text: 'Show again', keys: 'Alt F', run: () => void performHere({ do: 'show', nodes }) },
          { text: 'Motion arrow', run: () => void performHere({ do: 'arrow', nodes }) },
          { text: 'Get at this', run: () => void openPlan({ reach: nodes[0] }) },
        ]
      : []
  openMenu(at, namesOf(s.assembly, nodes), [
    offered,
    [
      { text: 'Select identical parts', keys: 'A', off: !known, run: () => pickBy('like') },
      { text: 'Pick what holds it', off: !known, run: () => pickBy('fasteners') },
      { text: 'Pick what it touches', off: !known, run: () => pickBy('neighbours') },
      { text: 'Select the group above', keys: 'G', run: growToParent },
      { text: 'Pick everything else', keys: 'I', run: invertPick },
    ],
    (s.arrangement?.sets ?? [])
      .filter((x) => nodes.some((n) => x.nodes.includes(n)))
      .map((x) => ({ text: `Pick the set “${x.name}”`, run: () => s.select({ nodes: x.nodes }) })),
    [
      { text: 'Hide', keys: 'X', run: hidePicked },
      { text: 'Show only this', keys: 'L', run: isolatePicked },
      { text: 'Show all', keys: 'Shift X', off: s.hidden.length === 0, run: () => s.hide([]) },
    ],
  ])
}
