import { Axis3d, Scan } from 'lucide-react'
import { useEffect, useLayoutEffect, useMemo, useRef, useState, type ReactNode } from 'react'
import type { RevealDocument } from '../api/client'
import { openPartMenu } from '../parts/PartMenu'
import { CueArrow } from '../overlay/CueArrow'
import { describe } from '../overlay/describe'
import { Notes } from '../overlay/Notes'
import { picked, useView } from './view'
import { useMechanism } from '../session/mechanism'
import { useSession } from '../session/session'
import { framed, leaveEye, onStage, setEye, useEye, type Eye } from '../session/eye'
import { useTransport } from '../session/transport'
import { Choice, IconButton, Menu, Select } from '../ui/controls'
import { nameOf, others, ownAspect, shapes, show, useShape, type Shape as FrameShape } from '../session/shape'
import { loadShapes, type Shape } from './geometry'
import { Words } from '../overlay/Words'
import { monitorWidth, type Stage } from './stage'
import { clear, enter, laid, lay, leave } from './standing'

let shapesOf: { key: string; shapes: Promise<Shape[]> } | null = null

function shapesFor(address: string): Promise<Shape[]> {
  if (shapesOf?.key !== address) {
    const shapes = loadShapes(address)
    shapes.catch(() => (shapesOf = null))
    shapesOf = { key: address, shapes }
  }
  return shapesOf.shapes
}

