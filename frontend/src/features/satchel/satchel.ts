import type { Schemas } from '../../api/client';

export type Satchel = Schemas['Satchel'];
export type Document = Schemas['Document'];

/** The weight of the copy of a document, or its estimate. */
export interface Then {
  bytes: number;
  /** Only where it is estimated. */
  band?: { low: number; high: number };
  isMeasured: boolean;
}

/** The satchel with what is new; null where all of it has to be asked for again. */
export function withChanges(now: Satchel, changes: Schemas['Changes']): Satchel | null {
  if (changes.choices_mark !== now.choices_mark) return null;
  const changed = new Map(changes.documents.map((one) => [one.id, one]));
  const stay = now.documents.map((one) => changed.get(one.id) ?? one);
  const known = new Set(stay.map(({ id }) => id));
  const documents = [...stay, ...changes.documents.filter(({ id }) => !known.has(id))];
  if (documents.length !== changes.document_count) return null;
  const { as_of, ask_again_ms, run } = changes;
  const next = { ...now, as_of, ask_again_ms, run, documents };
  // What one document may weigh can depend on what became of the others.
  return isWatched(now) && !isWatched(next) ? null : next;
}

/** Something goes on that will change what is shown. */
export function isWatched(satchel: Satchel): boolean {
  return isBusy(satchel) || trialProgressOf(satchel) < 1;
}

const UPLOADS_EVERY_MS = 800;
const LEARNING_EVERY_MS = 1500;

/** The polling interval in ms; false if nothing will change. */
export function watchedEvery(satchel: Satchel | undefined, hasUploads: boolean): number | false {
  if (hasUploads) return UPLOADS_EVERY_MS;
  if (!satchel || !isWatched(satchel)) return false;
  return isBusy(satchel) ? satchel.ask_again_ms : LEARNING_EVERY_MS;
}

/** Something goes on that the page should watch. */
export function isBusy(satchel: Satchel): boolean {
  return (
    satchel.run?.is_busy === true ||
    satchel.documents.some(({ state }) => state === 'waiting' || state === 'weighing')
  );
}

/** The share of trials made of the documents that are weighed; 1 where none are left to make. */
export function trialProgressOf(satchel: Satchel): number {
  const weighed = satchel.documents.filter(({ state }) => state === 'weighed');
  const bytes = weighed.reduce((sum, one) => sum + one.size_bytes, 0);
  if (bytes === 0) return 1;
  return weighed.reduce((sum, one) => sum + one.trial_progress * one.size_bytes, 0) / bytes;
}

/** The present order: the preset, tuned or not, and the exceptions. */
export const CURRENT = 'current';

/** The satchel as it will be once the server knows of a choice, as far as that is known here. */
export function foreseen(now: Satchel, body: Schemas['PatchedSatchelRequest']): Satchel {
  const { preset, treatment } = body;
  const next = {
    ...now,
    ...body,
    treatment: treatment ?? now.treatment,
    wanted: treatment ?? now.wanted,
  } as Satchel;
  if (preset === undefined) return next;
  const documents = now.documents.map((document) => ({
    ...document,
    estimates: {
      ...document.estimates,
      ...(document.estimates[preset] && { [CURRENT]: document.estimates[preset] }),
    },
    copy: document.copy && { ...document.copy, is_current: false },
  }));
  return { ...next, treatment: treatment ?? null, documents };
}

/** A copy made with what is wanted now counts as measured; else the estimate stands. */
export function thenOf(document: Document, preset: string = CURRENT): Then | null {
  const { copy } = document;
  if (preset === CURRENT && copy?.is_current && copy.bytes_after != null) {
    if (copy.state === 'done' || copy.state === 'none') {
      return { bytes: copy.bytes_after, isMeasured: true };
    }
  }
  const estimate = document.estimates[preset];
  if (!estimate) return null;
  return { bytes: estimate.bytes, band: estimate, isMeasured: false };
}

export interface Totals {
  now: number;
  then: number;
  low: number;
  high: number;
  /** Documents that are weighed, and so counted in the other figures. */
  counted: number;
  fitting: number;
  /** Documents of which nobody can say yet whether they will fit. */
  open: number;
  isMeasured: boolean;
}

/** Whether it will fit is not known before more of its pictures have been tried. */
export function isOpen(document: Document): boolean {
  return Boolean(document.estimates[CURRENT]?.is_open) && !thenOf(document)?.isMeasured;
}

