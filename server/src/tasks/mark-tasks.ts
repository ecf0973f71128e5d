import { packDifference, type ChangedMarks, type Marks } from '../store/mark-difference.js';

/** Packs what differs in some nodes; those in which nothing does are left out. */
export function packMarks({
  nodes,
}: {
  readonly nodes: readonly { readonly nodeId: number; readonly before: Marks; readonly after: Marks }[];
}): ChangedMarks[] {
  return nodes.flatMap(({ nodeId, before, after }) => {
    const isSame =
      Buffer.compare(before.classification, after.classification) === 0 &&
      Buffer.compare(before.flags, after.flags) === 0;
    return isSame ? [] : [{ nodeId, ...after, packed: packDifference(before, after) }];
  });
}
