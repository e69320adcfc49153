import { queryOptions } from '@tanstack/react-query';

import { api, dataOf } from './client';

/** Presets, limits, formats and extras; asked for once, and again when a preset changes. */
export const choicesQuery = () =>
  queryOptions({
    queryKey: ['choices'],
    queryFn: () => dataOf(api.GET('/api/choices')),
    staleTime: Infinity,
  });

interface Titled<Value extends string> {
  value: Value;
  title: string;
}

/** The options of a select field: values with their titles as labels. */
export function optionsOf<Value extends string>(titled: Titled<Value>[] = []) {
  return titled.map(({ value, title }) => ({ value, label: title }));
}
