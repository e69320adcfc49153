import { useMutation, useQueryClient } from '@tanstack/react-query';

import { api, dataOf } from '../../api/client';
import { benchKeys } from './keys';

/** Uploads a copy that came back, to have it proved against its document; or deletes one. */
export function useReturnedCopies(documentId: string) {
  const client = useQueryClient();
  const refresh = () => client.invalidateQueries({ queryKey: benchKeys.returned(documentId) });
  const upload = useMutation({
    mutationFn: (file: File) => {
      const body = new FormData();
      body.append('file', file);
      return dataOf(
        api.POST('/api/documents/{id}/returned', {
          params: { path: { id: documentId } },
          body: body as never,
          bodySerializer: (form) => form as never,
        }),
      );
    },
    onSuccess: refresh,
  });
  const remove = useMutation({
    mutationFn: (id: string) =>
      dataOf(api.DELETE('/api/returned/{id}', { params: { path: { id } } })),
    onSuccess: refresh,
  });
  return { upload, remove };
}
