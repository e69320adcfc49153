import { Box } from '@mantine/core';

import type { Schemas } from '../../../api/client';
import { sizeText } from '../../../shared/sizes';
import classes from './SheetTable.module.css';

type Cells = NonNullable<Schemas['SheetPart']['cells']>;

interface SheetTableProps {
  /** The sheets of a workbook. */
  parts: Schemas['SheetPart'][];
  /** A copy was made, and says what they take. */
  isMeasured: boolean;
}

/** The sheets of a workbook: how far each says it goes, how far its data do, and what weighs. */
export function SheetTable({ parts, isMeasured }: SheetTableProps) {
  return (
    <table className={classes.table} aria-label="Sheets of the workbook">
      <thead>
        <tr>
          <th scope="col">Sheet</th>
          <th scope="col">Claimed, used</th>
          <th scope="col">Content</th>
          <th scope="col">{isMeasured ? 'Before → after' : 'Before → after, estimate'}</th>
          <th scope="col">Saved</th>
        </tr>
      </thead>
      <tbody>
        {parts.map(({ id, name, cells }) => {
          if (cells === null) return null;
          const off = cells.bytes - cells.bytes_then;
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
                {sizeText(cells.bytes)} → {sizeText(cells.bytes_then)}
              </td>
              <td className={classes.off}>{off > 0 ? `−${sizeText(off)}` : '–'}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** The used range of a sheet as a frame, its data as a filled corner. */
function ExtentMap({ cells }: { cells: Cells }) {
  const { last_row, last_column, claimed_row, claimed_column } = cells;
  const share = (used: number, all: number) => `${Math.min(1, used / Math.max(1, all)) * 100}%`;
  const told = `Data take ${last_row} of ${claimed_row} rows, ${last_column} of ${claimed_column} columns`;
  return (
    <Box
      role="img"
      aria-label={told}
      className={classes.map}
      __vars={{
        '--used-across': share(last_column, claimed_column),
        '--used-down': share(last_row, claimed_row),
      }}
    />
  );
}

function dataText({ cells, last_row, last_column_name }: Cells): string {
  if (cells === 0) return 'no data';
  return `data end at row ${last_row.toLocaleString('en')}, column ${last_column_name}`;
}

function claimText(cells: Cells): string {
  const { claimed_row, claimed_column, claimed_column_name } = cells;
  if (claimed_row <= cells.last_row && claimed_column <= cells.last_column) return '';
  return `claims row ${claimed_row.toLocaleString('en')}, column ${claimed_column_name}`;
}

function weightText({ cells, blanks, past_bytes, fills_bytes, spelling_bytes }: Cells): string {
  if (fills_bytes > Math.max(past_bytes, spelling_bytes))
    return `${blanks.toLocaleString('en')} blank cells, ${sizeText(fills_bytes)} of them coloured past the data`;
  if (past_bytes > spelling_bytes)
    return `${blanks.toLocaleString('en')} blank cells with a format, ${sizeText(past_bytes)} of them past the data`;
  const count = `${cells.toLocaleString('en')} cells`;
  return spelling_bytes > 0 ? `${count}, ${sizeText(spelling_bytes)} of which is markup` : count;
}
