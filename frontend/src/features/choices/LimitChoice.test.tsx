import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import { renderInApp } from '../../tests/render';
import { aSatchel } from '../../tests/samples';
import { LimitChoice } from './LimitChoice';
import { type Satchel, type SatchelChanges } from '../satchel';

const limits = [
  {
    name: 'mailbox',
    title: 'Mailbox',
    size_bytes: 10_000_000,
    carrier: 'message' as const,
    file_bytes: 7_307_688,
    checklist: { needs_pdf_a: false },
    is_own: false,
  },
  {
    name: 'archive',
    title: 'Archive deposit',
    size_bytes: 3_000_000,
    carrier: 'file' as const,
    file_bytes: 3_000_000,
    checklist: { endings: ['.pdf'], needs_pdf_a: true },
    is_own: false,
  },
];

function show(satchel: Satchel) {
  const change = { mutate: vi.fn() };
  renderInApp(
    <LimitChoice
      satchel={satchel}
      limits={limits}
      changes={{ change } as unknown as SatchelChanges}
    />,
  );
  return change;
}

describe('the choice of a limit', () => {
  it('takes one that ships, with what it counts', async () => {
    const change = show(aSatchel([]));
    await userEvent.click(screen.getByRole('combobox', { name: 'Limit' }));
    await userEvent.click(await screen.findByText('Mailbox, 10.0 MB a message'));
    expect(change.mutate).toHaveBeenCalledWith({
      limit_bytes: 10_000_000,
      limit_carrier: 'message',
      checklist: null,
    });
  });

  it('says what file a message carries', () => {
    const satchel = { ...aSatchel([], 10_000_000), limit_carrier: 'message' as const };
    show({ ...satchel, limit_file_bytes: 7_307_688 });
    expect(screen.getByText(/carries a file of 7.3 MB/)).toBeTruthy();
  });

  it('takes a figure of one’s own', async () => {
    const change = show(aSatchel([], 3_000_000));
    const field = screen.getByLabelText('Limit in MB');
    await userEvent.clear(field);
    await userEvent.type(field, '2.5{Enter}');
    expect(change.mutate).toHaveBeenCalledWith({
      limit_bytes: 2_500_000,
      limit_carrier: 'file',
      checklist: null,
    });
  });

  it('can be none', async () => {
    const change = show(aSatchel([], 3_000_000));
    await userEvent.click(screen.getByRole('combobox', { name: 'Limit' }));
    await userEvent.click(await screen.findByText('No limit'));
    expect(change.mutate).toHaveBeenCalledWith({
      limit_bytes: null,
      limit_carrier: 'file',
      checklist: null,
    });
  });

  it('brings the checklist with it, and says what is asked', async () => {
    const change = show(aSatchel([], 9_000_000));
    await userEvent.click(screen.getByRole('combobox', { name: 'Limit' }));
    await userEvent.click(await screen.findByText('Archive deposit, 3.0 MB'));
    const checklist = limits[1]?.checklist;
    expect(change.mutate).toHaveBeenCalledWith(expect.objectContaining({ checklist }));
    show({ ...aSatchel([], 3_000_000), checklist: checklist ?? null });
    expect(screen.getByText('Requires kinds: pdf; PDF/A.')).toBeTruthy();
  });
});
