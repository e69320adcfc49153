import { cleanup, configure } from '@testing-library/react';
import { afterEach, vi } from 'vitest';

// Where other tests have the cores, a second is soon over.
configure({ asyncUtilTimeout: 8000 });

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

// What jsdom lacks and Mantine asks for.
window.matchMedia = (query: string) =>
  ({
    matches: false,
    media: query,
    addEventListener: () => undefined,
    removeEventListener: () => undefined,
  }) as unknown as MediaQueryList;

window.ResizeObserver = class {
  observe() {
    return undefined;
  }
  unobserve() {
    return undefined;
  }
  disconnect() {
    return undefined;
  }
};

Element.prototype.scrollIntoView = () => undefined;
