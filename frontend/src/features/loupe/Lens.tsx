import { Box } from '@mantine/core';
import { type Ref, useState } from 'react';

import classes from './Lens.module.css';
import {
  drawingUrl,
  PAGE_DPI,
  type Point,
  type ProofPlace,
  type Side,
  type Tile,
  tilesAround,
} from './places';

interface LensProps {
  ref: Ref<HTMLDivElement>;
  copyId: string;
  page: ProofPlace;
  /** Position of the loupe, in points from the page's upper left. */
  at: Point;
  zoom: number;
  /** Scale of the page as it is shown without the loupe. */
  pixelsAPoint: number;
  showsHeat: boolean;
}

const DIAMETER_PX = 290;

/**
 * The same spot of both, enlarged: the original in the left half, the copy in the right.
 *
 * At once the pixels of the page that is in sight anyway, and over them finer ones as they arrive.
 */
export function Lens({ ref, copyId, page, at, zoom, pixelsAPoint, showsHeat }: LensProps) {
  const scale = pixelsAPoint * zoom;
  const tiles = tilesAround(page, at, DIAMETER_PX / 2 / scale, zoom);
  const [drawn, setDrawn] = useState<ReadonlySet<string>>(new Set());
  const isFine = (['original', 'copy'] as const).every((side) =>
    tiles.every((tile) => drawn.has(`${side} ${tile.key}`)),
  );
  const draw = (side: Side) => (
    <Tiles
      onDrawn={(key) => setDrawn((keys) => new Set(keys).add(key))}
      copyId={copyId}
      page={page}
      side={side}
      at={at}
      scale={scale}
      zoom={zoom}
      tiles={tiles}
    />
  );
  return (
    <Box
      ref={ref}
      className={classes.root}
      aria-hidden
      __vars={{
        '--left': `${at.x * pixelsAPoint}px`,
        '--top': `${at.y * pixelsAPoint}px`,
        '--diameter': `${DIAMETER_PX}px`,
      }}
    >
      <div className={classes.half} data-side="original">
        {draw('original')}
      </div>
      <div className={classes.half} data-side="copy">
        {draw('copy')}
        {showsHeat && draw('difference')}
      </div>
      {!isFine && <span className={classes.coming}>finer pixels are coming</span>}
      <span className={classes.name} data-side="original">
        original
      </span>
      <span className={classes.name} data-side="copy">
        copy
      </span>
    </Box>
  );
}

interface TilesProps {
  copyId: string;
  page: ProofPlace;
  side: Side;
  at: Point;
  /** Pixels of the screen a point of the page. */
  scale: number;
  zoom: number;
  tiles: Tile[];
  onDrawn: (key: string) => void;
}

function Tiles({ copyId, page, side, at, scale, zoom, tiles, onDrawn }: TilesProps) {
  const whole = { left: 0, top: 0, width: page.width_pt, height: page.height_pt };
  const varsOf = ({ left, top, width, height }: typeof whole) => ({
    '--x': `${DIAMETER_PX / 2 + (left - at.x) * scale}px`,
    '--y': `${DIAMETER_PX / 2 + (top - at.y) * scale}px`,
    '--width': `${width * scale}px`,
    '--height': `${height * scale}px`,
  });
  return (
    <>
      <Box
        component="img"
        className={classes.tile}
        src={drawingUrl(copyId, side, page, PAGE_DPI)}
        alt=""
        __vars={varsOf(whole)}
      />
      {tiles.map((tile) => (
        <Box
          component="img"
          key={`${side} ${tile.key}`}
          className={classes.tile}
          src={drawingUrl(copyId, side, page, PAGE_DPI * zoom, tile.box)}
          alt=""
          onLoad={() => onDrawn(`${side} ${tile.key}`)}
          __vars={varsOf(tile)}
        />
      ))}
    </>
  );
}
