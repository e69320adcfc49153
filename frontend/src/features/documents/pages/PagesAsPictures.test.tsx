import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';

import { renderInApp } from '../../../tests/render';
import { aDocument, aTreatment, someTitles } from '../../../tests/samples';
import { serve } from '../../../tests/server';
import { PagesAsPictures } from './PagesAsPictures';

const raster = {
  id: 'r1',
  state: 'done',
  progress: 1,
  seconds_left: null,
  is_each: false,
  pages: [
    {
      page: 1,
      width_px: 9,
      height_px: 9,
      kind: 'black and white',
      size_bytes: 31_000,
      remark: '',
      has_place: true,
    },
    {
      page: 2,
      width_px: 9,
      height_px: 9,
      kind: 'greys',
      size_bytes: 400_000,
      remark: 'it shows a photo, and stays grey',
      has_place: false,
    },
  ],
  size_bytes: 431_000,
  file_name: 'report.tif',
  error_code: '',
  error_message: '',
};

describe('pages as pictures', () => {
  it('are made as asked', async () => {
    const asked = serve({
      'GET /api/choices': someTitles,
      'GET /api/documents/d1/rasters': [],
      'POST /api/documents/d1/rasters': { ...raster, state: 'waiting' },
    });
    renderInApp(<PagesAsPictures document={aDocument({ id: 'd1' })} usual={aTreatment.raster} />);
    await userEvent.click(await screen.findByRole('button', { name: /Pages as pictures/ }));
    await screen.findByRole('option', { name: 'Black and white, Group 4' });
    await userEvent.selectOptions(screen.getByLabelText('Colours'), 'bitonal');
    await userEvent.selectOptions(screen.getByLabelText('Threshold'), 'sauvola');
    await userEvent.click(
      screen.getByRole('checkbox', { name: 'Keep pages with photos in greyscale' }),
    );
    await userEvent.click(screen.getByRole('button', { name: 'Make the pages' }));
    expect(asked.find(({ method }) => method === 'POST')?.body).toMatchObject({
      colours: 'bitonal',
      divide: 'sauvola',
      keeps_photos_grey: false,
      ppi: 300,
    });
  });

  it('say what each has become, and show where most was lost', async () => {
    serve({ 'GET /api/choices': someTitles, 'GET /api/documents/d1/rasters': [raster] });
    renderInApp(<PagesAsPictures document={aDocument({ id: 'd1' })} usual={aTreatment.raster} />);
    const download = await screen.findByRole('link', { name: 'report.tif, 431 kB' });
    expect(download.getAttribute('href')).toBe('/api/rasters/r1/file');
    expect(screen.getByText('it shows a photo, and stays grey')).toBeTruthy();
    expect(screen.getByAltText('Page 1 where it lost most, after')).toBeTruthy();
  });

  it('say why there are none', async () => {
    const failed = { ...raster, state: 'failed', error_message: 'page 1 has text on it' };
    serve({ 'GET /api/choices': someTitles, 'GET /api/documents/d1/rasters': [failed] });
    renderInApp(<PagesAsPictures document={aDocument({ id: 'd1' })} usual={aTreatment.raster} />);
    expect(await screen.findByText('page 1 has text on it')).toBeTruthy();
  });
});
