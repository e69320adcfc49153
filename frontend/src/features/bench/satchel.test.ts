import { describe, expect, it } from 'vitest';

import { type Document, isBusy, type Satchel, scaleOf, thenOf, totalsOf } from './satchel';

const estimates = { post: { bytes: 400, low: 300, high: 600 } };

function document(changes: Partial<Document> = {}): Document {
  return {
    id: 'd',
    name: 'report.pdf',
    folder: '',
    size_bytes: 1000,
    state: 'weighed',
    progress: 1,
    error: null,
    pages: 3,
    kind: 'pdf',
    is_signed: false,
    standard: '',
    remarks: [],
    estimates,
    copy: null,
    copy_name: 'report-light.pdf',
    ...changes,
  };
}

const copy: Document['copy'] = {
  id: 'c',
  preset: 'post',
  state: 'done',
  progress: 1,
  bytes_after: 450,
  bytes_message: 620,
  verdict: 'close',
  reasons: [],
  error: null,
  seconds: 1,
};

function satchel(documents: Document[], limit: number | null = null): Satchel {
  return {
    id: 's',
    name: 'Season',
    limit_bytes: limit,
    limit_file_bytes: limit,
    preset: 'post',
    documents,
    run: null,
  };
}

describe('what a copy weighs', () => {
  it('is estimated with a band before there is a copy', () => {
    expect(thenOf(document(), 'post')).toEqual({
      bytes: 400,
      band: estimates.post,
      isMeasured: false,
    });
  });
  it('is measured once a copy was made with that preset', () => {
    expect(thenOf(document({ copy }), 'post')).toEqual({ bytes: 450, isMeasured: true });
  });
  it('is not known before the document was weighed', () => {
    expect(thenOf(document({ estimates: {} }), 'post')).toBeNull();
  });
});

describe('the totals of a satchel', () => {
  it('count what fits the limit', () => {
    const both = satchel([document({ copy }), document({ id: 'e' })], 420);
    expect(totalsOf(both, 'post')).toEqual({
      now: 2000,
      then: 850,
      low: 750,
      high: 1050,
      counted: 2,
      fitting: 1,
      isMeasured: false,
    });
  });
  it('leave out what is not weighed', () => {
    expect(totalsOf(satchel([document({ estimates: {} })]), 'post').counted).toBe(0);
  });
});

describe('the shared scale', () => {
  it('reaches a little past the limit, so that its line is seen', () => {
    const { scale, limitAt } = scaleOf(satchel([document()], 1200));
    expect(scale).toBeCloseTo(1248);
    expect(limitAt).toBeCloseTo(1200 / 1248);
  });
  it('has no line for a limit far from every document', () => {
    expect(scaleOf(satchel([document()], 5000))).toEqual({ scale: 1000, limitAt: null });
  });
});

describe('being busy', () => {
  it('ends when all is weighed and no run goes on', () => {
    expect(isBusy(satchel([document({ state: 'weighing' })]))).toBe(true);
    expect(isBusy(satchel([document()]))).toBe(false);
  });
});
