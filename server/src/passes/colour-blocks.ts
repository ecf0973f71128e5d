import { pixelOfPlace, planOfPart, type PictureFrame } from '@pampero/core/imagery';
import type { PlanBounds } from '@pampero/core/raster';
import { Cancelled, checkCancelled } from '@pampero/core/task';
import type { RunContext } from '../runs/run-service.js';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { listStoredNodes, type StoredNode } from '../store/node-repository.js';
import { beginColourSet, insertColouredNodes, removeColourSet } from '../store/colour-repository.js';
import type { NodeColumns } from '../tasks/node-columns.js';
import { blockAt, type PictureBlock } from '../tasks/picture-tasks.js';
import type { CloudPass } from './cloud-pass.js';
import { mapWide, readNodeColumns } from './node-groups.js';

/** Points that a block holds, about. */
export const BLOCK_POINTS = 500_000;

/** A block with all that lies in it: the nodes it touches, and for each the memory that its colours go into. */
export interface BlockOfPoints {
  readonly block: PictureBlock;
  readonly plan: PlanBounds;
  readonly own: readonly StoredNode[];
  readonly nodes: NodeColumns[];
  readonly colours: readonly Uint16Array[];
}

/** A node on its way: its colours, which its blocks fill, and how many of them are still to come. */
interface Pending {
  readonly colours: Uint16Array;
  left: number;
}

/**
 * Colours the points of a cloud block after block of a frame. The set is written aside as nodes are done; what fails, is cancelled or
 * killed leaves the cloud as it was.
 * @param side - pixels of the frame along the side of a block; points outside the frame belong to the blocks at its edge
 * @returns the set, to be taken up with the field book's entry
 */
export async function colourByBlocks<Part>(
  pass: CloudPass & Pick<RunContext, 'historyId'>,
  cloudId: number,
  { frame, side }: { readonly frame: PictureFrame; readonly side: number },
  colour: (block: BlockOfPoints) => Promise<Part>,
  onShare: (share: number) => void,
): Promise<{ readonly setId: number; readonly parts: Part[] }> {
  const { job, pool, signal, historyId } = pass;
  const facts = await readCloudFacts(job.read, cloudId);
  const quantisation = quantisationOf(facts);
  const [lastX, lastY] = [Math.ceil(frame.columns / side) - 1, Math.ceil(frame.rows / side) - 1];
  const nodesOf = new Map<number, StoredNode[]>();
  const pending = new Map<number, Pending>();
  const toPixel = pixelOfPlace(frame);
  for (const node of await listStoredNodes(job.read, cloudId)) {
    const { scale, offset } = quantisation;
    const corners = [node.minX, node.maxX].flatMap((x) => [node.minY, node.maxY].map((y) => toPixel(x * scale[0] + offset[0], y * scale[1] + offset[1]))); // prettier-ignore
    const range = (axis: 0 | 1, last: number): [number, number] => {
      const values = corners.map((corner) => corner[axis]);
      return [blockAt(Math.min(...values) - 1, side, last), blockAt(Math.max(...values) + 1, side, last)];
    };
    const [[x0, x1], [y0, y1]] = [range(0, lastX), range(1, lastY)];
    for (let y = y0; y <= y1; y++)
      for (let x = x0; x <= x1; x++) {
        const key = y * (lastX + 1) + x;
        const list = nodesOf.get(key);
        if (list) list.push(node);
        else nodesOf.set(key, [node]);
      }
    // The memory is taken when its first block is worked on.
    pending.set(node.id, { colours: new Uint16Array(0), left: (x1 - x0 + 1) * (y1 - y0 + 1) });
  }

  const setId = await job.write((models) => beginColourSet(models, cloudId, historyId), { isPromised: false });
  try {
    let done = 0;
    const blocks = [...nodesOf.keys()].sort((a, b) => a - b);
    const parts = await mapWide(blocks, pool.threads + 1, async (key) => {
      checkCancelled(signal);
      const [x, y] = [key % (lastX + 1), Math.floor(key / (lastX + 1))];
      const own = nodesOf.get(key)!;
      // The other attributes are read only for the colours that a point keeps.
      const nodes = await readNodeColumns(job.read, own, { attributes: facts.columns.rgb });
      const colours = own.map(({ id, count }) => {
        const known = pending.get(id)!;
        if (known.colours.length > 0) return known.colours;
        const fresh = { ...known, colours: new Uint16Array(new SharedArrayBuffer(6 * count)) };
        pending.set(id, fresh);
        return fresh.colours;
      });
      const block = { x, y, side, lastX, lastY };
      const [left, top] = [x * side, y * side];
      const part = await colour({
        block,
        plan: planOfPart(frame, {
          left,
          top,
          columns: Math.min(side, frame.columns - left),
          rows: Math.min(side, frame.rows - top),
        }),
        own,
        nodes,
        colours,
      });
      const whole = own.filter(({ id }) => --pending.get(id)!.left === 0);
      await job.write(
        (models) =>
          insertColouredNodes(
            models,
            setId,
            whole.map(({ id }) => ({ nodeId: id, colours: new Uint8Array(pending.get(id)!.colours.slice().buffer) })),
          ),
        { isPromised: false },
      );
      for (const { id } of whole) pending.delete(id);
      onShare(++done / blocks.length);
      return part;
    });
    if (signal.aborted) throw new Cancelled();
    return { setId, parts };
  } catch (error) {
    await job.write((models) => removeColourSet(models, setId));
    throw error;
  }
}
