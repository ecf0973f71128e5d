import type { Tin } from '../../terrain/index.js';

/** A surface as a binary PLY mesh, corners in full coordinates as doubles (PLY 1.0, Turk 1994). */
export function surfaceToPly(
  { origin, easting, northing, elevation, facets }: Tin,
  comments: readonly string[] = [],
): Uint8Array {
  const count = easting.length;
  const faces = facets.length / 3;
  const head = new TextEncoder().encode(
    `ply\nformat binary_little_endian 1.0\ncomment Pampero\n${comments.map((line) => `comment ${line.replace(/[^ -~]/g, '?')}\n`).join('')}element vertex ${count}\nproperty double x\nproperty double y\nproperty double z\nelement face ${faces}\nproperty list uchar uint vertex_indices\nend_header\n`,
  );
  const out = new Uint8Array(head.length + 24 * count + 13 * faces);
  out.set(head);
  const view = new DataView(out.buffer);
  let at = head.length;
  for (let i = 0; i < count; i++, at += 24) {
    view.setFloat64(at, easting[i]! + origin[0], true);
    view.setFloat64(at + 8, northing[i]! + origin[1], true);
    view.setFloat64(at + 16, elevation[i]!, true);
  }
  for (let f = 0; f < facets.length; f += 3, at += 13) {
    out[at] = 3;
    for (let k = 0; k < 3; k++) view.setUint32(at + 1 + 4 * k, facets[f + k]!, true);
  }
  return out;
}
