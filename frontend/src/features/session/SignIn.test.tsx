import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';

import { renderInApp } from '../../tests/render';
import { serve } from '../../tests/server';
import { SignIn } from './SignIn';

async function signIn() {
  renderInApp(<SignIn />);
  await userEvent.type(screen.getByRole('textbox', { name: /Name/ }), 'owner');
  await userEvent.type(screen.getByLabelText(/Password/, { selector: 'input' }), 'reeds{Enter}');
}

describe('signing in', () => {
  it('sends name and password', async () => {
    const asked = serve({ 'POST /api/session': { username: 'owner' } });
    await signIn();
    expect(asked[0]?.body).toEqual({ username: 'owner', password: 'reeds' });
  });

  it('says when they do not belong together', async () => {
    const detail = 'This name and password do not belong together.';
    serve({ 'POST /api/session': { code: 'wrong_credentials', detail } }, 403);
    await signIn();
    expect((await screen.findByRole('alert')).textContent).toBe(detail);
  });
});
