import { queryOptions } from '@tanstack/react-query';

import { api, dataOf } from '../../api/client';

export const slipQueries = {
  of: (runId: string) =>
    queryOptions({
      queryKey: ['slip', runId],
      queryFn: () => dataOf(api.GET('/api/runs/{id}/slip', { params: { path: { id: runId } } })),
    }),
  history: (satchelId: string) =>
    queryOptions({
      queryKey: ['history', satchelId],
      queryFn: () =>
        dataOf(api.GET('/api/satchels/{id}/history', { params: { path: { id: satchelId } } })),
    }),
};
