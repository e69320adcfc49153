import type { Schemas } from '../../api/client';

export type Proof = Schemas['Proof'];
export type ProofPlace = Schemas['ProofPlace'];
export type Side = 'original' | 'copy' | 'difference';

/** A point of a page, in points from its upper left. */
export interface Point {
  x: number;
  y: number;
}

/** A square of a page as the server draws it; box in points from the lower left. */
export interface Tile {
  key: string;
  /** Upper left corner, and size, in points. */
  left: number;
  top: number;
  width: number;
  height: number;
  box: string;
}

export const PAGE_DPI = 110;
export const ZOOMS = [1, 1.5, 2, 3, 4, 6, 8];
/** Side of a tile at zoom 1, in points: some 440 pixels of the drawing. */
const TILE_PT = 288;
const SAME = 0.9995;

/** Tells the pages of a document apart, or its pictures where it has no pages. */
export function keyOf(place: ProofPlace): string {
  return place.part ?? String(place.page);
}

/** Places, the least alike first; equal ones in the order of the document. */
export function worstFirst(places: ProofPlace[]): ProofPlace[] {
  return [...places].sort((one, other) => one.likeness - other.likeness);
}

/** The label of a page's similarity, and the length of its bar: from 0.8 to 1. */
export function samenessOf(page: ProofPlace): { word: string; share: number } {
  if (page.faults.length > 0) return { word: 'check', share: 0.05 };
  if (page.likeness >= SAME) return { word: 'same', share: 1 };
  return { word: page.likeness.toFixed(3), share: Math.max(0.05, (page.likeness - 0.8) / 0.2) };
}

/** The middle of the place that is least alike; the middle of the page where all is equal. */
export function worstPlace(page: ProofPlace): Point {
  if (!page.worst) return { x: page.width_pt / 2, y: page.height_pt / 2 };
  const [left = 0, low = 0, right = 0, high = 0] = page.worst;
  return { x: (left + right) / 2, y: page.height_pt - (low + high) / 2 };
}

/** The page with the next place to look at, round and round, the worst first. */
export function nextWorst(pages: ProofPlace[], current: string): ProofPlace | undefined {
  const order = worstFirst(pages).filter((page) => page.worst !== null);
  const at = order.findIndex((place) => keyOf(place) === current);
  return order[(at + 1) % Math.max(1, order.length)];
}

export function drawingUrl(
  copyId: string,
  side: Side,
  place: ProofPlace,
  dpi: number,
  box = '',
): string {
  const which =
    place.part === null ? `page=${place.page ?? 1}` : `part=${encodeURIComponent(place.part)}`;
  const within = box ? `&box=${box}` : '';
  return `/api/copies/${copyId}/drawing?side=${side}&${which}&dpi=${dpi}${within}`;
}

/** The tiles that a loupe of `radius` points round `at` shows at a zoom. */
export function tilesAround(page: ProofPlace, at: Point, radius: number, zoom: number): Tile[] {
  const side = TILE_PT / zoom;
  const first = { x: Math.max(0, at.x - radius), y: Math.max(0, at.y - radius) };
  const last = {
    x: Math.min(page.width_pt, at.x + radius),
    y: Math.min(page.height_pt, at.y + radius),
  };
  const tiles: Tile[] = [];
  for (let row = Math.floor(first.y / side); row * side < last.y; row += 1) {
    for (let column = Math.floor(first.x / side); column * side < last.x; column += 1) {
      const left = column * side;
      const top = row * side;
      const right = Math.min(page.width_pt, left + side);
      const bottom = Math.min(page.height_pt, top + side);
      const sides = [left, page.height_pt - bottom, right, page.height_pt - top];
      tiles.push({
        key: `${keyOf(page)} ${zoom} ${column} ${row}`,
        left,
        top,
        width: right - left,
        height: bottom - top,
        box: sides.map((value) => value.toFixed(2)).join(','),
      });
    }
  }
  return tiles;
}
