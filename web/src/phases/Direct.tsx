import { onStage } from '../session/eye'
import clsx from 'clsx'
import { Video } from 'lucide-react'
import { useEffect } from 'react'
import { Inspector } from '../inspector/Inspector'
import { PartsTree } from '../parts/PartsTree'
import { Script } from '../script/Script'
import { addCard, addOrbit, takeShot } from '../session/actions'
import { PlanPanel } from '../plan/Plan'
import { closePlan, usePlan } from '../plan/plan'
import { MoveCard } from '../overlay/MoveCard'
import { StageView } from '../stage/StageView'
import { Timeline } from '../timeline/Timeline'
import { Button, Tip } from '../ui/controls'
import { Glyph } from '../ui/glyphs'
import { Drawers, narrow } from '../ui/Drawers'
import { Splitter, useSplit } from '../ui/Splitter'
import { useWindowSize } from '../ui/window'

// Direct: the script on the left, the stage in the middle, parts and what is
// selected on the right, the timeline below.
export function Direct() {
  const { width, height } = useWindowSize()
  const planning = usePlan((p) => p.open)
  useEffect(() => closePlan, []) // what a plan shows is of this phase alone
  const script = useSplit('script', 276, 200, Math.max(276, width - 760))
  const side = useSplit('side', 264, 240, Math.max(264, width - 760))
  const tree = useSplit('tree', 215, 90, height - 46 - 170)
  const foot = useSplit('timeline', 262, 120, height - 46 - 120)
  if (width < narrow) {
    return (
      <Drawers
        note={width < 520 ? 'Directing needs a window of some 640 pixels; Release works in this one.' : undefined}
        drawers={[
          ...(planning
            ? [{ text: 'Plan', at: 'left' as const, content: <PlanPanel /> }]
            : [{ text: 'Script', at: 'left' as const, content: <Script /> }]),
          { text: 'Parts', at: 'right', content: <PartsTree coverage /> },
          { text: 'Settings', at: 'right', content: <Inspector /> },
          { text: 'Timeline', at: 'foot', content: <Timeline /> },
        ]}
      >
        <Staged />
      </Drawers>
    )
  }
  return (
    <div
      className="grid h-full min-h-0"
      style={{
        gridTemplateColumns: `${script.size}px minmax(0,1fr) ${side.size}px`,
        gridTemplateRows: `minmax(0,1fr) ${foot.size}px`,
      }}
    >
      <div className="relative min-h-0 min-w-0">
        <div className="h-full overflow-hidden" inert={planning}>
          {script.size > 0 && <Script />}
        </div>
        <Splitter split={script} of="right" label="Width of the script" />
      </div>
      <Staged />
      <div className={clsx('relative min-h-0 min-w-0', planning && 'row-span-2')}>
        <Splitter split={side} of="left" label="Width of parts and settings" />
        {side.size > 0 && planning && <PlanPanel />}
        {side.size > 0 && !planning && (
          <div
            className="grid h-full min-h-0 border-l border-line bg-sheet"
            style={{ gridTemplateRows: `${tree.size}px minmax(0,1fr)` }}
          >
            <div className="relative min-h-0">
              <div className="h-full overflow-hidden">{tree.size > 0 && <PartsTree coverage />}</div>
              <Splitter split={tree} of="bottom" label="Height of the parts" />
            </div>
            <Inspector />
          </div>
        )}
      </div>
      <div className={clsx('relative min-h-0', planning ? 'col-span-2' : 'col-span-3')}>
        <Splitter split={foot} of="top" label="Height of the timeline" />
        {foot.size > 0 && <Timeline />}
      </div>
    </div>
  )
}

// Staged is the stage with what lies over it in Direct.
function Staged() {
  const planning = usePlan((p) => p.open)
  return (
    <StageView monitor>
      {!planning && <MoveCard />}
      <div className={clsx('absolute bottom-3 left-3 in-data-[eye=shot]:hidden', planning && 'hidden')}>
        <Tip text="Make a shot of what your eye sees, at the playhead" keys="S">
          <Button onClick={() => onStage() && takeShot(onStage()!.eyes.present())} className="border-ink">
            <Video size={14} /> Take shot here
          </Button>
        </Tip>
        <Tip text="Let the camera circle what it looks at, from the playhead on" keys="Shift O">
          <Button onClick={() => addOrbit()} className="ml-1.5 border-ink">
            <Glyph kind="orbit" /> Orbit
          </Button>
        </Tip>
        <Tip text="Show words over the picture, from the playhead on" keys="Shift T">
          <Button onClick={() => addCard()} className="ml-1.5 border-ink">
            <Glyph kind="card" /> Title card
          </Button>
        </Tip>
      </div>
    </StageView>
  )
}
