import { Maximize, Printer } from 'lucide-react'
import { useEffect, useLayoutEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react'
import { Notes } from './Notes'
import { Parts } from './Parts'
import type { Player } from './player'
import { Transport } from './Transport'
import { Views } from './Views'

// ClientPage is all of the page: steps at the left, the product in the middle with what is said of the step below it,
// parts at the right.
export function ClientPage({ player }: { player: Player }) {
  const { told } = player
  const now = useSyncExternalStore(player.subscribe, player.snapshot)
  const [reveal, setReveal] = useState(0)
  const doc = player.reveal()
  const step = player.step()
  const current = doc.steps[step]
  const frame = useRef<HTMLDivElement>(null)
  const old = told.until !== undefined && new Date() > new Date(`${told.until}T23:59:59`)

  useLayoutEffect(() => {
    frame.current!.prepend(player.canvas)
    const fit = () => {
      const { clientWidth: w, clientHeight: h } = frame.current!
      if (w > 9 && h > 9) player.resize(w, h)
    }
    fit()
    const watch = new ResizeObserver(fit)
    watch.observe(frame.current!)
    return () => watch.disconnect()
  }, [player])

  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      const typed = e.target as HTMLElement
      if (typed.tagName === 'INPUT' || typed.tagName === 'SELECT' || e.ctrlKey || e.metaKey || e.altKey) return
      if (e.key === ' ' && typed.tagName !== 'BUTTON') {
        e.preventDefault()
        return player.snapshot().playing ? player.stop() : player.play()
      }
      if (e.key === 'Escape') return player.pick(null)
      if (typed === player.canvas && player.stage.eyes.steer(e.key, e.shiftKey)) e.preventDefault()
    }
    window.addEventListener('keydown', key)
    return () => window.removeEventListener('keydown', key)
  }, [player])

  return (
    <div className="client">
      <header className="top">
        {told.logo && <img src={told.logo} alt="" />}
        <div>
          <h1>{told.title}</h1>
          {told.subtitle && <p>{told.subtitle}</p>}
        </div>
        <span className="grow" />
        {told.reveals.length > 1 && (
          <select
            aria-label="What is shown"
            value={reveal}
            onChange={(e) => {
              setReveal(Number(e.target.value))
              player.show(Number(e.target.value))
            }}
          >
            {told.reveals.map((r, i) => (
              <option key={i} value={i}>
                {r.title}
              </option>
            ))}
          </select>
        )}
        <button type="button" title="Print what is seen" aria-label="Print what is seen" onClick={() => print(player)}>
          <Printer size={16} />
        </button>
        <button
          type="button"
          title="Full screen"
          aria-label="Full screen"
          onClick={() =>
            void (document.fullscreenElement ? document.exitFullscreen() : document.body.requestFullscreen())
          }
        >
          <Maximize size={16} />
        </button>
      </header>
      {old && (
        <p className="old" role="status">
          This page was meant to be used until {told.until}. Ask for a newer one.
        </p>
      )}
      <nav className="steps" aria-label="Steps">
        <ol>
          {now.steps.map((s, n) => (
            <li key={s.index}>
              <button
                type="button"
                aria-current={s.index === step ? 'step' : undefined}
                onClick={() => {
                  player.stop()
                  player.film()
                  player.go(s.start)
                }}
              >
                <span className="number">{n + 1}</span> {doc.steps[s.index]!.title}
              </button>
            </li>
          ))}
        </ol>
      </nav>
      <main className="middle">
        <Views player={player} now={now} />
        <div className="frame" ref={frame}>
          <Notes player={player} now={now} />
        </div>
        <section className="said" aria-live="polite" aria-label="What is done in this step">
          {current && <Said player={player} step={current} number={now.steps.findIndex((s) => s.index === step) + 1} />}
        </section>
        <Transport player={player} now={now} />
      </main>
      <Parts player={player} pick={now.pick} />
    </div>
  )
}

type Step = ReturnType<Player['reveal']>['steps'][number]

// Said is what a step says: its safety message first.
function Said({ player, step, number }: { player: Player; step: Step; number: number }) {
  const words = useMemo(() => player.core.ask('prose', { text: step.instruction ?? '' }), [player, step])
  const sign = step.notice && player.core.ask('signals')[step.notice.signal]
  return (
    <>
      <h2>
        <span className="number">{number}</span> {step.title}
      </h2>
      {step.notice && (
        <p className="notice" role="note" style={{ borderColor: sign && css(sign.panel) }}>
          <strong style={sign && { background: css(sign.panel), color: css(sign.letters) }}>
            {step.notice.signal}
          </strong>{' '}
          <span>{step.notice.text}</span>
        </p>
      )}
      {words.map((block, i) => (
        <p key={i}>
          {block.item && '– '}
          {block.runs.map((r, k) =>
            r.strong ? <strong key={k}>{r.text}</strong> : r.emphasis ? <em key={k}>{r.text}</em> : r.text,
          )}
        </p>
      ))}
      {step.tools && step.tools.length > 0 && <p className="with">Tools: {step.tools.join(', ')}</p>}
    </>
  )
}

// css writes a colour of the core's.
const css = (c: readonly number[]) => `rgb(${c.map((v) => Math.round(255 * v)).join(' ')})`

// print prints the present view: a picture in the place of the canvas, which printers do not get.
function print(player: Player) {
  const p = player.stage.portrait(1600)
  if (!p) return
  const canvas = document.createElement('canvas')
  canvas.width = p.width
  canvas.height = p.height
  const pixels = Uint8ClampedArray.from(atob(p.pixels), (c) => c.charCodeAt(0))
  const rows = new ImageData(p.width, p.height)
  for (let y = 0; y < p.height; y++)
    rows.data.set(pixels.subarray(4 * p.width * y, 4 * p.width * (y + 1)), 4 * p.width * (p.height - 1 - y))
  canvas.getContext('2d')!.putImageData(rows, 0, 0)
  const picture = document.createElement('img')
  picture.className = 'printed'
  picture.alt = ''
  picture.onload = () => {
    window.print()
    picture.remove()
    player.stage.touch()
  }
  picture.src = canvas.toDataURL('image/png')
  document.querySelector('.frame')!.append(picture)
}
