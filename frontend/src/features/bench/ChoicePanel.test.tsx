import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import { renderInApp } from '../../tests/render';
import { aDocument, aSatchel } from '../../tests/samples';
import { ChoicePanel } from './ChoicePanel';
import type { SatchelChanges } from './queries';

const choices = {
  presets: [
    { name: 'as-it-was', title: 'As it was', description: 'Nothing visible changes.' },
    { name: 'post', title: 'Post', description: 'Pictures at 110 ppi.' },
  ],
  limits: [],
  formats: [],
};

function show() {
  const change = { mutate: vi.fn() };
  renderInApp(
    <ChoicePanel
      satchel={aSatchel([aDocument()])}
      choices={choices}
      changes={{ change } as unknown as SatchelChanges}
    />,
  );
  return change;
}

describe('the choices', () => {
  it('show what each preset would come to', () => {
    show();
    expect(screen.getByText('~ 400 kB')).toBeTruthy();
    expect(screen.getByRole<HTMLInputElement>('radio', { name: /Post/ }).checked).toBe(true);
  });

  it('save themselves', async () => {
    const change = show();
    await userEvent.click(screen.getByRole('radio', { name: /As it was/ }));
    expect(change.mutate).toHaveBeenCalledWith({ preset: 'as-it-was' });
  });

  it('name the copies, with an example', async () => {
    const change = show();
    expect(screen.getByText('report-light.pdf')).toBeTruthy();
    await userEvent.type(screen.getByLabelText('Before the name'), 'small {Enter}');
    expect(change.mutate).toHaveBeenCalledWith({ prefix: 'small ' });
  });
});
