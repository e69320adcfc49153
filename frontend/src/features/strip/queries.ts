import { keepPreviousData, queryOptions } from '@tanstack/react-query';

import { api, dataOf } from '../../api/client';
import type { Setting } from './settings';

export const stripQueries = {
  /** asked: what the present settings depend on. */
  stakes: (id: string, base: string, asked: unknown) =>
    queryOptions({
      queryKey: ['stakes', id, base, asked],
      queryFn: () =>
        dataOf(
          api.GET('/api/documents/{id}/stakes', { params: { path: { id }, query: { base } } }),
        ),
      placeholderData: keepPreviousData,
      staleTime: Infinity,
    }),
  strips: (id: string, part: string, settings: Setting[], asked: unknown) =>
    queryOptions({
      queryKey: ['strips', id, part, settings, asked],
      queryFn: () =>
        dataOf(
          api.POST('/api/documents/{id}/strips', {
            params: { path: { id } },
            body: { part, settings },
          }),
        ),
      placeholderData: (previous, query) => (query?.queryKey[2] === part ? previous : undefined),
      staleTime: Infinity,
    }),
};

export function imageUrl(documentId: string, key: string): string {
  return `/api/documents/${documentId}/strip-image?key=${key}`;
}
