import { useMutation, useQueryClient } from '@tanstack/react-query';

import { api, dataOf, type Schemas } from '../../api/client';
import { benchKeys } from './keys';
import { foreseen } from './satchel';

type Settings = Schemas['PatchedSatchelRequest'];

/** Saves settings of a satchel; each change is shown at once, then replaced by the answer. */
export function useSettings(satchelId: string) {
  const client = useQueryClient();
  const queryKey = benchKeys.satchel(satchelId);
  const now = () => client.getQueryData<Schemas['Satchel']>(queryKey);
  const save = useMutation({
    // One after the other, so that the last choice is the last to arrive.
    scope: { id: `satchel ${satchelId}` },
    mutationFn: (body: Settings) =>
      dataOf(api.PATCH('/api/satchels/{id}', { params: { path: { id: satchelId } }, body })),
    onMutate: (body) => {
      const satchel = now();
      if (satchel) client.setQueryData(queryKey, foreseen(satchel, body));
    },
    onSuccess: (satchel) => client.setQueryData(queryKey, satchel),
    onError: () => client.invalidateQueries({ queryKey }),
  });
  return { save, now };
}

/** Returns the present values of the settings that `body` is about to change. */
export function formerSettings(now: Schemas['Satchel'], body: Settings) {
  const keys = new Set(Object.keys(body));
  // Another preset ends the fine tuning; both come back together.
  if (keys.has('preset')) keys.add('treatment');
  return Object.fromEntries(
    [...keys].map((key) => [key, now[key as keyof Schemas['Satchel']]]),
  ) as Settings;
}
