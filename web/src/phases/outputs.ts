import { useQuery } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import { useSession } from '../session/session'

/** useOutputs are those of the open project, the newest first. */
export function useOutputs() {
  const id = useSession((s) => s.project!.id)
  return useQuery({
    queryKey: ['outputs', id],
    queryFn: () => answer(api.GET('/api/projects/{id}/outputs', { params: { path: { id } } })),
  })
}
