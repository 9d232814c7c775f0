// Made by “make generate” from the types of core/editor.
import type { Schemas } from '../api/client'

export type Vec3 = [number, number, number]

/** What can be asked, with what, and what the answer is. */
export interface Queries {
  prose: { with: Text; answer: Block[] }
  field: { with: Lens; answer: [number, number] }
  strips: { with: Screen; answer: Strips }
  look: { with: null; answer: Schemas['Look'] }
  noise: { with: null; answer: string }
  lettering: { with: null; answer: Lettering }
  signals: { with: null; answer: Record<'DANGER' | 'WARNING' | 'CAUTION' | 'NOTICE', Sign> }
  views: { with: null; answer: Schemas['View'][] }
  bounds: { with: null; answer: [Vec3, Vec3] }
  fit: { with: Framed; answer: Schemas['Camera'] }
  joints: { with: null; answer: JointsNow }
  shadow: { with: null; answer: Floor }
  timecode: { with: Moment; answer: string }
  notes: { with: Noted; answer: Note[] }
  quantity: { with: Typed; answer: number }
  adjust: { with: Typed; answer: number[] }
  plain: { with: Text; answer: string }
  easing: { with: Eased; answer: [number, number, number, number] }
  frames: { with: Counted; answer: number }
  drag: { with: Dragged; answer: number }
  finishes: { with: null; answer: Schemas['Finish'][] }
  threads: { with: null; answer: Thread[] }
  mechanismWords: { with: null; answer: MechanismWords }
  hazards: { with: null; answer: HazardWords[] }
  jointAs: { with: AlteredJoint; answer: Schemas['Joint'] }
  ties: { with: OneJoint; answer: Tie[] }
  newCoupling: { with: NewCoupling; answer: Schemas['Coupling'] }
  ends: { with: null; answer: number[] }
  between: { with: Pair; answer: Relation }
  edgeAt: { with: NearEdge; answer: number }
  pick: { with: PickBy; answer: string[] }
  ways: { with: Picked; answer: Ways }
  reference: { with: Referred; answer: Offered[] }
  differences: { with: null; answer: Differences }
  newJoint: { with: NewJoint; answer: Schemas['Joint'] }
  axes: { with: OfBody; answer: AxisOffer[] }
  follow: { with: Grabbed; answer: Followed }
  local: { with: OfNode; answer: Vec3 }
  compose: { with: Schemas['Operation']; answer: Composed }
  planned: { with: Planned; answer: Written }
  snap: { with: Moment; answer: number }
  stepFrames: { with: Stepped; answer: number }
  digest: { with: Moment; answer: string }
  place: { with: Moment; answer: Place }
  reach: { with: Reached; answer: Reach | null }
  caption: { with: Moment; answer: Said }
  captions: { with: null; answer: Schemas['Captions'] }
  cards: { with: Moment; answer: Card[] }
  posed: { with: Posed; answer: Schemas['NodePose'][] }
  driven: { with: OfJoint; answer: Driven }
  round: { with: null; answer: Round | null }
  strip: { with: Moment; answer: Strip }
  draft: { with: null; answer: Schemas['Frame'] }
  leaving: { with: OfCue; answer: Leaving }
  drivenNodes: { with: null; answer: string[] }
  threadGuessed: { with: OfCue; answer: boolean }
}

/** How the numbers lie in the module's memory. */
export const layout = {
  "matrix": 16,
  "tint": 4,
  "surface": 3,
  "flow": 6,
  "shadow": 96,
  "camera": {
    "distance": 7,
    "field": 11,
    "focalLength": 8,
    "numbers": 14,
    "orientation": 3,
    "orthographic": 13,
    "step": 9,
    "target": 0,
    "time": 10
  }
} as const

export interface AlteredJoint {
  joint: Schemas['Joint']
  kind?: string
  body?: string
  limited?: boolean
  reversed?: boolean
}

export interface AxisOffer {
  axis: Vec3
  point: Vec3
  text: string
  direction?: boolean
}

export interface Block {
  item?: boolean
  runs: Run[]
}

export interface Card {
  title: string
  text?: string
  clear?: boolean
  opacity: number
}

export interface Changed {
  index: number
  step: Schemas['Step']
  span: Schemas['Span']
}

export interface Composed {
  command: Schemas['Command']
  made?: string[]
  step?: string
  moves?: boolean
  marked?: string
  marker?: number
  beside?: boolean
  off?: number
}

export interface Counted {
  time: number
  rate: number
}

export interface CouplingKindWords {
  kind: string
  name: string
  slides: boolean
  turns: boolean
}

export interface Difference {
  node: string
  in: boolean[]
}

export interface Differences {
  fewer: number[]
  rows: Difference[]
}

export interface Dragged {
  point: Vec3
  along: Vec3
  ray: [Vec3, Vec3]
}

export interface Dressed {
  variant: string
  absent: string[]
  finishes: Schemas['Finish'][]
  nodes: Schemas['Node'][]
}

export interface Driven {
  values: number[]
  speeds: number[]
  accelerations: number[]
  problems: Problem[]
  ends: End[]
  loop?: Loop
}

export interface Eased {
  easing: Schemas['Cue']['easing']
}

export interface End {
  joint: string
  value: number
  beyond: boolean
  at: string
}

export interface Floor {
  centre: Vec3
  side: number
}

export interface Followed {
  joint: string
  value: number
}

export interface Framed {
  nodes: string[]
  from: Schemas['Camera']
  aspect: number
  margin: number
}

