/** Where a reader gets its bytes: a file, a buffer, a browser's `File`. Reads past the end return what there is. */
export interface ByteSource {
  /** Shown in errors: usually the file's name. */
  readonly name: string;
  readonly size: number;
  read(begin: number, end: number): Promise<Uint8Array>;
}

/** Where a writer puts its bytes: appended in order, and the beginning patched once the counts are known. */
export interface ByteSink {
  append(bytes: Uint8Array): Promise<void>;
  patch(position: number, bytes: Uint8Array): Promise<void>;
}

/** A source over bytes already in memory. */
export function bufferSource(name: string, bytes: Uint8Array): ByteSource {
  return {
    name,
    size: bytes.length,
    read: (begin, end) => Promise.resolve(bytes.subarray(begin, Math.max(begin, end))),
  };
}

/** A sink that keeps all in memory, and the bytes so far. */
export function bufferSink(): ByteSink & { bytes(): Uint8Array } {
  const parts: Uint8Array[] = [];
  const patches: [number, Uint8Array][] = [];
  return {
    append(bytes) {
      parts.push(bytes.slice());
      return Promise.resolve();
    },
    patch(position, bytes) {
      patches.push([position, bytes.slice()]);
      return Promise.resolve();
    },
    bytes() {
      const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
      let at = 0;
      for (const part of parts) {
        whole.set(part, at);
        at += part.length;
      }
      for (const [position, bytes] of patches) whole.set(bytes, position);
      return whole;
    },
  };
}
