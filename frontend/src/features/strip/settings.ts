import type { Schemas } from '../../api/client';
import { CURRENT, type Document, type Exceptions, type Satchel } from '../satchel';

export type Strip = Schemas['Strip'];
export type Setting = Schemas['StripSettingRequest'];
type Preset = Schemas['Preset'];
export type PictureClass = keyof Schemas['Pictures'];
type Treatment = Schemas['PictureTreatment'];

export const ORIGINAL = 'original';
/** The treatment that keeps all pixels. */
const AS_IT_WAS = 'as-it-was';
/** Offered first, from the gentlest to the lightest. */
const USUAL = ['print-room', 'reading-desk', 'post', 'feather'];

/** What a setting is used for. */
export type Scope = 'picture' | 'class' | 'documents';

/** The original, the present settings, and shipped presets around them; the gentlest first. */
export function firstSettings(satchel: Satchel, count: number): Setting[] {
  const own: Setting = { base: CURRENT };
  if (count <= 2) return [{ base: ORIGINAL }, own];
  const preset = satchel.preset ?? '';
  const others = USUAL.filter((name) => name !== preset);
  const gentler = others.filter((name) => USUAL.indexOf(name) < USUAL.indexOf(preset));
  const first = gentler.at(-1) ?? others[0] ?? 'print-room';
  const last = others.filter((name) => name !== first).at(-1) ?? 'feather';
  const isFirstGentler = gentler.length > 0;
  return isFirstGentler
    ? [{ base: ORIGINAL }, { base: first }, own, { base: last }]
    : [{ base: ORIGINAL }, own, { base: first }, { base: last }];
}

export function titleOf(setting: Setting, presets: Preset[]): string {
  const base =
    setting.base === ORIGINAL
      ? 'Original'
      : setting.base === CURRENT
        ? 'Present settings'
        : (presets.find(({ name }) => name === setting.base)?.title ?? setting.base);
  return isChanged(setting) ? `${base}, changed` : base;
}

export function isChanged({ finest_ppi, quality }: Setting): boolean {
  return finest_ppi != null || quality != null;
}

/** Whether the picture is treated that way already. */
export function isInUse(setting: Setting, satchel: Satchel, document: Document, part: string) {
  if (isChanged(setting)) return false;
  if (setting.base === CURRENT) return true;
  const exception = document.exceptions?.[part];
  if (setting.base === ORIGINAL) return exception?.is_exempt === true;
  return !exception && !satchel.is_fitted && !satchel.treatment && setting.base === satchel.preset;
}

interface Use {
  /** Settings of the satchel to save. */
  body?: Schemas['PatchedSatchelRequest'];
  /** Exceptions of the document to save. */
  exceptions?: NonNullable<Exceptions>;
}

/** What has to be saved so that a setting is used for the picture, its class, or all documents. */
export function choiceFor(
  setting: Setting,
  scope: Scope,
  at: {
    satchel: Satchel;
    document: Document;
    presets: Preset[];
    part: string;
    pictureClass: PictureClass;
  },
): Use {
  const { satchel, document, presets, part, pictureClass } = at;
  const exceptions = document.exceptions ?? {};
  if (scope === 'picture') {
    const own =
      setting.base === ORIGINAL
        ? { is_exempt: true }
        : { treatment: treatmentOf(setting, satchel, presets, pictureClass) };
    return { exceptions: { ...exceptions, [part]: own } };
  }
  const { [part]: former, ...others } = exceptions;
  const use: Use = former ? { exceptions: others } : {};
  if (scope === 'class' || isChanged(setting) || setting.base === CURRENT) {
    const base = presets.find(({ name }) => name === setting.base);
    const whole = scope === 'documents' && base ? base.treatment : satchel.wanted;
    const pictures = {
      ...whole.pictures,
      [pictureClass]: treatmentOf(setting, satchel, presets, pictureClass),
    };
    return { ...use, body: { treatment: { ...whole, pictures }, is_fitted: false } };
  }
  const preset = setting.base === ORIGINAL ? AS_IT_WAS : setting.base;
  return { ...use, body: { preset, treatment: null, is_fitted: false } };
}

function treatmentOf(
  setting: Setting,
  satchel: Satchel,
  presets: Preset[],
  pictureClass: PictureClass,
): Treatment {
  const name = setting.base === ORIGINAL ? AS_IT_WAS : setting.base;
  const preset = presets.find((one) => one.name === name);
  const own = (preset?.treatment ?? satchel.wanted).pictures[pictureClass];
  const ppi = setting.finest_ppi;
  return {
    ...own,
    ...(ppi != null && { finest_ppi: ppi, above_ppi: null, scale_percent: null }),
    ...(setting.quality != null && { quality: setting.quality }),
    // What was asked for counts, not the score that a preset promises.
    ...(isChanged(setting) && { least_score: 0 }),
  };
}

/** The edges between strips, as shares of the width: equal ones at first. */
export function evenEdges(count: number): number[] {
  return Array.from({ length: count - 1 }, (_, at) => (at + 1) / count);
}

const LEAST_STRIP = 0.04;

/** The edges with one moved, as far as its neighbours let it. */
export function movedEdge(edges: number[], at: number, to: number): number[] {
  const least = (edges[at - 1] ?? 0) + LEAST_STRIP;
  const most = (edges[at + 1] ?? 1) - LEAST_STRIP;
  return edges.map((edge, one) => (one === at ? Math.min(most, Math.max(least, to)) : edge));
}

export const ZOOMS = [1, 1.5, 2, 3, 4, 6, 8, 12];

/** What the middle of the view shows, as shares of the picture's sides. */
export interface View {
  x: number;
  y: number;
  zoom: number;
}

interface Sides {
  width: number;
  height: number;
}

/** Shares of the picture's sides that are in view: at the lowest zoom it just fills the frame. */
export function extentOf(picture: Sides, frame: Sides, zoom: number): Sides {
  const scale = Math.max(frame.width / picture.width, frame.height / picture.height) * zoom;
  return {
    width: frame.width / (picture.width * scale),
    height: frame.height / (picture.height * scale),
  };
}

/** The view, kept so that the picture fills the frame. */
export function within({ x, y, zoom }: View, extent: Sides): View {
  const keep = (at: number, share: number) => Math.min(1 - share / 2, Math.max(share / 2, at));
  return { x: keep(x, extent.width), y: keep(y, extent.height), zoom };
}
