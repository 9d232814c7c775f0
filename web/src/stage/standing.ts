// The one stage of the page with its canvas. It outlives the phases: what it holds on the graphics card would take long to
// bring there again.
import type { Assembly } from '../api/client'
import type { Core } from '../core/core'
import { useSession } from '../session/session'
import type { Shape } from './geometry'
import { Stage, type StageEvents } from './stage'

interface Standing {
  core: Core
  canvas: HTMLCanvasElement
  stage: Stage
  laid: { assembly: Assembly; geometry: string; shapes: Shape[] } | null
}

let standing: Standing | null = null

function canvasOf(): HTMLCanvasElement {
  const c = document.createElement('canvas')
  c.id = 'stage'
  c.tabIndex = 0
  c.className = 'block h-full w-full touch-none focus-visible:outline-offset-0'
  c.setAttribute('role', 'application')
  c.setAttribute(
    'aria-label',
    'Stage: the assembly. Arrows turn it, with Shift they shift it, + and − come nearer and go farther.',
  )
  c.setAttribute('aria-describedby', 'stage-says')
  return c
}

/** The stage as it stands, for whoever looks at what it shows. */
export const standingStage = () => standing?.stage ?? null

/** enter puts the stage into a place of the page; it throws where the browser draws nothing in 3D. */
export function enter(place: HTMLElement, core: Core, events: StageEvents): Stage {
  if (standing && standing.core !== core) strike()
  if (!standing) {
    const canvas = canvasOf()
    standing = { core, canvas, stage: new Stage(canvas, core), laid: null }
  }
  place.prepend(standing.canvas)
  standing.stage.enter(events)
  return standing.stage
}

/** leave takes the stage out of the page, as it is, for the next place that wants it. */
export function leave() {
  standing?.stage.leave()
  standing?.canvas.remove()
}

/** laid says whether an assembly stands there with these shapes; where only the assembly is another one, it is laid out. */
export function laid(assembly: Assembly, geometry: string): boolean {
  const l = standing?.laid
  if (!l || l.geometry !== geometry) return false
  if (l.assembly !== assembly) lay(assembly, geometry, l.shapes)
  return true
}

export function lay(assembly: Assembly, geometry: string, shapes: Shape[]) {
  if (!standing) return
  standing.laid = { assembly, geometry, shapes }
  standing.stage.lay(assembly, shapes)
}

/** clear takes the assembly off the stage. */
export function clear() {
  if (!standing) return
  standing.laid = null
  standing.stage.clear()
}

// strike gives everything back: the project was left.
function strike() {
  standing?.stage.dispose()
  standing?.canvas.remove()
  standing = null
}

useSession.subscribe((now, before) => {
  if (before.project && !now.project) strike()
})
