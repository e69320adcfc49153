import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';

import { api, dataOf, type Schemas } from '../../api/client';
import { isBusy } from './satchel';

const WATCHED_EVERY_MS = 800;

export const benchQueries = {
  satchel: (id: string, hasUploads: boolean) =>
    queryOptions({
      queryKey: ['satchel', id],
      queryFn: () => dataOf(api.GET('/api/satchels/{id}', { params: { path: { id } } })),
      refetchInterval: (query) =>
        hasUploads || (query.state.data && isBusy(query.state.data)) ? WATCHED_EVERY_MS : false,
    }),
  choices: () =>
    queryOptions({
      queryKey: ['choices'],
      queryFn: () => dataOf(api.GET('/api/choices')),
      staleTime: Infinity,
    }),
  sheet: (id: string, preset: string, isMeasured: boolean) =>
    queryOptions({
      queryKey: ['sheet', id, preset, isMeasured],
      queryFn: () =>
        dataOf(
          api.GET('/api/documents/{id}/sheet', { params: { path: { id }, query: { preset } } }),
        ),
      staleTime: Infinity,
    }),
};

/** Changes to a satchel; each shows the server's answer as soon as it is there. */
export function useSatchelChanges(satchelId: string) {
  const client = useQueryClient();
  const refresh = () => client.invalidateQueries({ queryKey: ['satchel', satchelId] });
  const path = { id: satchelId };

  const change = useMutation({
    mutationFn: (body: Schemas['PatchedSatchelRequest']) =>
      dataOf(api.PATCH('/api/satchels/{id}', { params: { path }, body })),
    onSuccess: (satchel) => client.setQueryData(['satchel', satchelId], satchel),
  });
  const start = useMutation({
    mutationFn: (body: Schemas['RunRequestRequest']) =>
      dataOf(api.POST('/api/satchels/{id}/runs', { params: { path }, body })),
    onSuccess: refresh,
  });
  const cancel = useMutation({
    mutationFn: (id: string) =>
      dataOf(api.POST('/api/runs/{id}/cancel', { params: { path: { id } } })),
    onSuccess: refresh,
  });
  const takeOut = useMutation({
    mutationFn: (id: string) =>
      dataOf(api.DELETE('/api/documents/{id}', { params: { path: { id } } })),
    onSuccess: refresh,
  });
  const unlock = useMutation({
    mutationFn: ({ id, password }: { id: string; password: string }) =>
      dataOf(
        api.POST('/api/documents/{id}/password', { params: { path: { id } }, body: { password } }),
      ),
    onSuccess: refresh,
  });
  return { change, start, cancel, takeOut, unlock };
}

export type SatchelChanges = ReturnType<typeof useSatchelChanges>;
