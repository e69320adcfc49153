import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import { renderInApp } from '../../tests/render';
import { aDocument, aSatchel } from '../../tests/samples';
import type { SatchelChanges } from '../satchel';
import { GatherPanel } from './GatherPanel';

const photo = (id: string) =>
  aDocument({
    id,
    name: `${id}.jpg`,
    format: 'picture',
    first_picture: 'picture',
    kind_title: 'JPEG',
    pages: null,
  });

function shown(...documents: ReturnType<typeof aDocument>[]) {
  const mutate = vi.fn();
  const changes = { gather: { mutate, error: null, isPending: false } };
  renderInApp(
    <GatherPanel satchel={aSatchel(documents)} changes={changes as unknown as SatchelChanges} />,
  );
  return mutate;
}

describe('pictures on pages', () => {
  it('are offered where there are several', () => {
    shown(photo('a'), aDocument());
    expect(screen.queryByRole('button', { name: 'Arrange the pages' })).toBeNull();
  });

  it('are put in order, turned, left out, and sent', async () => {
    const mutate = shown(photo('a'), photo('b'), photo('c'));
    await userEvent.click(screen.getByRole('button', { name: 'Arrange the pages' }));
    await userEvent.click(screen.getByRole('button', { name: 'c.jpg one page up' }));
    await userEvent.click(screen.getByRole('button', { name: 'Turn c.jpg' }));
    await userEvent.click(screen.getByRole('button', { name: 'Remove a.jpg' }));
    const list = screen.getByRole('list', { name: 'Pages in their order' });
    const names = within(list)
      .getAllByRole('listitem')
      .map((row) => row.textContent);
    expect(names).toEqual(['1c.jpg', '2b.jpg']);
    await userEvent.click(screen.getByRole('radio', { name: 'A4' }));
    const name = screen.getByRole('textbox', { name: 'What is the PDF called?' });
    await userEvent.clear(name);
    await userEvent.type(name, 'Nest boxes');
    await userEvent.click(screen.getByRole('button', { name: 'Make a PDF of 2 pages' }));
    expect(mutate.mock.calls[0]?.[0]).toEqual({
      documents: ['c', 'b'],
      name: 'Nest boxes',
      page: 'a4',
      turns: { '1': 90 },
      finds_sheets: false,
    });
  });

  it('come in the order in which they were taken, sheets alone, all pages of a TIFF', async () => {
    const taken = (id: string, at: string) => ({ ...photo(id), taken_at: at });
    const scans = aDocument({
      id: 's',
      name: 's.tif',
      format: 'tiff',
      first_picture: 'page:1',
      pages: 3,
    });
    const mutate = shown(
      taken('a', '2026-05-04 09:00:00'),
      taken('b', '2026-05-04 05:12:00'),
      scans,
    );
    await userEvent.click(screen.getByRole('button', { name: 'Arrange the pages' }));
    await userEvent.click(screen.getByRole('button', { name: 'By time taken' }));
    await userEvent.click(screen.getByRole('button', { name: 'Turn s.tif' }));
    await userEvent.click(screen.getByRole('checkbox', { name: /Cut sheets of paper/ }));
    await userEvent.click(screen.getByRole('button', { name: 'Make a PDF of 5 pages' }));
    expect(mutate.mock.calls[0]?.[0]).toMatchObject({
      documents: ['b', 'a', 's'],
      turns: { '3': 90, '4': 90, '5': 90 },
      finds_sheets: true,
    });
  });
});
