import { useSyncExternalStore } from 'react';

import { csrfToken } from './client';
import { type Problem, problemFromText } from './errors';

/** A file on its way to a satchel. */
export interface Upload {
  key: string;
  satchelId: string;
  name: string;
  bytes: number;
  /** The share of the file that was sent, 0 to 1. */
  share: number;
  error: Problem | null;
}

interface Sending {
  file: File;
  folder: string;
}

const AT_ONCE = 2;

/** Uploads go on while a person looks at other pages, so they live outside of React. */
class UploadStore {
  private uploads: readonly Upload[] = [];
  private waiting: { key: string; sending: Sending }[] = [];
  private requests = new Map<string, XMLHttpRequest>();
  private listeners = new Set<() => void>();
  private arrivals = new Set<(satchelId: string) => void>();
  private count = 0;

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** Called for every file that a satchel has received. */
  onArrival = (listener: (satchelId: string) => void) => {
    this.arrivals.add(listener);
    return () => this.arrivals.delete(listener);
  };

  snapshot = () => this.uploads;

  add(satchelId: string, files: Sending[]) {
    for (const sending of files) {
      this.count += 1;
      const key = `upload-${this.count}`;
      const { name, size } = sending.file;
      const upload = { key, satchelId, name, bytes: size, share: 0, error: null };
      this.uploads = [...this.uploads, upload];
      this.waiting.push({ key, sending });
    }
    this.tell();
    this.sendNext();
  }

  /** Stop an upload, or take a failed one off the list. */
  remove = (key: string) => {
    this.waiting = this.waiting.filter((one) => one.key !== key);
    this.requests.get(key)?.abort();
    this.forget(key);
  };

  private sendNext() {
    while (this.requests.size < AT_ONCE) {
      const next = this.waiting.shift();
      if (!next) return;
      this.send(next.key, next.sending);
    }
  }

  private send(key: string, { file, folder }: Sending) {
    const upload = this.uploads.find((one) => one.key === key);
    if (!upload) return;
    const request = new XMLHttpRequest();
    this.requests.set(key, request);
    request.open('POST', `/api/satchels/${upload.satchelId}/documents`);
    request.setRequestHeader('X-CSRFToken', csrfToken());
    request.upload.onprogress = (event) => {
      this.change(key, { share: event.total ? event.loaded / event.total : 0 });
    };
    request.onloadend = () => {
      this.requests.delete(key);
      if (request.status === 201) {
        this.forget(key);
        for (const listener of this.arrivals) listener(upload.satchelId);
      } else this.change(key, { error: problemFromText(request.responseText, request.status) });
      this.sendNext();
    };
    const body = new FormData();
    body.append('folder', folder);
    body.append('file', file);
    request.send(body);
  }

  private change(key: string, changes: Partial<Upload>) {
    this.uploads = this.uploads.map((one) => (one.key === key ? { ...one, ...changes } : one));
    this.tell();
  }

  private forget(key: string) {
    this.uploads = this.uploads.filter((one) => one.key !== key);
    this.tell();
  }

  private tell() {
    for (const listener of this.listeners) listener();
  }
}

export const uploadStore = new UploadStore();

/** The uploads of one satchel, as they go. */
export function useUploads(satchelId: string): Upload[] {
  const all = useSyncExternalStore(uploadStore.subscribe, uploadStore.snapshot);
  return all.filter((upload) => upload.satchelId === satchelId);
}
