import { useQuery } from '@tanstack/react-query'
import { answer, api, type Schemas } from '../api/client'
import { useSession } from '../session/session'
import { asked } from '../session/variants'

export type Finding = Schemas['Finding']
export type Level = Finding['level']
export type Outcome = Schemas['Outcome']

const again = 350 // ms until it is asked again how far the server has come
const later = 5000 // ms, where it could not be told

/** useProof is what is wrong with the open reveal, as far as the server has looked: at once what can be told from the movements, with `all` also what has to be seen, and mends. */
export function useProof(all: boolean) {
  const revealId = useSession((s) => s.revealId)
  const pictured = useSession((s) => s.pictured) // the version, when it has rested for a while
  const arranged = useSession((s) => s.arrangement?.version ?? 0)
  const variant = useSession((s) => s.variant)
  const playing = useSession((s) => (s.schedule?.duration ?? 0) > 0)
  return useQuery<Schemas['ProofState']>({
    queryKey: ['proof', revealId, variant, pictured, arranged, all],
    enabled: revealId !== null && pictured >= 0 && playing,
    retry: false,
    staleTime: Infinity,
    placeholderData: (old, q) => (q?.queryKey[1] === revealId && q.queryKey[2] === variant ? old : undefined), // what is known of another version, not of another reveal or variant
    queryFn: ({ signal }) =>
      answer(
        api.GET('/api/reveals/{id}/proof', {
          params: { path: { id: revealId! }, query: { all, variant: asked(variant) } },
          signal,
        }),
      ),
    refetchInterval: (q) =>
      q.state.status === 'error'
        ? later
        : q.state.data && q.state.data.done === 1 && q.state.data.version >= pictured
          ? false
          : again,
  })
}

/** Those that nobody has accepted. */
export const openOnes = (o: Outcome | undefined, level?: Level): Finding[] =>
  o?.findings.filter((f) => !f.accepted && (!level || f.level === level)) ?? []

const called: Record<Level, [string, string]> = {
  fault: ['fault', 'faults'],
  warning: ['warning', 'warnings'],
  hint: ['hint', 'hints'],
}
export const levels: readonly Level[] = ['fault', 'warning', 'hint']

/** ofLevel says in words how many findings there are of one level. */
export const ofLevel = (n: number, l: Level) => `${n} ${called[l][n === 1 ? 0 : 1]}`

/** counted says how many there are of each level: "2 faults, 13 warnings and 1 hint". */
export function counted(o: Outcome | undefined): string {
  const parts = levels
    .map((l) => [l, openOnes(o, l).length] as const)
    .filter(([, n]) => n > 0)
    .map(([l, n]) => ofLevel(n, l))
  return parts.length < 2 ? (parts[0] ?? '') : `${parts.slice(0, -1).join(', ')} and ${parts[parts.length - 1]}`
}

/** Where the picture of a finding in a version is, as the parts are arranged; with a mend's number, as it would be after that. */
export const pictureOf = (
  reveal: string,
  variant: string,
  version: number,
  arranged: number,
  f: Finding,
  mend?: number,
) =>
  `/api/reveals/${reveal}/proof/${version}/${f.key}/picture?variant=${encodeURIComponent(asked(variant))}&arranged=${arranged}${mend === undefined ? '' : `&mend=${mend}`}`
