import { useEffect, useRef } from 'react'
import type { Grabbed } from '../core/core'
import { onStage } from '../session/eye'
import { back, choose, tryJoint, useMechanism } from '../session/mechanism'
import { useSession } from '../session/session'
import { useView } from '../stage/view'

// JointHand moves what is on a joint with the pointer while the joints are looked at, and all that is tied to it. What is
// on none turns the view, as ever.
export function JointHand() {
  const shown = useMechanism((s) => s.shown)
  const here = useRef<HTMLSpanElement>(null)
  useEffect(() => {
    const frame = here.current?.parentElement
    if (!shown || !frame) return
    let grabbed: Omit<Grabbed, 'ray'> | null = null
    const down = (e: PointerEvent) => {
      if (e.button !== 0 || e.ctrlKey || e.shiftKey || e.altKey || useView.getState().measuring) return
      if (!(e.target instanceof HTMLCanvasElement)) return
      grabbed = grab(e)
      if (!grabbed) return
      e.stopPropagation() // the view stays
      e.target.setPointerCapture(e.pointerId)
    }
    const move = (e: PointerEvent) => {
      const ray = grabbed && onStage()?.eyes.sightline(e)
      if (!grabbed || !ray) return
      const to = useSession.getState().core!.ask('follow', { ...grabbed, ray: [ray[0], ray[1]] })
      if (to.value !== grabbed.value) {
        grabbed = { ...grabbed, value: to.value }
        tryJoint(to.joint, to.value)
      }
    }
    const up = () => {
      const joint = grabbed && useSession.getState().assembly?.joints?.find((j) => j.id === grabbed!.joint)
      if (joint && useMechanism.getState().tried && useMechanism.getState().chosen !== joint.id)
        useMechanism.setState({ chosen: joint.id })
      grabbed = null
    }
    frame.addEventListener('pointerdown', down, true)
    frame.addEventListener('pointermove', move, true)
    frame.addEventListener('pointerup', up, true)
    return () => {
      frame.removeEventListener('pointerdown', down, true)
      frame.removeEventListener('pointermove', move, true)
      frame.removeEventListener('pointerup', up, true)
    }
  }, [shown])
  // Elsewhere the assembly stands as it came.
  useEffect(
    () => () => {
      back()
      choose(null)
    },
    [],
  )
  return <span ref={here} hidden />
}

// grab finds what lies under the pointer, and the joint that it is on.
function grab(e: PointerEvent): Omit<Grabbed, 'ray'> | null {
  const hit = onStage()?.finder.at(e)
  const core = useSession.getState().core
  const ray = onStage()?.eyes.sightline(e)
  if (!hit || !core || !ray) return null
  try {
    const at = core.ask('local', { node: hit.node, point: hit.point })
    const { joint, value } = core.ask('follow', { node: hit.node, at, value: 0, ray: [ray[0], ray[1]] })
    return { joint, value, node: hit.node, at }
  } catch {
    return null // it is on no joint
  }
}
