import type { MoveKind } from './actions'

/** What can be done with picked parts, and the keys for it. */
export const moves: readonly { kind: MoveKind; text: string; tip: string; keys: string }[] = [
  { kind: 'pull', text: 'Pull', tip: 'Along the direction, so far', keys: 'P' },
  { kind: 'turn', text: 'Turn', tip: 'About the direction, by a quarter to begin with', keys: 'T' },
  { kind: 'unscrew', text: 'Unscrew', tip: 'By the lead of its thread', keys: 'U' },
  { kind: 'unscrewOut', text: 'Screw out', tip: 'Unscrew and straight out, one after the other', keys: 'Shift U' },
  { kind: 'route', text: 'Route', tip: 'Along a path', keys: 'W' },
  { kind: 'fade', text: 'Fade', tip: 'Softly, to be seen through', keys: 'F' },
  { kind: 'hide', text: 'Hide', tip: 'Hide instantly, from the playhead on', keys: 'Shift F' },
  { kind: 'tint', text: 'Tint', tip: 'In a colour, to point it out', keys: 'D' },
  { kind: 'surface', text: 'Display', tip: 'Display style: edges, see-through', keys: 'Y' },
  { kind: 'note', text: 'Note', tip: 'Words with a line to it', keys: 'N' },
]
