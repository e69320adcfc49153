import { useMutation, useQueryClient } from '@tanstack/react-query';

import { choicesQuery } from '../../api/choices';
import { api, dataOf, type Schemas } from '../../api/client';

export type Preset = Schemas['Preset'];

/** Changes to the library of presets. */
export function usePresetChanges() {
  const client = useQueryClient();
  const onSuccess = () => client.invalidateQueries({ queryKey: choicesQuery().queryKey });
  const copy = useMutation({
    mutationFn: ({ preset, title }: { preset: Preset; title: string }) =>
      dataOf(
        api.POST('/api/presets', {
          body: { title, description: preset.description, treatment: preset.treatment },
        }),
      ),
    onSuccess,
  });
  const change = useMutation({
    mutationFn: ({ name, ...body }: { name: string; title?: string; description?: string }) =>
      dataOf(api.PATCH('/api/presets/{id}', { params: { path: { id: name } }, body })),
    onSuccess,
  });
  const remove = useMutation({
    mutationFn: (name: string) =>
      dataOf(api.DELETE('/api/presets/{id}', { params: { path: { id: name } } })),
    onSuccess,
  });
  const makeUsual = useMutation({
    mutationFn: (name: string) =>
      dataOf(api.POST('/api/presets/{id}/usual', { params: { path: { id: name } } })),
    onSuccess,
  });
  const take = useMutation({
    mutationFn: async (file: File) => {
      const text = await file.text();
      let content: unknown;
      try {
        content = JSON.parse(text);
      } catch (error) {
        const reason = error instanceof Error ? error.message : '';
        throw new Error(`${file.name}: is not JSON (${reason}). Export it again.`, {
          cause: error,
        });
      }
      return dataOf(api.POST('/api/presets/import', { body: { content } }));
    },
    onSuccess,
  });
  return { copy, change, remove, makeUsual, take };
}

export type PresetChanges = ReturnType<typeof usePresetChanges>;

/** A title that no preset has yet. */
export function freeTitle(title: string, taken: string[]): string {
  const first = `${title}, copy`;
  let number = 2;
  let free = first;
  while (taken.includes(free)) {
    free = `${first} ${number}`;
    number += 1;
  }
  return free;
}
