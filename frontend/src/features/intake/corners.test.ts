import { describe, expect, it } from 'vitest';

import { AT_EDGES, atCorner } from './corners';

describe('corners of a sheet', () => {
  it('go where they are put', () => {
    expect(atCorner(AT_EDGES, 0, [0.2, 0.3])[0]).toEqual([0.2, 0.3]);
  });

  it('stay within the picture', () => {
    expect(atCorner(AT_EDGES, 1, [1.4, -0.2])[1]).toEqual([1, 0]);
  });

  it('never cross or fold the sheet', () => {
    expect(atCorner(AT_EDGES, 0, [0.9, 0.9])).toEqual(AT_EDGES);
    expect(atCorner(AT_EDGES, 2, [0.05, 0.05])).toEqual(AT_EDGES);
  });
});
