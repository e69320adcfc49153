import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';

import { renderInApp } from '../../tests/render';
import { serve } from '../../tests/server';
import { Limits } from './Limits';

const shipped = {
  name: 'archive-deposit',
  title: 'Archive deposit',
  size_bytes: 100_000_000,
  carrier: 'file',
  file_bytes: 100_000_000,
  is_own: false,
  checklist: { endings: ['.pdf'], most_pages: null, needs_pdf_a: true, names: {} },
};
const own = { ...shipped, name: 'o1', title: 'Our portal', is_own: true };

function show(limits: object[]) {
  return serve({
    'GET /api/choices': { limits, presets: [], formats: [], kinds: [], extras: [] },
    'POST /api/limits': own,
    'PATCH /api/limits/o1': own,
  });
}

describe('the library of limits', () => {
  it('says what is asked, and copies what ships', async () => {
    const asked = show([shipped]);
    renderInApp(<Limits />);
    expect(await screen.findByText('Requires kinds: pdf; PDF/A')).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'Change' })).toBeNull();
    await userEvent.click(screen.getByRole('button', { name: 'Duplicate' }));
    const sent = asked.find(({ method }) => method === 'POST')?.body as { title: string };
    expect(sent.title).toBe('Archive deposit, copy');
  });

  it('changes what is ones own', async () => {
    const asked = show([own]);
    renderInApp(<Limits />);
    await userEvent.click(await screen.findByRole('button', { name: 'Change' }));
    const form = within(screen.getByRole('listitem'));
    const kinds = form.getByLabelText('Accepted kinds of files');
    await userEvent.clear(kinds);
    await userEvent.type(kinds, 'pdf, TIF');
    await userEvent.click(form.getByLabelText('No spaces'));
    await userEvent.click(form.getByRole('button', { name: 'Save' }));
    const sent = asked.find(({ method }) => method === 'PATCH')?.body as {
      checklist: { endings: string[]; names: { no_spaces: boolean } };
    };
    expect(sent.checklist.endings).toEqual(['.pdf', '.tif']);
    expect(sent.checklist.names.no_spaces).toBe(true);
  });
});
