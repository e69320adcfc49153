import { describe, expect, it } from 'vitest';

import { changeText, countText, pagesText, sizeText } from './sizes';

describe('sizes', () => {
  it('are in units of a thousand (IEC 80000-13)', () => {
    expect([999, 1000, 283_000, 12_300_000, 1_500_000_000].map(sizeText)).toEqual([
      '999 B',
      '1.0 kB',
      '283 kB',
      '12.3 MB',
      '1.50 GB',
    ]);
  });
  it('never read 1000 of a smaller unit', () => {
    expect(sizeText(999_700)).toBe('1.0 MB');
  });
  it('change by whole percents', () => {
    expect(changeText(48_000_000, 9_800_000)).toBe('−80 %');
    expect(changeText(1000, 1000)).toBe('0 %');
    expect(changeText(100_000, 99_900)).toBe('hardly lighter');
    expect(changeText(10_000_000, 4_000)).toBe('−99.9 %');
  });
});

describe('counts and pages', () => {
  it('agree in number', () => {
    expect(countText(1, 'page')).toBe('1 page');
    expect(countText(2700, 'picture')).toBe('2,700 pictures');
  });
  it('list a few pages and count the rest', () => {
    expect(pagesText([3])).toBe('page 3');
    expect(pagesText([1, 2, 3, 4, 5, 6])).toBe('pages 1, 2, 3, 4 and 2 more');
    expect(pagesText([])).toBe('on no page');
  });
});
