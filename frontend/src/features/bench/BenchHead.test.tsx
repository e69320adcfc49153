import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import { renderInApp } from '../../tests/render';
import { aCopy, aDocument, aSatchel } from '../../tests/samples';
import { BenchHead } from './BenchHead';
import { type Satchel, type SatchelChanges } from '../satchel';

function show(satchel: Satchel) {
  const one = () => ({ mutate: vi.fn(), isPending: false });
  const changes = { change: one(), start: one(), cancel: one() } as unknown as SatchelChanges;
  renderInApp(<BenchHead satchel={satchel} changes={changes} />);
  return changes;
}

const run = {
  id: 'r1',
  preset: 'post',
  title: 'Post',
  created_at: '2026-11-23T10:00:00Z',
  is_busy: true,
  seconds_left: 42,
};

describe('the head of the bench', () => {
  it('has the sum of all documents, with its band, and what fits', () => {
    show(aSatchel([aDocument(), aDocument({ id: 'd2' })], 420_000));
    expect(screen.getByText('2.0 MB')).toBeTruthy();
    expect(screen.getByText('800 kB')).toBeTruthy();
    expect(screen.getByText('between 600 kB and 1.2 MB')).toBeTruthy();
    expect(screen.getByText('2 of 2 fit')).toBeTruthy();
  });

  it('starts a run with the chosen preset', async () => {
    const changes = show(aSatchel([aDocument()]));
    await userEvent.click(screen.getByRole('button', { name: 'Make lighter copies' }));
    expect(changes.start.mutate).toHaveBeenCalledWith({ may_end_signature: false });
  });

  it('cannot start with nothing weighed', () => {
    show(aSatchel([aDocument({ state: 'weighing', estimates: {} })]));
    const button = screen.getByRole<HTMLButtonElement>('button', { name: 'Make lighter copies' });
    expect(button.disabled).toBe(true);
    expect(screen.getByText('Weighing …')).toBeTruthy();
  });

  it('cancels a run that goes on', async () => {
    const changes = show({ ...aSatchel([aDocument()]), run });
    await userEvent.click(screen.getByRole('button', { name: 'Cancel the run' }));
    expect(changes.cancel.mutate).toHaveBeenCalledWith('r1');
  });

  it('says how many copies are made and how long the rest takes', () => {
    const documents = [
      aDocument({ copy: aCopy() }),
      aDocument({ id: 'd2', copy: aCopy({ id: 'c2', state: 'working' }) }),
    ];
    show({ ...aSatchel(documents), run });
    expect(screen.getByText('1 of 2 copies made, about 42 s left')).toBeTruthy();
  });

  it('gives all copies at once when they are done', () => {
    const satchel = aSatchel([aDocument({ copy: aCopy() })]);
    show({ ...satchel, run: { ...run, is_busy: false, seconds_left: null } });
    const link = screen.getByRole('link', { name: 'All copies, zip' });
    expect(link.getAttribute('href')).toBe('/api/runs/r1/bundle');
    expect(screen.queryByText(/between/)).toBeNull();
  });

  it('renames the satchel by keyboard, and not on escape', async () => {
    const changes = show(aSatchel([]));
    await userEvent.click(screen.getByRole('button', { name: 'Season papers' }));
    const field = screen.getByRole('textbox', { name: 'Name of the satchel' });
    await userEvent.clear(field);
    await userEvent.type(field, 'Autumn{Escape}');
    expect(changes.change.mutate).not.toHaveBeenCalled();
    await userEvent.click(screen.getByRole('button', { name: 'Season papers' }));
    await userEvent.type(
      screen.getByRole('textbox', { name: 'Name of the satchel' }),
      ' 2026{Enter}',
    );
    expect(changes.change.mutate).toHaveBeenCalledWith({ name: 'Season papers 2026' });
  });
});
