import type { GroundPreview } from '@pampero/contract';
import type { Shape } from '@pampero/core/selection';

/** Bits of points as they travel: base 64. */
export function bitsFromText(text: string): Uint8Array {
  return Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));
}

/** The points that a preview of ground names, as a shape to select by. */
export function pointsOf({ nodes }: GroundPreview): Shape {
  return { kind: 'points', nodes: nodes.map(({ nodeId, bits }) => ({ nodeId, bits: bitsFromText(bits) })) };
}
