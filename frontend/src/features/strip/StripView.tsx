import { Box } from '@mantine/core';
import { useElementSize, useMergedRef } from '@mantine/hooks';
import { type KeyboardEvent, type PointerEvent, useRef } from 'react';

import { imageUrl } from './queries';
import { extentOf, movedEdge, type Strip, type View, within } from './settings';
import classes from './StripView.module.css';

interface StripViewProps {
  documentId: string;
  /** Name of the picture. */
  name: string;
  strips: Strip[];
  titles: string[];
  /** Edges between the strips, as shares of the width. */
  edges: number[];
  /** The one setting that is shown over all; null for strips. */
  only: number | null;
  view: View;
  onEdges: (edges: number[]) => void;
  onView: (view: View) => void;
}

/** Shares of the frame: how far a key moves an edge, and the picture. */
const STEP = 0.02;
const MOVE = 0.08;
const MOVES: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** One picture, each strip of it in another setting, in register; it moves under the strips. */
export function StripView(props: StripViewProps) {
  const { name, strips, titles, edges, only, onEdges, onView } = props;
  const frame = useRef<HTMLDivElement>(null);
  const size = useElementSize();
  const ref = useMergedRef(frame, size.ref);
  const held = useRef<{ x: number; y: number; from: View } | null>(null);
  const whole = strips.find(({ cut }) => cut === null) ?? strips[0];
  if (!whole) return null;
  const picture = { width: whole.width_px, height: whole.height_px };
  const sides = { width: size.width || 1, height: size.height || 1 };
  const extent = extentOf(picture, sides, props.view.zoom);
  const view = within(props.view, extent);

  const take = (event: PointerEvent<HTMLDivElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    held.current = { x: event.clientX, y: event.clientY, from: view };
  };
  const drag = (event: PointerEvent<HTMLDivElement>) => {
    const start = held.current;
    if (!start) return;
    const box = event.currentTarget.getBoundingClientRect();
    const { x, y, zoom } = start.from;
    const to = {
      x: x - ((event.clientX - start.x) / box.width) * extent.width,
      y: y - ((event.clientY - start.y) / box.height) * extent.height,
      zoom,
    };
    onView(within(to, extent));
  };
  const move = (event: KeyboardEvent) => {
    const by = MOVES[event.key];
    if (!by || event.target !== event.currentTarget) return;
    event.preventDefault();
    const x = view.x + by[0] * MOVE * extent.width;
    const y = view.y + by[1] * MOVE * extent.height;
    onView(within({ ...view, x, y }, extent));
  };
  const dragEdge = (event: PointerEvent<HTMLButtonElement>, at: number) => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId) || !frame.current) return;
    const box = frame.current.getBoundingClientRect();
    onEdges(movedEdge(edges, at, (event.clientX - box.left) / box.width));
  };
  const moveEdge = (event: KeyboardEvent, at: number) => {
    const by = MOVES[event.key];
    if (!by || by[0] === 0) return;
    event.preventDefault();
    onEdges(movedEdge(edges, at, (edges[at] ?? 0) + by[0] * STEP));
  };
  return (
    <Box
      ref={ref}
      className={classes.root}
      role="application"
      aria-label={`${name} in ${strips.length} settings, from the left: ${titles.join(', ')}. Arrow keys move it, keys 1 to ${strips.length} show one setting over all.`}
      tabIndex={0}
      onPointerDown={take}
      onPointerMove={drag}
      onPointerUp={() => (held.current = null)}
      onPointerCancel={() => (held.current = null)}
      onKeyDown={move}
    >
      {strips.map((strip, at) => {
        const left = only === null ? (edges[at - 1] ?? 0) : 0;
        const right = only === null ? (edges[at] ?? 1) : 1;
        if (only !== null && only !== at) return null;
        return (
          <Box
            key={`${at} ${strip.image}`}
            className={classes.strip}
            __vars={{ '--left': `${left * 100}%`, '--right': `${(1 - right) * 100}%` }}
          >
            <Pixels documentId={props.documentId} strip={strip} view={view} extent={extent} />
          </Box>
        );
      })}
      {only === null &&
        edges.map((edge, at) => (
          <Box
            component="button"
            type="button"
            key={at}
            className={classes.edge}
            role="slider"
            aria-orientation="horizontal"
            aria-label={`Edge between ${titles[at] ?? ''} and ${titles[at + 1] ?? ''}`}
            aria-valuemin={0}
            aria-valuemax={100}
            aria-valuenow={Math.round(edge * 100)}
            __vars={{ '--at': `${edge * 100}%` }}
            onPointerDown={(event) => {
              event.stopPropagation();
              event.currentTarget.setPointerCapture(event.pointerId);
            }}
            onPointerMove={(event) => dragEdge(event, at)}
            onKeyDown={(event) => moveEdge(event, at)}
          />
        ))}
    </Box>
  );
}

interface PixelsProps {
  documentId: string;
  strip: Strip;
  view: View;
  /** Shares of the picture's sides that are in view. */
  extent: { width: number; height: number };
}

/** The pixels of one setting, laid where the whole picture lies, with the words that are lost. */
function Pixels({ documentId, strip, view, extent }: PixelsProps) {
  const [left, top, right, low] = strip.cut ?? [0, 0, 1, 1];
  const place = (x: number, y: number, width: number, height: number) => ({
    '--x': `${(0.5 + (x - view.x) / extent.width) * 100}%`,
    '--y': `${(0.5 + (y - view.y) / extent.height) * 100}%`,
    '--width': `${(width / extent.width) * 100}%`,
    '--height': `${(height / extent.height) * 100}%`,
  });
  const [x = 0, y = 0] = [left, top];
  const [width, height] = [(right ?? 1) - x, (low ?? 1) - y];
  return (
    <>
      <Box
        component="img"
        className={classes.pixels}
        src={imageUrl(documentId, strip.image)}
        alt=""
        draggable={false}
        __vars={place(x, y, width, height)}
      />
      {strip.lost.map(([from = 0, upper = 0, to = 0, lower = 0]) => (
        <Box
          component="i"
          key={`${from} ${upper}`}
          className={classes.lost}
          __vars={place(
            x + from * width,
            y + upper * height,
            (to - from) * width,
            (lower - upper) * height,
          )}
        />
      ))}
    </>
  );
}
