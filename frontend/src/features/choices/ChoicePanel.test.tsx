import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import type { Schemas } from '../../api/client';
import { renderInApp } from '../../tests/render';
import { aDocument, aPdfFormat, aSatchel, aTreatment, someTitles } from '../../tests/samples';
import { ChoicePanel } from './ChoicePanel';
import type { SatchelChanges } from '../satchel';

const choices: Schemas['Choices'] = {
  ...someTitles,
  presets: [
    aPreset('as-it-was', 'As it was', 'Nothing visible changes.'),
    aPreset('post', 'Post', 'Pictures at 110 ppi.'),
  ],
  usual_preset: 'post',
  limits: [],
  formats: [aPdfFormat],
  kinds: [],
  assumed_cm: 25,
  extras: [
    {
      kind: 'thumbnails',
      title: 'Preview thumbnails',
      purpose: 'Small pictures of the pages.',
      loss: 'Nothing.',
      is_safe: true,
    },
  ],
};

function aPreset(name: string, title: string, description: string) {
  return { name, title, description, is_own: false, treatment: aTreatment };
}

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
    expect(change.mutate).toHaveBeenCalledWith({ preset: 'as-it-was', is_fitted: false });
  });

  it('are tuned knob by knob, each with its worth', async () => {
    const change = show();
    await userEvent.click(screen.getByRole('button', { name: 'Fine tuning' }));
    expect(screen.getByText('−5.0 kB')).toBeTruthy();
    await userEvent.click(screen.getByRole('switch', { name: /^Preview thumbnails/ }));
    expect(change.mutate).toHaveBeenLastCalledWith({
      treatment: { ...aTreatment, dropped_extras: [] },
    });
    const ppi = screen.getByLabelText('Photos, resolution in ppi');
    await userEvent.clear(ppi);
    await userEvent.type(ppi, '96{Enter}');
    const [{ treatment }] = change.mutate.mock.lastCall as [{ treatment: typeof aTreatment }];
    expect(treatment.pictures.photo.finest_ppi).toBe(96);
    expect(treatment.pictures.graphic.finest_ppi).toBe(110);
  });

  it('name the copies, with an example', async () => {
    const change = show();
    expect(screen.getByText('report-light.pdf')).toBeTruthy();
    await userEvent.type(screen.getByLabelText('Before the name'), 'small {Enter}');
    expect(change.mutate).toHaveBeenCalledWith({ prefix: 'small ' });
  });
});
