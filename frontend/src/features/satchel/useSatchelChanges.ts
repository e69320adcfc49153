import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';

import { choicesQuery } from '../../api/choices';
import { api, dataOf, type Schemas } from '../../api/client';
import { useDocuments, useExceptions } from './useDocuments';
import { useRuns } from './useRuns';
import { formerSettings, useSettings } from './useSettings';
import { type DocumentExceptions, useUndo } from './useUndo';

/** Changes of the settings and exceptions of a satchel, each of which can be undone. */
function useUndoableChanges(satchelId: string) {
  const { save, now } = useSettings(satchelId);
  const exceptions = useExceptions(satchelId);
  const { remember, takeLast, canUndo } = useUndo();
  const rememberExceptions = (id: string) => {
    const document = now()?.documents.find((one) => one.id === id);
    if (document) remember({ document: { id, exceptions: document.exceptions ?? {} } });
  };
  const change = {
    error: save.error,
    mutate: (body: Schemas['PatchedSatchelRequest']) => {
      const satchel = now();
      if (satchel) remember({ satchel: formerSettings(satchel, body) });
      save.mutate(body);
    },
  };
  const except = {
    error: exceptions.save.error,
    mutate: (changed: DocumentExceptions) => {
      rememberExceptions(changed.id);
      exceptions.save.mutate(changed);
    },
  };
  const bring = {
    ...exceptions.replace,
    mutate: (...args: Parameters<typeof exceptions.replace.mutate>) => {
      rememberExceptions(args[0].id);
      exceptions.replace.mutate(...args);
    },
  };
  const undo = useCallback(() => {
    const last = takeLast();
    if (last?.satchel) save.mutate(last.satchel);
    if (last?.document) exceptions.save.mutate(last.document);
  }, [takeLast, save, exceptions.save]);
  return { change, except, bring, undo, canUndo };
}

/** Everything that the bench can change, by the hooks of its nouns. */
export function useSatchelChanges(satchelId: string) {
  const client = useQueryClient();
  const changes = useUndoableChanges(satchelId);
  const keepPreset = useMutation({
    mutationFn: (body: Schemas['OwnPresetRequest']) => dataOf(api.POST('/api/presets', { body })),
    onSuccess: async (preset) => {
      await client.invalidateQueries({ queryKey: choicesQuery().queryKey });
      changes.change.mutate({ preset: preset.name });
    },
  });
  return { ...changes, ...useRuns(satchelId), ...useDocuments(satchelId), keepPreset };
}

export type SatchelChanges = ReturnType<typeof useSatchelChanges>;
