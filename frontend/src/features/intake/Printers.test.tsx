import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';

import { renderInApp } from '../../tests/render';
import { serve } from '../../tests/server';
import { Printers } from './Printers';

const job = {
  number: 1,
  name: 'Minutes',
  user: 'warden',
  state: 'processing',
  message: '',
  pages: 0,
  created_at: '2026-11-29T10:00:00Z',
};
const printer = {
  id: 'q1',
  name: 'For the post',
  preset: 'post',
  uri: 'ipp://127.0.0.1:8000/ipp/print/secret',
  satchel: 's1',
  jobs: [job, { ...job, number: 2, name: 'Map', state: 'aborted', message: 'It is no PDF.' }],
  created_at: '2026-11-29T09:00:00Z',
};

function show(printers: object[]) {
  return serve({
    'GET /api/print-queues': printers,
    'GET /api/choices': { usual_preset: 'post', presets: [{ name: 'post', title: 'Post' }] },
    'POST /api/print-queues': printer,
    'POST /api/print-queues/q1/jobs/1/cancel': printer,
  });
}

describe('printers', () => {
  it('are none until one is set up', async () => {
    const asked = show([]);
    renderInApp(<Printers />);
    await userEvent.click(await screen.findByRole('button', { name: 'Set a printer up' }));
    await userEvent.type(screen.getByLabelText(/What it is called/), 'For the post');
    await userEvent.click(screen.getByRole('button', { name: 'Set it up' }));
    const sent = asked.find(({ method }) => method === 'POST');
    expect(sent?.body).toEqual({ name: 'For the post', preset: 'post' });
  });

  it('tell their address and what became of each job', async () => {
    const asked = show([printer]);
    renderInApp(<Printers />);
    expect(await screen.findByText(printer.uri)).toBeTruthy();
    expect(screen.getByText('being weighed')).toBeTruthy();
    expect(screen.getByText('not taken: It is no PDF.')).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Cancel Minutes' }));
    expect(asked.some(({ path }) => path.endsWith('/jobs/1/cancel'))).toBe(true);
  });
});
