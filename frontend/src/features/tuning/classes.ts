import type { Schemas } from '../../api/client';

export type Treatment = Schemas['Treatment'];
export type PictureTreatment = Schemas['PictureTreatment'];
export type PictureClass = keyof Treatment['pictures'];

export const CLASSES: PictureClass[] = ['photo', 'graphic', 'page-scan', 'two-tone', 'stencil'];

export const CLASS_NAMES: Record<string, string> = {
  photo: 'photo',
  graphic: 'graphic',
  'page-scan': 'page scan',
  'two-tone': 'two-tone',
  stencil: 'stencil',
};

export const CLASS_TITLES: Record<PictureClass, string> = {
  photo: 'Photos',
  graphic: 'Graphics',
  'page-scan': 'Page scans',
  'two-tone': 'Two-tone',
  stencil: 'Stencils',
};

export const CODINGS: { value: PictureTreatment['coding']; label: string }[] = [
  { value: 'automatic', label: 'The lightest' },
  { value: 'jpeg', label: 'JPEG' },
  { value: 'lossless', label: 'Lossless' },
  { value: 'group-4', label: 'Group 4, two-tone' },
  { value: 'jpeg-2000', label: 'JPEG 2000' },
  { value: 'layers', label: 'In layers' },
];

export const COLOURS: { value: PictureTreatment['colour']; label: string }[] = [
  { value: 'keep', label: 'As they are' },
  { value: 'rgb', label: 'To RGB' },
  { value: 'grey', label: 'To grey' },
  { value: 'two-tone', label: 'To two tones' },
  { value: '256-colours', label: 'To 256 colours' },
  { value: '16-colours', label: 'To 16 colours' },
  { value: 'exact-palette', label: 'As few as it uses' },
];

export const BITONAL_METHODS: { value: PictureTreatment['bitonal_method']; label: string }[] = [
  { value: 'otsu', label: 'Found for the picture' },
  { value: 'sauvola', label: 'Found place by place' },
  { value: 'fixed', label: 'Fixed threshold' },
  { value: 'diffused', label: 'Dots, scattered' },
  { value: 'ordered', label: 'Dots, in a grid' },
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
