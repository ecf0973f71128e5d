import type { ClientViewFacts } from '@pampero/contract';
import type { HeightField, ViewLines, ViewPoints } from '@pampero/core/client-view';
import { BufferAttribute, BufferGeometry, LineBasicMaterial, LineSegments, Points, PointsMaterial } from 'three';

/** Lines by their kind, to be shown and hidden together; what has no height lies on the land. */
export function linesByKind(
  { starts, kind, x, y, z }: ViewLines,
  kinds: ClientViewFacts['kinds'],
  land: HeightField,
): Map<number, LineSegments> {
  const corners = new Map<number, number[]>();
  for (let k = 0; k + 1 < starts.length; k++) {
    let list = corners.get(kind[k]!);
    if (!list) corners.set(kind[k]!, (list = []));
    for (let i = starts[k]!; i + 1 < starts[k + 1]!; i++)
      for (const j of [i, i + 1]) {
        const height = z[j]!;
        list.push(x[j]!, y[j]!, Number.isNaN(height) ? land.at(x[j]!, y[j]!) || 0 : height);
      }
  }
  return new Map(
    [...corners].map(([id, list]) => [
      id,
      new LineSegments(
        new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(list), 3)),
        // Common contours stand back behind index contours and lines.
        new LineBasicMaterial({
          color: kinds[id]?.colour ?? '#c8452f',
          transparent: id === 0,
          opacity: id === 0 ? 0.65 : 1,
        }),
      ),
    ]),
  );
}

/** Measured points, hidden until they are asked for; nothing where there are none. */
export function pointsOf({ x, y, z, colour }: ViewPoints): Points | undefined {
  if (x.length === 0) return undefined;
  const positions = new Float32Array(3 * x.length);
  for (let i = 0; i < x.length; i++) {
    positions[3 * i] = x[i]!;
    positions[3 * i + 1] = y[i]!;
    positions[3 * i + 2] = z[i]!;
  }
  const geometry = new BufferGeometry()
    .setAttribute('position', new BufferAttribute(positions, 3))
    .setAttribute('color', new BufferAttribute(colour, 3, true));
  const points = new Points(geometry, new PointsMaterial({ size: 2, sizeAttenuation: false, vertexColors: true }));
  points.visible = false;
  return points;
}
