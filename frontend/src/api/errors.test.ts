import { describe, expect, it } from 'vitest';

import { messageOf, problemFromText } from './errors';

describe('problems', () => {
  it('say what the server said', () => {
    const problem = problemFromText('{"code": "busy", "detail": "Wait for it."}', 409);
    expect([problem.code, problem.message, problem.status]).toEqual(['busy', 'Wait for it.', 409]);
  });
  it('that are no answer of ours say what to do', () => {
    expect(problemFromText('<html>', 502).message).toMatch(/error 502. Try again/);
    expect(problemFromText('', 0).message).toMatch(/cannot be reached/);
  });
  it('have words whatever was thrown', () => {
    expect(messageOf(new Error('so'))).toBe('so');
    expect(messageOf('odd')).toMatch(/Try again/);
  });
});
