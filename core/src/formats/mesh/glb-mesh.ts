import type { Tin } from '../../terrain/index.js';

/** A picture that lies over a surface: north up, from edge to edge of a box in the coordinates of the job. */
export interface MeshTexture {
  readonly jpeg: Uint8Array;
  readonly west: number;
  readonly south: number;
  readonly east: number;
  readonly north: number;
}

/**
 * A surface as one glTF 2.0 binary file: metres, y up, about its own corner, which is told in `extras`; shaded by the normals of
 * its corners. One thing to open for whoever has no survey software.
 */
export function surfaceToGlb(
  { origin, easting, northing, elevation, facets }: Tin,
  { name, metresPerUnit }: { readonly name: string; readonly metresPerUnit: number },
  texture?: MeshTexture,
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
  const places = texture && textureCoordinates(easting, northing, origin, texture);
  const parts = [position, normal, indices, ...(texture && places ? [places, texture.jpeg] : [])];
  const starts = parts.map((_, k) => parts.slice(0, k).reduce((sum, { byteLength }) => sum + padded(byteLength), 0));
  const binary = new Uint8Array(padded(starts.at(-1)! + parts.at(-1)!.byteLength));
  parts.forEach(({ buffer, byteOffset, byteLength }, k) =>
    binary.set(new Uint8Array(buffer, byteOffset, byteLength), starts[k]),
  );
  const [FLOAT, UNSIGNED_INT, ARRAY, ELEMENTS] = [5126, 5125, 34_962, 34_963];
  const json = {
    asset: { version: '2.0', generator: 'Pampero' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0, name }],
    meshes: [
      {
        name,
        primitives: [
          { attributes: { POSITION: 0, NORMAL: 1, ...(texture && { TEXCOORD_0: 3 }) }, indices: 2, material: 0 },
        ],
      },
    ],
    materials: [
      {
        name: 'land',
        doubleSided: true,
        pbrMetallicRoughness: {
          ...(texture ? { baseColorTexture: { index: 0 } } : { baseColorFactor: [0.62, 0.56, 0.44, 1] }),
          metallicFactor: 0,
          roughnessFactor: 0.9,
        },
      },
    ],
    ...(texture && {
      textures: [{ source: 0, sampler: 0 }],
      // Linear with its halves, and no further than its edge.
      samplers: [{ magFilter: 9729, minFilter: 9987, wrapS: 33_071, wrapT: 33_071 }],
      images: [{ bufferView: 4, mimeType: 'image/jpeg' }],
    }),
    accessors: [
      { bufferView: 0, componentType: FLOAT, count, type: 'VEC3', min, max },
      { bufferView: 1, componentType: FLOAT, count, type: 'VEC3' },
      { bufferView: 2, componentType: UNSIGNED_INT, count: indices.length, type: 'SCALAR' },
      ...(texture ? [{ bufferView: 3, componentType: FLOAT, count, type: 'VEC2' }] : []),
    ],
    bufferViews: [
      ...parts.map(({ byteLength }, k) => ({
        buffer: 0,
        byteOffset: starts[k],
        byteLength,
        ...(k < 4 && { target: k === 2 ? ELEMENTS : ARRAY }),
      })),
    ],
    buffers: [{ byteLength: binary.length }],
    extras: { easting: origin[0], northing: origin[1], elevation: base },
  };
  return container(JSON.stringify(json), binary);
}

const padded = (length: number): number => Math.ceil(length / 4) * 4;

/** Where each corner lies on the texture: 0 to 1 from its left edge and from its upper edge (glTF 2.0, 3.8.3). */
function textureCoordinates(
  easting: Float64Array,
  northing: Float64Array,
  origin: readonly number[],
  { west, south, east, north }: MeshTexture,
): Float32Array {
  const out = new Float32Array(2 * easting.length);
  for (let i = 0; i < easting.length; i++) {
    out[2 * i] = (easting[i]! + origin[0]! - west) / (east - west);
    out[2 * i + 1] = (north - northing[i]! - origin[1]!) / (north - south);
  }
  return out;
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
