// When the contact shadow is found. Where finding it takes long, it follows some pictures later while the moment changes
// quickly.
const slow = 2 // ms: what takes longer waits
const apart = 120 // ms: between one that was slow and the next, while the moment changes quickly
const rest = 150 // ms after the last change, until the one that was left out follows

export class Shading {
  private found = { at: 0, took: 0 } // ms: when it was found last, and in what time
  private timer: ReturnType<typeof setTimeout> | undefined
  /** Whether the shadow that lies on the stage is that of an earlier moment. */
  late = false

  // lay finds and lays the shadow of what is shown now; again has a picture drawn in which that is made up for.
  constructor(
    private readonly lay: () => void,
    private readonly again: () => void,
  ) {}

  // follow lays the shadow of the moment that has just been shown, or sees to it that it follows.
  follow(quickly: boolean) {
    const begun = performance.now()
    this.late = quickly && this.found.took > slow && begun - this.found.at < apart
    if (this.late) {
      clearTimeout(this.timer)
      this.timer = setTimeout(this.again, rest)
      return
    }
    this.lay()
    this.found = { at: begun, took: performance.now() - begun }
  }

  stop() {
    clearTimeout(this.timer)
  }
}
