import { describe, expect, it } from 'vitest';

import { arranged, limitOf, type Row } from './arrange';

function row(name: string, changes: Partial<Row> = {}): Row {
  return {
    id: name,
    name,
    changed_at: '2026-11-20T10:00:00Z',
    limit_bytes: null,
    limit_carrier: 'file',
    limit_file_bytes: null,
    is_limit_shared: false,
    preset: 'post',
    document_count: 2,
    bytes_before: 100,
    bytes_after: null,
    last_run_id: null,
    last_run_at: null,
    copies_same: null,
    copies_close: null,
    copies_check: null,
    ...changes,
  };
}

const ROWS = [
  row('Season 10', { bytes_before: 900, bytes_after: 800 }),
  row('Season 9', { bytes_before: 500, bytes_after: 100, changed_at: '2026-11-25T10:00:00Z' }),
  row('Logs of the fen'),
];
const names = (rows: Row[]) => rows.map(({ name }) => name);

describe('the shelf', () => {
  it('is put in order', () => {
    expect(names(arranged(ROWS, '', 'changed'))[0]).toBe('Season 9');
    expect(names(arranged(ROWS, '', 'name'))).toEqual(['Logs of the fen', 'Season 9', 'Season 10']);
    expect(names(arranged(ROWS, '', 'heaviest'))[0]).toBe('Season 10');
    expect(names(arranged(ROWS, '', 'saved'))[0]).toBe('Season 9');
  });

  it('is searched by words in any order and case', () => {
    expect(names(arranged(ROWS, '10 sea', 'name'))).toEqual(['Season 10']);
    expect(arranged(ROWS, 'fog', 'name')).toEqual([]);
  });

  it('counts a limit for each document, or for all together', () => {
    expect(limitOf(row('a'))).toBeNull();
    expect(limitOf(row('a', { limit_file_bytes: 50 }))).toBe(100);
    expect(limitOf(row('a', { limit_file_bytes: 50, is_limit_shared: true }))).toBe(50);
  });
});
