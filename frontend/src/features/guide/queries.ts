import { queryOptions } from '@tanstack/react-query';

import { api, dataOf, type Schemas } from '../../api/client';

export type Chapter = Schemas['Chapter'];
export type ChapterName = Chapter['name'];
export type Explanation = Schemas['Explanation'];

/** Everything explained; asked for when somebody first wants to know. */
export const guideQuery = () =>
  queryOptions({
    queryKey: ['guide'],
    queryFn: () => dataOf(api.GET('/api/guide')),
    staleTime: Infinity,
  });
