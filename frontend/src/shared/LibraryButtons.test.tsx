import { MantineProvider } from '@mantine/core';
import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import { LibraryButtons } from './LibraryButtons';

function shown(isOwn: boolean) {
  const asked = { onCopy: vi.fn(), onChange: vi.fn(), onDelete: vi.fn() };
  render(
    <MantineProvider>
      <LibraryButtons
        title="Our portal"
        fileAddress="/api/limits/7/file"
        isOwn={isOwn}
        changeWord="Change"
        {...asked}
      />
    </MantineProvider>,
  );
  return asked;
}

const button = (name: string) => screen.getByRole('button', { name });

describe('a row of a library', () => {
  it('can be copied and taken as a file, whoever it belongs to', async () => {
    const asked = shown(false);
    await userEvent.click(button('Duplicate'));
    expect(asked.onCopy).toHaveBeenCalledOnce();
    const file = screen.getByRole('link', { name: 'Export' });
    expect(file.getAttribute('href')).toBe('/api/limits/7/file');
    expect(file.getAttribute('download')).toBe('Our portal.json');
    expect(screen.queryByRole('button', { name: 'Delete' })).toBeNull();
  });

  it('is deleted only once that was asked for twice', async () => {
    const asked = shown(true);
    await userEvent.click(button('Change'));
    expect(asked.onChange).toHaveBeenCalledOnce();
    await userEvent.click(button('Delete'));
    expect(asked.onDelete).not.toHaveBeenCalled();
    await userEvent.click(button('Delete for good'));
    expect(asked.onDelete).toHaveBeenCalledOnce();
  });
});
