import { createRoot } from 'react-dom/client'
import { Core } from '../core/core'
import { ClientPage } from './ClientPage'
import { block, told } from './data'
import { Player } from './player'
import { Safe } from './Safe'
import { unpackShapes } from './shapes'
import './client.css'
import './media.css'

const words = (e: unknown) => (e instanceof Error ? e.message : String(e))
const place = document.getElementById('client')!

async function begin() {
  const [core, content, shapes] = await Promise.all([
    block('core').then((m) => Core.of(m)), // takes longest
    told(),
    block('shapes').then(async (s) => unpackShapes(await s.arrayBuffer())),
  ])
  const canvas = document.createElement('canvas')
  canvas.id = 'stage'
  canvas.tabIndex = 0
  canvas.setAttribute('role', 'application')
  canvas.setAttribute(
    'aria-label',
    'The product. Arrows turn it, with Shift they shift it, + and − come nearer and go farther.',
  )
  let player: Player
  try {
    player = new Player(core, content, shapes, canvas)
  } catch (e) {
    if (!/webgl/i.test(words(e))) throw e
    throw new Error(
      'This browser shows no 3D pictures (WebGL is off). Switch on hardware acceleration, or use another browser.',
    )
  }
  createRoot(place).render(
    <Safe>
      <ClientPage player={player} />
    </Safe>,
  )
}

begin().catch((e: unknown) => {
  const said = document.createElement('p')
  said.className = 'problem'
  said.setAttribute('role', 'alert')
  said.textContent = words(e)
  place.replaceChildren(said)
})
