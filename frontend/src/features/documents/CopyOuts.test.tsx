import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import { renderInApp } from '../../tests/render';
import { aCopy } from '../../tests/samples';
import { serve } from '../../tests/server';
import { CopyOuts } from './CopyOuts';
import type { SatchelChanges } from '../satchel';

describe('ways out for a copy', () => {
  it('lists the pieces it was split into', () => {
    const pieces = [
      { first: 1, last: 3, bytes: 200_000 },
      { first: 4, last: 4, bytes: 150_000 },
    ];
    renderInApp(
      <CopyOuts copy={aCopy({ pieces })} hasLinks={false} changes={{} as SatchelChanges} />,
    );
    const second = screen.getByRole('link', { name: 'Piece 2 of 2' });
    expect(second.getAttribute('href')).toBe('/api/copies/c1/file?piece=2');
    expect(screen.getByText(/pages 1 to 3, 200 kB/)).toBeTruthy();
  });

  it('shows an open link to paste, and ends it', async () => {
    const link = {
      id: 7,
      address: '/hand-over/abc',
      created_at: '2026-11-25T09:00:00Z',
      ends_at: '2026-12-09T09:00:00Z',
      is_open: true,
      downloads: 2,
      has_password: false,
    };
    serve({ 'GET /api/copies/c1/hand-overs': [link] });
    const revoke = { mutate: vi.fn(), error: null };
    const newLink = { mutate: vi.fn(), error: null, isPending: false };
    renderInApp(
      <CopyOuts
        copy={aCopy()}
        hasLinks
        changes={{ revoke, newLink } as unknown as SatchelChanges}
      />,
    );
    const field = await screen.findByLabelText<HTMLInputElement>('Link to paste');
    expect(field.value).toMatch(/\/hand-over\/abc$/);
    expect(screen.getByText(/used 2 ×/)).toBeTruthy();
    await userEvent.click(screen.getByText('End it'));
    expect(revoke.mutate).toHaveBeenCalledWith(7);
    await userEvent.click(screen.getByText('Create another share link'));
    expect(newLink.mutate).toHaveBeenCalledWith({ id: 'c1', password: '' });
  });
});
