import type { Schemas } from '../api/client';

const anEstimate = {
  bytes: 400_000,
  low: 300_000,
  high: 600_000,
  lightest: null,
  is_open: false,
  warnings: [],
};

const aPicture: Schemas['PictureTreatment'] = {
  finest_ppi: 110,
  above_ppi: null,
  scale_percent: null,
  smallest_px: null,
  largest_px: null,
  coding: 'automatic',
  quality: 68,
  floor: 0.7,
  colour: 'keep',
  bitonal_method: 'otsu',
  threshold: 128,
  filters: [],
  cuts_hidden: false,
  keeps_words: true,
  least_score: 0,
};

export const aTreatment: Schemas['Treatment'] = {
  pictures: {
    photo: aPicture,
    graphic: aPicture,
    'page-scan': aPicture,
    bitonal: aPicture,
    mask: aPicture,
  },
  fonts: { subset: true, drops_standard: false, drops_embedded: false },
  drawing: { tolerance_pt: null, constant_width: false, ordinary_too: false },
  dropped_extras: ['thumbnails'],
  is_linearized: false,
  assumed_cm: 25,
  lightens_embedded: false,
  raster: {
    ppi: 300,
    colours: 'fewest',
    divide: 'otsu',
    threshold: 128,
    keeps_photos_grey: true,
  },
};

export const aPdfFormat: Schemas['Format'] = {
  name: 'pdf',
  kinds: [{ title: 'PDF', media_type: 'application/pdf', suffixes: ['.pdf'] }],
  has_pages: true,
  can_split: true,
  extras: ['thumbnails', 'notes'],
  switches: ['fonts.subset', 'fonts.drops_standard', 'drawing', 'is_linearized', 'cuts_hidden'],
  codings: ['automatic', 'jpeg', 'lossless', 'group-4', 'jpeg-2000'],
};

/** A weighed report of 1 MB whose copy with "post" would come to about 400 kB. */
export function aDocument(changes: Partial<Schemas['Document']> = {}): Schemas['Document'] {
  return {
    id: 'd1',
    name: 'report.pdf',
    folder: 'reports',
    size_bytes: 1_000_000,
    state: 'weighed',
    progress: 1,
    doing: '',
    seconds_left: null,
    error: null,
    pages: 3,
    format: 'pdf',
    first_picture: '',
    kind_title: 'PDF',
    is_signed: false,
    standard: '',
    remarks: [],
    taken_at: '',
    estimates: { post: anEstimate, current: anEstimate },
    savings: { 'fonts.subset': 20_000, 'extra.thumbnails': 5_000 },
    exceptions: {},
    trial_progress: 1,
    copy: null,
    copy_name: 'report-light.pdf',
    checks: [],
    ...changes,
  };
}

export function aCopy(changes: Partial<Schemas['Copy']> = {}): Schemas['Copy'] {
  return {
    id: 'c1',
    preset: 'post',
    is_current: true,
    state: 'done',
    progress: 1,
    doing: '',
    seconds_left: null,
    bytes_after: 450_000,
    bytes_message: 620_000,
    verdict: 'close',
    verdict_title: 'Close',
    reasons: ['pictures are a little softer, most on page 2'],
    error: null,
    seconds: 1,
    pieces: [],
    limit_bytes: null,
    ...changes,
  };
}

export function aSatchel(
  documents: Schemas['Document'][],
  limit: number | null = null,
): Schemas['Satchel'] {
  return {
    id: 's1',
    name: 'Season papers',
    limit_bytes: limit,
    limit_carrier: 'file',
    limit_file_bytes: limit,
    is_limit_shared: false,
    checklist: null,
    is_fitted: false,
    fit_floor: 55,
    fit_ways: [],
    may_split: false,
    may_blur_text: false,
    preset: 'post',
    treatment: null,
    wanted: aTreatment,
    prefix: '',
    suffix: '-light',
    as_of: '2026-05-04T10:00:00Z',
    ask_again_ms: 800,
    choices_mark: 'c1',
    documents,
    run: null,
  };
}

/** Values of a treatment with their titles, as far as tests choose them. */
export const someTitles: Pick<
  Schemas['Choices'],
  | 'extras'
  | 'picture_classes'
  | 'picture_codings'
  | 'colours'
  | 'bitonal_methods'
  | 'filters'
  | 'page_colours'
> = {
  extras: [],
  picture_classes: [
    { value: 'photo', title: 'Photos', name: 'photo' },
    { value: 'graphic', title: 'Graphics', name: 'graphic' },
    { value: 'page-scan', title: 'Page scans', name: 'page scan' },
  ],
  picture_codings: [
    { value: 'automatic', title: 'Automatic' },
    { value: 'jpeg', title: 'JPEG' },
    { value: 'jpeg-2000', title: 'JPEG 2000' },
    { value: 'layers', title: 'In layers' },
  ],
  colours: [
    { value: 'keep', title: 'Keep' },
    { value: 'grey', title: 'Greyscale' },
    { value: 'bitonal', title: 'Black and white' },
  ],
  bitonal_methods: [
    { value: 'otsu', title: 'Automatic threshold' },
    { value: 'sauvola', title: 'Adaptive threshold' },
    { value: 'fixed', title: 'Fixed threshold' },
  ],
  filters: [
    { value: 'sharpen', title: 'Sharpen' },
    { value: 'contrast', title: 'More contrast' },
  ],
  page_colours: [
    { value: 'fewest', title: 'Exact palette of each page' },
    { value: 'bitonal', title: 'Black and white, Group 4' },
  ],
};
