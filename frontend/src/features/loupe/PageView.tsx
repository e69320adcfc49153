import { Box } from '@mantine/core';
import { useElementSize } from '@mantine/hooks';
import { type KeyboardEvent, type PointerEvent, useEffect, useRef } from 'react';

import { Lens } from './Lens';
import classes from './PageView.module.css';
import { drawingUrl, keyOf, PAGE_DPI, type Point, type ProofPlace } from './places';

interface PageViewProps {
  copyId: string;
  page: ProofPlace;
  side: 'original' | 'copy';
  showsHeat: boolean;
  /** Position of the loupe; null when it is put away. */
  place: Point | null;
  zoom: number;
  onPlace: (place: Point | null) => void;
}

const STEP_PT = 6;
const MOST_PX = 720;
const LEAST_PX = 280;
const MOVES: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** One page, original and copy in register, and the loupe over it. */
export function PageView({ copyId, page, side, showsHeat, place, zoom, onPlace }: PageViewProps) {
  const { ref, width } = useElementSize();
  const lens = useRef<HTMLDivElement>(null);
  const isFollowing = useRef(false);
  useEffect(() => {
    // Held by the pointer it is in sight; a key may have sent it anywhere.
    if (!isFollowing.current) lens.current?.scrollIntoView({ block: 'nearest' });
    isFollowing.current = false;
  }, [place, page]);
  const pixelsAPoint = width / page.width_pt;
  const follow = (event: PointerEvent<HTMLDivElement>) => {
    isFollowing.current = true;
    const box = event.currentTarget.getBoundingClientRect();
    onPlace({
      x: ((event.clientX - box.left) / box.width) * page.width_pt,
      y: ((event.clientY - box.top) / box.height) * page.height_pt,
    });
  };
  const move = (event: KeyboardEvent) => {
    const by = MOVES[event.key];
    if (!by) return;
    event.preventDefault();
    const from = place ?? { x: page.width_pt / 2, y: page.height_pt / 2 };
    onPlace({
      x: clamp(from.x + by[0] * STEP_PT, page.width_pt),
      y: clamp(from.y + by[1] * STEP_PT, page.height_pt),
    });
  };
  return (
    <div className={classes.root}>
      <Box
        ref={ref}
        className={classes.page}
        role="application"
        aria-label={`${page.title}, the ${side}. Arrow keys move the loupe.`}
        tabIndex={0}
        __vars={{
          '--shape': `${page.width_pt} / ${page.height_pt}`,
          '--widest': `${widestOf(page)}px`,
        }}
        onPointerMove={follow}
        onPointerDown={follow}
        onPointerLeave={() => onPlace(null)}
        onKeyDown={move}
      >
        {(['original', 'copy'] as const).map((one) => (
          <img
            key={`${keyOf(page)} ${one}`}
            className={classes.sheet}
            data-hidden={one !== side || undefined}
            src={drawingUrl(copyId, one, page, PAGE_DPI)}
            alt={one === side ? `${page.title} of the ${one}` : ''}
          />
        ))}
        {showsHeat && (
          <img
            key={`${keyOf(page)} heat`}
            className={classes.sheet}
            src={drawingUrl(copyId, 'difference', page, PAGE_DPI)}
            alt="Differences, in rust"
          />
        )}
        {place && width > 0 && (
          <Lens
            ref={lens}
            copyId={copyId}
            page={page}
            at={place}
            zoom={zoom}
            pixelsAPoint={pixelsAPoint}
            showsHeat={showsHeat}
          />
        )}
      </Box>
      <p className={classes.keys}>
        <kbd>F</kbd> flip <kbd>W</kbd> next worst place <kbd>D</kbd> differences <kbd>+</kbd>{' '}
        <kbd>−</kbd> strength <kbd>arrows</kbd> move the loupe
      </p>
    </div>
  );
}

/** A small picture is enlarged to twice its size at most: more would only show its pixels. */
function widestOf(place: ProofPlace): number {
  if (place.page !== null) return MOST_PX;
  return Math.min(MOST_PX, Math.max(LEAST_PX, (place.width_pt / 72) * PAGE_DPI * 2));
}

function clamp(value: number, most: number): number {
  return Math.max(0, Math.min(most, value));
}
