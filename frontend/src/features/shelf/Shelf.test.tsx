import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';

import { renderInApp } from '../../tests/render';
import { serve } from '../../tests/server';
import { Shelf } from './Shelf';

const row = {
  id: 's1',
  name: 'Season papers',
  limit_bytes: 5_000_000,
  limit_carrier: 'message',
  limit_file_bytes: 3_650_000,
  is_limit_shared: false,
  last_run_id: 'r1',
  copies_same: 2,
  copies_close: 1,
  copies_check: null,
  preset: 'post',
  document_count: 3,
  bytes_before: 38_000_000,
  bytes_after: 3_100_000,
  last_run_at: '2026-11-23T10:00:00Z',
  changed_at: '2026-11-23T10:00:00Z',
};

describe('the shelf', () => {
  it('says what to do when nothing stands on it', async () => {
    serve({ 'GET /api/satchels': [] });
    renderInApp(<Shelf />);
    expect(await screen.findByText('Drop a heavy file anywhere here')).toBeTruthy();
  });

  it('shows each satchel with its weight before and after', async () => {
    serve({ 'GET /api/satchels': [row] });
    renderInApp(<Shelf />);
    expect(await screen.findByRole('link', { name: 'Season papers' })).toBeTruthy();
    expect(screen.getByText('3 documents, limit 5.0 MB a message')).toBeTruthy();
    expect(screen.getByText('3.1 MB')).toBeTruthy();
    expect(screen.getByText(/−92 %/)).toBeTruthy();
  });

  it('tells the last slip at a glance', async () => {
    serve({ 'GET /api/satchels': [row] });
    renderInApp(<Shelf />);
    const slip = await screen.findByRole('link', { name: 'Last slip' });
    expect(slip.getAttribute('href')).toBe('/runs/r1/slip');
    expect(screen.getByText(': 2 same, 1 close')).toBeTruthy();
  });

  it('gives newcomers a sample to try', async () => {
    const asked = serve({ 'GET /api/satchels': [], 'POST /api/satchels/sample': row });
    renderInApp(<Shelf />);
    await userEvent.click(await screen.findByRole('button', { name: 'Try it on a sample' }));
    expect(asked.some(({ method, path }) => method === 'POST' && path.endsWith('sample'))).toBe(
      true,
    );
  });

  it('is searched and put in order from ten satchels on', async () => {
    const rows = Array.from({ length: 10 }, (_, at) => ({
      ...row,
      id: `s${at}`,
      name: `Week ${at}`,
    }));
    serve({ 'GET /api/satchels': rows });
    renderInApp(<Shelf />);
    await userEvent.type(await screen.findByLabelText('Search the shelf'), 'week 7');
    expect(screen.getAllByRole('link', { name: /^Week/ })).toHaveLength(1);
    await userEvent.type(screen.getByLabelText('Search the shelf'), '7');
    expect(screen.getByText('No satchel is called that.')).toBeTruthy();
  });

  it('says so when there are no copies yet', async () => {
    serve({ 'GET /api/satchels': [{ ...row, bytes_after: null, last_run_at: null }] });
    renderInApp(<Shelf />);
    expect(await screen.findByText('38.0 MB, no copies yet')).toBeTruthy();
  });

  it('deletes only after a second word', async () => {
    const asked = serve({ 'GET /api/satchels': [row] });
    renderInApp(<Shelf />);
    await userEvent.click(await screen.findByRole('button', { name: 'Delete Season papers' }));
    expect(screen.getByText(/cannot be undone/)).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Save' }));
    expect(asked.every((one) => one.method === 'GET')).toBe(true);
    await userEvent.click(screen.getByRole('button', { name: 'Delete Season papers' }));
    await userEvent.click(screen.getByRole('button', { name: 'Delete' }));
    expect(asked.some((one) => one.method === 'DELETE')).toBe(true);
  });

  it('says what is wrong when the server is', async () => {
    serve({ 'GET /api/satchels': { code: 'failed', detail: 'The shelf is being dusted.' } }, 503);
    renderInApp(<Shelf />);
    expect(
      await screen.findByText('The shelf is being dusted.', {}, { timeout: 4000 }),
    ).toBeTruthy();
  });
});
