import type { Schemas } from '../../api/client';

export type Row = Schemas['SatchelRow'];
export type Order = 'changed' | 'name' | 'heaviest' | 'saved';

/** The number of satchels from which search and sorting are shown. */
export const MANY = 10;

export const ORDERS: { value: Order; label: string }[] = [
  { value: 'changed', label: 'last changed' },
  { value: 'name', label: 'name' },
  { value: 'heaviest', label: 'heaviest' },
  { value: 'saved', label: 'most saved' },
];

const savedBy = (row: Row) =>
  row.bytes_after == null ? 0 : (row.bytes_before ?? 0) - row.bytes_after;

const COMPARE: Record<Order, (one: Row, other: Row) => number> = {
  changed: (one, other) => other.changed_at.localeCompare(one.changed_at),
  name: (one, other) => one.name.localeCompare(other.name, undefined, { numeric: true }),
  heaviest: (one, other) => (other.bytes_before ?? 0) - (one.bytes_before ?? 0),
  saved: (one, other) => savedBy(other) - savedBy(one),
};

/** Those whose names hold every word of `words`, in that order. */
export function arranged(rows: Row[], words: string, order: Order): Row[] {
  const wanted = words.toLocaleLowerCase().split(/\s+/).filter(Boolean);
  return rows
    .filter((row) => wanted.every((word) => row.name.toLocaleLowerCase().includes(word)))
    .sort(COMPARE[order]);
}

/** The limit of a whole satchel: that of each document, times their number. */
export function limitOf(row: Row): number | null {
  if (row.limit_file_bytes == null) return null;
  return row.is_limit_shared
    ? row.limit_file_bytes
    : row.limit_file_bytes * (row.document_count ?? 0);
}
