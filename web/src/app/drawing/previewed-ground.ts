import { GROUND } from '@pampero/core/cloud';
import type { CachedNode } from './point-cache';
import type { PreviewedView } from './drawing-protocol';
import type { ViewId } from './view-id';

/** Neither ground nor anything else yet. */
const UNCLASSIFIED = 1;

/** Nodes as some views show them: with the ground as it would be, and nothing selected, so that the classes are seen. */
export class PreviewedGround {
  private views = new Map<ViewId, ReadonlyMap<number, Uint8Array>>();
  private readonly variants = new Map<string, { of: CachedNode; edition: string; node: CachedNode }>();
  private made = 0;

  set(views: readonly PreviewedView[]): void {
    this.views = new Map(
      views.map(({ view, nodes }) => [view, new Map(nodes.map(({ nodeId, bits }) => [nodeId, bits]))]),
    );
    this.variants.clear();
  }

  /** @param edition - what else a node's looks hang on; another one makes it anew */
  of(view: ViewId, cached: CachedNode, edition: string): CachedNode {
    const bitsOf = this.views.get(view);
    if (!bitsOf) return cached;
    const bits = bitsOf.get(cached.node.id);
    if (!bits && !cached.selected) return cached;
    const key = `${view} ${cached.node.id}`;
    const known = this.variants.get(key);
    if (known?.of === cached && known.edition === edition) return known.node;
    const { classes, points } = cached;
    const changed = Uint8Array.from(classes);
    if (bits)
      for (let i = 0; i < changed.length; i++)
        if ((bits[i >> 3]! >> (i & 7)) & 1) changed[i] = classes[i] === GROUND ? UNCLASSIFIED : GROUND;
    const node: CachedNode = {
      ...cached,
      classes: changed,
      points: { ...points, colour: new Uint32Array(points.count) },
      selected: undefined,
      colouredAt: -1,
      // Told apart from the node itself and from every other that was made of it.
      colourings: -1 - ++this.made,
    };
    this.variants.set(key, { of: cached, edition, node });
    return node;
  }
}
