import { describe, expect, it } from 'vitest';

import { AS_THEY_ARE, byName, inOrder, moved, turned, turnsByPage } from './pages';

const PICTURES = ['a', 'b', 'c'].map((id) => ({ id, name: `page ${id}.jpg` }));
const SHOWN = PICTURES.map((picture) => ({ ...picture, pages: null }));
const ids = (pages = AS_THEY_ARE) => inOrder(PICTURES, pages).map(({ id }) => id);

describe('pages', () => {
  it('are moved one by one, and those that come later stay last', () => {
    const pages = moved(AS_THEY_ARE, ids(), 2, 0);
    expect(ids(pages)).toEqual(['c', 'a', 'b']);
    expect(ids(moved(pages, ids(pages), 0, 1))).toEqual(['a', 'c', 'b']);
    expect(inOrder([...PICTURES, { id: 'd', name: 'd' }], pages).at(-1)?.id).toBe('d');
    for (const to of [-1, 3]) expect(moved(pages, ids(pages), 1, to)).toBe(pages);
  });

  it('are turned by quarters, and told by their numbers', () => {
    const once = turned(turned(AS_THEY_ARE, 'b'), 'c');
    expect(turnsByPage(turned(once, 'c'), SHOWN)).toEqual({ '2': 90, '3': 180 });
    const round = [1, 2, 3, 4].reduce((pages) => turned(pages, 'a'), AS_THEY_ARE);
    expect(turnsByPage(round, SHOWN)).toEqual({});
  });

  it('are sorted as people count, and left out', () => {
    const named = ['page 10', 'page 2', 'Page 1'].map((name) => ({ id: name, name }));
    expect(byName(AS_THEY_ARE, named).order).toEqual(['Page 1', 'page 2', 'page 10']);
    expect(ids({ ...AS_THEY_ARE, leftOut: ['b'] })).toEqual(['a', 'c']);
  });
});
