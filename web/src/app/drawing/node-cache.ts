import type { ColumnName } from '@pampero/core/cloud';
import type { PreparedSelection } from '@pampero/core/selection';
import { urlOf } from '../api/urls';
import type { SceneNode } from './level-of-detail';
import { decodeNode, markSelected, markShown, type CachedNode } from './point-cache';
import type { ColumnKey } from './column-key';
import type { DrawnCloud } from './drawing-protocol';

/** Points kept in memory: about 350 MB. Beyond it, what no view has drawn for longest is dropped. */
const MOST_CACHED_POINTS = 12_000_000;
const FETCHES_AT_ONCE = 6;
/** Columns that the page gets under another name than the store's. */
const COLUMN_KEYS: Partial<Record<ColumnName, readonly ColumnKey[]>> = {
  red: ['colour'],
  green: ['colour'],
  blue: ['colour'],
  extraBytes: ['confidence', 'accuracy'],
};
const MOST_SLOTS = 65_536;

/** What stands for an attribute that is not there: values that no range holds, where there are such. */
function nothing(key: ColumnKey, count: number): ArrayBuffer {
  const isFloat = key === 'confidence' || key === 'accuracy';
  return isFloat ? new Float32Array(2 * count).fill(NaN).buffer : new ArrayBuffer(8 * count);
}

export interface NodeCacheEvents {
  /** Something arrived that pictures may want. */
  arrived(): void;
  forgotten(slot: number): void;
  trouble(message: string): void;
}

/** Nodes in memory: fetched as they are wanted, classes again when they change, the longest unused dropped. */
export class NodeCache {
  private jobId = '';
  private origin: readonly [number, number, number] = [0, 0, 0];
  private readonly byId = new Map<number, CachedNode>();
  private readonly slots: (CachedNode | undefined)[] = [undefined];
  private readonly freeSlots: number[] = [];
  private readonly fetching = new Map<number, Promise<CachedNode | undefined>>();
  private readonly fetchingColumns = new Map<string, Promise<void>>();
  private queue: { cloud: DrawnCloud; node: SceneNode }[] = [];
  private cachedPoints = 0;
  private drawCount = 0;
  /** Goes up when job or origin change: what was fetched for the last one is of no use. */
  private scene = 0;
  private present = new Map<number, SceneNode>();
  private shown: PreparedSelection | undefined;
  private selected: PreparedSelection | undefined;
  /** Goes up with every change of classes or flags. */
  marksEdition = 0;

  constructor(private readonly events: NodeCacheEvents) {}

  get(nodeId: number): CachedNode | undefined {
    return this.byId.get(nodeId);
  }

  at(slot: number): CachedNode | undefined {
    return this.slots[slot];
  }

  all(): IterableIterator<CachedNode> {
    return this.byId.values();
  }

  setScene(jobId: string, origin: readonly [number, number, number], nodes: readonly SceneNode[]): void {
    const isOther = jobId !== this.jobId || origin.some((value, axis) => value !== this.origin[axis]);
    if (isOther) {
      for (const { slot } of this.byId.values()) this.events.forgotten(slot);
      this.byId.clear();
      this.slots.length = 1;
      this.freeSlots.length = 0;
      this.cachedPoints = 0;
      this.scene++;
    }
    this.jobId = jobId;
    this.origin = origin;
    this.present = new Map(nodes.map((node) => [node.id, node]));
    for (const node of nodes) {
      const cached = this.byId.get(node.id);
      // Points that were moved are drawn where they are now, and those that were coloured as they are.
      if (cached && (cached.node.positions !== node.positions || cached.node.colours !== node.colours))
        this.forget(cached);
      else if (cached && cached.classRevision !== node.revision) void this.refetchMarks(cached, node);
    }
  }

  /** What is shown, for all nodes now and those to come. */
  setShown(shown: PreparedSelection | undefined): void {
    this.shown = shown;
    for (const cached of this.byId.values()) this.withColumns(cached, shown, () => markShown(cached, this.shown));
  }

  setSelected(selected: PreparedSelection | undefined): void {
    this.selected = selected;
    for (const cached of this.byId.values())
      this.withColumns(cached, selected, () => markSelected(cached, this.selected));
  }

  /** Marks once the columns that a selection asks about are there. */
  private withColumns(cached: CachedNode, selection: PreparedSelection | undefined, mark: () => void): void {
    const missing = [...(selection?.columns ?? [])]
      .flatMap((name): readonly ColumnKey[] => COLUMN_KEYS[name] ?? [name as ColumnKey])
      .filter((key) => !cached.columns.has(key));
    if (missing.length === 0) mark();
    else void Promise.all(missing.map((key) => this.fetchColumn(cached, key))).then(mark);
  }

  /** A node's classes or flags have changed. */
  remark(cached: CachedNode): void {
    this.marksEdition++;
    cached.colouredAt = -1;
    if (this.shown) this.withColumns(cached, this.shown, () => markShown(cached, this.shown));
    if (this.selected) this.withColumns(cached, this.selected, () => markSelected(cached, this.selected));
  }