// StageView is the place in the page where a Stage draws: the frame in the
// output's shape, the views by name, and what lies over the picture.
export function StageView({ monitor, rest, children }: { monitor?: boolean; rest?: boolean; children?: ReactNode }) {
  const core = useSession((s) => s.core)
  const assembly = useSession((s) => s.assembly)
  const geometry = useSession((s) => s.geometry)
  const hidden = useSession((s) => s.hidden)
  const section = useView((s) => s.section)
  const relation = useView((s) => (s.measuring ? s.relation : null))
  const axis = useMechanism((s) => (rest ? s.now?.joints.find((j) => j.id === s.chosen)?.axis : undefined))
  const doc = useSession((s) => s.doc)
  const selection = useSession((s) => s.selection)
  const hover = useSession((s) => s.hover)
  const frame = useRef<HTMLDivElement>(null)
  const hold = useRef<HTMLDivElement>(null)
  const stage = useRef<Stage | null>(null)
  const eye = useEye((s) => (monitor ? s.eye : 'mine'))
  useLayoutEffect(() => setEye(monitor ? useEye.getState().eye : 'mine'), [monitor]) // what is prepared is seen by one's own
  const [ready, setReady] = useState(false)
  const [problem, setProblem] = useState<string | null>(null)
  const [says, setSays] = useState('')
  const [size, setSize] = useState({ width: 0, height: 0 })
  const shape = useShape((s) => s.shape)
  const aspect = !doc || rest ? 0 : shape ? shape.across / shape.down : ownAspect(doc)

  // The stage stands here as long as this is in the page.
  useLayoutEffect(() => {
    if (!core || !frame.current) return
    try {
      stage.current = enter(frame.current, core, {
        pick: picked,
        menu: (hit, e) => {
          if (!hit) return
          const s = useSession.getState()
          if (!s.selection.nodes.includes(hit.node)) s.pickNode(hit.node, false)
          openPartMenu({ x: e.clientX, y: e.clientY })
        },
        hover: (node) => useSession.getState().setHover(node),
        looked: () => useView.setState((v) => ({ looked: v.looked + 1 })),
        moved: () => useView.setState((v) => ({ moved: v.moved + 1 })),
        eye: setEye,
      })
    } catch {
      setProblem(
        'This browser shows no 3D pictures (WebGL is off). Switch on hardware acceleration, or use another browser.',
      )
      return
    }
    useEye.setState({ stage: stage.current })
    return () => {
      setReady(false)
      if (onStage() === stage.current) useEye.setState({ stage: null })
      leave()
      stage.current = null
    }
  }, [core])

  // The assembly comes onto the stage as it is arranged: at once where its shapes are there already, as
  // after a finish or a name; else they are fetched, and the last picture stays until then.
  useLayoutEffect(() => {
    if (!stage.current || !assembly || !geometry) return
    setProblem(null)
    if (laid(assembly, geometry)) return setReady(true)
    let gone = false
    clear()
    setReady(false)
    shapesFor(geometry).then(
      (list) => {
        if (gone) return
        lay(assembly, geometry, list)
        setReady(true)
      },
      (e: Error) => !gone && setProblem(e.message),
    )
    return () => void (gone = true)
  }, [core, assembly, geometry])

  useLayoutEffect(() => {
    const canvas = frame.current?.querySelector('canvas')
    if (canvas) canvas.dataset.ready = String(ready)
  }, [ready])

  useEffect(() => {
    const el = hold.current
    if (!el) return
    const fit = () => {
      const w = el.clientWidth
      const h = el.clientHeight
      if (w < 10 || h < 10) return
      const a = aspect || w / h
      const width = Math.floor(Math.min(w, h * a))
      setSize({ width, height: Math.floor(width / a) })
    }
    fit()
    const watch = new ResizeObserver(fit)
    watch.observe(el)
    return () => watch.disconnect()
  }, [aspect])

  useEffect(() => {
    const s = stage.current
    if (!ready || !s || size.width === 0) return
    s.setAspect(size.width / size.height)
    s.resize(size.width, size.height)
  }, [ready, size])

  // The first look: what the opening's camera sees, or everything.
  useEffect(() => {
    const s = stage.current
    if (!ready || !s || !core) return
    const { revealId, revisionId } = useSession.getState()
    const place = `${rest ? revisionId : revealId}`
    const left = useEye.getState().left.get(place)
    if (left)
      s.eyes.lookFrom(left) // the same view, drawn anew
    else if (rest || !doc) fitView(s, 'isometric', [])
    else s.eyes.lookFrom(doc.opening.camera)
    return () => leaveEye(place, s.eyes.present())
    // Only when a stage or another reveal comes up, not with every edit.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [ready, core, rest])

  useEffect(() => {
    const s = stage.current // gone while another assembly is being laid out
    if (!ready || !s) return
    s.setTime(rest ? null : useTransport.getState().time)
    // A preview moves what is on the stage, without a new document.
    const tried = useSession.subscribe(
      (now, before) => now.previews !== before.previews && s.setTime(rest ? null : useTransport.getState().time),
    )
    if (rest) return tried
    const moved = useTransport.subscribe((t) => s.setTime(t.time))
    return () => {
      moved()
      tried()
    }
  }, [ready, rest, doc, shape])

  useEffect(() => stage.current?.setHidden(hidden), [ready, hidden])
  useEffect(() => stage.current?.setSection(rest ? section : null), [ready, rest, section])
  useEffect(
    () => stage.current?.setMeasured(rest && relation ? [relation.from, relation.to] : (axis ?? null)),
    [ready, rest, relation, axis],
  )
  useEffect(() => stage.current?.setMonitor(Boolean(monitor)), [ready, monitor])
  const occludes = rest || !doc?.frame.noOcclusion
  useEffect(() => stage.current?.setOccludes(occludes), [ready, occludes])
  useEffect(() => stage.current?.setEye(eye), [ready, eye])

  const parallel = useView((s) => s.looked >= 0 && (stage.current?.eyes.isParallel() ?? false))
  const marked = useMemo(() => {
    const ids = new Set(selection.nodes)
    // What a tint or a surface makes of a part is seen as it is, without the mark over it.
    const plain = (kind: string) => kind === 'tint' || kind === 'surface'
    if (!rest)
      for (const step of doc?.steps ?? [])
        for (const c of step.cues ?? [])
          if (selection.cues.includes(c.id) && !plain(c.kind)) for (const t of c.targets ?? []) ids.add(t)
    return ids
  }, [selection, doc, rest])
  // Lightly: what the selected step touches.
  const touched = useMemo(() => {
    const step = rest ? undefined : doc?.steps.find((s) => s.id === selection.step)
    return new Set(step?.cues?.flatMap((c) => c.targets ?? []) ?? [])
  }, [selection.step, doc, rest])
  useEffect(() => stage.current?.setMarks(marked, hover, touched), [ready, marked, hover, touched])

  const views = useMemo(() => core?.ask('views') ?? [], [core])
  const go = (name: string, nodes: string[] = []) => {
    if (stage.current) fitView(stage.current, name, nodes)
    setEye('mine')
  }

  const steer = (e: React.KeyboardEvent) => {
    if (
      (e.target as HTMLElement).id !== 'stage' ||
      e.ctrlKey ||
      e.metaKey ||
      e.altKey ||
      !stage.current?.eyes.steer(e.key, e.shiftKey)
    )
      return
    e.preventDefault()
    e.stopPropagation()
    if (!rest) setSays(describe())
  }

  return (
    <div className="flex h-full min-w-0 flex-col bg-stage">
      <div className="flex min-h-11 shrink-0 flex-wrap items-center gap-x-2.5 gap-y-1.5 px-3.5 py-1.5">
        {monitor && (
          <Choice<Eye>
            label="Eye"
            value={eye}
            onChange={setEye}
            options={[
              { value: 'mine', text: 'My eye' },
              { value: 'shot', text: 'Through the shot' },
            ]}
          />
        )}
        <div className="inline-flex h-7 overflow-hidden rounded-md border border-line bg-sheet">
          {['front', 'top', 'isometric'].map((v) => (
            <button
              key={v}
              type="button"
              onClick={() => go(v)}
              className="border-r border-hair px-2.5 text-[12.5px] hover:bg-white focus-visible:-outline-offset-2"
            >
              {views.find((x) => x.name === v)?.label}
            </button>
          ))}
          <Menu
            label="More views"
            actions={views
              .filter((v) => !['front', 'top', 'isometric'].includes(v.name))
              .map((v) => ({ text: v.label, run: () => go(v.name) }))}
          >
            <button
              type="button"
              aria-label="More views"
              title="More views"
              className="px-2.5 text-[12.5px] hover:bg-white focus-visible:-outline-offset-2"
            >
              …
            </button>
          </Menu>
        </div>
        <IconButton
          label={parallel ? 'See in perspective' : 'Parallel projection, as in a drawing'}
          keys="V"
          aria-pressed={parallel}
          className="aria-pressed:bg-ink aria-pressed:text-sheet"
          onClick={() => stage.current?.eyes.setParallel(!parallel)}
        >
          <Axis3d size={15} />
        </IconButton>
        <IconButton
          label="Frame the pick"
          disabled={selection.nodes.length === 0}
          onClick={() => stage.current && fitView(stage.current, null, selection.nodes)}
        >
          <Scan size={15} />
        </IconButton>
        <div className="grow" />
        {doc && !rest && <ShapeChoice doc={doc} shape={shape} />}
      </div>
      <div ref={hold} className="relative mx-3.5 mb-3.5 min-h-0 grow">
        <div
          ref={frame}
          data-eye={eye}
          onFocus={(e) => e.target.id === 'stage' && !rest && setSays(describe())}
          onKeyDown={steer}
          className="absolute top-1/2 left-1/2 -translate-x-1/2 -translate-y-1/2 border border-ink bg-sheet-2"
          style={{ width: size.width, height: size.height }}
        >
          <p id="stage-says" className="sr-only" role="status">
            {says}
          </p>
          {!rest && <div className="pointer-events-none absolute inset-[5%] border border-dashed border-ink/15" />}
          {monitor && eye === 'mine' && ready && <MonitorLabel aspect={aspect} width={monitorWidth(size.width)} />}
          {!rest && ready && <Notes own={eye === 'mine'} />}
          {eye === 'shot' && ready && <Words />}
          {!rest && ready && monitor && eye === 'mine' && <CueArrow />}
          {children}
          {!ready && (
            <div
              className="absolute inset-0 grid place-items-center p-10 text-center text-ink-2"
              role={problem ? 'alert' : 'status'}
            >
              {problem ?? 'Setting up the stage…'}
            </div>
          )}
        </div>
      </div>
    </div>
  )
}

function fitView(stage: Stage, view: string | null, nodes: string[]) {
  const orientation =
    view === null
      ? stage.eyes.orientation()
      : useSession
          .getState()
          .core!.ask('views')
          .find((v) => v.name === view)!.orientation
  const camera = framed(nodes, stage.eyes.isParallel(), orientation)
  if (camera) stage.eyes.lookFrom(camera)
}

// ShapeChoice shows the frame in the shapes that outputs have.
function ShapeChoice({ doc, shape }: { doc: RevealDocument; shape: FrameShape | null }) {
  const own = `${doc.frame.width} × ${doc.frame.height} · ${doc.frame.rate}`
  return (
    <Select
      label="Shape of the frame"
      value={shape ? nameOf(shape) : 'own'}
      className="mono !bg-sheet !text-[11.5px] whitespace-nowrap"
      onChange={(v) => show(shapes.find((s) => nameOf(s) === v) ?? null)}
      options={[{ value: 'own', text: own }, ...others(doc).map((s) => ({ value: nameOf(s), text: nameOf(s) }))]}
    />
  )
}

function MonitorLabel({ aspect, width }: { aspect: number; width: number }) {
  if (width === 0) return null
  return (
    <div
      className="pointer-events-none absolute border border-ink"
      style={{ right: 12, bottom: 12, width, height: Math.round(width / aspect) }}
    >
      <span
        title="The shot at the playhead"
        className="absolute top-0 left-0 max-w-full truncate bg-sheet/85 px-1 text-[10.5px] leading-4 text-ink-2"
      >
        The shot at the playhead
      </span>
    </div>
  )
}
