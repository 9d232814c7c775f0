import { PartsTree } from '../parts/PartsTree'
import { Arrived } from '../prepare/Arrived'
import { BoxPick } from '../prepare/BoxPick'
import { Picked } from '../prepare/Picked'
import { Gathered } from '../prepare/Gathered'
import { JointHand } from '../prepare/JointHand'
import { RevisionDrop } from '../prepare/Revision'
import { JointFields } from '../prepare/JointFields'
import { StageTools } from '../prepare/StageTools'
import { useMechanism } from '../session/mechanism'
import { useSession } from '../session/session'
import { StageView } from '../stage/StageView'
import { Drawers, narrow } from '../ui/Drawers'
import { useWindowSize } from '../ui/window'

// Prepare: what has arrived, and what it takes to make it ready to animate.
export function Prepare() {
  const nodes = useSession((s) => s.selection.nodes)
  const { width } = useWindowSize()
  const chosen = useMechanism((s) => s.chosen)
  const joint = useSession((s) => s.assembly?.joints?.find((j) => j.id === chosen))
  const title = joint ? 'The joint' : nodes.length > 0 ? 'What is picked' : 'What was imported'
  const aside = joint ? <JointFields joint={joint} /> : nodes.length > 0 ? <Picked ids={nodes} /> : <Arrived />
  if (width < narrow) {
    return (
      <Drawers
        drawers={[
          { text: 'Parts', at: 'left', content: <PartsTree /> },
          { text: 'Sets, joints, variants', at: 'left', content: <Gathered /> },
          {
            text: title,
            at: 'right',
            content: (
              <div tabIndex={0} className="scroll px-5 py-4">
                {aside}
              </div>
            ),
          },
        ]}
      >
        <StageView rest>
          <BoxPick />
          <StageTools />
          <JointHand />
          <RevisionDrop />
        </StageView>
      </Drawers>
    )
  }
  return (
    <div className="grid h-full min-h-0 grid-cols-[300px_minmax(0,1fr)_300px]">
      <div className="grid min-h-0 grid-rows-[minmax(0,1fr)_minmax(0,0.62fr)] border-r border-line bg-sheet">
        <PartsTree />
        <Gathered />
      </div>
      <StageView rest>
        <BoxPick />
        <StageTools />
        <JointHand />
        <RevisionDrop />
      </StageView>
      <aside aria-label={title} className="scroll min-h-0 border-l border-line bg-sheet px-5 py-4">
        {aside}
      </aside>
    </div>
  )
}
