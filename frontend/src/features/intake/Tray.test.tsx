import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';

import { renderInApp } from '../../tests/render';
import { KeepPanel } from './KeepPanel';
import type { IntakeChanges, IntakeData } from './queries';
import { aPage, anIntake } from './samples';
import { Tray } from './Tray';

const wanted = {
  scanner: 'Office',
  source: 'feeder',
  size: 'a4',
  ppi: 300,
  colours: 'colour',
  both_sides: true,
  are_backs: false,
} as const;

function shown(intake: IntakeData) {
  const sent = { change: vi.fn(), order: vi.fn(), scan: vi.fn(), add: vi.fn() };
  const changes = Object.fromEntries(
    Object.entries(sent).map(([name, mutate]) => [name, { mutate, isPending: false }]),
  );
  renderInApp(
    <Tray intake={intake} changes={changes as unknown as IntakeChanges} wanted={wanted} />,
  );
  return sent;
}

const scan = {
  id: 's',
  scanner: 'Office',
  state: 'done',
  share: 0,
  pages_came: 2,
  message: '',
  are_backs: false,
} as const;

describe('the tray', () => {
  it('turns, moves and takes out the chosen page by keys, and undoes it', async () => {
    const sent = shown(anIntake(aPage('a'), aPage('b')));
    await userEvent.click(screen.getByRole('button', { name: 'Page 2' }));
    await userEvent.keyboard('r');
    expect(sent.change).toHaveBeenLastCalledWith([{ id: 'b', turn: 90 }]);
    await userEvent.keyboard('{Alt>}{ArrowLeft}{/Alt}');
    expect(sent.order).toHaveBeenLastCalledWith(['b', 'a']);
    await userEvent.keyboard('{Delete}');
    expect(sent.change).toHaveBeenLastCalledWith([{ id: 'b', is_out: true }]);
    await userEvent.keyboard('z');
    expect(sent.change).toHaveBeenLastCalledWith([{ id: 'b', is_out: false }]);
    await userEvent.keyboard('z');
    expect(sent.order).toHaveBeenLastCalledWith(['a', 'b']);
  });

  it('offers to take out all blank pages at once', async () => {
    const sent = shown(anIntake(aPage('a'), aPage('b', { is_blank: true })));
    await userEvent.click(screen.getByRole('button', { name: 'Remove blank pages: 1 page' }));
    expect(sent.change).toHaveBeenLastCalledWith([{ id: 'b', is_out: true }]);
  });

  it('scans a page again', async () => {
    const sent = shown({ ...anIntake(aPage('a')), scan });
    await userEvent.click(screen.getByRole('button', { name: 'Page 1' }));
    await userEvent.click(screen.getByRole('button', { name: 'Scan again' }));
    expect(sent.scan).toHaveBeenLastCalledWith({ ...wanted, both_sides: false, again: 'a' });
  });

  it('says what went wrong and keeps what came', () => {
    const message = 'Page 2 is stuck in the feeder; the 1 before it are here.';
    shown({ ...anIntake(aPage('a')), scan: { ...scan, state: 'failed', message } });
    expect(screen.getByText(message)).toBeTruthy();
    expect(screen.getByRole('button', { name: 'Page 1' })).toBeTruthy();
  });

  it('shows the page that comes', () => {
    shown({ ...anIntake(aPage('a')), scan: { ...scan, state: 'scanning', share: 0.58 } });
    expect(screen.getByRole('status').textContent).toBe('Page 2 is coming, 58 %');
  });
});

describe('both ways of keeping', () => {
  it('are weighed side by side, and one is chosen', async () => {
    const onChoose = vi.fn();
    const intake = anIntake(aPage('a'), aPage('b', { layers: null }));
    renderInApp(<KeepPanel intake={intake} inLayers onChoose={onChoose} />);
    expect(screen.getByText('about 2.1 kB')).toBeTruthy();
    expect(screen.getByText('1 page still to be tried.')).toBeTruthy();
    expect(screen.getByText('in layers, 72 of 100')).toBeTruthy();
    await userEvent.click(screen.getByRole('radio', { name: /As it comes/ }));
    expect(onChoose).toHaveBeenCalledWith(false);
  });
});
