import { vi } from 'vitest';

interface Asked {
  method: string;
  path: string;
  body: unknown;
}

/** Answers requests from a table of "METHOD path" to JSON; what was asked can be read back. */
export function serve(answers: Record<string, unknown>, status = 200): Asked[] {
  const asked: Asked[] = [];
  vi.stubGlobal('fetch', async (input: Request) => {
    const { pathname } = new URL(input.url);
    const text = await input.text();
    asked.push({ method: input.method, path: pathname, body: text ? JSON.parse(text) : null });
    const answer = answers[`${input.method} ${pathname}`];
    if (answer === undefined) return new Response('not here', { status: 404 });
    return new Response(JSON.stringify(answer), {
      status,
      headers: { 'Content-Type': 'application/json' },
    });
  });
  return asked;
}
