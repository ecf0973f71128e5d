/**
 * Decodes LZW as TIFF 6.0 section 13 lays it out: codes of 9 to 12 bits, the highest bit first. The library's own decoder follows a
 * damaged table round and round until the process ends; this one writes no code longer than its table.
 * @throws Error where the codes make no sense
 */
export function decodeLzw(input: Uint8Array): Uint8Array<ArrayBuffer> {
  /** Each entry is another with a byte after it; their lengths are known, so that they are written from behind. */
  const prefix = new Uint16Array(TABLE);
  const suffix = new Uint8Array(TABLE);
  const first = new Uint8Array(TABLE);
  const length = new Uint16Array(TABLE);
  for (let code = 0; code < CLEAR; code++) {
    suffix[code] = code;
    first[code] = code;
    length[code] = 1;
  }
  let out = new Uint8Array(Math.max(1024, input.length * 4));
  let written = 0;
  let entries = END + 1;
  let bits = 9;
  let last = -1;
  let held = 0;
  let heldBits = 0;
  let at = 0;
  const write = (code: number): void => {
    const end = written + length[code]!;
    if (end > out.length) {
      const larger = new Uint8Array(Math.max(end, out.length * 2));
      larger.set(out.subarray(0, written));
      out = larger;
    }
    for (let k = end - 1, of = code; k >= written; k--, of = prefix[of]!) out[k] = suffix[of]!;
    written = end;
  };
  for (;;) {
    while (heldBits < bits && at < input.length) {
      held = ((held << 8) | input[at++]!) & 0xff_ffff;
      heldBits += 8;
    }
    if (heldBits < bits) break; // some writers leave the end out
    const code = (held >> (heldBits - bits)) & ((1 << bits) - 1);
    heldBits -= bits;
    if (code === END) break;
    if (code === CLEAR) {
      entries = END + 1;
      bits = 9;
      last = -1;
      continue;
    }
    if (last === -1) {
      if (code > CLEAR) throw new Error(`its LZW codes begin with ${code}`);
      write(code);
    } else {
      if (code > entries || entries >= TABLE) throw new Error(`the LZW code ${code} is not in a table of ${entries}`);
      prefix[entries] = last;
      first[entries] = first[last]!;
      suffix[entries] = first[code === entries ? last : code]!;
      length[entries] = length[last]! + 1;
      entries++;
      write(code);
    }
    last = code;
    // A code early, as TIFF has it.
    if (entries >= (1 << bits) - 1 && bits < 12) bits++;
  }
  return out.slice(0, written);
}

const [CLEAR, END, TABLE] = [256, 257, 4097];
