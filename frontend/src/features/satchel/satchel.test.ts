import { describe, expect, it } from 'vitest';

import { aCopy, aDocument, aSatchel } from '../../tests/samples';
import {
  foreseen,
  helpfulRemovals,
  isBusy,
  isFitting,
  isOpen,
  removedEverywhere,
  scaleOf,
  thenOf,
  totalsOf,
  watchedEvery,
  withChanges,
} from './satchel';

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
      open: 0,
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

describe('watching', () => {
  const every = (document: ReturnType<typeof aDocument>, ask_again_ms = 800) =>
    watchedEvery({ ...aSatchel([document]), ask_again_ms }, false);

  it('goes on as often as the server wants while anything will change', () => {
    expect(every(aDocument({ state: 'weighing' }))).toBe(800);
    expect(every(aDocument({ state: 'waiting' }), 2000)).toBe(2000);
    expect(every(aDocument({ trial_progress: 0.5 }))).toBe(1500);
    expect(every(aDocument())).toBe(false);
  });
  it('goes on while files are on their way', () => {
    expect(watchedEvery(aSatchel([]), true)).toBe(800);
  });
});

describe('what has changed', () => {
  const weighing = aDocument({ id: 'd2', state: 'weighing', progress: 0.2 });
  const now = aSatchel([aDocument(), weighing]);
  const changes = {
    as_of: '2026-05-04T10:00:01Z',
    ask_again_ms: 2000,
    choices_mark: 'c1',
    document_count: 2,
    documents: [{ ...weighing, progress: 0.7 }],
    run: null,
  };

  it('takes the place of what was shown, and the rest stays', () => {
    const next = withChanges(now, changes);
    expect(next?.documents.map(({ progress }) => progress)).toEqual([1, 0.7]);
    expect(next?.documents[0]).toBe(now.documents[0]);
    expect(next?.as_of).toBe(changes.as_of);
    expect(next?.ask_again_ms).toBe(2000);
  });
  it('is put at the end where it is new', () => {
    const documents = [...changes.documents, aDocument({ id: 'd3' })];
    const next = withChanges(now, { ...changes, document_count: 3, documents });
    expect(next?.documents.map(({ id }) => id)).toEqual(['d1', 'd2', 'd3']);
  });
  it('is asked for whole after a document has gone or another choice was made', () => {
    expect(withChanges(now, { ...changes, document_count: 1 })).toBeNull();
    expect(withChanges(now, { ...changes, choices_mark: 'c2' })).toBeNull();
  });
  it('is asked for whole once nothing goes on any more', () => {
    const documents = [{ ...weighing, state: 'weighed' as const, trial_progress: 1 }];
    expect(withChanges(now, { ...changes, documents })).toBeNull();
  });
});

describe('a choice', () => {
  it('moves the beams before the server has answered', () => {
    const light = {
      bytes: 100_000,
      low: 90_000,
      high: 110_000,
      lightest: null,
      is_open: false,
      warnings: [],
    };
    const document = aDocument();
    const now = aSatchel([
      aDocument({ copy: aCopy(), estimates: { ...document.estimates, feather: light } }),
    ]);
    const next = foreseen(now, { preset: 'feather' });
    expect(totalsOf(next)).toMatchObject({ then: 100_000, isMeasured: false });
    expect(foreseen(now, { name: 'Other' }).documents).toBe(now.documents);
    const treatment = { ...now.wanted, is_linearized: true };
    expect(foreseen(now, { treatment }).wanted).toBe(treatment);
  });

  it('without a way to meet the limit does not count as fitting', () => {
    const estimate = { bytes: 1, low: 1, high: 1, lightest: 300_000, is_open: false, warnings: [] };
    const document = aDocument({ estimates: { current: estimate } });
    expect(isFitting(document, aSatchel([document], 200_000))).toBe(false);
    expect(isFitting(aDocument(), aSatchel([aDocument()], 500_000))).toBe(true);
  });

  it('that is not known yet is neither', () => {
    const estimate = {
      bytes: 1,
      low: 1,
      high: 900_000,
      lightest: null,
      is_open: true,
      warnings: [],
    };
    const document = aDocument({ estimates: { current: estimate } });
    const satchel = aSatchel([document], 200_000);
    expect(isOpen(document)).toBe(true);
    expect(totalsOf(satchel)).toMatchObject({ counted: 1, fitting: 0, open: 1 });
    expect(totalsOf({ ...satchel, is_limit_shared: true }).fitting).toBe(0);
  });

  it('of one limit for all counts all together', () => {
    const satchel = { ...aSatchel([aDocument(), aDocument()], 500_000), is_limit_shared: true };
    expect(totalsOf(satchel).fitting).toBe(0);
    expect(totalsOf({ ...satchel, limit_file_bytes: 900_000 }).fitting).toBe(2);
  });
});

describe('removals that help to meet a limit', () => {
  it('are those that the document keeps, the heaviest first, if they are worth a word', () => {
    const savings = {
      'extra.notes': 900,
      'extra.thumbnails': 5000,
      'extra.tags': 30,
      'extra.media': 4000,
      'fonts.subset': 9000,
    };
    const document = aDocument({ savings });
    const found = helpfulRemovals(document, aSatchel([document], null), 1000);
    // Previews go with the preset already.
    expect(found.map(({ kind }) => kind)).toEqual(['media', 'notes']);
  });

  it('are permitted as a way where a limit is fitted', () => {
    const satchel = { ...aSatchel([], 1000), is_fitted: true, fit_ways: ['grey' as const] };
    expect(removedEverywhere(satchel, 'notes')).toEqual({ fit_ways: ['grey', 'notes'] });
  });
});
