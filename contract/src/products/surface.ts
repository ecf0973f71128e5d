import { z } from 'zod';
import { formatCount } from '@pampero/core/wording';
import { productKind } from './product-kind.js';

/** Of some surfaces, oldest first, the newest of the land as it is; a design where there is no other. */
export function newestLand<S extends { readonly facts: { readonly design?: unknown; readonly withDesigns?: unknown } }>(
  surfaces: readonly S[],
): S | undefined {
  const isLand = ({ facts }: S): boolean => facts.design === undefined && facts.withDesigns === undefined;
  return surfaces.findLast(isLand) ?? surfaces.at(-1);
}

export const surface = productKind({
  id: 'surface',
  name: { one: 'Surface', many: 'Surfaces' },
  facts: z.strictObject({
    points: z.int(),
    facets: z.int(),
    areaInPlan: z.number(),
    areaOnSlope: z.number(),
    lowest: z.number(),
    highest: z.number(),
    longestEdge: z.number(),
    origin: z.tuple([z.number(), z.number()]),
    pointsThinned: z.int(),
    duplicatesDropped: z.int(),
    facetsLeftOut: z.int(),
    /** Of lines: edges held and not, points near them left out; missing in surfaces of older jobs. */
    edgesHeld: z.int().optional(),
    edgesNotHeld: z.int().optional(),
    pointsNearLines: z.int().optional(),
    /** Edits by hand that did not fit the surface built anew. */
    editsRefused: z.int().optional(),
    /** Pieces of water laid flat or left out. */
    waters: z.int().optional(),
    /** Of a design: earth from the ground to it, and slopes that do not meet the ground. */
    design: z.strictObject({ cut: z.number(), fill: z.number(), area: z.number(), open: z.int() }).optional(),
    /** Designs that were built into it: the land as it will be. */
    withDesigns: z.int().optional(),
  }),
  layer: { unit: 'triangles', count: ({ facets }) => facets },
  describe: ({ facets }) => `Surface, ${formatCount(facets)} triangles`,
  formats: [
    { id: 'landxml', label: 'LandXML', ending: '.xml', mediaType: 'application/xml', suits: ['cad'] },
    { id: 'dxf', label: 'DXF faces', ending: '-faces.dxf', mediaType: 'image/vnd.dxf' },
    { id: 'ply', label: 'PLY', ending: '.ply', mediaType: 'application/octet-stream' },
    { id: 'glb', label: 'GLB', ending: '.glb', mediaType: 'model/gltf-binary' },
    { id: 'glb-picture', label: 'GLB with picture', ending: '-picture.glb', mediaType: 'model/gltf-binary' },
  ],
});