export interface Grabbed {
  joint?: string
  value: number
  node: string
  at: Vec3
  ray: [Vec3, Vec3]
}

export interface HazardWords {
  hazard: string
  name: string
  signal: 'DANGER' | 'WARNING' | 'CAUTION' | 'NOTICE'
}

export interface JointKindWords {
  kind: string
  name: string
  does: string
  slides: boolean
  driven: boolean
}

export interface JointNow {
  id: string
  value: number
  low: number
  high: number
  driven: boolean
  slides: boolean
  axis: [Vec3, Vec3]
}

export interface JointsNow {
  joints: JointNow[]
  problems: Problem[]
  ends: End[]
}

export interface KnownThread {
  size: string
  along: Vec3
  pivot: Vec3
  lead: number
  turns: number
  confidence: number
}

export interface Leaving {
  inChain: boolean
  stopped: string[]
}

export interface Lens {
  focalLength: number
  aspect: number
}

export interface Lettering {
  title: number
  titleLead: number
  text: number
  textLead: number
  column: number
  safe: number
  cardTitle: number
  cardText: number
  cardAt: number
  cardColumn: number
  backing: number
  backingAlpha: number
  tools: number
  toolsLead: number
  note: number
  noteLead: number
  noteAside: number
  noteAbove: number
  noteAlpha: number
  noteDot: number
  noteSlack: number
  noteSlackOf: number
  lines: number
}

export interface Loop {
  turns: number
  takes?: number
  by?: number
}

export interface MechanismWords {
  joints: JointKindWords[]
  couplings: CouplingKindWords[]
}

export interface Moment {
  time: number
}

export interface Moved {
  index: number
  bar: Schemas['Bar']
}

export interface NearEdge {
  node: string
  lines: Schemas['Feature'][]
  point: Vec3
  distance: number
}

export interface NewCoupling {
  id: string
  joint: string
  by: string
  kind: string
  own: number
  other: number
  ratio: number
  inner: boolean
  table: string
}

export interface NewJoint {
  nodes: string[]
  id: string
}

export interface Note {
  lines: string[]
  anchorX: number
  anchorY: number
  x: number
  y: number
  width: number
  height: number
  opacity: number
  at: Vec3
  node: string
  hidden?: boolean
}

export interface Noted {
  time: number
  camera?: Schemas['Camera']
}

export interface OfBody {
  body: string
  features: Placed[]
}

export interface OfCue {
  cue: string
}

export interface OfJoint {
  joint: string
  from: number
  to: number
  count: number
  cue?: string
}

export interface OfNode {
  node: string
  point: Vec3
}

export interface Offered {
  axes: 'own' | 'parent' | 'assembly' | 'reference'
  along: Vec3
  of?: string
  pivot?: Vec3
  id: string
  opposite: string
  label: string
  world: Vec3
  usual?: boolean
}

export interface OneJoint {
  joint: string
}

export interface Pair {
  a: Placed
  b: Placed
}

export interface PickBy {
  rule: 'like' | 'fasteners' | 'neighbours' | 'inside'
  nodes: string[]
}

export interface Picked {
  nodes: string[]
}

export interface Place {
  step: number
  offset: number
}

export interface Placed {
  node: string
  feature?: Schemas['Feature']
}

export interface Planned {
  plan: Schemas['Plan'] | null
  time: number
  writing: Writing
}

export interface Posed {
  nodes: string[]
  time: number
}

export interface Problem {
  of: string
  text: string
  joint: boolean
}

export interface Reach {
  from: Vec3
  to: Vec3
}

export interface Reached {
  cue: string
  time: number
}

export interface Referred {
  by: Placed
  nodes: string[]
}

export interface Relation {
  distance: number
  degrees: number
  meet: boolean
  from: Vec3
  to: Vec3
}

export interface Round {
  takes: number
  whole: boolean
}

export interface Run {
  text: string
  strong?: boolean
  emphasis?: boolean
}

export interface Said {
  step: number
  opacity: number
}

export interface Screen {
  lines: number
  ratio: number
}

export interface Sign {
  panel: Vec3
  letters: Vec3
  alert?: boolean
}

export interface State {
  reveal?: Schemas['Reveal']
  schedule?: Schemas['Schedule']
  bars?: Moved[]
  steps?: Changed[]
  inverse?: Schemas['Command']
  command?: Schemas['Command']
  grown?: number[]
  dressed?: Dressed
}

export interface Stepped {
  time: number
  frames: number
}

export interface Strip {
  count: number
  from: number
  over: number
}

export interface Strips {
  edge: number
  contour: number
  pull: number
}

export interface Text {
  text: string
}

export interface Thread {
  name: string
  diameter: number
  lead: number
}

export interface Tie {
  coupling: string
  other: string
  says: string
}

export interface Typed {
  kind: 'length' | 'angle' | 'time' | 'percent' | 'plain'
  text: string
  values?: number[]
}

export interface Ways {
  ways: Offered[]
  centre: Vec3
  pivot: Vec3
  distance: number
  thread?: KnownThread
  joint?: string
}

export interface Writing {
  moves?: number[]
  fineness?: 'each' | 'usual' | 'few'
  join?: string[]
  split?: string[]
  pace?: number
  noShots?: boolean
  noFlow?: boolean
  allAtOnce?: string
  duration?: number
  fresh: string
}

export interface Written {
  command: Schemas['Command']
  steps: number[][]
}
