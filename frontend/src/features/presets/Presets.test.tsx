import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';

import { renderInApp } from '../../tests/render';
import { aTreatment } from '../../tests/samples';
import { serve } from '../../tests/server';
import { Presets } from './Presets';
import { freeTitle } from '../../shared/titles';

function aPreset(name: string, title: string, isOwn = false) {
  return { name, title, description: 'For the fen.', is_own: isOwn, treatment: aTreatment };
}

function show(answers: Record<string, unknown> = {}) {
  const asked = serve({
    'GET /api/choices': {
      presets: [aPreset('post', 'Post'), aPreset('u1', 'Ours', true)],
      usual_preset: 'post',
      limits: [],
      formats: [],
      extras: [],
    },
    ...answers,
  });
  renderInApp(<Presets />);
  return asked;
}

async function row(title: string) {
  const name = await screen.findByText(title);
  return within(name.closest('li') ?? document.body);
}

describe('the library of presets', () => {
  it('says what each does, and which one new satchels begin with', async () => {
    show();
    expect((await row('Post')).getByText('for new satchels')).toBeTruthy();
    expect((await row('Ours')).queryByText('for new satchels')).toBeNull();
    expect(screen.getAllByText(/Photos: 110 ppi, quality 68/).length).toBe(2);
  });

  it('lets shipped ones be copied and not changed', async () => {
    const asked = show({ 'POST /api/presets': aPreset('u2', 'Post, copy', true) });
    const shipped = await row('Post');
    expect(shipped.queryByRole('button', { name: 'Rename' })).toBeNull();
    await userEvent.click(shipped.getByRole('button', { name: 'Duplicate' }));
    expect(asked.some(({ path }) => path === '/api/presets')).toBe(true);
  });

  it('asks again before one is deleted', async () => {
    const asked = show({ 'DELETE /api/presets/u1': null });
    const own = await row('Ours');
    await userEvent.click(own.getByRole('button', { name: 'Delete' }));
    expect(asked.some(({ path }) => path === '/api/presets/u1')).toBe(false);
    await userEvent.click(own.getByRole('button', { name: 'Delete for good' }));
    expect(asked.some(({ path }) => path === '/api/presets/u1')).toBe(true);
  });

  it('says what is wrong with a file that is no JSON', async () => {
    show();
    await row('Post');
    const file = new File(['not { json'], 'mine.json', { type: 'application/json' });
    await userEvent.upload(screen.getByLabelText('Preset file'), file);
    expect(await screen.findByText(/mine.json: is not JSON/)).toBeTruthy();
  });
});

describe('titles of copies', () => {
  it('are free', () => {
    expect(freeTitle('Post', ['Post'])).toBe('Post, copy');
    expect(freeTitle('Post', ['Post', 'Post, copy'])).toBe('Post, copy 2');
  });
});
