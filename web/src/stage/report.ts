// What the stage shows just now, in numbers and as a picture: for tests, which hold it against what the core
// says, and for whoever looks for a mistake.
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { useMechanism } from '../session/mechanism'
import { useShape } from '../session/shape'
import { onStage } from '../session/eye'
import { standingStage } from './standing'

const frames = (n: number) =>
  new Promise<void>((done) => {
    const next = () => (n-- > 0 ? requestAnimationFrame(next) : done())
    next()
  })

let last: { stage: unknown; draws: number; words: string; doc: unknown; assembly: unknown } | null = null

// report waits until the stage is at rest. It is null where there is no stage, where it moves, and where
// neither what there is to show nor what was drawn is another than at the last time, unless `always`.
export async function report(width: number, always = false) {
  await frames(2)
  const stage = standingStage()
  if (!stage || onStage() !== stage || useTransport.getState().playing) return null
  for (let n = 0; !stage.atRest(); n++) {
    stage.refine() // nobody seeks any more
    if (n > 600 || onStage() !== stage) return null
    await frames(1)
  }
  const { doc, assembly, product, variant, held } = useSession.getState()
  if (held.size > 0) return null // something is being dragged
  const now = { stage, draws: stage.draws, words: JSON.stringify([stage.shows(), useShape.getState()]), doc, assembly }
  if (!always && last && (Object.keys(now) as (keyof typeof now)[]).every((k) => now[k] === last![k])) return null
  last = now
  const picture = stage.portrait(width)
  if (!picture) return null
  const { shape } = useShape.getState()
  const { tried } = useMechanism.getState()
  return {
    ...stage.shows(),
    tried: stage.shows().time === null ? tried : null,
    shape: shape ? shape.across / shape.down : 0,
    doc,
    product,
    variant,
    ...picture,
  }
}

// state is the document that the page shows, what it says of saving it, and how much memory the core has taken, MB.
export function state() {
  const { doc, saving, revealId, core } = useSession.getState()
  return { doc, saving, revealId, memory: (core?.memory() ?? 0) / 1e6 }
}
