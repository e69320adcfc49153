import { describe, expect, it } from 'vitest';

import { endingsOf, pointsOf } from './checklists';

describe('a checklist', () => {
  it('is told point by point', () => {
    expect(
      pointsOf({
        endings: ['.pdf', '.tif'],
        most_pages: 20,
        needs_pdf_a: true,
        names: { no_spaces: true, ascii_only: true, most_letters: 64 },
      }),
    ).toEqual([
      'kinds: pdf, tif',
      'at most 20 pages',
      'PDF/A',
      'names: no spaces, plain letters only, at most 64 letters',
    ]);
    expect(pointsOf({ needs_pdf_a: false })).toEqual([]);
    expect(pointsOf(null)).toEqual([]);
  });

  it('takes endings as people write them', () => {
    expect(endingsOf('pdf, .TIF pdf')).toEqual(['.pdf', '.tif']);
    expect(endingsOf('  ')).toEqual([]);
  });
});
