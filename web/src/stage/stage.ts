import type { Assembly } from '../api/client'
import type { Core, Vec3 } from '../core/core'
import type { Shape } from './geometry'
import { Scene } from './scene'
import { Eyes, type Eye, type Spot } from './eyes'
import { Finder, type Hit } from './finder'
import { Painter, unmarked, type Marks } from './painter'
import { listen } from './pointer'
import { Shading } from './shading'
import type { Section } from './view'

export interface StageEvents {
  pick(hit: Hit | null, add: boolean, refer: boolean): void
  hover(node: string | null): void
  // menu asks for what fits the thing under the pointer.
  menu(hit: Hit | null, at: Spot): void
  // looked says that the author's own eye has moved.
  looked(): void
  // moved says that the stage has its parts where another moment has them.
  moved(): void
  eye(eye: Eye): void
}

const nothing: ReadonlySet<string> = new Set()
const margin = 12
const slow = 250 // ms: pictures that take longer are coarse while the moment or the view is changing

/** monitorWidth is how wide the small picture of the shot is on a stage, in pixels; on a small one there is none. */
export const monitorWidth = (stage: number) => (stage < 440 ? 0 : Math.round(Math.min(168, 0.26 * stage)))

// Stage draws the assembly, from the author's own eye or through the shot, and
// the frame monitor in its corner. It lives outside React: it draws only when
// something has changed.
export class Stage {
  private readonly painter: Painter
  // What is drawn: nothing while another assembly is being fetched.
  private scene: Scene | null = null
  private readonly behind: Scene[] = [] // of before, until this one is drawn
  readonly eyes: Eyes
  readonly finder: Finder
  private compiled = false // the scene's shaders
  private dirty = true
  private blank = true // nothing has been drawn yet
  private begins = false // the first picture took long: the edges that are near come before the others
  private stale = true // the poses must be taken from the core anew
  private version = -1 // of the frame that is shown
  private time: number | null = 0 // µs; null: at rest, without a reveal
  private marks: Marks = unmarked
  private monitor = true
  private alive = false // it stands in the page
  /** How often it has drawn. */
  draws = 0
  // Where a picture takes long, the moment and the view change by coarse ones; the fine one follows when they rest.
  private took = 0 // ms until the last fine picture was on the screen
  private hasty = false // many such changes may follow
  private owed = false // a fine picture
  private watchLate = false // the small picture of the shot is of another moment
  private rested: ReturnType<typeof setTimeout> | undefined
  private readonly shading = new Shading(
    () => this.scene?.shade(this.core.dark()),
    () => this.touch(),
  )
  // Where a picture takes long, parts darken each other once it has been looked at for some seconds.
  private looked: ReturnType<typeof setTimeout> | undefined
  private deep = false
  private readonly deaf: () => void
  private events: StageEvents | null = null // of the place in the page where it stands

