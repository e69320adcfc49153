import createClient, { type Middleware } from 'openapi-fetch';

import { problemFrom } from './errors';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];

/** The token Django wants back with every change. */
export function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? '';
}

const guard: Middleware = {
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-CSRFToken', csrfToken());
    return request;
  },
  async onResponse({ response }) {
    if (!response.ok) throw await problemFrom(response);
    return response;
  },
};

export const api = createClient<paths>({
  baseUrl: window.location.origin,
  // Looked up at each call, so that tests can stand in for the network.
  fetch: (request) => globalThis.fetch(request),
});
api.use(guard);

/** The data of an answer; failures were thrown before. */
export async function dataOf<T>(answer: Promise<{ data?: T }>): Promise<T> {
  const { data } = await answer;
  return data as T;
}
