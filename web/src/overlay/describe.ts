// What the stage shows, in words: for who cannot see it.
import { onStage } from '../session/eye'
import type { Frame } from '../core/core'
import { namesOf, useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { kindNames } from '../ui/glyphs'
import { seconds } from '../core/written'

const moving = ['pull', 'turn', 'unscrew', 'route', 'drive']

// whence says from where an orientation looks: the eye stands where its +Z points to.
function whence([x, y, z, w]: readonly number[]): string {
  const to = { x: 2 * (x! * z! + w! * y!), y: 2 * (y! * z! - w! * x!), z: 1 - 2 * (x! * x! + y! * y!) }
  const said = [
    to.z > 0.35 ? 'in front' : to.z < -0.35 ? 'behind' : '',
    to.x > 0.35 ? 'on the right' : to.x < -0.35 ? 'on the left' : '',
    to.y > 0.25 ? 'above' : to.y < -0.25 ? 'below' : '',
  ].filter(Boolean)
  return said.length > 0 ? said.join(', ') : 'straight ahead'
}

// describe says what the stage shows at the playhead: what moves, what is hidden or faded, from where one looks.
export function describe(): string {
  const { core, assembly, doc, schedule, hidden } = useSession.getState()
  const { time } = useTransport.getState()
  const eye = onStage()?.eyes.present()
  if (!core || !assembly || !doc || !schedule || !eye) return ''
  const frame: Frame = core.at(time)
  const opacities = Array.from(frame.opacities)
  const parts = assembly.nodes.map((n, i) => ({ n, opacity: opacities[i]! })).filter(({ n }) => n.shape >= 0)
  const gone = parts.filter((p) => p.opacity === 0).length
  const faded = parts.filter((p) => p.opacity > 0 && p.opacity < 1).length
  const bars = schedule.bars.filter((b) => moving.includes(b.kind) && b.start <= time && time < b.start + b.duration)
  const step = schedule.steps.findIndex((s) => s.start <= time && time < s.start + s.duration)
  return [
    `At ${seconds(time)}${step >= 0 ? `, step ${step + 1}, ${doc.steps[step]!.title}` : ''}.`,
    bars.length > 0
      ? `${bars.map((b) => `${kindNames[b.kind]} ${b.label}, ${namesOf(assembly, b.targets ?? [])}${b.retraced ? ', backwards' : ''}`).join('; ')}.`
      : 'Nothing moves.',
    gone > 0 ? `${gone} of ${parts.length} parts are not there.` : '',
    faded > 0 ? `${faded} can be seen through.` : '',
    hidden.length > 0 ? `Hidden by you: ${namesOf(assembly, hidden)}.` : '',
    `Your eye is ${whence(eye.orientation)}.`,
  ]
    .filter(Boolean)
    .join(' ')
}
