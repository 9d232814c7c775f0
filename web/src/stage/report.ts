// What the stage shows just now, in numbers and as a picture: for tests, which hold it against what the core
// says, and for whoever looks for a mistake.
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { onScreen } from './StageView'

const frames = (n: number) => new Promise<void>((done) => {
  const next = () => (n-- > 0 ? requestAnimationFrame(next) : done())
  next()
})

// report waits until the stage is at rest. It is null where there is no stage, or where it moves.
export async function report(width: number) {
  await frames(2)
  const stage = onScreen.stage
  if (!stage || useTransport.getState().playing) return null
  for (let n = 0; !stage.atRest(); n++) {
    if (n > 600 || onScreen.stage !== stage) return null
    await frames(1)
  }
  const { doc, assembly, held } = useSession.getState()
  if (held.size > 0) return null // something is being dragged
  const picture = stage.portrait(width)
  if (!picture) return null
  return { ...stage.shows(), doc, assembly, ...picture }
}
