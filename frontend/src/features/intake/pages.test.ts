import { describe, expect, it } from 'vitest';

import { isLookedAt, movedIds, onHand, remarkOf, turned, weightsOf, worstFirst } from './pages';
import { anIntake, aPage } from './samples';

describe('pages on hand', () => {
  const intake = anIntake(aPage('a'), aPage('b', { is_out: true }), aPage('c'));

  it('are those that were not taken out', () => {
    expect(onHand(intake).map(({ id }) => id)).toEqual(['a', 'c']);
  });

  it('are moved among one another, and never beyond', () => {
    expect(movedIds(intake, 'c', 0)).toEqual(['c', 'a']);
    expect(movedIds(intake, 'c', 2)).toEqual(['a', 'c']);
  });

  it('weigh what is known of them, and as they come until then', () => {
    const half = anIntake(aPage('a', { size_bytes: 900, layers: null }), aPage('c'));
    expect(weightsOf(half)).toEqual({ asItComes: 2900, inLayers: 1000, known: 1, whole: 0 });
    expect(isLookedAt(half)).toBe(false);
  });

  it('are shown worst first where layers differ', () => {
    const layers = aPage('x').layers;
    const better = aPage('b', { layers: layers && { ...layers, score: 90 } });
    expect(worstFirst(anIntake(better, aPage('a'))).map(({ id }) => id)).toEqual(['a', 'b']);
  });
});

describe('a page', () => {
  it('comes round after four turns', () => {
    expect(([0, 90, 180, 270] as const).map(turned)).toEqual([90, 180, 270, 0]);
  });

  it('says what is special about it', () => {
    expect(remarkOf(aPage('a'))).toBe('');
    expect(remarkOf(aPage('a', { is_blank: true }))).toBe('looks blank');
    expect(remarkOf(aPage('a', { error_message: 'a.jpg: no.' }))).toBe('cannot be read');
  });
});
