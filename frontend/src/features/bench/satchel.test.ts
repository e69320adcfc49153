import { describe, expect, it } from 'vitest';

import { aCopy, aDocument, aSatchel } from '../../tests/samples';
import { isBusy, scaleOf, thenOf, totalsOf } from './satchel';

const copy = aCopy();

describe('what a copy weighs', () => {
  it('is estimated with a band before there is a copy', () => {
    expect(thenOf(aDocument(), 'post')).toEqual({
      bytes: 400_000,
      band: aDocument().estimates.post,
      isMeasured: false,
    });
  });
  it('is measured once a copy was made with what is wanted now', () => {
    expect(thenOf(aDocument({ copy }))).toEqual({ bytes: 450_000, isMeasured: true });
  });
  it('is estimated again once something else is wanted', () => {
    const old = aCopy({ is_current: false });
    expect(thenOf(aDocument({ copy: old }))?.isMeasured).toBe(false);
  });
  it('is not known before the document was weighed', () => {
    expect(thenOf(aDocument({ estimates: {} }), 'post')).toBeNull();
  });
});

describe('the totals of a satchel', () => {
  it('count what fits the limit', () => {
    const both = aSatchel([aDocument({ copy }), aDocument({ id: 'e' })], 420_000);
    expect(totalsOf(both)).toEqual({
      now: 2_000_000,
      then: 850_000,
      low: 750_000,
      high: 1_050_000,
      counted: 2,
      fitting: 1,
      isMeasured: false,
    });
  });
  it('leave out what is not weighed', () => {
    expect(totalsOf(aSatchel([aDocument({ estimates: {} })]), 'post').counted).toBe(0);
  });
});

describe('the shared scale', () => {
  it('reaches a little past the limit, so that its line is seen', () => {
    const { scale, limitAt } = scaleOf(aSatchel([aDocument()], 1_200_000));
    expect(scale).toBeCloseTo(1_248_000);
    expect(limitAt).toBeCloseTo(1200 / 1248);
  });
  it('has no line for a limit far from every document', () => {
    expect(scaleOf(aSatchel([aDocument()], 5_000_000))).toEqual({
      scale: 1_000_000,
      limitAt: null,
    });
  });
});

describe('being busy', () => {
  it('ends when all is weighed and no run goes on', () => {
    expect(isBusy(aSatchel([aDocument({ state: 'weighing' })]))).toBe(true);
    expect(isBusy(aSatchel([aDocument()]))).toBe(false);
  });
});
