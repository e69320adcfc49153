import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import { renderInApp } from '../../../tests/render';
import { aCopy, aDocument, aSatchel, someTitles } from '../../../tests/samples';
import { serve } from '../../../tests/server';
import { DocumentRow } from './DocumentRow';
import { type Document, type SatchelChanges } from '../../satchel';

function show(document: Document, limit: number | null = null) {
  const one = () => ({ mutate: vi.fn(), isPending: false });
  const changes = { takeOut: one(), unlock: one(), start: one() } as unknown as SatchelChanges;
  const satchel = aSatchel([document], limit);
  renderInApp(
    <DocumentRow document={document} satchel={satchel} scale={2_000_000} changes={changes} />,
  );
  return changes;
}

describe('a document on the bench', () => {
  it('says what it weighs and what the copy is likely to', () => {
    show(aDocument());
    expect(screen.getByText('PDF, reports, 3 pages')).toBeTruthy();
    expect(screen.getByText('about 400 kB')).toBeTruthy();
    expect(screen.getByRole('img', { name: /1.0 MB now, copy 400 kB/ })).toBeTruthy();
  });

  it('says by how much it is over the limit', () => {
    show(aDocument(), 350_000);
    expect(screen.getByText(', 50.0 kB over')).toBeTruthy();
    expect(screen.getByRole('img', { name: /over the limit/ })).toBeTruthy();
  });

  it('offers the copy once it is there, by its own name', () => {
    show(aDocument({ copy: aCopy() }));
    const link = screen.getByRole('link', { name: 'Download report-light.pdf' });
    expect(link.getAttribute('href')).toBe('/api/copies/c1/file');
    expect(screen.getByText('450 kB')).toBeTruthy();
  });

  it('shows how far it is while it is weighed, and cannot be opened yet', () => {
    show(aDocument({ state: 'weighing', progress: 0.4, estimates: {} }));
    expect(screen.getByText('Weighing, 40 %')).toBeTruthy();
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'report.pdf' }).disabled).toBe(
      true,
    );
  });

  it('says what is done with a copy, how far it is and how long still', () => {
    const copy = aCopy({ state: 'working', progress: 0.63, doing: 'proving', seconds_left: 4.2 });
    show(aDocument({ copy }));
    expect(screen.getByText('Proving, 63 %, about 4 s left')).toBeTruthy();
  });

  it('asks for the password of a locked file', async () => {
    const error = { code: 'password_needed', message: 'report.pdf: it is locked by a password.' };
    const changes = show(aDocument({ state: 'failed', error, estimates: {} }));
    await userEvent.type(screen.getByLabelText('Password of report.pdf'), 'reed');
    await userEvent.click(screen.getByRole('button', { name: 'Unlock' }));
    expect(changes.unlock.mutate).toHaveBeenCalledWith({ id: 'd1', password: 'reed' });
  });

  it('can be taken out', async () => {
    const changes = show(aDocument());
    await userEvent.click(screen.getByRole('button', { name: /Remove report.pdf/ }));
    expect(changes.takeOut.mutate).toHaveBeenCalledWith('d1');
  });

  it('opens to its weight sheet by keyboard', async () => {
    const picture = {
      width_px: 1200,
      height_px: 900,
      coding: 'DCT',
      colour: 'DeviceRGB',
      bits: 8,
      is_inline: false,
      near: '',
      mask: '',
      picture_class: 'page-scan',
      ppi: 300.2,
      shown_pt: [288, 216],
      pages: [2, 3],
      placements: 2,
    };
    const part = {
      id: 'picture:4-0',
      kind: 'picture',
      name: 'Picture 4',
      removed_with: null,
      bytes: 900_000,
      bytes_then: 100_000,
      decision: 'resample',
      reason: '300 to 150 ppi',
      likeness: null,
      cells: null,
      stray_name: null,
      picture,
    };
    const kinds = [{ kind: 'picture', count: 1, bytes: 900_000, bytes_then: 100_000 }];
    const asked = serve({
      'GET /api/documents/d1/sheet': { is_measured: false, kinds, parts: [part] },
      'GET /api/choices': { ...someTitles, kinds: [{ kind: 'picture', title: 'Pictures' }] },
    });
    show(aDocument());
    screen.getByRole('button', { name: 'report.pdf' }).focus();
    await userEvent.keyboard('{Enter}');
    expect(await screen.findByText('page scan, pages 2, 3')).toBeTruthy();
    expect(screen.getByText('1200 × 900, 300 ppi')).toBeTruthy();
    expect(screen.getByText('300 to 150 ppi')).toBeTruthy();
    expect(screen.getByText('−800 kB')).toBeTruthy();
    expect(screen.getByRole('img', { name: 'Picture 4, pages 2, 3' })).toBeTruthy();
    expect(asked[0]?.path).toBe('/api/documents/d1/sheet');
  });
});
