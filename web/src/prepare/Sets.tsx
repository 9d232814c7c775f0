import { Trash2 } from 'lucide-react'
import { useSession } from '../session/session'
import { IconButton } from '../ui/controls'

// Sets lists the part sets: those kept by hand, and those that the shapes offer.
export function Sets() {
  const own = useSession((s) => s.arrangement?.sets)
  const survey = useSession((s) => s.survey)
  const { select, arrange } = useSession.getState()
  return (
    <>
      {own?.map((set) => (
        <div key={set.id} className="group flex items-center">
          <Row name={set.name} count={set.nodes.length} onClick={() => select({ nodes: set.nodes })} />
          <IconButton
            label={`Remove the set ${set.name}`}
            className="opacity-0 group-hover:opacity-100 focus-visible:opacity-100"
            onClick={() => void arrange({ do: 'removeSet', setId: set.id })}
          >
            <Trash2 size={13} />
          </IconButton>
        </div>
      ))}
      {own?.length === 0 && (
        <p className="px-1 pb-1 text-[12.5px] text-ink-2">
          Pick parts and keep them as a set: it can be picked and moved as one.
        </p>
      )}
      <h2 className="mt-2 mb-0.5 px-1 text-[12px] text-ink-2">Found by their shapes</h2>
      {survey === null && (
        <p role="status" className="px-1 text-[12.5px] text-ink-2">
          The parts are being looked at…
        </p>
      )}
      {survey?.ready.length === 0 && (
        <p className="px-1 text-[12.5px] text-ink-2">No screw, nut, washer, pin or bearing was recognised.</p>
      )}
      {survey?.ready.map((set) => (
        <Row
          key={set.name}
          name={set.name}
          count={set.nodes.length}
          sure={set.confidence}
          onClick={() => select({ nodes: set.nodes })}
        />
      ))}
    </>
  )
}

function Row({ name, count, sure, onClick }: { name: string; count: number; sure?: number; onClick(): void }) {
  return (
    <button
      type="button"
      onClick={onClick}
      className="flex h-[25px] w-full min-w-0 items-center gap-2 rounded-[3px] px-1 text-left hover:bg-sheet-2"
    >
      <span className="grow truncate">{name}</span>
      {sure !== undefined && <span className="shrink-0 text-[11.5px] text-advice">{Math.round(sure * 100)} %</span>}
      <span className="mono w-7 shrink-0 text-right text-[11.5px] text-ink-3">{count}</span>
    </button>
  )
}
