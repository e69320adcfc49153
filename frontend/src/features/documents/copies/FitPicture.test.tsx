import { screen } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import { renderInApp } from '../../../tests/render';
import { aDocument, aSatchel } from '../../../tests/samples';
import { serve } from '../../../tests/server';
import { FitPicture } from './FitPicture';

function show(changes: object) {
  serve({
    'GET /api/documents/d1/fit': {
      limit: 500_000,
      bytes: 480_000,
      is_met: true,
      lightest: 300_000,
      untried: 0,
      floor: 55,
      used: [],
      pictures: [
        { part: 'picture:1-0', page: 3, before: 700_000, after: 200_000, score: 81.4 },
        { part: 'picture:2-0', page: null, before: 90_000, after: 90_000, score: 100 },
      ],
      ...changes,
    },
  });
  const satchel = { ...aSatchel([aDocument()], 500_000), is_fitted: true };
  renderInApp(<FitPicture document={aDocument()} satchel={satchel} />);
}

describe('what a fit decided', () => {
  it('is said in words and shown picture by picture', async () => {
    show({});
    expect(await screen.findByText(/Fits 500 kB: 1 of 2 pictures lose something/)).toBeTruthy();
    expect(
      screen.getByRole('img', { name: '2 pictures; the lowest score is 81 of 100' }),
    ).toBeTruthy();
    expect(screen.getByTitle('Page 3: 700 kB to 200 kB, score 81 of 100')).toBeTruthy();
    expect(screen.getByTitle(/Page –/)).toBeTruthy();
  });

  it('says that nobody knows before pictures have been tried', async () => {
    show({ is_met: false, untried: 2 });
    expect(await screen.findByText(/not known yet: 2 pictures still to be tried/)).toBeTruthy();
    expect(screen.queryByText(/Cannot reach/)).toBeNull();
  });

  it('says what is lightest where the limit cannot be met, and what else was used', async () => {
    show({ is_met: false, lightest: 620_000, used: ['grey'] });
    expect(await screen.findByText(/Cannot reach 500 kB/)).toBeTruthy();
    expect(screen.getByText(/the lightest copy is about 620 kB/)).toBeTruthy();
    expect(screen.getByText(/Also used: grey/)).toBeTruthy();
  });
});
