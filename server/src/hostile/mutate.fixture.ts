import { seededRandom } from '@pampero/core/task';
import { crc32c } from '../../../core/src/formats/e57/crc32c.js';

/** Numbers that programs stumble over, as text has them. */
const ODD_WORDS = [
  '-1',
  '0',
  '1e308',
  '-1e308',
  'NaN',
  'Infinity',
  '99999999999999999999',
  '0x10',
  '',
  '\0',
  '1,5',
  '[',
  '{',
];
const ODD_BYTES = [0, 1, 127, 128, 254, 255];

/** Damages a copy of a file in one to four ways, the same for the same seed. */
export function mutated(bytes: Uint8Array, seed: number, isText: boolean): Uint8Array {
  const random = seededRandom(seed);
  const below = (n: number): number => Math.floor(random() * n);
  let out = Buffer.from(bytes);
  const changes = 1 + below(4);
  for (let k = 0; k < changes && out.length > 0; k++) {
    // Headers and tables are where damage hurts: half of all hits go to the first 400 bytes, some to the last.
    const where = random();
    const at =
      where < 0.5
        ? below(Math.min(400, out.length))
        : where < 0.6
          ? out.length - 1 - below(Math.min(64, out.length))
          : below(out.length);
    if (isText && random() < 0.6) {
      out = Buffer.from(changedText(out.toString('latin1'), random), 'latin1');
      continue;
    }
    switch (below(8)) {
      case 0:
        out[at] = out[at]! ^ (1 << below(8));
        break;
      case 1:
        out[at] = ODD_BYTES[below(ODD_BYTES.length)]!;
        break;
      case 2:
        if (at + 4 <= out.length) out.writeUInt32LE([0, 1, 0x7fff_ffff, 0x8000_0000, 0xffff_ffff][below(5)]!, at);
        break;
      case 3:
        if (at + 8 <= out.length) out.writeDoubleLE([0, -1, NaN, Infinity, 1e300, 5e-324][below(6)]!, at);
        break;
      case 4:
        if (at + 8 <= out.length) out.writeBigUInt64LE([0n, 1n, (1n << 63n) - 1n, (1n << 64n) - 1n][below(4)]!, at);
        break;
      case 5:
        out = Buffer.from(out.subarray(0, at));
        break;
      case 6: {
        const length = 1 + below(64);
        out = Buffer.concat([out.subarray(0, at), out.subarray(at + length)]);
        break;
      }
      default: {
        const part = out.subarray(at, at + 1 + below(256));
        out = Buffer.concat([out.subarray(0, at), part, part, out.subarray(at)]);
      }
    }
  }
  return new Uint8Array(out);
}

/** An E57 file whose pages have the checksums of what they hold now: damage that gets past the first look. */
export function withChecksums(bytes: Uint8Array, pageBytes = 1024): Uint8Array {
  const out = Uint8Array.from(bytes);
  const view = new DataView(out.buffer);
  for (let at = 0; at + pageBytes <= out.length; at += pageBytes)
    view.setUint32(at + pageBytes - 4, crc32c(out.subarray(at, at + pageBytes - 4)), false);
  return out;
}

function changedText(text: string, random: () => number): string {
  const below = (n: number): number => Math.floor(random() * n);
  const lines = text.split('\n');
  const at = below(lines.length);
  switch (below(4)) {
    case 0:
      lines.splice(at, 1 + below(3));
      break;
    case 1:
      lines.splice(at, 0, lines[below(lines.length)]!);
      break;
    default: {
      const words = lines[at]!.split(/([\s,;"<>=:[\]{}]+)/);
      words[2 * below(Math.ceil(words.length / 2))] = ODD_WORDS[below(ODD_WORDS.length)]!;
      lines[at] = words.join('');
    }
  }
  return lines.join('\n');
}
