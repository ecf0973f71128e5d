import { unpackArrays } from '@pampero/core/binary';
import { ELEVATION_RAMP } from './colours';
import { wantedNodes, type SceneNode } from './level-of-detail';
import { GraphicsPainter } from './graphics-painter';
import { ProcessorPainter, type PainterName, type PointPainter } from './point-painter';
import { drawLines, onGround } from './line-rasteriser';
import { colourNode, decodeNode, exactPoint, sceneNode, type CachedNode } from './point-cache';
import { drawGrid, pickPoint, shadeFrame, type DrawnGrid, type Frame, type Matrix } from './rasteriser';
import type { DrawnCloud, DrawnLines, PointStyle, ViewerAnswer, ViewerRequest, ViewId } from './viewer-protocol';

type DrawRequest = Extract<ViewerRequest, { kind: 'draw' }>;

/** Pixels between the samples of a level before the next is wanted. */
const SPACING_TARGET = 1.4;
/** What a picture may take while the view moves, and how many points that is at first; then as measured. */
const MOVING_MS = 32;
const MOVING_POINTS = { first: 260_000, least: 60_000, most: 3_000_000 };
/** Points kept in memory: about 350 MB. Beyond it, what no view has drawn for longest is dropped. */
const MOST_CACHED_POINTS = 12_000_000;
/** Points between looks at newer requests. */
const SLICE_POINTS = 220_000;
const FETCHES_AT_ONCE = 6;

interface ViewState {
  frame: Frame | undefined;
  pending: DrawRequest | undefined;
  /** The last request, to draw again when more has arrived. */
  last: DrawRequest | undefined;
  isDrawing: boolean;
}

interface SceneCloud {
  readonly cloud: DrawnCloud;
  nodes: SceneNode[];
}

/** The drawing worker's inside: fetches nodes as views want them and draws pictures, slice by slice, newest request first. */
export class DrawingEngine {
  private jobId = '';
  private origin: readonly [number, number, number] = [0, 0, 0];
  private clouds: SceneCloud[] = [];
  private style: PointStyle | undefined;
  private edition = 0;
  private grid: DrawnGrid | undefined;
  private gridUrl: string | undefined;
  private readonly cache = new Map<number, CachedNode>();
  private readonly slots: (CachedNode | undefined)[] = [undefined];
  private readonly views = new Map<ViewId, ViewState>();
  private readonly fetching = new Set<number>();
  private queue: { cloud: DrawnCloud; node: SceneNode }[] = [];
  private redrawAt = 0;
  private movingPoints = MOVING_POINTS.first;
  private cachedPoints = 0;
  /** Goes up when job or origin change: what was fetched for the last one is of no use. */
  private scene = 0;
  private readonly freeSlots: number[] = [];
  private readonly lines = new Map<string, DrawnLines>();
  private readonly processor = new ProcessorPainter();
  private graphics: GraphicsPainter | undefined;
  private wantedPainter: PainterName = 'processor';
  private drawCount = 0;
  private hasDrawnPoints = false;

  constructor(private readonly answer: (answer: ViewerAnswer, transfer: Transferable[]) => void) {}

  receive(request: ViewerRequest): void {
    switch (request.kind) {
      case 'clouds':
        this.setClouds(request);
        break;
      case 'lines':
        if (request.layer) this.lines.set(request.key, request.layer);
        else this.lines.delete(request.key);
        this.redrawSoon();
        break;
      case 'painter':
        this.choosePainter(request.name);
        break;
      case 'style':
        this.style = request.style;
        this.edition++;
        this.redrawAll();
        break;
      case 'surface':
        void this.setSurface(request.url);
        break;
      case 'draw': {
        const view = this.view(request.view);
        view.pending = request;
        if (!view.isDrawing) void this.drawPending(view);
        break;
      }
      case 'pick':
        this.pick(request);
        break;
      case 'drop':
        this.views.delete(request.view);
    }
  }

  private view(id: ViewId): ViewState {
    let view = this.views.get(id);
    if (!view) this.views.set(id, (view = { frame: undefined, pending: undefined, last: undefined, isDrawing: false }));
    return view;
  }

  private setClouds({ jobId, origin, clouds }: Extract<ViewerRequest, { kind: 'clouds' }>): void {
    const isOther = jobId !== this.jobId || origin.some((value, axis) => value !== this.origin[axis]);
    if (isOther) {
      for (const { slot } of this.cache.values()) this.graphics?.forget(slot);
      this.cache.clear();
      this.slots.length = 1;
      this.freeSlots.length = 0;
      this.cachedPoints = 0;
      this.scene++;
    }
    this.jobId = jobId;
    this.origin = origin;
    this.clouds = clouds.map((cloud) => ({ cloud, nodes: cloud.nodes.map((node) => sceneNode(node, cloud, origin)) }));
    for (const { nodes } of this.clouds)
      for (const node of nodes) {
        const cached = this.cache.get(node.id);
        if (cached && cached.classRevision !== node.revision) void this.refetchClasses(cached, node);
      }
    this.redrawAll();
  }

