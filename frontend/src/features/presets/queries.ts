import { useMutation, useQueryClient } from '@tanstack/react-query';

import { choicesQuery } from '../../api/choices';
import { api, dataOf, type Schemas } from '../../api/client';
import { jsonOf } from '../../shared/jsonOf';

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
      const content = await jsonOf(file);
      return dataOf(api.POST('/api/presets/import', { body: { content } }));
    },
    onSuccess,
  });
  return { copy, change, remove, makeUsual, take };
}

export type PresetChanges = ReturnType<typeof usePresetChanges>;
