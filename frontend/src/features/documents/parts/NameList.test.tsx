import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import type { Schemas } from '../../../api/client';
import { renderInApp } from '../../../tests/render';
import { aDocument } from '../../../tests/samples';
import type { SatchelChanges } from '../../satchel';
import { NameList } from './NameList';
import { SheetTable } from './SheetTable';

type Part = Schemas['SheetPart'];

function aPart(changes: Partial<Part>): Part {
  return {
    id: 'p',
    kind: 'name',
    extra: null,
    removed_with: null,
    can_be_spared: false,
    name: 'old_total',
    bytes: 1200,
    bytes_then: 1200,
    decision: 'keep',
    reason: 'kept',
    likeness: null,
    picture: null,
    cells: null,
    stray_name: null,
    ...changes,
  };
}

function aName(name: string, used_by: string[] = []): Part {
  const stray_name = {
    points_at: '#REF!',
    used_by,
    is_hidden: true,
    is_broken: true,
    is_sound: false,
  };
  return aPart({ id: `name::${name}`, name, stray_name });
}

function show(exceptions = {}) {
  const changes = { except: { mutate: vi.fn(), error: null } };
  const parts = [aName('one'), aName('two', ['cells of Ledger']), aName('three')];
  renderInApp(
    <NameList
      document={aDocument({ exceptions })}
      parts={parts}
      changes={changes as unknown as SatchelChanges}
    />,
  );
  return changes.except.mutate;
}

const OUT = { is_left_out: true };

describe('names of a workbook', () => {
  it('say what uses them, and go one by one', async () => {
    const mutate = show({ 'picture:1': { is_exempt: true } });
    expect(screen.getByText('broken, used by cells of Ledger')).toBeTruthy();
    await userEvent.click(screen.getByRole('checkbox', { name: 'Remove the name one' }));
    expect(mutate).toHaveBeenCalledWith({
      id: 'd1',
      exceptions: { 'picture:1': { is_exempt: true }, 'name::one': OUT },
    });
  });

  it('go together where nothing uses them, and come back by undoing', async () => {
    const mutate = show();
    await userEvent.click(screen.getByRole('button', { name: 'Choose the 2 that nothing uses' }));
    expect(mutate).toHaveBeenLastCalledWith({
      id: 'd1',
      exceptions: { 'name::one': OUT, 'name::three': OUT },
    });
    await userEvent.click(screen.getByRole('button', { name: 'Undo' }));
    expect(mutate).toHaveBeenLastCalledWith({ id: 'd1', exceptions: {} });
  });

  it('are reached with arrows', async () => {
    show();
    screen.getByRole('checkbox', { name: 'Remove the name one' }).focus();
    await userEvent.keyboard('{ArrowDown}');
    await vi.waitFor(() => {
      const second = screen.getByRole('checkbox', { name: 'Remove the name two' });
      expect(document.activeElement).toBe(second);
    });
  });
});

describe('sheets of a workbook', () => {
  it('say how far data go, what they claim, and what comes off', () => {
    const cells = {
      last_row: 61204,
      last_column: 14,
      last_column_name: 'N',
      claimed_row: 1048576,
      claimed_column: 52,
      claimed_column_name: 'AZ',
      cells: 800000,
      blanks: 400000,
      is_hidden: false,
      untouchable: '',
      bytes: 11_900_000,
      bytes_then: 1_300_000,
      spelling_bytes: 700_000,
      past_bytes: 9_900_000,
      fills_bytes: 0,
    };
    renderInApp(
      <SheetTable parts={[aPart({ kind: 'cells', name: 'Ringing', cells })]} isMeasured={false} />,
    );
    expect(screen.getByText('data end at row 61,204, column N')).toBeTruthy();
    expect(screen.getByText('claims row 1,048,576, column AZ')).toBeTruthy();
    expect(screen.getByText('11.9 MB → 1.3 MB')).toBeTruthy();
    expect(screen.getByText('−10.6 MB')).toBeTruthy();
  });
});
