import type { Schemas } from '../../api/client';

export type Treatment = Schemas['Treatment'];
export type PictureTreatment = Schemas['PictureTreatment'];
export type PictureClass = keyof Treatment['pictures'];

export const CLASSES: PictureClass[] = ['photo', 'graphic', 'page-scan', 'bitonal', 'mask'];

export const CLASS_NAMES: Record<string, string> = {
  photo: 'photo',
  graphic: 'graphic',
  'page-scan': 'page scan',
  bitonal: 'black and white',
  mask: 'mask',
};

export const CLASS_TITLES: Record<PictureClass, string> = {
  photo: 'Photos',
  graphic: 'Graphics',
  'page-scan': 'Page scans',
  bitonal: 'Black and white',
  mask: 'Masks',
};

export const CODINGS: { value: PictureTreatment['coding']; label: string }[] = [
  { value: 'automatic', label: 'Automatic' },
  { value: 'jpeg', label: 'JPEG' },
  { value: 'lossless', label: 'Lossless' },
  { value: 'group-4', label: 'Group 4, black and white' },
  { value: 'jpeg-2000', label: 'JPEG 2000' },
  { value: 'layers', label: 'In layers' },
];

export const COLOURS: { value: PictureTreatment['colour']; label: string }[] = [
  { value: 'keep', label: 'Keep' },
  { value: 'rgb', label: 'RGB' },
  { value: 'grey', label: 'Greyscale' },
  { value: 'bitonal', label: 'Black and white' },
  { value: '256-colours', label: '256 colours' },
  { value: '16-colours', label: '16 colours' },
  { value: 'exact-palette', label: 'Exact palette' },
];

export const BITONAL_METHODS: { value: PictureTreatment['bitonal_method']; label: string }[] = [
  { value: 'otsu', label: 'Automatic threshold' },
  { value: 'sauvola', label: 'Adaptive threshold' },
  { value: 'fixed', label: 'Fixed threshold' },
  { value: 'diffused', label: 'Diffusion dither' },
  { value: 'ordered', label: 'Ordered dither' },
];

type FilterKind = PictureTreatment['filters'][number]['kind'];

export const FILTERS: { kind: FilterKind; label: string }[] = [
  { kind: 'sharpen', label: 'Sharpen' },
  { kind: 'whiten-paper', label: 'Whiten paper' },
  { kind: 'remove-specks', label: 'Remove specks' },
  { kind: 'straighten', label: 'Straighten' },
  { kind: 'brighten', label: 'Brighten' },
  { kind: 'darken', label: 'Darken' },
  { kind: 'contrast', label: 'More contrast' },
];
