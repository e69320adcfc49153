import { useEffect, useState } from 'react';

import { filesOf, type FoundFile } from './files';

/** Takes files and folders dropped anywhere on the window; true while some hang over it. */
export function useFileDrop(onFiles: (files: FoundFile[]) => void): boolean {
  const [isOver, setIsOver] = useState(false);

  useEffect(() => {
    const carriesFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false;
    const onDragOver = (event: DragEvent) => {
      if (!carriesFiles(event)) return;
      event.preventDefault();
      setIsOver(true);
    };
    const onDragLeave = (event: DragEvent) => {
      if (event.relatedTarget === null) setIsOver(false);
    };
    const onDrop = (event: DragEvent) => {
      if (!carriesFiles(event) || !event.dataTransfer) return;
      event.preventDefault();
      setIsOver(false);
      void filesOf(event.dataTransfer).then(onFiles);
    };
    window.addEventListener('dragover', onDragOver);
    window.addEventListener('dragleave', onDragLeave);
    window.addEventListener('drop', onDrop);
    return () => {
      window.removeEventListener('dragover', onDragOver);
      window.removeEventListener('dragleave', onDragLeave);
      window.removeEventListener('drop', onDrop);
    };
  }, [onFiles]);

  return isOver;
}
