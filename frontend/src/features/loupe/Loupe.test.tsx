import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';

import { renderInApp } from '../../tests/render';
import { serve } from '../../tests/server';
import { Loupe } from './Loupe';

const picture = {
  id: 'picture:5-0',
  name: 'Picture 5',
  before: 1_200_000,
  after: 112_000,
  reason: '398 to 180 ppi, quality 91: score 88 of 100, JPEG',
  is_exempt: false,
  likeness: 0.97,
  score: 84.6,
  box: [100, 500, 400, 700],
};

const aPage = {
  page: 1,
  part: null,
  title: 'Page 1',
  width_pt: 612,
  height_pt: 792,
  likeness: 0.99,
  text_same: true,
  worst: [100, 600, 110, 610],
  faults: [],
  pictures: [picture],
};

function show(changes: object = {}) {
  return serve({
    'GET /api/copies//proof': {
      copy_id: 'c1',
      satchel: 's1',
      satchel_name: 'Season papers',
      document: 'd1',
      name: 'report.pdf',
      copy_name: 'report-light.pdf',
      made_at: '2026-11-25T09:00:00Z',
      bytes_before: 2_000_000,
      bytes_after: 500_000,
      limit: 600_000,
      verdict: 'close',
      verdict_title: 'Close',
      verdict_summary: 'pictures differ a little, nothing written is lost',
      readers: ['structure: qpdf'],
      reasons: [],
      remarks: [],
      counts: [
        { kind: 'links', before: 14, after: 14 },
        { kind: 'bookmarks', before: 5, after: 4 },
      ],
      gone: ['Preview thumbnails'],
      has_pages: true,
      places: [aPage, { ...aPage, page: 2, title: 'Page 2', likeness: 0.93, pictures: [] }],
      ...changes,
    },
    'POST /api/copies/c1/gentler': { id: 'r2', preset: 'post', title: '', is_busy: true },
  });
}

describe('the loupe', () => {
  it('opens at the page that is least alike, with the facts beside it', async () => {
    show();
    renderInApp(<Loupe />);
    expect(await screen.findByText('Pictures on page 2')).toBeTruthy();
    expect(screen.getByText('14 kept')).toBeTruthy();
    expect(screen.getByText('4 of 5')).toBeTruthy();
    expect(screen.getByText('same on all')).toBeTruthy();
    expect(screen.getByText('No picture here was changed.')).toBeTruthy();
  });

  it('turns to a page, flips it by a key, and asks for a gentler picture', async () => {
    const asked = show();
    renderInApp(<Loupe />);
    await userEvent.click(await screen.findByRole('button', { name: /^p. 1/ }));
    expect(screen.getByText('score 85 of 100')).toBeTruthy();
    expect(screen.getByAltText('Page 1 of the copy')).toBeTruthy();
    await userEvent.keyboard('f');
    expect(screen.getByAltText('Page 1 of the original')).toBeTruthy();
    await userEvent.keyboard('d');
    expect(screen.getByAltText('Differences, in rust')).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Gentler with Picture 5' }));
    expect(await screen.findByText(/Making the copy again/)).toBeTruthy();
    const sent = asked.find(({ method }) => method === 'POST');
    expect(sent?.body).toEqual({ parts: ['picture:5-0'] });
  });

  it('names what a person should look at', async () => {
    show({
      verdict: 'check',
      verdict_title: 'Check',
      reasons: ['page 2: its text is not the same'],
    });
    renderInApp(<Loupe />);
    expect(await screen.findByText('page 2: its text is not the same')).toBeTruthy();
  });
});
