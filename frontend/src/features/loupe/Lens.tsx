import { Box } from '@mantine/core';
import type { Ref } from 'react';

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
  /** Where it is held, in points from the page's upper left. */
  at: Point;
  zoom: number;
  /** Of the page as it is shown without the loupe. */
  pixelsAPoint: number;
  showsHeat: boolean;
}

const DIAMETER_PX = 290;

/** The same spot of both, enlarged: the original in the left half, the copy in the right. */
export function Lens({ ref, copyId, page, at, zoom, pixelsAPoint, showsHeat }: LensProps) {
  const scale = pixelsAPoint * zoom;
  const tiles = tilesAround(page, at, DIAMETER_PX / 2 / scale, zoom);
  const draw = (side: Side) => (
    <Tiles
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
}

function Tiles({ copyId, page, side, at, scale, zoom, tiles }: TilesProps) {
  return tiles.map((tile) => (
    <Box
      component="img"
      key={`${side} ${tile.key}`}
      className={classes.tile}
      src={drawingUrl(copyId, side, page, PAGE_DPI * zoom, tile.box)}
      alt=""
      __vars={{
        '--x': `${DIAMETER_PX / 2 + (tile.left - at.x) * scale}px`,
        '--y': `${DIAMETER_PX / 2 + (tile.top - at.y) * scale}px`,
        '--width': `${tile.width * scale}px`,
        '--height': `${tile.height * scale}px`,
      }}
    />
  ));
}
