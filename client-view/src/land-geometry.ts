import type { ViewLand } from '@pampero/core/client-view';
import { BufferAttribute, BufferGeometry, Color } from 'three';

/** Whether the machine has no graphics card to draw with: then smooth edges cost more than they give. */
export function drawsOnProcessor(): boolean {
  const gl = document.createElement('canvas').getContext('webgl2');
  const told = gl?.getExtension('WEBGL_debug_renderer_info');
  const name = gl && told ? String(gl.getParameter(told.UNMASKED_RENDERER_WEBGL)) : '';
  gl?.getExtension('WEBGL_lose_context')?.loseContext();
  return /swiftshader|llvmpipe|software|basic render/i.test(name);
}

/** Triangles over every n-th cell, about as many as asked for; none over voids. */
export function landGeometry(
  { frame, heights }: ViewLand,
  ramp: readonly string[],
  [low, high]: readonly [number, number],
  triangles: number,
): BufferGeometry {
  const { columns, rows, cell } = frame;
  const step = Math.max(1, Math.ceil(Math.sqrt((2 * columns * rows) / triangles)));
  // The last row and column are among them, so that the land is as wide at every step.
  const at = (size: number): number[] => [
    ...Array.from({ length: Math.ceil((size - 1) / step) }, (_, k) => k * step),
    size - 1,
  ];
  const [cs, rs] = [at(columns), at(rows)];
  const count = cs.length * rs.length;
  const positions = new Float32Array(3 * count);
  const colours = new Float32Array(3 * count);
  const uvs = new Float32Array(2 * count);
  const tints = ramp.map((hex) => new Color(hex));
  rs.forEach((r, j) =>
    cs.forEach((c, i) => {
      const k = j * cs.length + i;
      const z = heights[r * columns + c]!;
      positions.set([(c + 0.5) * cell, (r + 0.5) * cell, z], 3 * k);
      uvs.set([(c + 0.5) / columns, (r + 0.5) / rows], 2 * k);
      const share = Number.isNaN(z) ? 0 : (z - low) / Math.max(1e-9, high - low);
      const tint = tints[Math.round(share * (tints.length - 1))] ?? new Color('#b0a890');
      colours.set([tint.r, tint.g, tint.b], 3 * k);
    }),
  );
  const index: number[] = [];
  const isLand = (k: number): boolean => !Number.isNaN(positions[3 * k + 2]!);
  for (let j = 0; j + 1 < rs.length; j++)
    for (let i = 0; i + 1 < cs.length; i++) {
      const a = j * cs.length + i;
      const [b, c, d] = [a + 1, a + cs.length, a + cs.length + 1];
      if (isLand(b) && isLand(c)) {
        if (isLand(a)) index.push(a, b, c);
        if (isLand(d)) index.push(b, d, c);
      } else if (isLand(a) && isLand(d)) {
        if (isLand(b)) index.push(a, b, d);
        if (isLand(c)) index.push(a, d, c);
      }
    }
  for (let k = 0; k < count; k++) if (!isLand(k)) positions[3 * k + 2] = low;
  const geometry = new BufferGeometry()
    .setAttribute('position', new BufferAttribute(positions, 3))
    .setAttribute('color', new BufferAttribute(colours, 3))
    .setAttribute('uv', new BufferAttribute(uvs, 2));
  geometry.setIndex(index);
  geometry.computeVertexNormals();
  return geometry;
}
