import { graphlib, layout } from '@dagrejs/dagre';
import { kindById, type Cloud, type HistoryEntry, type Product } from '@pampero/contract';

export interface GraphNode {
  readonly key: string;
  readonly name: string;
  readonly kind: string;
  readonly isStale: boolean;
  /** The entry of the field book that made it, if it is there. */
  readonly entryId: number | undefined;
  readonly x: number;
  readonly y: number;
}

export interface JobGraph {
  readonly width: number;
  readonly height: number;
  readonly nodes: readonly GraphNode[];
  /** Lines from what something was made from to it, as SVG paths. */
  readonly edges: readonly { readonly key: string; readonly path: string; readonly isStale: boolean }[];
}

export const [NODE_WIDTH, NODE_HEIGHT] = [150, 40];

/** What hangs on what: clouds and surveyed points to the left, what was made of them to the right. */
export function jobGraph(
  clouds: readonly Pick<Cloud, 'id' | 'name'>[],
  products: readonly Product[],
  entries: readonly Pick<HistoryEntry, 'id' | 'state' | 'made'>[],
  hasControl: boolean,
): JobGraph {
  const graph = new graphlib.Graph();
  graph.setGraph({ rankdir: 'LR', nodesep: 12, ranksep: 56, marginx: 10, marginy: 10 });
  graph.setDefaultEdgeLabel(() => ({}));
  const madeBy = new Map<string, number>();
  for (const { id, state, made } of entries)
    if (state === 'done') for (const thing of made) madeBy.set(`${thing.kind} ${thing.id}`, id);
  const facts = new Map<string, Omit<GraphNode, 'x' | 'y'>>();
  const add = (key: string, name: string, kind: string, isStale: boolean): void => {
    facts.set(key, { key, name, kind, isStale, entryId: madeBy.get(key) });
    graph.setNode(key, { width: NODE_WIDTH, height: NODE_HEIGHT });
  };
  for (const { id, name } of clouds) add(`cloud ${id}`, name, 'Cloud', false);
  if (hasControl && products.some(({ inputs }) => inputs.some(({ kind }) => kind === 'control')))
    add('control 0', 'Surveyed points', 'Control and check', false);
  for (const product of products)
    add(`product ${product.id}`, product.name, kindById(product.kind)?.name.one ?? product.kind, product.isStale);
  const present = new Map(products.map(({ id, seriesId }) => [seriesId, id]));
  const edges: { from: string; to: string; isStale: boolean }[] = [];
  for (const { id, inputs, isStale } of products)
    for (const input of inputs) {
      // A product is named by the first of those that took each other's place.
      const from = input.kind === 'product' ? `product ${present.get(input.id) ?? 0}` : `${input.kind} ${input.id}`;
      if (!facts.has(from)) continue;
      graph.setEdge(from, `product ${id}`);
      edges.push({ from, to: `product ${id}`, isStale });
    }
  layout(graph);
  const { width = 0, height = 0 } = graph.graph() as { width?: number; height?: number };
  return {
    width,
    height,
    nodes: [...facts.values()].map((node) => {
      const { x, y } = graph.node(node.key) as { x: number; y: number };
      return { ...node, x: x - NODE_WIDTH / 2, y: y - NODE_HEIGHT / 2 };
    }),
    edges: edges.map(({ from, to, isStale }) => {
      const { points } = graph.edge(from, to) as unknown as { points: readonly { x: number; y: number }[] };
      return {
        key: `${from} ${to}`,
        path: points.map(({ x, y }, k) => `${k === 0 ? 'M' : 'L'}${x} ${y}`).join(''),
        isStale,
      };
    }),
  };
}
