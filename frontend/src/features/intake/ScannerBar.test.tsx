import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import { renderInApp } from '../../tests/render';
import { serve } from '../../tests/server';
import type { IntakeChanges } from './queries';
import { aPage, anIntake, aScanner } from './samples';
import { ScannerBar } from './ScannerBar';

const wanted = {
  scanner: '',
  source: 'feeder',
  size: 'a4',
  ppi: 300,
  colours: 'colour',
  both_sides: true,
  are_backs: false,
} as const;

function shown(scanners: unknown) {
  serve({ 'GET /api/scanners': scanners });
  const scan = { mutate: vi.fn(), isPending: false };
  const changes = { scan, stop: { mutate: vi.fn() } } as unknown as IntakeChanges;
  renderInApp(
    <ScannerBar
      intake={anIntake(aPage('a'))}
      changes={changes}
      wanted={wanted}
      onChange={vi.fn()}
    />,
  );
  return scan.mutate;
}

describe('the scanner', () => {
  it('is asked for what was chosen', async () => {
    const mutate = shown([aScanner]);
    await userEvent.click(await screen.findByRole('button', { name: 'Scan' }));
    expect(mutate).toHaveBeenCalledWith({ ...wanted, scanner: 'Office' });
  });

  it('that is silent says so, and can be asked again', async () => {
    shown([{ ...aScanner, state: 'unreachable', sources: [], message: 'It cannot be reached.' }]);
    expect(await screen.findByText('It cannot be reached.')).toBeTruthy();
    expect(screen.getByRole('button', { name: 'Ask again' })).toBeTruthy();
  });

  it('may be missing, which is no dead end', async () => {
    shown([]);
    expect(await screen.findByText(/can be dropped all the same/)).toBeTruthy();
  });
});
