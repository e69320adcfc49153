import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import { renderInApp } from '../../tests/render';
import { SheetCorners } from './SheetCorners';
import type { Corners } from './corners';
import { aPage } from './samples';

const FOUND = [
  [0.1, 0.2],
  [0.9, 0.2],
  [0.9, 0.8],
  [0.1, 0.8],
];

describe('the sheet in a photo', () => {
  it('is where it was seen, moves by keys, and is taken', async () => {
    const onUse = vi.fn<(corners: Corners | null) => void>();
    const page = aPage('a', { found_corners: FOUND });
    renderInApp(<SheetCorners page={page} number={1} onUse={onUse} onClose={vi.fn()} />);
    screen.getByRole('button', { name: 'Upper left corner, 10 % across, 20 % down' }).focus();
    await userEvent.keyboard('{Shift>}{ArrowRight}{/Shift}{ArrowUp}');
    await userEvent.click(screen.getByRole('button', { name: 'Take this sheet' }));
    expect(onUse.mock.calls[0]?.[0]?.[0]).toEqual([0.13, 0.195]);
  });

  it('can be given back for the whole photo', async () => {
    const onUse = vi.fn();
    renderInApp(
      <SheetCorners
        page={aPage('a', { corners: FOUND })}
        number={1}
        onUse={onUse}
        onClose={vi.fn()}
      />,
    );
    await userEvent.click(screen.getByRole('button', { name: 'Take the whole photo' }));
    expect(onUse).toHaveBeenCalledWith(null);
  });
});
