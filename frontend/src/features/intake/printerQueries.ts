import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';

import { api, dataOf, type Schemas } from '../../api/client';

export type Printer = Schemas['PrintQueue'];
export type PrintedJob = Schemas['PrintedJob'];

const WATCHED_EVERY_MS = 3000;

export const printerQueries = {
  /** Watched while there is a printer: jobs come from elsewhere. */
  all: () =>
    queryOptions({
      queryKey: ['printers'],
      queryFn: () => dataOf(api.GET('/api/print-queues')),
      refetchInterval: (query) => (query.state.data?.length ? WATCHED_EVERY_MS : false),
    }),
};

export function usePrinterChanges() {
  const client = useQueryClient();
  const again = { onSuccess: () => client.invalidateQueries({ queryKey: ['printers'] }) };
  const make = useMutation({
    mutationFn: (body: { name: string; preset: string }) =>
      dataOf(api.POST('/api/print-queues', { body })),
    ...again,
  });
  const remove = useMutation({
    mutationFn: (id: string) =>
      dataOf(api.DELETE('/api/print-queues/{id}', { params: { path: { id } } })),
    ...again,
  });
  const renew = useMutation({
    mutationFn: (id: string) =>
      dataOf(api.POST('/api/print-queues/{id}/renew', { params: { path: { id } } })),
    ...again,
  });
  const cancel = useMutation({
    mutationFn: ({ id, number }: { id: string; number: number }) =>
      dataOf(
        api.POST('/api/print-queues/{id}/jobs/{number}/cancel', {
          params: { path: { id, number: String(number) } },
        }),
      ),
    ...again,
  });
  return { make, remove, renew, cancel };
}
