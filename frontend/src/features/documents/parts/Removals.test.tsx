import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import type { Schemas } from '../../../api/client';
import { renderInApp } from '../../../tests/render';
import { aDocument, aSatchel, someTitles } from '../../../tests/samples';
import { serve } from '../../../tests/server';
import { Removals } from './Removals';
import type { SatchelChanges } from '../../satchel';

const extra = (kind: string, title: string, loss: string) => ({
  kind,
  title,
  purpose: '',
  loss,
  warning: '',
  is_safe: false,
});

function aPart(id: string, kind: string, bytes: number, decision = 'keep') {
  return { id, removed_with: kind, bytes, bytes_then: bytes, decision } as Schemas['SheetPart'];
}

function show(exceptions = {}, savings = {}) {
  const one = () => ({ mutate: vi.fn(), error: null });
  const changes = { except: one(), change: one() };
  const document = aDocument({ exceptions, savings: { 'extra.notes': 3000, ...savings } });
  const other = aDocument({ id: 'd2', savings: { 'extra.notes': 500 } });
  serve({
    'GET /api/choices': {
      ...someTitles,
      extras: [
        extra('notes', 'Notes', 'What readers wrote.'),
        extra('thumbnails', 'Previews', 'Nothing.'),
      ],
    },
  });
  renderInApp(
    <Removals
      document={document}
      satchel={aSatchel([document, other], null)}
      parts={[
        aPart('note:1', 'notes', 2000),
        aPart('note:2', 'notes', 1000),
        aPart('thumb:1', 'thumbnails', 9000),
        aPart('thumb:2', 'thumbnails', 9000, 'drop'),
      ]}
      changes={changes as unknown as SatchelChanges}
    />,
  );
  return changes;
}

describe('what can be removed from a document', () => {
  it('is ordered by its worth, with what is lost', async () => {
    show();
    const lines = within(await screen.findByRole('list')).getAllByRole('listitem');
    expect(lines.map((line) => line.textContent)).toEqual([
      expect.stringContaining('PreviewsLost: Nothing.'),
      expect.stringContaining('−3.0 kB'),
    ]);
  });

  it('goes from this document alone, or from all that have it', async () => {
    const changes = show();
    await userEvent.click(await screen.findByRole('button', { name: 'Remove notes' }));
    expect(changes.except.mutate).toHaveBeenCalledWith({
      id: 'd1',
      exceptions: { 'note:1': { is_left_out: true } },
    });
    await userEvent.click(screen.getByRole('button', { name: 'Remove notes from all documents' }));
    const [body] = changes.change.mutate.mock.calls[0] as [Schemas['PatchedSatchelRequest']];
    expect(body.treatment?.dropped_extras).toContain('notes');
  });

  it('can be kept again', async () => {
    const changes = show({ 'note:2': { is_left_out: true }, 'picture:1': { is_exempt: true } });
    await userEvent.click(await screen.findByRole('button', { name: 'Keep notes' }));
    expect(changes.except.mutate).toHaveBeenCalledWith({
      id: 'd1',
      exceptions: { 'picture:1': { is_exempt: true } },
    });
  });
});
