import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';

import { renderInApp } from '../../../tests/render';
import { aDocument } from '../../../tests/samples';
import { serve } from '../../../tests/server';
import { ReturnedCopies } from './ReturnedCopies';

function returned(changes: object) {
  return {
    id: 'r1',
    name: 'back.pdf',
    size_bytes: 812_000,
    state: 'done',
    progress: 1,
    doing: '',
    seconds_left: null,
    verdict: 'check',
    verdict_title: 'Check',
    reasons: ['page 3: in Picture 7 ink is missing, 42 mm from the left and 118 from the top'],
    remarks: [],
    error_message: '',
    created_at: '2026-11-28T09:00:00Z',
    ...changes,
  };
}

describe('copies that came back', () => {
  const document = aDocument({});
  const path = `GET /api/documents/${document.id}/returned`;

  it('say what was found, and where', async () => {
    serve({ [path]: [returned({})] });
    renderInApp(<ReturnedCopies document={document} />);
    expect(await screen.findByText('Check')).toBeTruthy();
    expect(screen.getByText(/42 mm from the left/)).toBeTruthy();
  });

  it('show how far their proof is', async () => {
    serve({ [path]: [returned({ state: 'working', progress: 0.4, verdict: '' })] });
    renderInApp(<ReturnedCopies document={document} />);
    expect(await screen.findByLabelText('Proving back.pdf')).toBeTruthy();
  });

  it('can be thrown away', async () => {
    const asked = serve({ [path]: [returned({})], 'DELETE /api/returned/r1': {} });
    renderInApp(<ReturnedCopies document={document} />);
    await userEvent.click(await screen.findByRole('button', { name: 'Delete back.pdf' }));
    await waitFor(() => expect(asked.some(({ method }) => method === 'DELETE')).toBe(true));
  });

  it('say why one could not be proved', async () => {
    const error_message = 'back.pdf: is another kind of file than report.pdf.';
    serve({ [path]: [returned({ state: 'failed', verdict: '', error_message })] });
    renderInApp(<ReturnedCopies document={document} />);
    expect(await screen.findByText('Not proved')).toBeTruthy();
    expect(screen.getByText(/another kind of file/)).toBeTruthy();
  });

  it('can be chosen by a button where none has come yet', async () => {
    serve({ [path]: [] });
    renderInApp(<ReturnedCopies document={document} />);
    expect(await screen.findByRole('button', { name: /choose a copy to prove/i })).toBeTruthy();
  });
});
