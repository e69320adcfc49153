import { screen, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import { renderInApp } from '../../tests/render';
import { serve } from '../../tests/server';
import { Slip } from './Slip';

const row = {
  name: 'report.pdf',
  folder: 'reports',
  copy_id: 'c1',
  state: 'done',
  bytes_before: 1_000_000,
  bytes_after: 250_000,
  percent: -75,
  verdict: 'close',
  verdict_title: 'Close',
  verdict_summary: 'pictures differ a little, nothing written is lost',
  seconds: 4.25,
  kinds: [
    { kind: 'picture', title: 'Pictures', before: 900_000, after: 200_000 },
    { kind: 'structure', title: 'Structure', before: 100_000, after: 100_000 },
  ],
  gone: ['3 pictures with fewer pixels', 'preview thumbnails left out'],
  remarks: ['pictures are a little softer, most on page 2'],
  unmet: ['asked: PDF/A; has: no archive level'],
  earlier: null as object | null,
};

function show(changes: Partial<typeof row> | { bytes_after: null; state: string } = {}) {
  serve({
    'GET /api/runs//slip': {
      run: 'r1',
      satchel: 's1',
      satchel_name: 'Season papers',
      preset: 'Post',
      made_at: '2026-11-23T10:00:00Z',
      bytes_before: 1_000_000,
      bytes_after: 250_000,
      since: {
        run: 'r0',
        made_at: '2026-11-22T10:00:00Z',
        added: ['talk.pptx'],
        taken_out: [],
        anew: [],
        as_before: ['a.pdf', 'b.pdf', 'c.pdf', 'd.pdf'],
      },
      rows: [{ ...row, ...changes }],
    },
    'GET /api/satchels/s1/history': [
      {
        id: 'r0',
        title: 'Feather',
        created_at: '2026-11-22T10:00:00Z',
        documents: 1,
        bytes_before: 1_000_000,
        bytes_after: 90_000,
      },
    ],
  });
  renderInApp(<Slip />);
}

describe('the slip', () => {
  it('names the copy of the run before, to choose from the two', async () => {
    const earlier = {
      copy_id: 'c0',
      order: 'Feather',
      bytes_after: 90_000,
      verdict_title: 'Close',
      told: 'the lowest score of a picture is 51 of 100',
    };
    show({ earlier });
    const line = await screen.findByText(/Run before \(Feather\): 90.0 kB, close, the lowest/);
    expect(within(line).getByRole('link', { name: 'Compare' }).getAttribute('href')).toBe(
      '/copies/c0',
    );
    expect(within(line).getByRole('link', { name: 'Download' }).getAttribute('href')).toBe(
      '/api/copies/c0/file',
    );
  });

  it('says what came off, what cannot be undone, and the verdict in words', async () => {
    show();
    expect(await screen.findByText('reports/report.pdf')).toBeTruthy();
    expect(screen.getByText('Saved: pictures 700 kB')).toBeTruthy();
    expect(
      screen.getByText(
        'Cannot be undone: 3 pictures with fewer pixels, preview thumbnails left out',
      ),
    ).toBeTruthy();
    expect(
      screen.getByText('Close: pictures differ a little, nothing written is lost'),
    ).toBeTruthy();
    expect(screen.getByText('By the checklist asked: PDF/A; has: no archive level')).toBeTruthy();
    expect(screen.getByText('4.3')).toBeTruthy();
  });

  it('says what changed since the run before', async () => {
    show();
    expect(await screen.findByText(/talk.pptx added; 4 documents as before/)).toBeTruthy();
  });

  it('says so where no copy was made', async () => {
    show({ bytes_after: null, state: 'none', verdict: '', verdict_title: '' } as never);
    expect(await screen.findByText('No lighter copy')).toBeTruthy();
  });

  it('leads to the other runs of the satchel', async () => {
    show();
    expect(await screen.findByText(/Feather, 1 document, 1.0 MB → 90.0 kB/)).toBeTruthy();
  });
});
