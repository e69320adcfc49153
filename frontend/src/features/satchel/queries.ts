import { keepPreviousData, type QueryClient, queryOptions } from '@tanstack/react-query';

import { api, dataOf } from '../../api/client';
import { benchKeys } from './keys';
import { type Satchel, watchedEvery, withChanges } from './satchel';

const WATCHED_EVERY_MS = 800;

/** The changes of a satchel that is shown already, unless all of it is out of date. */
async function loadSatchel(client: QueryClient, id: string): Promise<Satchel> {
  const params = { path: { id } };
  const key = benchKeys.satchel(id);
  const state = client.getQueryState<Satchel>(key);
  if (state?.data && !state.isInvalidated) {
    const query = { since: state.data.as_of };
    const changes = await dataOf(
      api.GET('/api/satchels/{id}/changes', { params: { ...params, query } }),
    );
    // A choice may have been made meanwhile.
    const next = withChanges(client.getQueryData<Satchel>(key) ?? state.data, changes);
    if (next) return next;
  }
  return dataOf(api.GET('/api/satchels/{id}', { params }));
}

export const benchQueries = {
  satchel: (id: string, hasUploads: boolean) =>
    queryOptions({
      queryKey: benchKeys.satchel(id),
      queryFn: ({ client }) => loadSatchel(client, id),
      refetchInterval: (query) => watchedEvery(query.state.data, hasUploads),
    }),
  fit: (id: string, asked: unknown) =>
    queryOptions({
      queryKey: benchKeys.fit(id, asked),
      queryFn: () => dataOf(api.GET('/api/documents/{id}/fit', { params: { path: { id } } })),
      placeholderData: keepPreviousData,
      staleTime: Infinity,
    }),
  links: (id: string) =>
    queryOptions({
      queryKey: benchKeys.links(id),
      queryFn: () => dataOf(api.GET('/api/copies/{id}/hand-overs', { params: { path: { id } } })),
    }),
  /** Its pages as pictures, the last making first; watched while they are made. */
  rasters: (id: string) =>
    queryOptions({
      queryKey: benchKeys.rasters(id),
      queryFn: () => dataOf(api.GET('/api/documents/{id}/rasters', { params: { path: { id } } })),
      refetchInterval: (query) =>
        query.state.data?.some((one) => one.state === 'waiting' || one.state === 'working')
          ? WATCHED_EVERY_MS
          : false,
    }),
  /** Copies that came back for a document; watched while one is being proved. */
  returned: (id: string) =>
    queryOptions({
      queryKey: benchKeys.returned(id),
      queryFn: () => dataOf(api.GET('/api/documents/{id}/returned', { params: { path: { id } } })),
      refetchInterval: (query) =>
        query.state.data?.some((one) => one.state === 'waiting' || one.state === 'working')
          ? WATCHED_EVERY_MS
          : false,
    }),
  /** asked: all that the sheet depends on, so that it is fetched anew when that changes. */
  sheet: (id: string, asked: unknown) =>
    queryOptions({
      queryKey: benchKeys.sheet(id, asked),
      queryFn: () => dataOf(api.GET('/api/documents/{id}/sheet', { params: { path: { id } } })),
      placeholderData: keepPreviousData,
      staleTime: Infinity,
    }),
};
