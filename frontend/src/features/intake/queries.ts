import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';

import { api, csrfToken, dataOf, type Schemas } from '../../api/client';
import { problemFrom } from '../../api/errors';
import { isComing, isLookedAt } from './pages';

export type IntakeData = Schemas['Intake'];
export type Page = Schemas['Page'];
export type Scanner = Schemas['Scanner'];
export type ScanRequest = Schemas['ScanRequestRequest'];

/** The changes of a page. */
type PageChange = Schemas['PatchedPageChangeRequest'] & { id: string };

const WATCHED_EVERY_MS = 700;

export const intakeQueries = {
  all: () =>
    queryOptions({
      queryKey: ['intakes'],
      queryFn: () => dataOf(api.GET('/api/intakes')),
    }),
  /** Watched while pages come, or have still to be looked at. */
  one: (id: string) =>
    queryOptions({
      queryKey: ['intake', id],
      queryFn: () => dataOf(api.GET('/api/intakes/{id}', { params: { path: { id } } })),
      refetchInterval: (query) => {
        const intake = query.state.data;
        if (!intake) return false;
        return isComing(intake) || !isLookedAt(intake) ? WATCHED_EVERY_MS : false;
      },
    }),
  scanners: () =>
    queryOptions({
      queryKey: ['scanners'],
      queryFn: () => dataOf(api.GET('/api/scanners')),
      staleTime: 10_000,
    }),
};

export function useBeginIntake() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (name: string) => dataOf(api.POST('/api/intakes', { body: { name } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ['intakes'] }),
  });
}

/** All that can be done with one intake; its data are fetched anew after each. */
export function useIntakeChanges(id: string) {
  const client = useQueryClient();
  const path = { params: { path: { id } } };
  const again = { onSettled: () => client.invalidateQueries({ queryKey: ['intake', id] }) };
  const scan = useMutation({
    mutationFn: (body: ScanRequest) =>
      dataOf(api.POST('/api/intakes/{id}/scans', { ...path, body })),
    ...again,
  });
  const stop = useMutation({
    mutationFn: () => dataOf(api.POST('/api/intakes/{id}/stop', path)),
    ...again,
  });
  const rename = useMutation({
    mutationFn: (name: string) =>
      dataOf(api.PATCH('/api/intakes/{id}', { ...path, body: { name } })),
    ...again,
  });
  const order = useMutation({
    mutationFn: (pages: string[]) =>
      dataOf(api.POST('/api/intakes/{id}/order', { ...path, body: { pages } })),
    ...again,
  });
  const change = useMutation({
    mutationFn: (changes: PageChange[]) =>
      Promise.all(
        changes.map(({ id: pageId, ...body }) =>
          dataOf(api.PATCH('/api/intake-pages/{id}', { params: { path: { id: pageId } }, body })),
        ),
      ),
    ...again,
  });
  const add = useMutation({
    mutationFn: async (files: File[]) => {
      for (const file of files) await upload(id, file);
    },
    ...again,
  });
  const keep = useMutation({
    mutationFn: (body: Schemas['KeepRequest']) =>
      dataOf(api.POST('/api/intakes/{id}/keep', { ...path, body })),
  });
  const remove = useMutation({
    mutationFn: () => dataOf(api.DELETE('/api/intakes/{id}', path)),
    onSuccess: () => client.invalidateQueries({ queryKey: ['intakes'] }),
  });
  return { scan, stop, rename, order, change, add, keep, remove };
}

export type IntakeChanges = ReturnType<typeof useIntakeChanges>;

async function upload(id: string, file: File) {
  const body = new FormData();
  body.append('file', file);
  const response = await fetch(`/api/intakes/${id}/pages`, {
    method: 'POST',
    headers: { 'X-CSRFToken': csrfToken() },
    body,
  });
  if (!response.ok) throw await problemFrom(response);
}