/** Whether what a document comes to is within the limit, its own or its share of one for all. */
export function isFitting(document: Document, satchel: Satchel): boolean {
  const then = thenOf(document);
  if (!then || isOpen(document)) return true;
  if (document.estimates[CURRENT]?.lightest != null && !then.isMeasured) return false;
  const limit = satchel.limit_file_bytes;
  return satchel.is_limit_shared ? true : isWithin(then.bytes, limit);
}

/** All weighed documents together under a preset. */
export function totalsOf(satchel: Satchel, preset: string = CURRENT): Totals {
  const totals = {
    now: 0,
    then: 0,
    low: 0,
    high: 0,
    counted: 0,
    fitting: 0,
    open: 0,
    isMeasured: true,
  };
  for (const document of satchel.documents) {
    const then = thenOf(document, preset);
    if (!then) continue;
    totals.now += document.size_bytes;
    totals.then += then.bytes;
    totals.low += then.band?.low ?? then.bytes;
    totals.high += then.band?.high ?? then.bytes;
    totals.counted += 1;
    const isAlone = !satchel.is_limit_shared;
    const isUnknown = preset === CURRENT && isOpen(document);
    if (isUnknown) totals.open += 1;
    else if (isAlone && isWithin(then.bytes, satchel.limit_file_bytes)) totals.fitting += 1;
    totals.isMeasured &&= then.isMeasured;
  }
  if (satchel.is_limit_shared && isWithin(totals.then, satchel.limit_file_bytes)) {
    totals.fitting = totals.open > 0 ? 0 : totals.counted;
  }
  return totals;
}

/** Bytes that each switch takes off all documents together. */
export function savingsOf(satchel: Satchel): Record<string, number> {
  const savings: Record<string, number> = {};
  for (const document of satchel.documents) {
    for (const [name, bytes] of Object.entries(document.savings)) {
      savings[name] = (savings[name] ?? 0) + bytes;
    }
  }
  return savings;
}

/** The formats of the documents that are weighed; all where none is yet. */
export function formatsOf(satchel: Satchel, formats: Schemas['Format'][]): Schemas['Format'][] {
  const here = new Set(satchel.documents.map(({ format }) => format));
  const own = formats.filter(({ name }) => here.has(name));
  return own.length > 0 ? own : formats;
}

/** The warnings before copies are made, each once. */
export function warningsOf(satchel: Satchel): string[] {
  const all = satchel.documents.flatMap((one) => one.estimates[CURRENT]?.warnings ?? []);
  return [...new Set(all)];
}

export function isWithin(bytes: number, limit: number | null): boolean {
  return limit === null || bytes <= limit;
}

/** Bytes that the whole width of the bench stands for; null limit line if it lies far outside. */
export function scaleOf(satchel: Satchel): { scale: number; limitAt: number | null } {
  const heaviest = Math.max(1, ...satchel.documents.map((document) => document.size_bytes));
  const limit = satchel.limit_file_bytes;
  if (limit === null || limit > heaviest * 1.6) return { scale: heaviest, limitAt: null };
  const scale = Math.max(heaviest, limit * 1.04);
  return { scale, limitAt: limit / scale };
}

type Extra = Satchel['wanted']['dropped_extras'][number];

/** What has to be saved so that a kind of extra goes from all documents. */
export function removedEverywhere(satchel: Satchel, kind: Extra): Schemas['PatchedSatchelRequest'] {
  if (satchel.is_fitted) return { fit_ways: [...(satchel.fit_ways ?? []), kind] };
  const dropped_extras = [...satchel.wanted.dropped_extras, kind];
  return { treatment: { ...satchel.wanted, dropped_extras } };
}

const MOST_REMOVALS = 3;
/** The share of the missing bytes that a removal has to save to be worth a word. */
const WORTH_A_WORD = 0.05;

/** Extras that a document keeps, whose removal would bring it nearest to its limit. */
export function helpfulRemovals(document: Document, satchel: Satchel, missing: number) {
  const gone = new Set<string>(
    satchel.is_fitted ? (satchel.fit_ways ?? []) : satchel.wanted.dropped_extras,
  );
  return Object.entries(document.savings)
    .map(([name, bytes]) => ({ kind: name.replace(/^extra\./, '') as Extra, name, bytes }))
    .filter(
      ({ kind, name, bytes }) =>
        name.startsWith('extra.') && !gone.has(kind) && bytes >= WORTH_A_WORD * missing,
    )
    .sort((one, other) => other.bytes - one.bytes)
    .slice(0, MOST_REMOVALS);
}
