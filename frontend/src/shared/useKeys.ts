import { useEffect } from 'react';

/** Acts on keys, by their names or small letters, unless somebody types or holds a modifier. */
export function useKeys(keys: Record<string, () => void>) {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const isTyping =
        event.target instanceof HTMLInputElement || event.target instanceof HTMLSelectElement;
      if (isTyping || event.ctrlKey || event.metaKey || event.altKey) return;
      const act = keys[event.key] ?? keys[event.key.toLowerCase()];
      if (act) {
        event.preventDefault();
        act();
      }
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  });
}
