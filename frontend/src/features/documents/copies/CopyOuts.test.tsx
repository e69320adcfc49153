import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';

import { renderInApp } from '../../../tests/render';
import { aCopy } from '../../../tests/samples';
import { serve } from '../../../tests/server';
import { CopyOuts } from './CopyOuts';

describe('ways out for a copy', () => {
  it('lists the pieces it was split into', () => {
    const pieces = [
      { first: 1, last: 3, bytes: 200_000 },
      { first: 4, last: 4, bytes: 150_000 },
    ];
    renderInApp(<CopyOuts copy={aCopy({ pieces })} hasLinks={false} />);
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
    const asked = serve({
      'GET /api/copies/c1/hand-overs': [link],
      'POST /api/copies/c1/hand-overs': link,
      'POST /api/hand-overs/7/revoke': link,
    });
    renderInApp(<CopyOuts copy={aCopy()} hasLinks />);
    const field = await screen.findByLabelText<HTMLInputElement>('Link to paste');
    expect(field.value).toMatch(/\/hand-over\/abc$/);
    expect(screen.getByText(/used 2 ×/)).toBeTruthy();
    await userEvent.click(screen.getByText('End it'));
    const posted = () => asked.filter(({ method }) => method === 'POST');
    await waitFor(() =>
      expect(posted().map(({ path }) => path)).toEqual(['/api/hand-overs/7/revoke']),
    );
    await userEvent.click(screen.getByText('Create another share link'));
    await waitFor(() => expect(posted()[1]?.body).toEqual({ password: '' }));
  });
});
