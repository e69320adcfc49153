import { queryOptions } from '@tanstack/react-query';

import { api, dataOf } from '../../api/client';

const WATCHED_EVERY_MS = 800;

export const slipQueries = {
  of: (runId: string) =>
    queryOptions({
      queryKey: ['slip', runId],
      queryFn: () => dataOf(api.GET('/api/runs/{id}/slip', { params: { path: { id: runId } } })),
    }),
  /** Its copies as messages; watched while some are being sent. */
  mail: (runId: string) =>
    queryOptions({
      queryKey: ['mail', runId],
      queryFn: () => dataOf(api.GET('/api/runs/{id}/mail', { params: { path: { id: runId } } })),
      refetchInterval: (query) =>
        query.state.data?.sendings.some(({ state }) => state === 'waiting')
          ? WATCHED_EVERY_MS
          : false,
    }),
  history: (satchelId: string) =>
    queryOptions({
      queryKey: ['history', satchelId],
      queryFn: () =>
        dataOf(api.GET('/api/satchels/{id}/history', { params: { path: { id: satchelId } } })),
    }),
};
