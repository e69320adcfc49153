import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import type { Schemas } from '../../../api/client';
import { renderInApp } from '../../../tests/render';
import { aDocument } from '../../../tests/samples';
import { OtherParts } from './OtherParts';
import type { SatchelChanges } from '../../satchel';

function aFont(name: string, changes: Partial<Schemas['SheetPart']> = {}): Schemas['SheetPart'] {
  return {
    id: `font:${name}`,
    kind: 'font',
    extra: null,
    removed_with: null,
    can_be_spared: true,
    name,
    bytes: 40_000,
    bytes_then: 36_000,
    decision: 'recode',
    reason: 'only the letters in use stay',
    likeness: null,
    cells: null,
    stray_name: null,
    picture: null,
    ...changes,
  };
}

function show(exceptions = {}) {
  const changes = { except: { mutate: vi.fn(), error: null } };
  const parts = [aFont('Reed Serif'), aFont('Reed Symbols', { can_be_spared: false })];
  renderInApp(
    <OtherParts
      document={aDocument({ exceptions })}
      parts={parts}
      changes={changes as unknown as SatchelChanges}
    />,
  );
  return changes;
}

describe('fonts of a document', () => {
  it('can be left out one by one, but not those that nobody could read without', async () => {
    const changes = show();
    expect(screen.getAllByRole('checkbox')).toHaveLength(1);
    const name = 'Remove the font Reed Serif, 40.0 kB';
    await userEvent.click(screen.getByRole('checkbox', { name }));
    expect(changes.except.mutate).toHaveBeenCalledWith({
      id: 'd1',
      exceptions: { 'font:Reed Serif': { is_left_out: true } },
    });
  });

  it('come back, and leave other exceptions alone', async () => {
    const changes = show({
      'font:Reed Serif': { is_left_out: true },
      'picture:1-0': { is_exempt: true },
    });
    await userEvent.click(screen.getByRole('checkbox', { checked: true }));
    expect(changes.except.mutate).toHaveBeenCalledWith({
      id: 'd1',
      exceptions: { 'picture:1-0': { is_exempt: true } },
    });
  });
});
