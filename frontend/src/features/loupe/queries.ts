import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';

import { api, dataOf, type Schemas } from '../../api/client';
import { benchKeys, benchQueries } from '../satchel';

const WATCHED_EVERY_MS = 800;

export const loupeQueries = {
  proof: (id: string) =>
    queryOptions({
      queryKey: ['proof', id],
      queryFn: () => dataOf(api.GET('/api/copies/{id}/proof', { params: { path: { id } } })),
      staleTime: Infinity,
    }),
  /** The satchel while a copy is made again; the newest copy of the document is in it. */
  satchel: (id: string) =>
    queryOptions({ ...benchQueries.satchel(id, false), refetchInterval: WATCHED_EVERY_MS }),
};

/** Leave pictures as they are, and have the copy made again. */
export function useGentler(proof: Schemas['Proof'] | undefined) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (parts: string[]) =>
      dataOf(
        api.POST('/api/copies/{id}/gentler', {
          params: { path: { id: proof?.copy_id ?? '' } },
          body: { parts },
        }),
      ),
    onSuccess: () =>
      client.invalidateQueries({ queryKey: benchKeys.satchel(proof?.satchel ?? '') }),
  });
}