  private hidden: ReadonlySet<string> = nothing
  private section: Section | null = null
  private measured: [Vec3, Vec3] | null = null
  private occludes = true

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly core: Core,
  ) {
    this.painter = new Painter(canvas, core)
    canvas.dataset.drawn = 'false'
    this.eyes = new Eyes(canvas, core, {
      moved: () => {
        this.hasty = true
        this.seenOtherwise()
      },
      changed: () => this.seenOtherwise(),
      left: () => this.events?.eye('mine'),
    })
    this.finder = new Finder(
      canvas,
      this.eyes,
      () => this.scene,
      () => this.now(),
    )
    this.deaf = listen(canvas, {
      pick: (e) => this.events?.pick(this.finder.under(e), e.ctrlKey || e.shiftKey || e.metaKey, e.altKey),
      menu: (e) => this.events?.menu(this.finder.under(e), e),
      over: (e) => this.events?.hover(e && (this.finder.under(e)?.node ?? null)),
    })
  }

  // enter lets it stand in a place of the page, which hears what happens on it.
  enter(events: StageEvents) {
    this.events = events
    this.canvas.dataset.drawn = 'false'
    this.touch()
    if (this.alive) return
    this.alive = true
    this.loop()
  }

  // leave takes it out of the page: nothing is drawn until it comes back.
  leave() {
    this.alive = false
    this.events = null
    clearTimeout(this.rested)
    clearTimeout(this.looked)
    this.shading.stop()
  }

  // lay puts an assembly on the stage, in the place of what was there. The eye, what is picked, hidden or
  // cut stay: an edit of the assembly changes what it changes.
  lay(assembly: Assembly, shapes: Shape[]) {
    const before = this.scene
    this.take()
    const [low, high] = this.core.ask('bounds')
    const size = Math.max(Math.hypot(high[0] - low[0], high[1] - low[1], high[2] - low[2]), 1e-3)
    this.scene = new Scene(
      assembly,
      shapes,
      this.core.ask('look'),
      this.core.ask('noise'),
      this.core.ask('shadow'),
      size,
      (lines, ratio) => this.core.ask('strips', { lines, ratio }),
    )
    this.scene.hide(this.hidden)
    this.scene.cut(this.section)
    this.scene.ruler.measure(this.measured)
    this.scene.occludes = this.occludes
    this.eyes.setSize(size)
    this.version = -1
    this.stale = true
    this.touch()
    if (before) this.behind.push(before)
    if (before && this.compiled) return // its shaders are there
    const scene = this.scene
    const ready = () => {
      if (this.scene === scene) this.compiled = true
    }
    this.compiled = false
    this.painter.compile(scene, this.eyes.own).then(ready, ready) // else the first picture waits for them itself
  }

  // clear takes everything off the stage; its last picture stays until there is another one.
  clear() {
    this.leaveBehind()
    this.scene?.dispose()
    this.take()
  }

  // leaveBehind gives back scenes in whose place another one has been drawn: what both have, shaders most of all, need not
  // be made again.
  private leaveBehind() {
    for (const scene of this.behind.splice(0)) scene.dispose(this.scene ?? undefined)
  }

  private take() {
    this.scene = null
    this.painter.forget()
    this.canvas.dataset.drawn = 'false'
  }

  width(): number {
    return this.painter.size().x
  }

  // place says where a point of the world is seen, in pixels of the canvas; null behind the eye.
  place(p: Vec3): [number, number] | null {
    return this.eyes.place(p, this.painter.size())
  }

  // pickBehind picks the next part behind the one that is picked.
  pickBehind() {
    const next = this.finder.behind(this.marks.picked)
    if (next) this.events?.pick(next, false, false)
  }

  // pickAt picks what lies at a place of the page.
  pickAt(e: Spot, add: boolean) {
    this.events?.pick(this.finder.at(e), add, false)
  }

  resize(width: number, height: number) {
    this.painter.resize(width, height)
    this.touch()
  }

  private now() {
    return this.time === null ? this.core.atRest() : this.core.at(this.time)
  }

  touch() {
    this.dirty = true
  }

  setAspect(aspect: number) {
    this.eyes.setAspect(aspect)
    this.touch()
  }

  setTime(time: number | null) {
    this.hasty ||= time !== this.time
    this.time = time
    this.stale = true
  }

  setMarks(picked: ReadonlySet<string>, over: string | null, touched: ReadonlySet<string>) {
    this.marks = { picked, over, touched }
    this.touch()
  }

  setHidden(nodes: readonly string[]) {
    this.hidden = new Set(nodes)
    this.scene?.hide(this.hidden)
    this.stale = true
    this.touch()
  }

  setSection(s: Section | null) {
    this.section = s
    this.scene?.cut(s)
    this.stale = true
    this.touch()
  }

  setMeasured(line: [Vec3, Vec3] | null) {
    this.measured = line
    this.scene?.ruler.measure(line)
    this.touch()
  }

  // setOccludes says whether parts darken each other where they come near.
  setOccludes(on: boolean) {
    this.occludes = on
    if (this.scene) this.scene.occludes = on
    this.touch()
  }

  setEye(eye: Eye) {
    this.eyes.open = eye
    this.touch()
  }

  setMonitor(on: boolean) {
    this.monitor = on
    this.touch()
  }

  private seenOtherwise() {
    this.events?.looked()
    this.touch()
  }

  private loop = () => {
    if (!this.alive) return
    requestAnimationFrame(this.loop)
    if (this.dirty || this.stale) this.draw()
  }

  private draw() {
    const scene = this.scene
    if (!scene || !this.compiled) return
    const begun = performance.now()
    const size = this.painter.size()
    if (size.x === 0 || size.y === 0) return
    let computed = begun
    let fresh = false
    if (this.stale) {
      // looking around moves no part
      const f = this.now()
      this.stale = false
      if (f.version === this.version && !this.dirty) {
        // another time, or document, with the same picture
        this.hasty = false
        return
      }
      this.version = f.version
      computed = performance.now()
      scene.show(f)
      this.events?.moved()
      this.shading.follow(this.hasty)
      this.eyes.direct(f)
      fresh = true
      this.deep = false // what was looked at is another picture now
      clearTimeout(this.looked)
    }
    if (this.shading.late && !this.hasty) {
      this.now()
      this.shading.follow(false)
    }
    this.dirty = false
    const shown = performance.now()
    const deep = this.deep && !fresh // it only adds how parts darken each other
    const hasty = this.hasty
    this.hasty = false
    const coarse = hasty && this.took > slow && !this.blank
    this.owed = coarse
    // The very first picture comes without edges, so that a large assembly is seen
    // sooner; they follow with the next ones, the near ones first where that takes long.
    const begins = this.begins && !coarse
    this.begins = false
    if (begins) scene.showEdges(0.25, this.eyes.sight().camera.position)
    else scene.showEdges(this.blank || coarse ? 0 : 1)
    if (coarse) this.painter.sketch(scene, this.eyes.sight(), this.marks)
    else this.paint(scene)
    const w = monitorWidth(size.x)
    if (this.eyes.open === 'mine' && this.monitor && w > 0) {
      const at = { x: size.x - w - margin, y: margin, w, h: Math.round(w / this.eyes.shape) }
      this.watchLate ||= fresh
      const anew = this.watchLate && !coarse // while the moment changes quickly, its last picture stays
      this.painter.watch(scene, this.eyes.shotSight(), at, anew, (draw) => this.withAll(scene, draw))
      if (anew) this.watchLate = this.blank // without edges it is not yet as it should be
    }
    this.leaveBehind()
    if (coarse) return this.followUp(begun)
    // What the core and our own script take, and what the drawing calls do: these
    // wait for the picture where there is no GPU.
    this.draws++
    const drawn = performance.now()
    const draws = this.draws
    if (this.blank)
      this.painter.onScreen(
        () => this.alive && this.blank,
        () => this.complete(performance.now() - begun),
      )
    else if (begins) {
      this.canvas.dataset.drawn = 'false'
      this.painter.onScreen(
        () => this.alive && this.draws === draws,
        () => {
          performance.mark('near edges')
          this.touch()
        },
      )
    } else {
      this.canvas.dataset.drawn = String(!this.shading.late)
      this.painter.onScreen(
        () => this.alive && this.draws === draws,
        () => {
          this.took = performance.now() - begun
          performance.mark('fine', { detail: this.took })
        },
      )
    }
    performance.mark('stage', {
      detail: { core: computed - begun, scene: shown - computed, draw: drawn - shown, deep },
    })
    if (performance.getEntriesByName('stage').length > 200) performance.clearMarks('stage')
  }

  private paint(scene: Scene) {
    const late = this.took > slow && !this.deep
    this.deep = false
    clearTimeout(this.looked)
    if (late)
      this.looked = setTimeout(() => {
        this.deep = true
        this.touch()
      }, 2500)
    this.painter.whole(scene, this.eyes.sight(), this.marks, !this.blank && !late)
    this.canvas.dataset.occluded = String(!this.blank && !late)
  }

  // withAll draws what the author has put out of sight too: it is in the film all the same.
  private withAll(scene: Scene, draw: () => void) {
    const lay = (hidden: ReadonlySet<string>) => {
      scene.hide(hidden)
      scene.show(this.now())
    }
    if (this.hidden.size > 0) lay(nothing)
    draw()
    if (this.hidden.size > 0) lay(this.hidden)
  }

  // followUp has the fine picture drawn when a coarse one has been seen and nothing has changed for a moment.
  private followUp(begun: number) {
    this.draws++
    this.canvas.dataset.drawn = 'false'
    clearTimeout(this.rested)
    const draws = this.draws
    this.painter.onScreen(
      () => this.alive && this.draws === draws,
      () => {
        performance.mark('sketch', { detail: performance.now() - begun })
        this.rested = setTimeout(() => this.touch(), 180)
      },
    )
  }

  // complete follows when the first picture is on the screen: now the edges come.
  private complete(took: number) {
    this.blank = false
    this.begins = took > 4 * slow
    performance.mark('first picture')
    this.touch()
  }

  /** Draws finely now what waits to be. */
  refine() {
    if (this.owed) this.touch()
  }

  /** Whether what is drawn is what there is to draw. */
  atRest() {
    return (
      this.scene !== null &&
      !this.owed &&
      !this.shading.late &&
      !this.dirty &&
      !this.stale &&
      !this.blank &&
      this.canvas.dataset.drawn === 'true'
    )
  }

  /** Which eye looks at what, as the stage has drawn it last. */
  shows() {
    return {
      time: this.time,
      eye: this.eyes.open,
      camera: this.eyes.present(),
      hidden: [...this.hidden],
      cut: this.section !== null,
    }
  }

  // portrait draws what stands on the stage once more, by itself: without marks and without the monitor.
  portrait(width: number) {
    return this.scene && this.painter.size().x > 0 ? this.painter.portrait(this.scene, this.eyes.sight(), width) : null
  }

  dispose() {
    this.leave()
    this.deaf()
    this.eyes.dispose()
    this.clear()
    this.painter.dispose()
  }
}
