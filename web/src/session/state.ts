// What the session holds and can do.
import type { StateCreator } from 'zustand'
import type { Assembly, Bar, Command, Cue, Project, Report, RevealDocument, Schedule, Schemas } from '../api/client'
import type { Core } from '../core/core'
import type { Saving } from './outbox'

export interface Selection {
  nodes: string[]
  cues: string[]
  step: string | null
  opening: boolean
}

export const nothing: Selection = { nodes: [], cues: [], step: null, opening: false }

export interface ProjectSlice {
  core: Core | null
  project: Project | null
  /** The product with the parts of all its variants, and as the variant has it that is shown. */
  product: Assembly | null
  assembly: Assembly | null
  /** The variant that is shown; empty for the whole product. */
  variant: string
  /** The nodes that are not in it. */
  absent: ReadonlySet<string>
  report: Report | null
  fileName: string
  revisionId: string
  importId: string | null
  /** Where the shapes of the assembly are. */
  geometry: string
  arrangement: Schemas['Arrangement'] | null
  survey: Schemas['Survey'] | null
  reveals: Schemas['StoredReveal'][]
  openProject(id: string): Promise<void>
  addReveal(title: string): Promise<string>
  /** Adds a reveal from a document and says what of it did not fit. */
  bringReveal(document: unknown, title?: string): Promise<{ id: string; unmatched: string[] }>
  close(): void
  refreshReveals(): Promise<void>
  arrange(edit: Schemas['Edit']): Promise<boolean>
  undoArrange(): Promise<boolean>
  redoArrange(): Promise<boolean>
  refreshArranged(version?: number): Promise<void>
  /** Shows the product as a variant has it, or all of it; nothing of it is recorded. */
  showVariant(id: string): void
}

export interface DocumentSlice {
  revealId: string | null
  doc: RevealDocument | null
  schedule: Schedule | null
  undoTo: number
  redoTo: number
  saving: Saving
  /** What somebody else has just done. */
  news: string | null
  /** Bars as a hand holds them, by their cue. */
  held: ReadonlyMap<string, Bar>
  /** The version that pictures of steps are drawn of; it follows a little later. */
  pictured: number
  /** The marker whose name is being written. */
  renaming: { step: string; index: number } | null
  /** Counts previews, for what has to be drawn anew. */
  previews: number
  openReveal(id: string): Promise<void>
  /** Waits until everything that is on its way has reached the server; it rejects when it does not answer. */
  idle(): Promise<void>
  /** Makes the reveal what a named version of it was. */
  goBack(versionId: string): Promise<void>
  run(...commands: Command[]): boolean
  preview(command: Command): void
  settle(): void
  undo(): Promise<void>
  redo(): Promise<void>
  catchUp(version: number): Promise<void>
  leaveReveal(): void
  /** How many edits are on their way. */
  unsent(): number
}

export interface SelectionSlice {
  /** Nodes that are not looked at just now: of the view, never recorded. */
  hidden: string[]
  /** What was picked before a cue was selected. */
  lastPick: string[]
  /** The cues that were copied last; they outlive the selection, not the page. */
  copied: Cue[]
  message: string | null
  /** The message leaves by itself: it tells of nothing wrong. */
  passing: boolean
  /** What a message offers to do. */
  offer: { text: string; run(): void } | null
  selection: Selection
  hover: string | null
  hide(nodes: string[]): void
  select(s: Partial<Selection>): void
  pickNode(id: string, add: boolean): void
  setHover(id: string | null): void
  tell(message: string | null, offer?: { text: string; run(): void }): void
  /** Tells something that is in order: it leaves by itself. */
  inform(message: string, offer?: { text: string; run(): void }): void
}

export type Session = ProjectSlice & DocumentSlice & SelectionSlice

/** A part of the session, which sees the whole of it. */
export type Part<T> = StateCreator<Session, [], [], T>
