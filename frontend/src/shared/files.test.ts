import { describe, expect, it } from 'vitest';

import { filesChosen, filesOf } from './files';

const file = (name: string) => new File(['x'], name);

/** An entry as a browser passes it for a dropped file or folder. */
function entry(name: string, inside?: unknown[]): unknown {
  if (!inside) {
    return { isFile: true, name, file: (done: (file: File) => void) => done(file(name)) };
  }
  const portions = [inside.slice(0, 1), inside.slice(1), []];
  return {
    isFile: false,
    name,
    createReader: () => ({
      readEntries: (done: (entries: unknown[]) => void) => done(portions.shift() ?? []),
    }),
  };
}

function drop(...entries: unknown[]): DataTransfer {
  const items = entries.map((one) => ({ webkitGetAsEntry: () => one }));
  return { items, files: [] } as unknown as DataTransfer;
}

describe('files of a drop', () => {
  it('keep the folders they were in, however deep', async () => {
    const logs = entry('logs', [entry('a.pdf'), entry('old', [entry('b.pdf')])]);
    const found = await filesOf(drop(logs, entry('c.pdf')));
    expect(found.map((one) => [one.folder, one.file.name])).toEqual([
      ['logs', 'a.pdf'],
      ['logs/old', 'b.pdf'],
      ['', 'c.pdf'],
    ]);
  });
});

describe('files of a file field', () => {
  it('have no folder unless one was chosen', () => {
    const inFolder = Object.assign(file('a.pdf'), { webkitRelativePath: 'season/logs/a.pdf' });
    const alone = Object.assign(file('b.pdf'), { webkitRelativePath: '' });
    const list = [inFolder, alone] as unknown as FileList;
    expect(filesChosen(list).map((one) => one.folder)).toEqual(['season/logs', '']);
  });
});
