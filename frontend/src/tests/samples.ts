import type { Schemas } from '../api/client';

/** A weighed report of 1 MB whose copy with "post" would come to about 400 kB. */
export function aDocument(changes: Partial<Schemas['Document']> = {}): Schemas['Document'] {
  return {
    id: 'd1',
    name: 'report.pdf',
    folder: 'reports',
    size_bytes: 1_000_000,
    state: 'weighed',
    progress: 1,
    error: null,
    pages: 3,
    kind: 'pdf',
    is_signed: false,
    standard: '',
    remarks: [],
    estimates: { post: { bytes: 400_000, low: 300_000, high: 600_000 } },
    copy: null,
    copy_name: 'report-light.pdf',
    ...changes,
  };
}

export function aCopy(changes: Partial<Schemas['Copy']> = {}): Schemas['Copy'] {
  return {
    id: 'c1',
    preset: 'post',
    state: 'done',
    progress: 1,
    bytes_after: 450_000,
    bytes_message: 620_000,
    verdict: 'close',
    reasons: ['pictures are a little softer, most on page 2'],
    error: null,
    seconds: 1,
    ...changes,
  };
}

export function aSatchel(
  documents: Schemas['Document'][],
  limit: number | null = null,
): Schemas['Satchel'] {
  return {
    id: 's1',
    name: 'Season papers',
    limit_bytes: limit,
    limit_carrier: 'file',
    limit_file_bytes: limit,
    preset: 'post',
    prefix: '',
    suffix: '-light',
    documents,
    run: null,
  };
}
