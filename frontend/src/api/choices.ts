import { queryOptions } from '@tanstack/react-query';

import { api, dataOf } from './client';

/** Presets, limits, formats and extras; asked for once, and again when a preset changes. */
export const choicesQuery = () =>
  queryOptions({
    queryKey: ['choices'],
    queryFn: () => dataOf(api.GET('/api/choices')),
    staleTime: Infinity,
  });
