import { describe, expect, it } from 'vitest';

import { aDocument, aSatchel, aTreatment } from '../../tests/samples';
import {
  choiceFor,
  evenEdges,
  extentOf,
  firstSettings,
  isInUse,
  movedEdge,
  within,
} from './settings';

const coarse = { ...aTreatment.pictures.photo, finest_ppi: 72, quality: 50 };
const preset = (name: string, photo = aTreatment.pictures.photo) => ({
  name,
  title: name,
  description: '',
  is_own: false,
  treatment: { ...aTreatment, pictures: { ...aTreatment.pictures, photo } },
});
const at = (exceptions = {}) => ({
  satchel: aSatchel([], null),
  document: aDocument({ exceptions }),
  presets: [preset('feather', coarse), preset('as-it-was')] as never,
  part: 'picture:5-0',
  pictureClass: 'photo' as const,
});

describe('the settings of a test strip', () => {
  it('are the original, the present ones, and presets on both sides', () => {
    const satchel = { ...aSatchel([], null), preset: 'reading-desk' };
    expect(firstSettings(satchel, 4).map(({ base }) => base)).toEqual([
      'original',
      'print-room',
      'current',
      'feather',
    ]);
    expect(firstSettings({ ...satchel, preset: 'print-room' }, 4)[1]?.base).toBe('current');
    expect(firstSettings(satchel, 2)).toHaveLength(2);
  });

  it('are used for one picture as its own treatment', () => {
    const use = choiceFor({ base: 'feather', quality: 60 }, 'picture', at());
    expect(use.body).toBeUndefined();
    expect(use.exceptions?.['picture:5-0']).toEqual({
      treatment: { ...coarse, quality: 60, least_score: 0 },
    });
    expect(choiceFor({ base: 'original' }, 'picture', at()).exceptions).toEqual({
      'picture:5-0': { is_exempt: true },
    });
  });

  it('are used for a class as fine tuning, in place of an exception', () => {
    const exceptions = { 'picture:5-0': { is_exempt: true } };
    const { body, exceptions: left } = choiceFor({ base: 'feather' }, 'class', at(exceptions));
    expect(left).toEqual({});
    expect(body?.treatment?.pictures.photo).toEqual(coarse);
    expect(body?.treatment?.pictures.graphic).toEqual(aTreatment.pictures.graphic);
  });

  it('are used for all documents as the preset', () => {
    expect(choiceFor({ base: 'feather' }, 'documents', at()).body).toEqual({
      preset: 'feather',
      treatment: null,
      is_fitted: false,
    });
  });

  it('count as in use where nothing would change', () => {
    const { satchel, document } = at();
    expect(isInUse({ base: 'current' }, satchel, document, 'picture:5-0')).toBe(true);
    expect(isInUse({ base: 'current', quality: 50 }, satchel, document, 'p')).toBe(false);
    expect(isInUse({ base: 'original' }, satchel, document, 'picture:5-0')).toBe(false);
  });
});

describe('the edges and the view of a test strip', () => {
  it('stay in order', () => {
    const edges = evenEdges(4);
    expect(edges).toEqual([0.25, 0.5, 0.75]);
    expect(movedEdge(edges, 1, 0.1)[1]).toBeCloseTo(0.29);
    expect(movedEdge(edges, 0, -1)[0]).toBeCloseTo(0.04);
  });

  it('never leave the picture', () => {
    const extent = extentOf({ width: 2000, height: 1000 }, { width: 800, height: 200 }, 2);
    expect(extent).toEqual({ width: 0.5, height: 0.25 });
    expect(within({ x: 0, y: 0.9, zoom: 2 }, extent)).toEqual({ x: 0.25, y: 0.875, zoom: 2 });
  });
});
