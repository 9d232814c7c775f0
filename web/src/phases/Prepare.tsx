import { PartsTree } from '../parts/PartsTree'
import { Arrived } from '../prepare/Arrived'
import { BoxPick } from '../prepare/BoxPick'
import { Picked } from '../prepare/Picked'
import { Sets } from '../prepare/Sets'
import { StageTools } from '../prepare/StageTools'
import { useSession } from '../session/session'
import { StageView } from '../stage/StageView'
import { Drawers, narrow } from '../ui/Drawers'
import { useWindowSize } from '../ui/window'

// Prepare: what has arrived, and what it takes to make it ready to animate.
export function Prepare() {
  const nodes = useSession((s) => s.selection.nodes)
  const { width } = useWindowSize()
  if (width < narrow) {
    return (
      <Drawers
        drawers={[
          { text: 'Parts', at: 'left', content: <PartsTree /> },
          { text: 'Part sets', at: 'left', content: <Sets /> },
          {
            text: nodes.length > 0 ? 'What is picked' : 'What was imported',
            at: 'right',
            content: (
              <div tabIndex={0} className="scroll px-5 py-4">
                {nodes.length > 0 ? <Picked ids={nodes} /> : <Arrived />}
              </div>
            ),
          },
        ]}
      >
        <StageView rest>
          <BoxPick />
          <StageTools />
        </StageView>
      </Drawers>
    )
  }
  return (
    <div className="grid h-full min-h-0 grid-cols-[300px_minmax(0,1fr)_300px]">
      <div className="grid min-h-0 grid-rows-[minmax(0,1fr)_minmax(0,0.62fr)] border-r border-line bg-sheet">
        <PartsTree />
        <Sets />
      </div>
      <StageView rest>
        <BoxPick />
        <StageTools />
      </StageView>
      <aside
        aria-label={nodes.length > 0 ? 'What is picked' : 'What was imported'}
        className="scroll min-h-0 border-l border-line bg-sheet px-5 py-4"
      >
        {nodes.length > 0 ? <Picked ids={nodes} /> : <Arrived />}
      </aside>
    </div>
  )
}
