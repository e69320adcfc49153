import {
  keepPreviousData,
  type QueryClient,
  queryOptions,
  useMutation,
  useQueryClient,
} from '@tanstack/react-query';
import { useCallback, useState } from 'react';

import { choicesQuery } from '../../api/choices';
import { api, dataOf, type Schemas } from '../../api/client';
import { foreseen, type Satchel, watchedEvery, withChanges } from './satchel';

const WATCHED_EVERY_MS = 800;
const MOST_UNDOS = 100;

/** What is new where the satchel is shown already, unless somebody said that all of it may be. */
async function loadSatchel(client: QueryClient, id: string): Promise<Satchel> {
  const params = { path: { id } };
  const key = ['satchel', id];
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
      queryKey: ['satchel', id],
      queryFn: ({ client }) => loadSatchel(client, id),
      refetchInterval: (query) => watchedEvery(query.state.data, hasUploads),
    }),
  fit: (id: string, asked: unknown) =>
    queryOptions({
      queryKey: ['fit', id, asked],
      queryFn: () => dataOf(api.GET('/api/documents/{id}/fit', { params: { path: { id } } })),
      placeholderData: keepPreviousData,
      staleTime: Infinity,
    }),
  links: (id: string) =>
    queryOptions({
      queryKey: ['links', id],
      queryFn: () => dataOf(api.GET('/api/copies/{id}/hand-overs', { params: { path: { id } } })),
    }),
  /** Its pages as pictures, the last making first; watched while they are made. */
  rasters: (id: string) =>
    queryOptions({
      queryKey: ['rasters', id],
      queryFn: () => dataOf(api.GET('/api/documents/{id}/rasters', { params: { path: { id } } })),
      refetchInterval: (query) =>
        query.state.data?.some((one) => one.state === 'waiting' || one.state === 'working')
          ? WATCHED_EVERY_MS
          : false,
    }),
  /** Copies that came back for a document; watched while one is being proved. */
  returned: (id: string) =>
    queryOptions({
      queryKey: ['returned', id],
      queryFn: () => dataOf(api.GET('/api/documents/{id}/returned', { params: { path: { id } } })),
      refetchInterval: (query) =>
        query.state.data?.some((one) => one.state === 'waiting' || one.state === 'working')
          ? WATCHED_EVERY_MS
          : false,
    }),
  /** asked: all that the sheet depends on, so that it is fetched anew when that changes. */
  sheet: (id: string, asked: unknown) =>
    queryOptions({
      queryKey: ['sheet', id, asked],
      queryFn: () => dataOf(api.GET('/api/documents/{id}/sheet', { params: { path: { id } } })),
      placeholderData: keepPreviousData,
      staleTime: Infinity,
    }),
};

export type Exceptions = Schemas['Document']['exceptions'];

/** Which document, and all its exceptions from now on. */
interface Excepting {
  id: string;
  exceptions: NonNullable<Exceptions>;
}

/** What brings a choice back to what it was. */
interface Undo {
  satchel?: Schemas['PatchedSatchelRequest'];
  document?: Excepting;
}

/** The present values of whatever `body` is about to change. */
function before(now: Schemas['Satchel'], body: Schemas['PatchedSatchelRequest']) {
  const keys = new Set(Object.keys(body));
  // Another preset ends what was tuned; both come back together.
  if (keys.has('preset')) keys.add('treatment');
  return Object.fromEntries(
    [...keys].map((key) => [key, now[key as keyof Schemas['Satchel']]]),
  ) as Schemas['PatchedSatchelRequest'];
}

/** Brings a copy back, to have it proved against its document. */
export function useBringBack(documentId: string) {
  const client = useQueryClient();
  return useMutation({
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
    onSuccess: () => client.invalidateQueries({ queryKey: ['returned', documentId] }),
  });
}

/** Throws away a copy that came back. */
export function useThrowAway(documentId: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) =>
      dataOf(api.DELETE('/api/returned/{id}', { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ['returned', documentId] }),
  });
}

