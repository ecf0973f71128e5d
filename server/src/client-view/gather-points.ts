import { NOISE_CLASSES, PointFlag } from '@pampero/core/cloud';
import type { ViewPoints } from '@pampero/core/client-view';
import type { RasterFrame } from '@pampero/core/raster';
import { classColour, rgbOf } from '@pampero/core/tints';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { listStoredNodes, readNodePoints, type StoredNode } from '../store/node-repository.js';
import type { CloudFacts } from '../store/cloud-facts.js';
import type { Models } from '../store/models.js';
import { readJobClasses } from '../store/pin-repository.js';

/** 16 bits of colour to 8. */
const EIGHT_BITS = 257;

/**
 * An even choice of the points of clouds: whole levels of their octrees as far as they fit, of the next level a share spread by
 * counting. Noise and withheld points are left out.
 */
export async function gatherPoints(
  models: Models,
  cloudIds: readonly number[],
  frame: RasterFrame,
  base: number,
  most: number,
): Promise<ViewPoints & { readonly of: number }> {
  const clouds: { facts: CloudFacts; nodes: StoredNode[] }[] = [];
  for (const id of cloudIds)
    clouds.push({ facts: await readCloudFacts(models, id), nodes: await listStoredNodes(models, id) });
  const all = clouds.flatMap(({ facts, nodes }) => nodes.map((node) => ({ node, facts })));
  const of = all.reduce((sum, { node }) => sum + node.count, 0);
  // Coarse levels first: together they are an even sample of everything.
  all.sort((a, b) => a.node.level - b.node.level || a.node.id - b.node.id);
  const [wide, high] = [frame.columns * frame.cell, frame.rows * frame.cell];
  const own = new Map((await readJobClasses(models)).map(({ code, colour }) => [code, colour]));
  const colours = Array.from({ length: 256 }, (_, code) => rgbOf(own.get(code) ?? classColour(code)));
  const [x, y, z]: [number[], number[], number[]] = [[], [], []];
  const colour: number[] = [];
  for (let at = 0; at < all.length && x.length < most;) {
    const { level } = all[at]!.node;
    let end = at;
    let inLevel = 0;
    for (; end < all.length && all[end]!.node.level === level; end++) inLevel += all[end]!.node.count;
    const every = Math.max(1, inLevel / Math.max(1, most - x.length));
    let turn = 0;
    for (; at < end; at++) {
      const { node, facts } = all[at]!;
      const points = await readNodePoints(models, node, facts);
      const { scale, offset } = quantisationOf(facts);
      for (let i = 0; i < points.count; i++) {
        if ((turn += 1) < every) continue;
        turn -= every;
        const code = points.classification[i]!;
        if (NOISE_CLASSES.includes(code) || (points.flags[i]! & PointFlag.withheld) !== 0) continue;
        const px = points.x[i]! * scale[0] + offset[0] - frame.east;
        const py = points.y[i]! * scale[1] + offset[1] - frame.north;
        if (px < 0 || py < 0 || px > wide || py > high || x.length >= most) continue;
        x.push(px);
        y.push(py);
        z.push(points.z[i]! * scale[2] + offset[2] - base);
        if (points.red && points.green && points.blue)
          colour.push(points.red[i]! / EIGHT_BITS, points.green[i]! / EIGHT_BITS, points.blue[i]! / EIGHT_BITS);
        else colour.push(...colours[code]!);
      }
    }
  }
  return {
    x: Float32Array.from(x),
    y: Float32Array.from(y),
    z: Float32Array.from(z),
    colour: Uint8Array.from(colour),
    of,
  };
}
