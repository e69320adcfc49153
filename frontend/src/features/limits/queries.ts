import { useMutation, useQueryClient } from '@tanstack/react-query';

import { choicesQuery } from '../../api/choices';
import { api, dataOf, type Schemas } from '../../api/client';

export type Limit = Schemas['Limit'];
export type LimitDraft = Pick<Limit, 'title' | 'size_bytes' | 'carrier' | 'checklist'>;

/** Changes to the library of limits. */
export function useLimitChanges() {
  const client = useQueryClient();
  const onSuccess = () => client.invalidateQueries({ queryKey: choicesQuery().queryKey });
  const make = useMutation({
    mutationFn: (body: LimitDraft) => dataOf(api.POST('/api/limits', { body })),
    onSuccess,
  });
  const change = useMutation({
    mutationFn: ({ name, ...body }: LimitDraft & { name: string }) =>
      dataOf(api.PATCH('/api/limits/{id}', { params: { path: { id: name } }, body })),
    onSuccess,
  });
  const remove = useMutation({
    mutationFn: (name: string) =>
      dataOf(api.DELETE('/api/limits/{id}', { params: { path: { id: name } } })),
    onSuccess,
  });
  const take = useMutation({
    mutationFn: async (content: unknown) =>
      dataOf(api.POST('/api/limits/import', { body: { content } })),
    onSuccess,
  });
  return { make, change, remove, take };
}

export type LimitChanges = ReturnType<typeof useLimitChanges>;