  /** One byte a point again, not the geometry. */
  private async refetchClasses(cached: CachedNode, node: SceneNode): Promise<void> {
    const marks = await this.fetchBytes(`nodes/${node.id}/class?revision=${node.revision}`);
    if (!marks) return;
    cached.classes = new Uint8Array(marks, 0, node.count);
    cached.flags = new Uint8Array(marks, node.count, node.count);
    cached.classRevision = node.revision;
    cached.node = node;
    cached.colouredAt = -1;
    this.redrawSoon();
  }

  private async setSurface(url: string | undefined): Promise<void> {
    if (url === this.gridUrl) return;
    this.gridUrl = url;
    if (url === undefined) this.grid = undefined;
    else {
      const response = await fetch(url).catch(() => undefined);
      if (!response?.ok) return;
      const { arrays, facts } = unpackArrays(new Uint8Array(await response.arrayBuffer()));
      if (url !== this.gridUrl) return;
      this.grid = shadedGrid(
        arrays['elevation'] as Float32Array,
        facts as { east: number; north: number; cell: number; columns: number; rows: number },
        this.origin,
      );
    }
    this.redrawAll();
  }

  private redrawAll(): void {
    for (const view of this.views.values()) {
      if (view.last && !view.pending) view.pending = { ...view.last, isMoving: false };
      if (!view.isDrawing) void this.drawPending(view);
    }
  }

  /** Gathers arrivals: a picture a node would draw everything far too often. */
  private redrawSoon(): void {
    if (!this.hasDrawnPoints) {
      // The very first points are shown at once.
      this.redrawAll();
      return;
    }
    if (this.redrawAt !== 0) return;
    this.redrawAt = 1;
    setTimeout(() => {
      this.redrawAt = 0;
      this.redrawAll();
    }, 120);
  }

  private async drawPending(view: ViewState): Promise<void> {
    view.isDrawing = true;
    while (view.pending) {
      const request = view.pending;
      view.pending = undefined;
      view.last = request;
      await this.draw(view, request);
    }
    view.isDrawing = false;
  }

  private async draw(view: ViewState, request: DrawRequest): Promise<void> {
    const begun = performance.now();
    const { width, height, matrix, isMoving } = request;
    const picture = this.painter().begin(request.view, width, height);
    this.drawCount++;
    let drawn = 0;
    let isComplete = true;
    const style = this.style;
    if (request.showPoints && style) {
      let sinceLook = 0;
      this.queue = this.queue.filter(({ node }) => this.fetching.has(node.id));
      for (const { cloud, nodes } of this.clouds) {
        const size = pointSize(matrix, width, cloud.pointSpacing);
        for (const node of wantedNodes(nodes, matrix, width, SPACING_TARGET)) {
          const cached = this.cache.get(node.id);
          if (!cached) {
            isComplete = false;
            this.want(cloud, node);
            continue;
          }
          if (isMoving && drawn + node.count > this.movingPoints && drawn > 0) {
            isComplete = false;
            continue;
          }
          if (style.mode === 'intensity' && !cached.intensity) {
            isComplete = false;
            void this.fetchIntensity(cached);
            continue;
          }
          cached.drawnAt = this.drawCount;
          colourNode(cached, style, this.edition);
          picture.points(atCentre(matrix, cached.centre), cached, size);
          drawn += node.count;
          sinceLook += node.count;
          if (!isMoving && sinceLook > SLICE_POINTS) {
            sinceLook = 0;
            if (await this.isOutdated(view)) return;
          }
        }
      }
      this.fetchNext();
    }
    const frame = picture.finish();
    if (request.showSurface && this.grid && !(await this.drawSurface(frame, this.grid, view, request))) return;
    view.frame = frame;
    if (drawn > 0) this.hasDrawnPoints = true;
    if (isMoving && drawn > 0) this.adaptTo(performance.now() - begun);
    const shaded = shadeFrame(frame, request.scale, request.shading);
    const rgba = request.ground ? this.composed(shaded, frame, request, request.ground) : shaded;
    // Picking needs only which point is where; the depth goes to the page, if it composes the picture.
    const depth = request.ground ? undefined : (frame.depth as Float32Array<ArrayBuffer>);
    this.answer(
      {
        kind: 'picture',
        view: request.view,
        serial: request.serial,
        width,
        height,
        matrix,
        rgba,
        depth,
        drawn,
        isComplete,
        milliseconds: performance.now() - begun,
      },
      depth ? [rgba.buffer, depth.buffer] : [rgba.buffer],
    );
    await nextTurn();
  }

