import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import { renderInApp } from '../../../tests/render';
import { aCopy, aDocument } from '../../../tests/samples';
import type { SatchelChanges } from '../../satchel';
import { VerdictMark } from './VerdictMark';

function changes() {
  const one = () => ({ mutate: vi.fn() });
  return { start: one(), takeOut: one() } as unknown as SatchelChanges;
}

describe('the mark of a copy', () => {
  it.each([
    [aCopy({ verdict: 'same', verdict_title: 'Same' }), 'Same'],
    [aCopy({ verdict: 'close' }), 'Close'],
    [aCopy({ verdict: 'check', verdict_title: 'Check' }), 'Check'],
    [aCopy({ state: 'none', verdict: '' }), 'No copy'],
    [aCopy({ state: 'cancelled', verdict: '' }), 'Cancelled'],
  ])('is a word and not a colour alone', (copy, word) => {
    renderInApp(<VerdictMark copy={copy} document={aDocument({ copy })} changes={changes()} />);
    expect(screen.getByText(word)).toBeTruthy();
  });

  it('gives the reason', () => {
    const copy = aCopy();
    renderInApp(<VerdictMark copy={copy} document={aDocument({ copy })} changes={changes()} />);
    expect(screen.getByText(/a little softer, most on page 2/)).toBeTruthy();
  });

  it('offers to end a signature, and only then does so', async () => {
    const error = { code: 'signed', message: 'report.pdf: it is signed.' };
    const copy = aCopy({ state: 'failed', verdict: '', error });
    const made = changes();
    renderInApp(<VerdictMark copy={copy} document={aDocument({ copy })} changes={made} />);
    await userEvent.click(screen.getByRole('button', { name: /without the signature/ }));
    expect(made.start.mutate).toHaveBeenCalledWith({ may_end_signature: true });
  });
});
