import { useMutation, useQueryClient } from '@tanstack/react-query';

import { api, dataOf, type Schemas } from '../../api/client';
import { benchKeys } from './keys';

/** Starts and cancels runs of a satchel. */
export function useRuns(satchelId: string) {
  const client = useQueryClient();
  const onSuccess = () => client.invalidateQueries({ queryKey: benchKeys.satchel(satchelId) });
  const start = useMutation({
    mutationFn: (body: Schemas['RunRequestRequest']) =>
      dataOf(api.POST('/api/satchels/{id}/runs', { params: { path: { id: satchelId } }, body })),
    onSuccess,
  });
  const cancel = useMutation({
    mutationFn: (id: string) =>
      dataOf(api.POST('/api/runs/{id}/cancel', { params: { path: { id } } })),
    onSuccess,
  });
  return { start, cancel };
}