  /** Lines over the picture, and all of it on its ground. */
  private composed(
    rgba: Uint8ClampedArray<ArrayBuffer>,
    frame: Frame,
    { view, width, height, matrix }: DrawRequest,
    ground: readonly [number, number, number],
  ): Uint8ClampedArray<ArrayBuffer> {
    for (const { positions, paint, views } of this.lines.values())
      if (views.includes(view)) drawLines(rgba, frame, matrix, positions, paint);
    return onGround(rgba, width, height, ground);
  }

  /** Draws the surface into the frame; false where the picture is no longer wanted. */
  private async drawSurface(
    frame: Frame,
    grid: DrawnGrid,
    view: ViewState,
    { matrix, isMoving }: DrawRequest,
  ): Promise<boolean> {
    const rows = 64;
    for (let row = 0; row < grid.rows - 1; row += rows) {
      drawGrid(frame, matrix, grid, row, Math.min(grid.rows - 1, row + rows));
      if (!isMoving && (row / rows) % 4 === 3 && (await this.isOutdated(view))) return false;
    }
    return true;
  }

  /** The back end that is asked for, if it can be had; the processor draws whatever happens. */
  private painter(): PointPainter {
    if (this.wantedPainter === 'graphics' && !(this.graphics?.isLost ?? false)) {
      try {
        return (this.graphics ??= new GraphicsPainter());
      } catch (error) {
        this.answer({ kind: 'trouble', message: (error as Error).message }, []);
        this.wantedPainter = 'processor';
      }
    }
    return this.processor;
  }

  private choosePainter(name: PainterName): void {
    this.wantedPainter = name;
    this.movingPoints = MOVING_POINTS.first;
    // Made at once, so that the answer is true.
    this.answer({ kind: 'painter', name: this.painter().name }, []);
    this.redrawAll();
  }

  /** Lets messages in, and says whether this picture is still wanted. */
  private async isOutdated(view: ViewState): Promise<boolean> {
    await nextTurn();
    return view.pending !== undefined;
  }

  private want(cloud: DrawnCloud, node: SceneNode): void {
    if (!this.fetching.has(node.id) && !this.queue.some((wanted) => wanted.node.id === node.id))
      this.queue.push({ cloud, node });
  }

  private fetchNext(): void {
    while (this.fetching.size < FETCHES_AT_ONCE) {
      const next = this.queue.shift();
      if (!next) return;
      this.fetching.add(next.node.id);
      void this.fetchNode(next.cloud, next.node);
    }
  }

  private async fetchNode(cloud: DrawnCloud, node: SceneNode): Promise<void> {
    const { scene } = this;
    const [geometry, marks] = await Promise.all([
      this.fetchBytes(`nodes/${node.id}/geometry`),
      this.fetchBytes(`nodes/${node.id}/class?revision=${node.revision}`),
    ]);
    this.fetching.delete(node.id);
    // The scene may have become another, or the classes changed, while the bytes were on their way.
    if (geometry && marks && scene === this.scene) {
      const slot = this.freeSlots.pop() ?? this.slots.length;
      if (slot < 65_536) {
        const cached = decodeNode(slot, cloud, node, this.origin, geometry, marks);
        cached.drawnAt = this.drawCount;
        this.slots[slot] = cached;
        this.cache.set(node.id, cached);
        this.cachedPoints += node.count;
        this.makeRoom();
        const present = this.clouds.find((shown) => shown.cloud.id === cloud.id)?.nodes.find((n) => n.id === node.id);
        if (present && present.revision !== node.revision) void this.refetchClasses(cached, present);
      }
      this.redrawSoon();
    }
    this.fetchNext();
  }

  /** Drops the nodes that no picture has used for longest. */
  private makeRoom(): void {
    if (this.cachedPoints <= MOST_CACHED_POINTS) return;
    const oldest = [...this.cache.values()].sort((a, b) => a.drawnAt - b.drawnAt);
    for (const cached of oldest) {
      // What the last pictures of three views may have used stays, whatever the sum.
      if (this.cachedPoints <= MOST_CACHED_POINTS * 0.8 || cached.drawnAt >= this.drawCount - 3) return;
      this.cache.delete(cached.node.id);
      this.slots[cached.slot] = undefined;
      this.graphics?.forget(cached.slot);
      this.freeSlots.push(cached.slot);
      this.cachedPoints -= cached.node.count;
    }
  }

  /** Fewer or more points in the next moving picture, by what this one took. */
  private adaptTo(milliseconds: number): void {
    const wanted = this.movingPoints * Math.max(0.6, Math.min(1.25, MOVING_MS / milliseconds));
    this.movingPoints = Math.max(MOVING_POINTS.least, Math.min(MOVING_POINTS.most, wanted));
  }

