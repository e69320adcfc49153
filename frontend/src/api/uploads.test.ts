import { beforeEach, describe, expect, it, vi } from 'vitest';

import { uploadStore } from './uploads';

/** Stands in for the browser's request; the test decides how it goes on. */
class Request {
  static sent: Request[] = [];
  status = 0;
  responseText = '';
  address = '';
  body: FormData | null = null;
  upload: { onprogress?: (event: { loaded: number; total: number }) => void } = {};
  onloadend?: () => void;

  open(_method: string, address: string) {
    this.address = address;
  }
  setRequestHeader() {
    return undefined;
  }
  send(body: FormData) {
    this.body = body;
    Request.sent.push(this);
  }
  abort() {
    this.finish(0);
  }
  finish(status: number, text = '') {
    this.status = status;
    this.responseText = text;
    this.onloadend?.();
  }
}

const names = () => uploadStore.snapshot().map((upload) => upload.name);
const found = (name: string) => ({ file: new File(['12345'], name), folder: 'logs' });

beforeEach(() => {
  for (const upload of uploadStore.snapshot()) uploadStore.remove(upload.key);
  Request.sent = [];
  vi.stubGlobal('XMLHttpRequest', Request);
});

describe('uploads', () => {
  it('go two at a time, the others wait', () => {
    uploadStore.add('s1', [found('a.pdf'), found('b.pdf'), found('c.pdf')]);
    expect(Request.sent).toHaveLength(2);
    Request.sent[0]?.finish(201);
    expect(Request.sent).toHaveLength(3);
    expect(names()).toEqual(['b.pdf', 'c.pdf']);
  });

  it('bring the folder and say how far they are', () => {
    uploadStore.add('s1', [found('a.pdf')]);
    const [request] = Request.sent;
    expect(request?.address).toBe('/api/satchels/s1/documents');
    expect(request?.body?.get('folder')).toBe('logs');
    request?.upload.onprogress?.({ loaded: 2, total: 5 });
    expect(uploadStore.snapshot()[0]?.share).toBe(0.4);
  });

  it('that are refused stay with the reason until taken off', () => {
    uploadStore.add('s1', [found('a.pdf')]);
    Request.sent[0]?.finish(413, '{"code": "too_large", "detail": "Split it first."}');
    const [failed] = uploadStore.snapshot();
    expect(failed?.error?.message).toBe('Split it first.');
    uploadStore.remove(failed?.key ?? '');
    expect(names()).toEqual([]);
  });

  it('can be stopped on their way', () => {
    uploadStore.add('s1', [found('a.pdf'), found('b.pdf'), found('c.pdf')]);
    uploadStore.remove(uploadStore.snapshot()[0]?.key ?? '');
    expect(names()).toEqual(['b.pdf', 'c.pdf']);
    expect(Request.sent).toHaveLength(3);
  });

  it('tell of each arrival, even to nobody who watches them go', () => {
    const arrived = vi.fn();
    const stop = uploadStore.onArrival(arrived);
    uploadStore.add('s1', [found('a.pdf')]);
    Request.sent[0]?.finish(413, '{"code": "too_large", "detail": "Split it first."}');
    expect(arrived).not.toHaveBeenCalled();
    uploadStore.add('s2', [found('b.pdf')]);
    Request.sent[1]?.finish(201);
    stop();
    expect(arrived.mock.calls).toEqual([['s2']]);
  });

  it('tell those who watch, until they stop watching', () => {
    const watcher = vi.fn();
    const stop = uploadStore.subscribe(watcher);
    uploadStore.add('s1', [found('a.pdf')]);
    expect(watcher).toHaveBeenCalled();
    watcher.mockClear();
    stop();
    Request.sent[0]?.finish(201);
    expect(watcher).not.toHaveBeenCalled();
  });
});
