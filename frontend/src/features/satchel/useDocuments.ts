import { useMutation, useQueryClient } from '@tanstack/react-query';

import { api, dataOf, type Schemas } from '../../api/client';
import { benchKeys } from './keys';
import type { DocumentExceptions } from './useUndo';

/** Removes, unlocks and weighs documents of a satchel, and gathers pictures into one. */
export function useDocuments(satchelId: string) {
  const client = useQueryClient();
  const onSuccess = () => client.invalidateQueries({ queryKey: benchKeys.satchel(satchelId) });
  const takeOut = useMutation({
    mutationFn: (id: string) =>
      dataOf(api.DELETE('/api/documents/{id}', { params: { path: { id } } })),
    onSuccess,
  });
  const unlock = useMutation({
    mutationFn: ({ id, password }: { id: string; password: string }) =>
      dataOf(
        api.POST('/api/documents/{id}/password', { params: { path: { id } }, body: { password } }),
      ),
    onSuccess,
  });
  const again = useMutation({
    mutationFn: (id: string) =>
      dataOf(api.POST('/api/documents/{id}/weigh', { params: { path: { id } } })),
    onSuccess,
  });
  const gather = useMutation({
    mutationFn: (body: Schemas['GatherRequest']) =>
      dataOf(api.POST('/api/satchels/{id}/gather', { params: { path: { id: satchelId } }, body })),
    onSuccess,
  });
  return { takeOut, unlock, again, gather };
}

/** Saves exceptions for parts of a document, and pictures to show instead of others. */
export function useExceptions(satchelId: string) {
  const client = useQueryClient();
  const onSuccess = () => client.invalidateQueries({ queryKey: benchKeys.satchel(satchelId) });
  const save = useMutation({
    mutationFn: ({ id, exceptions }: DocumentExceptions) =>
      dataOf(api.PATCH('/api/documents/{id}', { params: { path: { id } }, body: { exceptions } })),
    onSuccess,
  });
  const replace = useMutation({
    mutationFn: ({ id, part, file }: { id: string; part: string; file: File }) => {
      const body = new FormData();
      body.append('part', part);
      body.append('file', file);
      return dataOf(
        api.POST('/api/documents/{id}/replacements', {
          params: { path: { id } },
          body: body as never,
          bodySerializer: (form) => form as never,
        }),
      );
    },
    onSuccess,
  });
  return { save, replace };
}
