/** Across and down, as shares of a picture. */
export type Point = [number, number];
/** Upper left, upper right, lower right, lower left. */
export type Corners = [Point, Point, Point, Point];

export const AT_EDGES: Corners = [
  [0.05, 0.05],
  [0.95, 0.05],
  [0.95, 0.95],
  [0.05, 0.95],
];

/** Move one corner; unchanged where the outline would cross itself. */
export function atCorner(corners: Corners, index: number, [x, y]: Point): Corners {
  const to: Point = [within(x), within(y)];
  const moved = corners.map((corner, at) => (at === index ? to : corner)) as Corners;
  return goesRound(moved) ? moved : corners;
}

function within(share: number) {
  return Math.round(Math.min(1, Math.max(0, share)) * 10_000) / 10_000;
}

/** Every corner turns with the clock. */
function goesRound(corners: Corners): boolean {
  return corners.every(([x, y], index) => {
    const [nextX, nextY] = corners[(index + 1) % corners.length] as Point;
    const [afterX, afterY] = corners[(index + 2) % corners.length] as Point;
    return (nextX - x) * (afterY - nextY) - (nextY - y) * (afterX - nextX) > 0.0005;
  });
}
