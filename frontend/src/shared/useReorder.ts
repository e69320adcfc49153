import { useState } from 'react';

/**
 * Let items of a list be dragged to another index.
 *
 * Returns a function that gives each list item, by its index, what it needs. `data-dragged` marks
 * the item under way.
 */
export function useReorder(onMove: (from: number, to: number) => void) {
  const [dragged, setDragged] = useState<number | null>(null);
  return (index: number) => ({
    mod: { dragged: dragged === index },
    draggable: true,
    onDragStart: () => setDragged(index),
    onDragEnd: () => setDragged(null),
    onDragOver: (event: React.DragEvent) => {
      if (dragged !== null) event.preventDefault();
    },
    onDrop: (event: React.DragEvent) => {
      event.preventDefault();
      if (dragged !== null) onMove(dragged, index);
    },
  });
}
