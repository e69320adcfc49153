import { Box } from '@mantine/core';

import type { Schemas } from '../../api/client';
import { sizeText } from '../../shared/sizes';
import type { Satchel } from '../satchel';
import classes from './SheetTable.module.css';

type Cells = NonNullable<Schemas['SheetPart']['cells']>;

interface SheetTableProps {
  /** Of sheets of a workbook. */
  parts: Schemas['SheetPart'][];
  satchel: Satchel;
}

const LETTERS = 26;
const LAST_ROW = 1_048_576;

/** The sheets of a workbook: how far each says it goes, how far its data do, and what weighs. */
export function SheetTable({ parts, satchel }: SheetTableProps) {
  const dropped = new Set<string>(satchel.wanted.dropped_extras);
  return (
    <table className={classes.table} aria-label="Sheets of the workbook">
      <thead>
        <tr>
          <th scope="col">Sheet</th>
          <th scope="col">Claimed, used</th>
          <th scope="col">What weighs</th>
          <th scope="col">Now → then</th>
          <th scope="col">Off</th>
        </tr>
      </thead>
      <tbody>
        {parts.map(({ id, name, cells }) => {
          if (cells === null) return null;
          const off =
            (dropped.has('cell-spelling') ? cells.spelling_bytes : 0) +
            (dropped.has('past-formats') ? cells.past_bytes : 0);
          return (
            <tr key={id}>
              <th scope="row">
                {name}
                {cells.is_hidden && <span className={classes.hidden}>hidden</span>}
                <small>{dataText(cells)}</small>
              </th>
              <td className={classes.extent}>
                <ExtentMap cells={cells} />
              </td>
              <td>
                {cells.untouchable || weightText(cells)}
                <small>{claimText(cells)}</small>
              </td>
              <td className={classes.number}>
                {sizeText(cells.stored_bytes)} → {sizeText(cells.stored_bytes - off)}
              </td>
              <td className={classes.off}>{off > 0 ? `−${sizeText(off)}` : '–'}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** What the sheet claims as a frame, what its data take of it as a filled corner. */
function ExtentMap({ cells }: { cells: Cells }) {
  const claimed = claimedPlace(cells);
  const share = (used: number, all: number) => `${Math.min(1, used / Math.max(1, all)) * 100}%`;
  const told = `Data take ${cells.last_row} of ${claimed.row} rows, ${cells.last_column} of ${claimed.column} columns`;
  return (
    <Box
      role="img"
      aria-label={told}
      className={classes.map}
      __vars={{
        '--used-across': share(cells.last_column, claimed.column),
        '--used-down': share(cells.last_row, claimed.row),
      }}
    />
  );
}

function claimedPlace(cells: Cells) {
  const [, letters = '', digits = '0'] = /^([A-Z]*)(\d+)$/.exec(cells.claimed) ?? [];
  let column = 0;
  for (let at = 0; at < letters.length; at += 1)
    column = column * LETTERS + letters.charCodeAt(at) - 64;
  return {
    row: Math.min(LAST_ROW, Math.max(Number(digits), cells.any_row)),
    column: Math.max(column, cells.any_column),
  };
}

function dataText({ cells, last_row, last_column }: Cells): string {
  if (cells === 0) return 'no data';
  return `data end at row ${last_row.toLocaleString('en')}, column ${lettersOf(last_column)}`;
}

function claimText(cells: Cells): string {
  const { row, column } = claimedPlace(cells);
  if (row <= cells.last_row && column <= cells.last_column) return '';
  return `claims row ${row.toLocaleString('en')}, column ${lettersOf(column)}`;
}

function weightText({ cells, blanks, past_bytes, spelling_bytes }: Cells): string {
  if (past_bytes > spelling_bytes)
    return `${blanks.toLocaleString('en')} blank cells with a format, ${sizeText(past_bytes)} of them past the data`;
  const count = `${cells.toLocaleString('en')} cells`;
  return spelling_bytes > 0 ? `${count}, ${sizeText(spelling_bytes)} of it spelling` : count;
}

function lettersOf(column: number): string {
  let letters = '';
  for (let left = column; left > 0; left = Math.floor((left - 1) / LETTERS))
    letters = String.fromCharCode(65 + ((left - 1) % LETTERS)) + letters;
  return letters || '–';
}
