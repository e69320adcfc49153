import { Button } from '@mantine/core';
import { useRef, useState } from 'react';

import classes from './SheetCorners.module.css';
import { atCorner, AT_EDGES, type Corners, type Point } from './corners';
import type { Page } from './queries';

const NAMES = ['Upper left', 'Upper right', 'Lower right', 'Lower left'];
const STEP = 0.005;
const STRIDE = 0.03;
const HALF = 0.5;
const ARROWS: Record<string, Point> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

interface SheetCornersProps {
  page: Page;
  number: number;
  onUse: (corners: Corners | null) => void;
  onClose: () => void;
}

/** The corners of a sheet in a photo, laid on it by hand; the sheet alone becomes the page. */
export function SheetCorners({ page, number, onUse, onClose }: SheetCornersProps) {
  const [corners, setCorners] = useState<Corners>(
    (page.corners ?? page.found_corners ?? AT_EDGES) as Corners,
  );
  const [held, setHeld] = useState<number | null>(null);
  const picture = useRef<HTMLDivElement>(null);
  const put = (index: number, to: Point) => setCorners(atCorner(corners, index, to));
  const onPointer = (event: React.PointerEvent) => {
    const box = picture.current?.getBoundingClientRect();
    if (held === null || !box) return;
    put(held, [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height]);
  };
  const onKey = (event: React.KeyboardEvent, index: number) => {
    const way = ARROWS[event.key];
    const corner = corners[index];
    if (!way || !corner) return;
    const step = event.shiftKey ? STRIDE : STEP;
    put(index, [corner[0] + way[0] * step, corner[1] + way[1] * step]);
    event.preventDefault();
  };
  return (
    <section className={classes.root} aria-label={`The sheet on page ${number}`}>
      <div>
        <h2>Which part is the sheet?</h2>
        <p className={classes.told}>
          {page.found_corners
            ? 'A sheet of paper was seen in this photo.'
            : 'No sheet was seen in this photo by itself.'}{' '}
          Put the four marks on its corners, by mouse or with the arrow keys (Shift for longer
          steps). What is between them becomes the page, as seen from above.
        </p>
        <div className={classes.ends}>
          <Button onClick={() => onUse(corners)}>Take this sheet</Button>
          {page.corners && (
            <Button variant="default" onClick={() => onUse(null)}>
              Take the whole photo
            </Button>
          )}
          <Button variant="default" onClick={onClose}>
            Cancel
          </Button>
        </div>
      </div>
      <div
        className={classes.picture}
        ref={picture}
        onPointerMove={onPointer}
        onPointerUp={() => setHeld(null)}
        onPointerLeave={() => setHeld(null)}
      >
        <img src={`/api/intake-pages/${page.id}/whole`} alt="" draggable={false} />
        <svg viewBox="0 0 1 1" preserveAspectRatio="none" aria-hidden>
          <path
            className={classes.around}
            fillRule="evenodd"
            d={`M0 0H1V1H0Z M${corners.map((corner) => corner.join(' ')).join('L')}Z`}
          />
          <polygon className={classes.sheet} points={corners.map(String).join(' ')} />
        </svg>
        {corners.map(([x, y], index) => (
          <button
            key={NAMES[index]}
            type="button"
            className={classes.corner}
            style={{ left: `${x * 100}%`, top: `${y * 100}%` }}
            aria-label={`${NAMES[index]} corner, ${percent(x)} across, ${percent(y)} down`}
            onPointerDown={(event) => {
              setHeld(index);
              event.currentTarget.focus();
            }}
            onKeyDown={(event) => onKey(event, index)}
          />
        ))}
      </div>
    </section>
  );
}

function percent(share: number) {
  return `${Math.floor(share * 100 + HALF)} %`;
}
