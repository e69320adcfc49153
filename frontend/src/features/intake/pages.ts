import type { Schemas } from '../../api/client';

type IntakeData = Schemas['Intake'];
type Page = Schemas['Page'];

const FULL_TURN = 360;
const QUARTER = 90;

/** Pages are on their way from the scanner. */
export function isComing({ scan }: IntakeData): boolean {
  return scan?.state === 'waiting' || scan?.state === 'scanning';
}

/** Whether every page was inspected and tried in layers. */
export function isLookedAt({ pages }: IntakeData): boolean {
  return pages.every((page) => page.layers !== null || page.error_message !== '');
}

/** Those that were not taken out, in their order. */
export function onHand({ pages }: IntakeData): Page[] {
  return pages.filter((page) => !page.is_out);
}

export function turned(turn: Page['turn']): Page['turn'] {
  return ((turn + QUARTER) % FULL_TURN) as Page['turn'];
}

/** All ids, that of the page at `from` at the place `to` among those on hand. */
export function movedIds(intake: IntakeData, id: string, to: number): string[] {
  const ids = onHand(intake).map((page) => page.id);
  if (to < 0 || to >= ids.length) return ids;
  const others = ids.filter((one) => one !== id);
  return [...others.slice(0, to), id, ...others.slice(to)];
}

export interface Weights {
  asItComes: number;
  inLayers: number;
  /** Pages of which it is known. */
  known: number;
  /** Pages that stay one picture in layers as well. */
  whole: number;
}

/** The weight of the scanned pages both ways; untried ones count as scanned. */
export function weightsOf(intake: IntakeData): Weights {
  const weights = { asItComes: 0, inLayers: 0, known: 0, whole: 0 };
  for (const page of onHand(intake)) {
    weights.asItComes += page.size_bytes;
    weights.inLayers += page.layers ? page.layers.size_bytes : page.size_bytes;
    if (page.layers) weights.known += 1;
    if (page.layers && !page.layers.is_layered) weights.whole += 1;
  }
  return weights;
}

/** Pages whose layers differ from them somewhere, the worst first. */
export function worstFirst(intake: IntakeData): Page[] {
  return onHand(intake)
    .filter((page) => page.layers?.has_place)
    .sort((one, other) => (one.layers?.score ?? 100) - (other.layers?.score ?? 100));
}

/** The caption of a page. */
export function remarkOf(page: Page): string {
  if (page.error_message) return 'cannot be read';
  if (page.is_blank) return 'looks blank';
  if (page.found_corners && !page.corners) return 'a photo of a sheet';
  return '';
}
