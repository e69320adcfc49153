import { useMutation, useQueryClient } from '@tanstack/react-query';

import { api, dataOf } from '../../api/client';
import { benchKeys } from './keys';

/** Creates and ends share links of copies. */
export function useShareLinks() {
  const client = useQueryClient();
  const newLink = useMutation({
    mutationFn: ({ id, password }: { id: string; password: string }) =>
      dataOf(
        api.POST('/api/copies/{id}/hand-overs', { params: { path: { id } }, body: { password } }),
      ),
    onSuccess: (_link, { id }) => client.invalidateQueries({ queryKey: benchKeys.links(id) }),
  });
  const revoke = useMutation({
    mutationFn: (id: number) =>
      dataOf(api.POST('/api/hand-overs/{id}/revoke', { params: { path: { id: id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: benchKeys.allLinks }),
  });
  return { newLink, revoke };
}