/** Changes to a satchel; each shows the server's answer as soon as it is there. */
export function useSatchelChanges(satchelId: string) {
  const client = useQueryClient();
  const refresh = () => client.invalidateQueries({ queryKey: ['satchel', satchelId] });
  const path = { id: satchelId };

  const [undos, setUndos] = useState<Undo[]>([]);
  const remember = (undo: Undo) => setUndos((all) => [...all.slice(1 - MOST_UNDOS), undo]);
  const send = useMutation({
    // One after the other, so that the last choice is the last to arrive.
    scope: { id: `satchel ${satchelId}` },
    mutationFn: (body: Schemas['PatchedSatchelRequest']) =>
      dataOf(api.PATCH('/api/satchels/{id}', { params: { path }, body })),
    // Shown at once; the server's answer takes its place.
    onMutate: (body) => {
      const now = client.getQueryData<Schemas['Satchel']>(['satchel', satchelId]);
      if (now) client.setQueryData(['satchel', satchelId], foreseen(now, body));
    },
    onSuccess: (satchel) => client.setQueryData(['satchel', satchelId], satchel),
    onError: refresh,
  });
  const sendExceptions = useMutation({
    mutationFn: ({ id, exceptions }: Excepting) =>
      dataOf(api.PATCH('/api/documents/{id}', { params: { path: { id } }, body: { exceptions } })),
    onSuccess: refresh,
  });
  /** Choices save themselves; each can be undone. */
  const change = {
    error: send.error,
    mutate: (body: Schemas['PatchedSatchelRequest']) => {
      const now = client.getQueryData<Schemas['Satchel']>(['satchel', satchelId]);
      if (now) remember({ satchel: before(now, body) });
      send.mutate(body);
    },
  };
  const rememberExceptions = (id: string) => {
    const now = client.getQueryData<Schemas['Satchel']>(['satchel', satchelId]);
    const document = now?.documents.find((one) => one.id === id);
    if (document) remember({ document: { id, exceptions: document.exceptions ?? {} } });
  };
  const except = {
    error: sendExceptions.error,
    mutate: (wanted: Excepting) => {
      rememberExceptions(wanted.id);
      sendExceptions.mutate(wanted);
    },
  };
  const undo = useCallback(() => {
    const last = undos[undos.length - 1];
    if (!last) return;
    setUndos((all) => all.slice(0, -1));
    if (last.satchel) send.mutate(last.satchel);
    if (last.document) sendExceptions.mutate(last.document);
  }, [undos, send, sendExceptions]);
  const bring = useMutation({
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
    onMutate: ({ id }) => rememberExceptions(id),
    onSuccess: refresh,
  });
  const keepPreset = useMutation({
    mutationFn: (body: Schemas['OwnPresetRequest']) => dataOf(api.POST('/api/presets', { body })),
    onSuccess: async (preset) => {
      await client.invalidateQueries({ queryKey: choicesQuery().queryKey });
      change.mutate({ preset: preset.name });
    },
  });
  const start = useMutation({
    mutationFn: (body: Schemas['RunRequestRequest']) =>
      dataOf(api.POST('/api/satchels/{id}/runs', { params: { path }, body })),
    onSuccess: refresh,
  });
  const gather = useMutation({
    mutationFn: (body: Schemas['GatherRequest']) =>
      dataOf(api.POST('/api/satchels/{id}/gather', { params: { path }, body })),
    onSuccess: refresh,
  });
  const newLink = useMutation({
    mutationFn: ({ id, password }: { id: string; password: string }) =>
      dataOf(
        api.POST('/api/copies/{id}/hand-overs', { params: { path: { id } }, body: { password } }),
      ),
    onSuccess: (_link, { id }) => client.invalidateQueries({ queryKey: ['links', id] }),
  });
  const revoke = useMutation({
    mutationFn: (id: number) =>
      dataOf(api.POST('/api/hand-overs/{id}/revoke', { params: { path: { id: id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ['links'] }),
  });
  const cancel = useMutation({
    mutationFn: (id: string) =>
      dataOf(api.POST('/api/runs/{id}/cancel', { params: { path: { id } } })),
    onSuccess: refresh,
  });
  const takeOut = useMutation({
    mutationFn: (id: string) =>
      dataOf(api.DELETE('/api/documents/{id}', { params: { path: { id } } })),
    onSuccess: refresh,
  });
  const unlock = useMutation({
    mutationFn: ({ id, password }: { id: string; password: string }) =>
      dataOf(
        api.POST('/api/documents/{id}/password', { params: { path: { id } }, body: { password } }),
      ),
    onSuccess: refresh,
  });
  const again = useMutation({
    mutationFn: (id: string) =>
      dataOf(api.POST('/api/documents/{id}/weigh', { params: { path: { id } } })),
    onSuccess: refresh,
  });
  return {
    change,
    except,
    bring,
    keepPreset,
    start,
    gather,
    newLink,
    revoke,
    cancel,
    takeOut,
    unlock,
    again,
    undo,
    canUndo: undos.length > 0,
  };
}

export type SatchelChanges = ReturnType<typeof useSatchelChanges>;