  private async fetchIntensity(cached: CachedNode): Promise<void> {
    if (this.fetching.has(-cached.node.id)) return;
    this.fetching.add(-cached.node.id);
    const bytes = await this.fetchBytes(`nodes/${cached.node.id}/intensity`);
    this.fetching.delete(-cached.node.id);
    if (!bytes) return;
    cached.intensity = new Uint16Array(bytes);
    cached.colouredAt = -1;
    this.redrawSoon();
  }

  private async fetchBytes(path: string): Promise<ArrayBuffer | undefined> {
    try {
      const response = await fetch(`/api/jobs/${this.jobId}/${path}`);
      if (response.ok) return await response.arrayBuffer();
      this.answer({ kind: 'trouble', message: `Points could not be fetched (${response.status}).` }, []);
    } catch {
      this.answer({ kind: 'trouble', message: 'Points could not be fetched: the server does not answer.' }, []);
    }
    return undefined;
  }

  private pick({ view, serial, column, row }: Extract<ViewerRequest, { kind: 'pick' }>): void {
    const frame = this.views.get(view)?.frame;
    const found = frame && pickPoint(frame, Math.floor(column), Math.floor(row), 5);
    const cached = found && this.slots[found.slot];
    this.answer({ kind: 'picked', view, serial, point: cached && exactPoint(cached, found.index) }, []);
  }
}

/** The matrix for coordinates about a node's centre, in doubles: what is left is small enough for single floats. */
function atCentre(matrix: Matrix, [x, y, z]: readonly [number, number, number]): Float64Array {
  const out = Float64Array.from(matrix as ArrayLike<number>);
  for (let row = 0; row < 4; row++)
    out[12 + row] = matrix[row]! * x + matrix[4 + row]! * y + matrix[8 + row]! * z + matrix[12 + row]!;
  return out;
}

/** Large enough that neighbouring points of the full cloud touch, within reason. */
function pointSize(matrix: Matrix, width: number, spacing: number): number {
  const isPerspective = matrix[3] !== 0 || matrix[7] !== 0 || matrix[11] !== 0;
  if (isPerspective) return 2;
  const pixels = ((Math.hypot(matrix[0]!, matrix[4]!, matrix[8]!) * width) / 2) * spacing;
  return Math.max(2, Math.min(5, Math.ceil(pixels)));
}

/** Elevation tints lit from the north-west, for a surface on its own. */
function shadedGrid(
  elevation: Float32Array,
  frame: { east: number; north: number; cell: number; columns: number; rows: number },
  origin: readonly [number, number, number],
): DrawnGrid {
  const { columns, rows, cell } = frame;
  let low = Infinity;
  let high = -Infinity;
  for (const z of elevation) {
    if (z < low) low = z;
    if (z > high) high = z;
  }
  const colour = new Uint32Array(columns * rows);
  const heights = new Float32Array(columns * rows);
  for (let row = 0; row < rows; row++) {
    for (let column = 0; column < columns; column++) {
      const at = row * columns + column;
      const z = elevation[at]!;
      heights[at] = z - origin[2];
      if (Number.isNaN(z)) continue;
      const west = elevation[column > 0 ? at - 1 : at]!;
      const east = elevation[column < columns - 1 ? at + 1 : at]!;
      const south = elevation[row > 0 ? at - columns : at]!;
      const north = elevation[row < rows - 1 ? at + columns : at]!;
      const slopeEast = (east - west) / (2 * cell) || 0;
      const slopeNorth = (north - south) / (2 * cell) || 0;
      const light = Math.max(0.35, Math.min(1.18, 0.95 + (slopeEast - slopeNorth) * 0.75));
      const tint =
        ELEVATION_RAMP[Math.max(0, Math.min(1023, Math.round(((z - low) / Math.max(1e-6, high - low)) * 1023)))]!;
      const lit = (channel: number): number => Math.min(255, Math.round(((tint >> channel) & 255) * light));
      colour[at] = (0xff000000 | (lit(16) << 16) | (lit(8) << 8) | lit(0)) >>> 0;
    }
  }
  return {
    columns,
    rows,
    step: cell,
    x: frame.east + cell / 2 - origin[0],
    y: frame.north + cell / 2 - origin[1],
    elevation: heights,
    colour,
  };
}

/** A turn of the event loop, so that waiting messages are taken; a timer would cost milliseconds. */
const channel = new MessageChannel();
const waiting: (() => void)[] = [];
channel.port1.onmessage = () => waiting.shift()?.();
function nextTurn(): Promise<void> {
  return new Promise((resolve) => {
    waiting.push(resolve);
    channel.port2.postMessage(undefined);
  });
}
