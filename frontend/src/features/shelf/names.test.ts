import { describe, expect, it } from 'vitest';

import { nameFor } from './names';

const day = new Date(2026, 10, 23);
const found = (name: string, folder = '') => ({ file: new File([], name), folder });

describe('the first name of a satchel', () => {
  it('is the folder that was brought', () => {
    expect(nameFor([found('a.pdf', 'Season 2026/logs')], day)).toBe('Season 2026');
  });
  it('is the only file without its ending', () => {
    expect(nameFor([found('Annual report.final.pdf')], day)).toBe('Annual report.final');
  });
  it('is the day for several files, or none', () => {
    expect(nameFor([found('a.pdf'), found('b.pdf')], day)).toBe('Papers of 23 November 2026');
    expect(nameFor([], day)).toBe('Papers of 23 November 2026');
  });
});
