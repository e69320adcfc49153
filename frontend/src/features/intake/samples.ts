import type { IntakeData, Page, Scanner } from './queries';

/** A printed page of 2,000 bytes that would be 100 in layers. */
export function aPage(id: string, changes: Partial<Page> = {}): Page {
  return {
    id,
    name: `${id}.jpg`,
    size_bytes: 2000,
    turn: 0,
    corners: null,
    found_corners: null,
    is_out: false,
    is_blank: false,
    ppi: 300,
    layers: {
      size_bytes: 100,
      is_layered: true,
      reason: 'in layers',
      verdict: 'close',
      score: 72,
      has_place: true,
    },
    error_message: '',
    ...changes,
  };
}

export function anIntake(...pages: Page[]): IntakeData {
  return { id: 'i1', name: 'Ringing logs', pages, scan: null };
}

export const aScanner: Scanner = {
  name: 'Office',
  model: 'Stand-in',
  state: 'idle',
  message: '',
  sources: [
    { name: 'glass', ppi: [300], colours: ['colour'], has_duplex: false },
    { name: 'feeder', ppi: [150, 300], colours: ['colour', 'grey'], has_duplex: true },
  ],
};
