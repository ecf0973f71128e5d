import { bufferSink } from '../byte-source.js';
import { PagedSink, physicalOf, PAGE_BYTES } from './pages.js';

export interface FixtureField {
  readonly name: string;
  readonly xml: string;
  /** Values as they are stored: numbers of `bits` bits, or doubles. */
  readonly bits?: number;
  readonly values: readonly number[];
}

/** Packs whole numbers of `bits` bits, least first, as ASTM E2807 has it. */
function packed({ bits, values }: FixtureField): Uint8Array {
  if (bits === undefined) return new Uint8Array(Float64Array.from(values).buffer);
  const bytes = new Uint8Array(Math.ceil((bits * values.length) / 8));
  let at = 0;
  for (const value of values)
    for (let bit = 0; bit < bits; bit++, at++) if (Math.floor(value / 2 ** bit) % 2) bytes[at >> 3]! |= 1 << (at & 7);
  return bytes;
}

/** An E57 file written by hand, bit-packed, with its streams cut over `packets` packets at any byte. */
export async function handmadeE57(
  scans: readonly { readonly fields: readonly FixtureField[]; readonly extra?: string }[],
  packets = 3,
): Promise<Uint8Array> {
  const sink = bufferSink();
  const pages = new PagedSink(sink);
  await pages.append(new Uint8Array(48));
  const places: number[] = [];
  for (const { fields } of scans) {
    const streams = fields.map(packed);
    const sectionAt = pages.logical;
    places.push(physicalOf(sectionAt));
    const parts: Uint8Array[] = [];
    for (let p = 0; p < packets; p++) {
      const cuts = streams.map((s) =>
        s.subarray(Math.floor((s.length * p) / packets), Math.floor((s.length * (p + 1)) / packets)),
      );
      const head = new Uint8Array(6 + 2 * cuts.length);
      const view = new DataView(head.buffer);
      const length = Math.ceil((head.length + cuts.reduce((sum, c) => sum + c.length, 0)) / 4) * 4;
      head[0] = 1;
      view.setUint16(2, length - 1, true);
      view.setUint16(4, cuts.length, true);
      cuts.forEach((cut, k) => view.setUint16(6 + 2 * k, cut.length, true));
      const packet = new Uint8Array(length);
      packet.set(head);
      let at = head.length;
      for (const cut of cuts) {
        packet.set(cut, at);
        at += cut.length;
      }
      parts.push(packet);
    }
    const section = new Uint8Array(32);
    const view = new DataView(section.buffer);
    section[0] = 1;
    view.setBigUint64(8, BigInt(32 + parts.reduce((sum, part) => sum + part.length, 0)), true);
    view.setBigUint64(16, BigInt(physicalOf(sectionAt + 32)), true);
    await pages.append(section);
    for (const part of parts) await pages.append(part);
  }
  const xml = new TextEncoder().encode(
    `<?xml version="1.0" encoding="UTF-8"?><e57Root type="Structure" xmlns="http://www.astm.org/COMMIT/E57/2010-e57-v1.0"><formatName type="String">ASTM E57 3D Imaging Data File</formatName><guid type="String">{A}</guid><versionMajor type="Integer">1</versionMajor><versionMinor type="Integer">0</versionMinor><data3D type="Vector" allowHeterogeneousChildren="1">${scans
      .map(
        ({ fields, extra = '' }, i) =>
          `<vectorChild type="Structure"><guid type="String">{S${i}}</guid>${extra}<points type="CompressedVector" fileOffset="${places[i]}" recordCount="${fields[0]!.values.length}"><prototype type="Structure">${fields.map((f) => `<${f.name} ${f.xml}/>`).join('')}</prototype><codecs type="Vector" allowHeterogeneousChildren="1"></codecs></points></vectorChild>`,
      )
      .join('')}</data3D><images2D type="Vector" allowHeterogeneousChildren="1"></images2D></e57Root>`,
  );
  const xmlAt = physicalOf(pages.logical);
  await pages.append(xml);
  await pages.finish((first, fileLength) => {
    'ASTM-E57'.split('').forEach((letter, i) => first.setUint8(i, letter.charCodeAt(0)));
    first.setUint32(8, 1, true);
    first.setBigUint64(16, BigInt(fileLength), true);
    first.setBigUint64(24, BigInt(xmlAt), true);
    first.setBigUint64(32, BigInt(xml.length), true);
    first.setBigUint64(40, BigInt(PAGE_BYTES), true);
  });
  return sink.bytes();
}
