/** Which pictures come on pages, in which order, and how each is turned. */
export interface Pages {
  /** Ids of pages that were placed by hand; others come after them. */
  order: string[];
  leftOut: string[];
  /** Degrees with the clock, by picture. */
  turns: Record<string, number>;
}

export const AS_THEY_ARE: Pages = { order: [], leftOut: [], turns: {} };

const FULL_TURN = 360;
const QUARTER = 90;

/** The pictures as pages, first to last. */
export function inOrder<Picture extends { id: string }>(
  pictures: Picture[],
  { order, leftOut }: Pages,
): Picture[] {
  const place = (id: string) => {
    const at = order.indexOf(id);
    return at < 0 ? order.length : at;
  };
  return pictures
    .filter(({ id }) => !leftOut.includes(id))
    .sort((one, other) => place(one.id) - place(other.id));
}

/** The page at `from` goes to `to`; ids: of all pages as they are. */
export function moved(pages: Pages, ids: string[], from: number, to: number): Pages {
  const id = ids[from];
  if (id === undefined || to < 0 || to >= ids.length) return pages;
  const others = ids.filter((one) => one !== id);
  return { ...pages, order: [...others.slice(0, to), id, ...others.slice(to)] };
}

export function turned(pages: Pages, id: string): Pages {
  const degrees = ((pages.turns[id] ?? 0) + QUARTER) % FULL_TURN;
  return { ...pages, turns: { ...pages.turns, [id]: degrees } };
}

/** The turns by page number, as the server expects them. */
export function turnsByPage(
  { turns }: Pages,
  pictures: { id: string; pages: number | null }[],
): Record<string, 90 | 180 | 270> {
  const ids = pictures.flatMap(({ id, pages }) => Array.from({ length: pages ?? 1 }, () => id));
  const told = ids.map((id, index) => [String(index + 1), turns[id] ?? 0] as const);
  return Object.fromEntries(told.filter(([, degrees]) => degrees > 0)) as Record<
    string,
    90 | 180 | 270
  >;
}

/** Sort by the time of capture; pictures without one come last. */
export function byTime(pages: Pages, pictures: { id: string; taken_at: string }[]): Pages {
  const sorted = [...pictures].sort((one, other) =>
    (one.taken_at || '9').localeCompare(other.taken_at || '9'),
  );
  return { ...pages, order: sorted.map(({ id }) => id) };
}

/** Sort names with numbers by value: "page 2" before "page 10". */
export function byName(pages: Pages, pictures: { id: string; name: string }[]): Pages {
  const sorted = [...pictures].sort((one, other) =>
    one.name.localeCompare(other.name, 'en', { numeric: true }),
  );
  return { ...pages, order: sorted.map(({ id }) => id) };
}
