import { fireEvent, screen } from '@testing-library/react';
import { createRef } from 'react';
import { describe, expect, it } from 'vitest';

import { renderInApp } from '../../tests/render';
import { Lens } from './Lens';
import type { ProofPlace } from './places';

const PAGE: ProofPlace = {
  page: 1,
  part: null,
  title: 'Page 1',
  likeness: 0.95,
  width_pt: 612,
  height_pt: 792,
  text_same: true,
  worst: [100, 600, 110, 610],
  faults: [],
  pictures: [],
};

describe('the lens', () => {
  it('shows the pixels of the page at once, and says that finer ones are coming', () => {
    const { container } = renderInApp(
      <Lens
        ref={createRef<HTMLDivElement>()}
        copyId="c1"
        page={PAGE}
        at={{ x: 300, y: 400 }}
        zoom={4}
        pixelsAPoint={1.5}
        showsHeat={false}
      />,
    );
    const images = [...container.querySelectorAll('img')];
    const fine = images.filter((image) => image.src.includes('box='));
    expect(images.length - fine.length).toBe(2);
    expect(fine.length).toBeGreaterThan(1);
    expect(screen.getByText('finer pixels are coming')).toBeTruthy();
    fine.forEach((image) => fireEvent.load(image));
    expect(screen.queryByText('finer pixels are coming')).toBeNull();
  });
});
