import type { Tin } from '../../terrain/index.js';

/**
 * A surface as one glTF 2.0 binary file: metres, y up, about its own corner, which is told in `extras`; shaded by the normals of
 * its corners. One thing to open for whoever has no survey software.
 */
export function surfaceToGlb(
  { origin, easting, northing, elevation, facets }: Tin,
  { name, metresPerUnit }: { readonly name: string; readonly metresPerUnit: number },
): Uint8Array {
  const count = easting.length;
  let base = Infinity;
  for (const z of elevation) base = Math.min(base, z);
  const position = new Float32Array(3 * count);
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < count; i++) {
    // East is x, up is y, south is z.
    const place = [easting[i]! * metresPerUnit, (elevation[i]! - base) * metresPerUnit, -northing[i]! * metresPerUnit];
    place.forEach((value, axis) => {
      const single = Math.fround(value);
      position[3 * i + axis] = single;
      min[axis] = Math.min(min[axis]!, single);
      max[axis] = Math.max(max[axis]!, single);
    });
  }
  const normal = cornerNormals(position, facets);
  const indices = Uint32Array.from(facets);
  const binary = new Uint8Array(position.byteLength + normal.byteLength + indices.byteLength);
  binary.set(new Uint8Array(position.buffer), 0);
  binary.set(new Uint8Array(normal.buffer), position.byteLength);
  binary.set(new Uint8Array(indices.buffer), 2 * position.byteLength);
  const [FLOAT, UNSIGNED_INT, ARRAY, ELEMENTS] = [5126, 5125, 34_962, 34_963];
  const json = {
    asset: { version: '2.0', generator: 'Pampero' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0, name }],
    meshes: [{ name, primitives: [{ attributes: { POSITION: 0, NORMAL: 1 }, indices: 2, material: 0 }] }],
    materials: [
      {
        name: 'land',
        doubleSided: true,
        pbrMetallicRoughness: { baseColorFactor: [0.62, 0.56, 0.44, 1], metallicFactor: 0, roughnessFactor: 0.9 },
      },
    ],
    accessors: [
      { bufferView: 0, componentType: FLOAT, count, type: 'VEC3', min, max },
      { bufferView: 1, componentType: FLOAT, count, type: 'VEC3' },
      { bufferView: 2, componentType: UNSIGNED_INT, count: indices.length, type: 'SCALAR' },
    ],
    bufferViews: [
      { buffer: 0, byteOffset: 0, byteLength: position.byteLength, target: ARRAY },
      { buffer: 0, byteOffset: position.byteLength, byteLength: normal.byteLength, target: ARRAY },
      { buffer: 0, byteOffset: 2 * position.byteLength, byteLength: indices.byteLength, target: ELEMENTS },
    ],
    buffers: [{ byteLength: binary.length }],
    extras: { easting: origin[0], northing: origin[1], elevation: base },
  };
  return container(JSON.stringify(json), binary);
}

function cornerNormals(p: Float32Array, facets: Uint32Array): Float32Array {
  const out = new Float32Array(p.length);
  for (let f = 0; f < facets.length; f += 3) {
    const [a, b, c] = [3 * facets[f]!, 3 * facets[f + 1]!, 3 * facets[f + 2]!];
    const [ux, uy, uz] = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!];
    const [vx, vy, vz] = [p[c]! - p[a]!, p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!];
    const n = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
    for (const at of [a, b, c]) for (let k = 0; k < 3; k++) out[at + k]! += n[k]!;
  }
  for (let i = 0; i < out.length; i += 3) {
    const length = Math.hypot(out[i]!, out[i + 1]!, out[i + 2]!);
    if (length === 0) out[i + 1] = 1;
    else for (let k = 0; k < 3; k++) out[i + k]! /= length;
  }
  return out;
}

/** Header, JSON chunk padded with spaces, binary chunk. */
function container(json: string, binary: Uint8Array): Uint8Array {
  const text = new TextEncoder().encode(json);
  const textLength = Math.ceil(text.length / 4) * 4;
  const out = new Uint8Array(12 + 8 + textLength + 8 + binary.length);
  const view = new DataView(out.buffer);
  out.set([0x67, 0x6c, 0x54, 0x46]);
  view.setUint32(4, 2, true);
  view.setUint32(8, out.length, true);
  view.setUint32(12, textLength, true);
  out.set([0x4a, 0x53, 0x4f, 0x4e], 16);
  out.fill(0x20, 20, 20 + textLength);
  out.set(text, 20);
  view.setUint32(20 + textLength, binary.length, true);
  out.set([0x42, 0x49, 0x4e, 0], 24 + textLength);
  out.set(binary, 28 + textLength);
  return out;
}