  /** One byte a point each again, not the geometry. */
  async refetchMarks(cached: CachedNode, node: SceneNode): Promise<void> {
    const marks = await this.fetchBytes(
      urlOf('readNodeClass', { params: { jobId: this.jobId, nodeId: node.id }, query: { revision: node.revision } }),
    );
    if (!marks) return;
    cached.classes = new Uint8Array(marks, 0, node.count);
    cached.flags = new Uint8Array(marks, node.count, node.count);
    cached.classRevision = node.revision;
    cached.node = node;
    this.remark(cached);
    this.events.arrived();
  }

  /** Forgets what no longer waits for its turn. */
  beginPicture(drawCount: number): void {
    this.drawCount = drawCount;
    this.queue = [];
  }

  want(cloud: DrawnCloud, node: SceneNode): void {
    if (!this.fetching.has(node.id) && !this.queue.some((wanted) => wanted.node.id === node.id))
      this.queue.push({ cloud, node });
  }

  fetchNext(): void {
    while (this.fetching.size < FETCHES_AT_ONCE) {
      const next = this.queue.shift();
      if (!next) return;
      void this.load(next.cloud, next.node).then(() => this.fetchNext());
    }
  }

  /** The node in memory, fetched if it is not there yet. */
  load(cloud: DrawnCloud, node: SceneNode): Promise<CachedNode | undefined> {
    const known = this.byId.get(node.id);
    if (known) return Promise.resolve(known);
    let fetching = this.fetching.get(node.id);
    if (!fetching) {
      fetching = this.fetchNode(cloud, node);
      this.fetching.set(node.id, fetching);
    }
    return fetching;
  }

  private async fetchNode(cloud: DrawnCloud, node: SceneNode): Promise<CachedNode | undefined> {
    const { scene } = this;
    const [geometry, marks] = await Promise.all([
      this.fetchBytes(
        urlOf('readNodeGeometry', {
          params: { jobId: this.jobId, nodeId: node.id },
          query: { positions: node.positions },
        }),
      ),
      this.fetchBytes(
        urlOf('readNodeClass', { params: { jobId: this.jobId, nodeId: node.id }, query: { revision: node.revision } }),
      ),
    ]);
    this.fetching.delete(node.id);
    // The scene may have become another, or the classes changed, while the bytes were on their way.
    if (!geometry || !marks || scene !== this.scene) return undefined;
    const now = this.present.get(node.id);
    if (now && now.positions !== node.positions) return undefined;
    const slot = this.freeSlots.pop() ?? this.slots.length;
    if (slot >= MOST_SLOTS) return undefined;
    const cached = decodeNode(slot, cloud, node, this.origin, geometry, marks);
    cached.drawnAt = this.drawCount;
    this.slots[slot] = cached;
    this.byId.set(node.id, cached);
    this.cachedPoints += node.count;
    this.remark(cached);
    const present = this.present.get(node.id);
    if (present && present.revision !== node.revision) void this.refetchMarks(cached, present);
    this.events.arrived();
    return cached;
  }

  fetchColumn(cached: CachedNode, key: ColumnKey): Promise<void> {
    if (cached.columns.has(key)) return Promise.resolve();
    if (!cached.cloud.columns.includes(key)) {
      // A cloud without the attribute is not asked for it, and stays grey.
      cached.columns.set(key, nothing(key, cached.node.count));
      return Promise.resolve();
    }
    const name = `${cached.node.id}/columns/${key}`;
    let fetching = this.fetchingColumns.get(name);
    if (!fetching) {
      const params = { jobId: this.jobId, nodeId: cached.node.id, column: key };
      fetching = this.fetchBytes(
        urlOf('readNodeColumn', { params, query: { colours: cached.node.colours } }),
        true,
      ).then((bytes) => {
        this.fetchingColumns.delete(name);
        // A cloud without the attribute: asked once, and grey.
        cached.columns.set(key, bytes ?? nothing(key, cached.node.count));
        cached.colouredAt = -1;
        cached.values = undefined;
        this.events.arrived();
      });
      this.fetchingColumns.set(name, fetching);
    }
    return fetching;
  }

  /** Drops the nodes that no picture has used for longest. `drawnAt` of the newest pictures is kept from it. */
  makeRoom(): void {
    if (this.cachedPoints <= MOST_CACHED_POINTS) return;
    const oldest = [...this.byId.values()].sort((a, b) => a.drawnAt - b.drawnAt);
    for (const cached of oldest) {
      // What the last pictures of three views may have used stays, whatever the sum.
      if (this.cachedPoints <= MOST_CACHED_POINTS * 0.8 || cached.drawnAt >= this.drawCount - 3) return;
      this.forget(cached);
    }
  }

  private forget(cached: CachedNode): void {
    this.byId.delete(cached.node.id);
    this.slots[cached.slot] = undefined;
    this.events.forgotten(cached.slot);
    this.freeSlots.push(cached.slot);
    this.cachedPoints -= cached.node.count;
  }

  private async fetchBytes(url: string, isOptional = false): Promise<ArrayBuffer | undefined> {
    try {
      const response = await fetch(url);
      if (response.ok) return await response.arrayBuffer();
      if (!isOptional) this.events.trouble(`Points could not be loaded (${response.status}).`);
    } catch {
      this.events.trouble('Points could not be loaded: the server does not answer.');
    }
    return undefined;
  }
}
