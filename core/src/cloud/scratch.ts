type Column = Int32Array<ArrayBuffer> | Uint32Array<ArrayBuffer> | Uint16Array<ArrayBuffer> | Uint8Array<ArrayBuffer>;

/**
 * Arrays that are needed again for every block of a cloud, kept from one to the next. Fresh ones of this size cost the zeroing, the
 * fetching of their pages and the clearing away, which together was a fifth of an import.
 *
 * What is taken under a name is good until that name is taken again, and holds whatever was left in it.
 */
export class Scratch {
  private readonly kept = new Map<string, Column>();

  int32(name: string, length: number): Int32Array<ArrayBuffer> {
    return this.take(name, Int32Array, length);
  }

  uint32(name: string, length: number): Uint32Array<ArrayBuffer> {
    return this.take(name, Uint32Array, length);
  }

  uint16(name: string, length: number): Uint16Array<ArrayBuffer> {
    return this.take(name, Uint16Array, length);
  }

  uint8(name: string, length: number): Uint8Array<ArrayBuffer> {
    return this.take(name, Uint8Array, length);
  }

  private take<T extends Column>(name: string, type: new (length: number) => T, length: number): T {
    const held = this.kept.get(name);
    if (held instanceof type && held.length >= length) return held.subarray(0, length) as T;
    const made = new type(length);
    this.kept.set(name, made);
    return made;
  }
}
