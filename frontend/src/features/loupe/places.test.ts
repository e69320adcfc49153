import { describe, expect, it } from 'vitest';

import {
  nextWorst,
  type ProofPlace,
  samenessOf,
  tilesAround,
  worstFirst,
  worstPlace,
} from './places';

function aPage(page: number, likeness: number, changes: Partial<ProofPlace> = {}): ProofPlace {
  return {
    page,
    part: null,
    title: `Page ${page}`,
    likeness,
    width_pt: 612,
    height_pt: 792,
    text_same: true,
    worst: [100, 600, 110, 610],
    faults: [],
    pictures: [],
    ...changes,
  };
}

describe('pages', () => {
  const pages = [aPage(1, 1, { worst: null }), aPage(2, 0.91), aPage(3, 0.97), aPage(4, 1)];

  it('come least alike first, equal ones in their own order', () => {
    expect(worstFirst(pages).map(({ page }) => page)).toEqual([2, 3, 1, 4]);
  });

  it('are gone through from one worst place to the next, and round again', () => {
    expect(nextWorst(pages, '2')?.page).toBe(3);
    expect(nextWorst(pages, '3')?.page).toBe(4);
    expect(nextWorst(pages, '4')?.page).toBe(2);
  });

  it('say how alike they are in a word as well', () => {
    expect(samenessOf(aPage(1, 1)).word).toBe('same');
    expect(samenessOf(aPage(1, 0.95)).word).toBe('0.950');
    expect(samenessOf(aPage(1, 0.99, { faults: ['page 1: gone'] })).word).toBe('check');
  });

  it('have their worst place counted from the upper left', () => {
    expect(worstPlace(aPage(1, 0.9))).toEqual({ x: 105, y: 792 - 605 });
    expect(worstPlace(aPage(1, 1, { worst: null }))).toEqual({ x: 306, y: 396 });
  });
});

describe('tiles', () => {
  const page = aPage(1, 0.9);

  it('cover the whole loupe and no more of the page than it has', () => {
    for (const zoom of [1, 2, 4, 8]) {
      const at = { x: 300, y: 400 };
      const radius = 150 / zoom;
      const tiles = tilesAround(page, at, radius, zoom);
      expect(Math.min(...tiles.map((one) => one.left))).toBeLessThanOrEqual(at.x - radius);
      expect(Math.max(...tiles.map((one) => one.left + one.width))).toBeGreaterThanOrEqual(
        at.x + radius,
      );
      expect(tiles.length).toBeLessThanOrEqual(9);
    }
  });

  it('end where the page ends', () => {
    const tiles = tilesAround(page, { x: 611, y: 791 }, 50, 2);
    for (const tile of tiles) {
      expect(tile.left + tile.width).toBeLessThanOrEqual(612);
      expect(tile.top + tile.height).toBeLessThanOrEqual(792);
    }
    expect(tiles.at(-1)?.box.split(',')[1]).toBe('0.00');
  });

  it('stay the same tiles while the loupe moves a little', () => {
    const one = tilesAround(page, { x: 300, y: 400 }, 20, 4).map(({ key }) => key);
    const other = tilesAround(page, { x: 302, y: 401 }, 20, 4).map(({ key }) => key);
    expect(other).toEqual(one);
  });
});
