import { useCallback, useState } from 'react';

import type { Schemas } from '../../api/client';

const MOST_UNDOS = 100;

export type Exceptions = Schemas['Document']['exceptions'];

/** All exceptions of one document. */
export interface DocumentExceptions {
  id: string;
  exceptions: NonNullable<Exceptions>;
}

/** Former values of one choice. */
export interface Undo {
  satchel?: Schemas['PatchedSatchelRequest'];
  document?: DocumentExceptions;
}

/** Keeps former values of choices, and hands back the last of them. */
export function useUndo() {
  const [undos, setUndos] = useState<Undo[]>([]);
  const remember = (undo: Undo) => setUndos((all) => [...all.slice(1 - MOST_UNDOS), undo]);
  const takeLast = useCallback(() => {
    setUndos((all) => all.slice(0, -1));
    return undos[undos.length - 1];
  }, [undos]);
  return { remember, takeLast, canUndo: undos.length > 0 };
}
