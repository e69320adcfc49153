import { Radio } from '@mantine/core';
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import { renderInApp } from '../../tests/render';
import { aDocument, aPdfFormat, aSatchel } from '../../tests/samples';
import { FitOption } from './FitOption';
import { type Satchel, type SatchelChanges } from '../satchel';

function show(changes: Partial<Satchel>) {
  const change = { mutate: vi.fn() };
  renderInApp(
    <Radio.Group>
      <FitOption
        satchel={{ ...aSatchel([aDocument()], 500_000), ...changes }}
        formats={[aPdfFormat]}
        changes={{ change } as unknown as SatchelChanges}
      />
    </Radio.Group>,
  );
  return change;
}

describe('as gently as the limit allows', () => {
  it('waits for a limit', () => {
    show({ limit_bytes: null });
    expect(screen.getByText('Choose a limit above first.')).toBeTruthy();
    expect(screen.getByRole<HTMLInputElement>('radio').disabled).toBe(true);
  });

  it('asks for the floor and for what else may go, in an order', async () => {
    const change = show({ is_fitted: true, fit_ways: ['grey', 'metadata'] });
    await userEvent.click(screen.getByText('good'));
    expect(change.mutate).toHaveBeenLastCalledWith({ fit_floor: 70 });
    await userEvent.click(screen.getByLabelText('scanned pages to black and white'));
    expect(change.mutate).toHaveBeenLastCalledWith({ fit_ways: ['grey', 'metadata', 'bitonal'] });
    await userEvent.click(screen.getByLabelText('remove metadata: earlier'));
    expect(change.mutate).toHaveBeenLastCalledWith({ fit_ways: ['metadata', 'grey'] });
    await userEvent.click(screen.getByLabelText('Split what still does not fit'));
    expect(change.mutate).toHaveBeenLastCalledWith({ may_split: true });
  });
});
