import type { GroundPreview } from '@pampero/contract';
import type { NodeBits, Shape } from '@pampero/core/selection';

/** Bits of points as they travel: base 64. */
export function bitsFromText(text: string): Uint8Array {
  return Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));
}

/** The points that a preview of ground counts, as a shape to select by: those that only one of its two states changes. */
export function pointsOf({ nodes }: GroundPreview): Shape {
  return {
    kind: 'points',
    nodes: nodes.map(({ nodeId, bits, kept }) => {
      const out = bitsFromText(bits);
      if (kept !== undefined) bitsFromText(kept).forEach((byte, k) => (out[k]! ^= byte));
      return { nodeId, bits: out };
    }),
  };
}

/** Of a preview the points that the settings change, and those that the settings held against them do. */
export function statesOf({ nodes }: GroundPreview): { now: NodeBits[]; kept: NodeBits[] } {
  return {
    now: nodes.map(({ nodeId, bits }) => ({ nodeId, bits: bitsFromText(bits) })),
    kept: nodes.flatMap(({ nodeId, kept }) => (kept === undefined ? [] : [{ nodeId, bits: bitsFromText(kept) }])),
  };
}
