import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import { renderInApp } from '../../../tests/render';
import { aDocument, someTitles } from '../../../tests/samples';
import { serve } from '../../../tests/server';
import { PictureList } from './PictureList';
import type { SatchelChanges } from '../../satchel';

function aPart(number: number, pictureClass = 'photo') {
  return {
    id: `picture:${number}-0`,
    kind: 'picture' as const,
    extra: null,
    removed_with: null,
    can_be_spared: false,
    name: `Picture ${number}`,
    bytes: 1_000_000 - number,
    bytes_then: 100_000,
    decision: 'resample',
    reason: '300 to 150 ppi',
    likeness: null,
    cells: null,
    stray_name: null,
    picture: {
      width_px: 900,
      height_px: 600,
      coding: 'DCT',
      colour: 'DeviceRGB',
      bits: 8,
      has_assumed_size: false,
      is_inline: false,
      near: '',
      mask: '',
      picture_class: pictureClass,
      ppi: 300,
      shown_pt: [216, 144],
      pages: [number],
      placements: 1,
    },
  };
}

function show(exceptions = {}) {
  const one = () => ({ mutate: vi.fn(), error: null });
  const changes = { except: one(), bring: one() };
  serve({ 'GET /api/choices': someTitles });
  renderInApp(
    <PictureList
      satchelId="s1"
      document={aDocument({ exceptions })}
      pictures={[aPart(1), aPart(2), aPart(3, 'graphic')]}
      changes={changes as unknown as SatchelChanges}
    />,
  );
  return changes;
}

describe('the pictures of a document', () => {
  it('are filtered by class', async () => {
    show();
    await screen.findByRole('option', { name: 'Graphics, 1' });
    await userEvent.selectOptions(screen.getByLabelText('Which pictures to show'), 'graphic');
    expect(screen.getByLabelText('Choose Picture 3')).toBeTruthy();
    expect(screen.queryByLabelText('Choose Picture 1')).toBeNull();
  });

  it('are exempted several at once, beside what was exempted before', async () => {
    const changes = show({ 'picture:3-0': { is_exempt: true } });
    await userEvent.click(screen.getByLabelText('Choose Picture 1'));
    await userEvent.click(screen.getByLabelText('Choose Picture 2'));
    await userEvent.click(screen.getByRole('button', { name: 'Keep unchanged' }));
    expect(changes.except.mutate).toHaveBeenCalledWith({
      id: 'd1',
      exceptions: {
        'picture:1-0': { is_exempt: true },
        'picture:2-0': { is_exempt: true },
        'picture:3-0': { is_exempt: true },
      },
    });
  });

  it('get a treatment of their own', async () => {
    const changes = show();
    await userEvent.click(screen.getByRole('button', { name: 'Choose all' }));
    const ppi = screen.getByLabelText('Resolution, ppi');
    await userEvent.clear(ppi);
    await userEvent.type(ppi, '96{Enter}');
    await userEvent.click(screen.getByRole('button', { name: 'Apply to them' }));
    const [{ exceptions }] = changes.except.mutate.mock.lastCall as [
      { exceptions: Record<string, { treatment: { finest_ppi: number } }> },
    ];
    expect(Object.keys(exceptions)).toHaveLength(3);
    expect(exceptions['picture:2-0']?.treatment.finest_ppi).toBe(96);
  });

  it('go back to what the others get', async () => {
    const changes = show({ 'picture:1-0': { is_exempt: true } });
    await userEvent.click(screen.getByLabelText('Choose Picture 1'));
    await userEvent.click(screen.getByRole('button', { name: 'Back to the class settings' }));
    expect(changes.except.mutate).toHaveBeenCalledWith({ id: 'd1', exceptions: {} });
  });

  it('are replaced by a picture that is brought, one at a time', async () => {
    const changes = show();
    await userEvent.click(screen.getByLabelText('Choose Picture 2'));
    const file = new File(['x'], 'own.png', { type: 'image/png' });
    await userEvent.upload(screen.getByLabelText('Picture to show instead'), file);
    expect(changes.bring.mutate).toHaveBeenCalledWith(
      { id: 'd1', part: 'picture:2-0', file },
      expect.anything(),
    );
  });
});
