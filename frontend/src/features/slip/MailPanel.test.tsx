import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';

import { renderInApp } from '../../tests/render';
import { serve } from '../../tests/server';
import { MailPanel } from './MailPanel';

const message = (number: number, fits = true) => ({
  number,
  subject: `Season (${number} of 2)`,
  size_bytes: 4_200_000,
  fits,
  files: ['a.pdf', 'b.pdf'],
});
const sending = {
  id: 's1',
  receivers: ['office@example.org'],
  state: 'failed',
  messages: 0,
  error_message: 'The mail server did not take them.',
  created_at: '2026-05-04T09:00:00Z',
};

describe('by mail', () => {
  it('offers each message with its weight, and says which is too heavy', async () => {
    serve({
      'GET /api/runs/r1/mail': {
        messages: [message(1), message(2, false)],
        can_send: false,
        sendings: [],
      },
    });
    renderInApp(<MailPanel runId="r1" />);
    const link = await screen.findByRole('link', { name: 'Season (1 of 2)' });
    expect(link.getAttribute('href')).toBe('/api/runs/r1/mail/1.eml');
    expect(screen.getAllByText(/4.2 MB as it travels, 2 files/)).toHaveLength(2);
    expect(screen.getByText(', over the limit')).toBeTruthy();
    expect(screen.queryByRole('button', { name: /Send/ })).toBeNull();
  });

  it('is sent to the addresses that were typed, and tells what became of it', async () => {
    const asked = serve({
      'GET /api/runs/r1/mail': { messages: [message(1)], can_send: true, sendings: [sending] },
      'POST /api/runs/r1/mail/send': sending,
    });
    renderInApp(<MailPanel runId="r1" />);
    const to = await screen.findByRole('textbox', { name: /send them from here/ });
    await userEvent.type(to, 'a@example.org, b@example.org');
    await userEvent.click(screen.getByRole('button', { name: 'Send to 2 addresses' }));
    expect(asked.find(({ method }) => method === 'POST')?.body).toEqual({
      receivers: ['a@example.org', 'b@example.org'],
    });
    expect(screen.getByText('Not sent')).toBeTruthy();
    expect(screen.getByText(/did not take them/)).toBeTruthy();
  });
});
