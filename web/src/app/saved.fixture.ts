import { vi } from 'vitest';

/** A file that the page had the browser save. */
export interface SavedFile {
  readonly bytes: unknown;
  readonly name: string;
}

/** Catches what the page has the browser save from now on; what was caught, in order. */
export function catchSaved(): readonly SavedFile[] {
  const saved: SavedFile[] = [];
  const made = new Map<string, unknown>();
  vi.spyOn(URL, 'createObjectURL').mockImplementation((bytes) => {
    const url = `blob:${made.size}`;
    made.set(url, bytes);
    return url;
  });
  vi.spyOn(HTMLAnchorElement.prototype, 'click').mockImplementation(function (this: HTMLAnchorElement) {
    saved.push({ bytes: made.get(this.href), name: this.download });
  });
  return saved;
}
