import type { ReactNode } from 'react'

const paths: Record<string, ReactNode> = {
  pull: <path d="M2 8h10M8.5 4.5 12 8l-3.5 3.5" />,
  turn: <path d="M12.5 6.5A5 5 0 1 0 13 9M13 3v3.8H9.2" />,
  unscrew: <path d="M3 12.5 13 10M3 9.2l10-2.5M3 5.9l10-2.5" />,
  unscrewOut: <path d="M2 12.5 10 10.5M2 9.4l8-2M2 6.2l8-2M13 13V3.5M11 5.5l2-2 2 2" />,
  hide: (
    <>
      <path d="M3 3h10v10H3z" strokeDasharray="2.2 1.6" />
      <path d="m6 6 4 4M10 6l-4 4" />
    </>
  ),
  fade: (
    <>
      <path d="M3 3h10v10H3z" strokeDasharray="2.2 1.6" />
      <path d="M6 8h4" />
    </>
  ),
  shot: (
    <>
      <path d="M2 4.5h8v7H2z" />
      <path d="m10 8 4-2.5v5z" />
    </>
  ),
  tint: (
    <>
      <path d="M8 2.5c2.6 3 3.9 5.1 3.9 7a3.9 3.9 0 0 1-7.8 0c0-1.9 1.3-4 3.9-7z" />
      <path d="M8 11.2a1.8 1.8 0 0 0 1.8-1.8" />
    </>
  ),
  orbit: (
    <>
      <ellipse cx="8" cy="8.5" rx="6" ry="2.6" />
      <circle cx="8" cy="5.5" r="2" />
    </>
  ),
  route: <path d="M2.5 13V7.5A2.5 2.5 0 0 1 5 5h8M9.8 2 13 5l-3.2 3" />,
  surface: (
    <>
      <path d="M8 2.5 13 5.3v5.4L8 13.5l-5-2.8V5.3z" />
      <path d="m3 5.3 5 2.9 5-2.9M8 8.2v5.3" strokeDasharray="1.8 1.5" />
    </>
  ),
  card: (
    <>
      <path d="M2 3.5h12v9H2z" />
      <path d="M5 7h6M6.5 9.5h3" />
    </>
  ),
  note: (
    <>
      <path d="M3 3h10v7H8l-3 3v-3H3z" />
    </>
  ),
  arrow: <path d="M2.5 11.5A6.5 6.5 0 0 1 12.5 5M9 4.2l3.7.6-.3 3.8" />,
  drive: (
    <>
      <circle cx="8" cy="8" r="2" />
      <path d="M8 2.2v2M8 11.8v2M2.2 8h2M11.8 8h2M3.9 3.9l1.4 1.4M10.7 10.7l1.4 1.4M12.1 3.9l-1.4 1.4M5.3 10.7l-1.4 1.4" />
    </>
  ),
}

const joints: Record<string, ReactNode> = {
  revolute: <path d="M8 5.6a2.4 2.4 0 1 0 0 4.8 2.4 2.4 0 0 0 0-4.8M13 8a5 5 0 1 1-2-4M11.4 1.6 11 4.2l-2.6-.4" />,
  prismatic: <path d="M2.5 4.5h11M2.5 11.5h11M4 8h8M6 6.2 4 8l2 1.8M10 6.2 12 8l-2 1.8" />,
  helical: <path d="M3 12.5 13 10M3 9.2l10-2.5M3 5.9l10-2.5" />,
  cylindrical: <path d="M4 5.5h8v5H4zM1.5 8H4M12 8h2.5M6 13.5h4M6 2.5h4" />,
  planar: <path d="M2 12h12M8 3v6M5 6h6M3.5 9.5h9" />,
  ball: <path d="M8 4a4 4 0 1 0 0 8 4 4 0 0 0 0-8M2.5 8A5.5 5.5 0 0 0 8 13.5" />,
  universal: <path d="M3 3v10M3 5h10M3 11h10M13 5v6M8 2v12" />,
  fixed: <path d="M3 4.5h10M8 4.5v7M3 11.5h10M3 11.5l-1 2M6.5 11.5l-1 2M10 11.5l-1 2M13 11.5l-1 2" />,
  gear: <path d="M6 3.2a3 3 0 1 0 0 6 3 3 0 0 0 0-6M11.2 8.4a2.2 2.2 0 1 0 0 4.4 2.2 2.2 0 0 0 0-4.4" />,
}

// JointGlyph is the mark of a joint's kind.
export const JointGlyph = ({ kind, size = 14 }: { kind: string; size?: number }) => (
  <Sign size={size}>{joints[kind]}</Sign>
)

// Glyph is the mark of a cue's kind, so that kinds are told apart without colour.
export const Glyph = ({ kind, size = 14 }: { kind: string; size?: number }) => <Sign size={size}>{paths[kind]}</Sign>

function Sign({ size, children }: { size: number; children: ReactNode }) {
  return (
    <svg
      className="shrink-0"
      width={size}
      height={size}
      viewBox="0 0 16 16"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.5"
      strokeLinecap="round"
      strokeLinejoin="round"
      aria-hidden
    >
      {children}
    </svg>
  )
}

export const kindNames: Record<string, string> = {
  pull: 'Pull',
  turn: 'Turn',
  unscrew: 'Unscrew',
  fade: 'Fade',
  tint: 'Tint',
  note: 'Note',
  route: 'Route',
  surface: 'Display style',
  card: 'Title card',
  shot: 'Shot',
  orbit: 'Orbit',
  drive: 'Drive',
  arrow: 'Motion arrow',
}

export const tint = (step: number) => `var(--step-${(step % 5) + 1})`
