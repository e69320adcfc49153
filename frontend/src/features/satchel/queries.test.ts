import { QueryClient } from '@tanstack/react-query';
import { describe, expect, it } from 'vitest';

import { aDocument, aSatchel } from '../../tests/samples';
import { serve } from '../../tests/server';
import { benchQueries } from './queries';

const WHOLE = 'GET /api/satchels/s1';
const CHANGES = 'GET /api/satchels/s1/changes';
const weighing = aDocument({ state: 'weighing', progress: 0.2 });
const bench = aSatchel([weighing]);
const changes = {
  as_of: '2026-05-04T10:00:01Z',
  ask_again_ms: 2000,
  choices_mark: 'c1',
  document_count: 1,
  documents: [{ ...weighing, progress: 0.6 }],
  run: null,
};
const query = benchQueries.satchel('s1', false);

function paths(asked: { method: string; path: string }[]) {
  return asked.map(({ method, path }) => `${method} ${path}`);
}

describe('a bench', () => {
  it('is asked for whole once, and after that for what has changed', async () => {
    const asked = serve({ [WHOLE]: bench, [CHANGES]: changes });
    const client = new QueryClient();
    await client.query(query);
    const next = await client.query({ ...query, staleTime: 0 });
    expect(paths(asked)).toEqual([WHOLE, CHANGES]);
    expect(next.documents[0]?.progress).toBe(0.6);
    expect(next.as_of).toBe(changes.as_of);
  });

  it('is asked for whole again once somebody said that it may be another', async () => {
    const asked = serve({ [WHOLE]: bench, [CHANGES]: changes });
    const client = new QueryClient();
    await client.query(query);
    await client.invalidateQueries({ queryKey: query.queryKey });
    await client.query({ ...query, staleTime: 0 });
    expect(paths(asked)).toEqual([WHOLE, WHOLE]);
  });

  it('is asked for whole where the changes do not say all', async () => {
    const other = { ...changes, choices_mark: 'c2' };
    const asked = serve({ [WHOLE]: bench, [CHANGES]: other });
    const client = new QueryClient();
    await client.query(query);
    await client.query({ ...query, staleTime: 0 });
    expect(paths(asked)).toEqual([WHOLE, CHANGES, WHOLE]);
  });

  it('shows the choice that was made while its changes were on their way', async () => {
    serve({ [WHOLE]: bench, [CHANGES]: changes });
    const client = new QueryClient();
    await client.query(query);
    const coming = client.query({ ...query, staleTime: 0 });
    client.setQueryData(query.queryKey, { ...bench, name: 'Renamed' });
    expect((await coming).name).toBe('Renamed');
  });
});
