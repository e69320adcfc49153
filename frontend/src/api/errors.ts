/** A request that was refused, in words a person can act on. */
export class Problem extends Error {
  readonly code: string;
  readonly status: number;

  constructor(code: string, message: string, status: number) {
    super(message);
    this.name = 'Problem';
    this.code = code;
    this.status = status;
  }
}

/** The server's message about a failure, or a general one. */
export async function problemFrom(response: Response): Promise<Problem> {
  return problemFromText(await response.text(), response.status);
}

export function problemFromText(text: string, status: number): Problem {
  try {
    const body = JSON.parse(text) as { code?: string; detail?: string };
    if (body.detail) return new Problem(body.code ?? 'failed', body.detail, status);
  } catch {
    // Not from our API: a proxy, or the server is down.
  }
  const words = status
    ? `The server answered with error ${status}. Try again in a moment.`
    : 'The server cannot be reached. Check the connection and try again.';
  return new Problem('unreachable', words, status);
}

export function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : 'Something went wrong. Try again.';
}
