import { useState } from 'react'
import { Video } from 'lucide-react'
import { Inspector } from '../inspector/Inspector'
import { PartsTree } from '../parts/PartsTree'
import { Script } from '../script/Script'
import { addCard, addOrbit, takeShot } from '../session/actions'
import { MoveCard } from '../stage/MoveCard'
import { onScreen, StageView } from '../stage/StageView'
import { Timeline } from '../timeline/Timeline'
import { Button, Tip } from '../ui/controls'
import { Glyph } from '../ui/glyphs'

// Direct: the script on the left, the stage in the middle, parts and what is
// selected on the right, the timeline below.
export function Direct() {
  const [foot, setFoot] = useState(262)
  return (
    <div className="grid h-full min-h-0 grid-cols-[276px_minmax(0,1fr)_264px]" style={{ gridTemplateRows: `minmax(0,1fr) ${foot}px` }}>
      <Script />
      <StageView monitor>
        <MoveCard />
        <div className="absolute bottom-3 left-3 in-data-[eye=shot]:hidden">
          <Tip text="Make a shot of what your eye sees, at the playhead" keys="S">
            <Button onClick={() => onScreen.stage && takeShot(onScreen.stage.present())} className="border-ink"><Video size={14} /> Take shot here</Button>
          </Tip>
          <Tip text="Let the camera circle what it looks at, from the playhead on" keys="Shift O">
            <Button onClick={() => addOrbit()} className="ml-1.5 border-ink"><Glyph kind="orbit" /> Orbit</Button>
          </Tip>
          <Tip text="Show words over the picture, from the playhead on" keys="Shift T">
            <Button onClick={() => addCard()} className="ml-1.5 border-ink"><Glyph kind="card" /> Card</Button>
          </Tip>
        </div>
      </StageView>
      <div className="grid min-h-0 grid-rows-[minmax(0,1fr)_minmax(0,1.3fr)] border-l border-line bg-sheet">
        <PartsTree coverage />
        <Inspector />
      </div>
      <div className="relative col-span-3 min-h-0">
        <Splitter now={foot} onMove={(y) => setFoot((f) => Math.max(120, Math.min(window.innerHeight - 340, f - y)))} />
        <Timeline />
      </div>
    </div>
  )
}

function Splitter({ now, onMove }: { now: number; onMove(dy: number): void }) {
  return (
    <div role="separator" aria-orientation="horizontal" aria-label="Height of the timeline" aria-valuenow={now} aria-valuemin={120} aria-valuemax={window.innerHeight - 340} tabIndex={0}
      className="absolute inset-x-0 -top-1 z-40 h-2 cursor-ns-resize"
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={(e) => e.buttons === 1 && onMove(e.movementY)}
      onKeyDown={(e) => {
        if (e.key !== 'ArrowUp' && e.key !== 'ArrowDown') return
        e.stopPropagation()
        onMove(e.key === 'ArrowUp' ? -16 : 16)
      }} />
  )
}
