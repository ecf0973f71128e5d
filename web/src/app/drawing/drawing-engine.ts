import { Outline, PreparedSelection, type Selection, type Visible } from '@pampero/core/selection';
import { CleaningPreview } from './cleaning-preview';
import { PreviewedGround } from './previewed-ground';
import { groundAround } from './ground-around';
import { DrawnSurfaces } from './drawn-surfaces';
import { GraphicsPainter } from './graphics-painter';
import { wantedNodes, type SceneNode } from './level-of-detail';
import { LineLayer } from './line-layer';
import { onGround } from './line-rasteriser';
import { drape, layUnder, picturesAlong } from './picture-painter';
import { PictureTiles } from './picture-tiles';
import { nextTurn } from './next-turn';
import { NodeCache } from './node-cache';
import { pointDetails } from './point-details';
import { asSelectable, colourNode, exactPoint, missingColumn, sceneNode } from './point-cache';
import type { PainterName } from './painter-name';
import { ProcessorPainter, type PointPainter } from './point-painter';
import { colourMode, isRamped } from './colour-modes';
import { spreadOf } from './value-spread';
import { drawGrid, pickPoint, shadeFrame, type DrawnGrid, type Frame, type Matrix } from './rasteriser';
import { areaOver, profileOver, surfaceAt } from './surface-grid';
import type {
  DrawnCloud,
  OptimisticChange,
  PickedPoint,
  PointStyle,
  Question,
  ViewerAnswer,
  ViewerQuestions,
  ViewerRequest,
  ViewId,
} from './drawing-protocol';

type DrawRequest = Extract<ViewerRequest, { kind: 'draw' }>;

/** Pixels between the samples of a level before the next is wanted. */
const SPACING_TARGET = 1.4;
/** What a picture may take while the view moves, lines and all, and how many points that is at first; then as measured. */
const MOVING_MS = 44;
const MOVING_POINTS = { first: 260_000, least: 60_000, most: 3_000_000 };
/** Points between looks at newer requests. */
const SLICE_POINTS = 220_000;

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

/** The drawing worker's inside: draws pictures of what is in memory, slice by slice, newest request first, and answers questions. */
export class DrawingEngine {
  private origin: readonly [number, number, number] = [0, 0, 0];
  private clouds: SceneCloud[] = [];
  private style: PointStyle | undefined;
  private edition = 0;
  private readonly surfaces = new DrawnSurfaces(
    () => this.origin,
    (isOther) => {
      if (isOther) for (const cached of this.cache.all()) cached.colouredAt = -1;
      this.redrawAll();
    },
  );
  private selection: Selection = [];
  private readonly cache: NodeCache;
  private readonly preview: CleaningPreview;
  private readonly previewed = new PreviewedGround();
  private readonly views = new Map<ViewId, ViewState>();
  private redrawAt = 0;
  private movingPoints = MOVING_POINTS.first;
  private pictures: Extract<ViewerRequest, { kind: 'pictures' }> | undefined;
  private readonly tiles = new PictureTiles(() => this.redrawSoon());
  private readonly lines = new Map<string, LineLayer>();
  private readonly processor = new ProcessorPainter();
  private graphics: GraphicsPainter | undefined;
  private wantedPainter: PainterName = 'processor';
  private drawCount = 0;
  private hasDrawnPoints = false;

  constructor(private readonly answer: (answer: ViewerAnswer, transfer: Transferable[]) => void) {
    this.cache = new NodeCache({
      arrived: () => this.redrawSoon(),
      forgotten: (slot) => this.graphics?.forget(slot),
      trouble: (message) => this.answer({ kind: 'trouble', message }, []),
    });
    this.preview = new CleaningPreview(this.cache, () => this.origin);
  }

  receive(request: ViewerRequest): void {
    switch (request.kind) {
      case 'clouds':
        this.setClouds(request);
        break;
      case 'lines':
        if (request.layer) this.lines.set(request.key, new LineLayer(request.layer));
        else this.lines.delete(request.key);
        this.redrawSoon();
        break;
      case 'painter':
        this.choosePainter(request.name);
        break;
      case 'style':
        this.setStyle(request.style);
        break;
      case 'selection':
        this.select(request.selection);
        break;
      case 'optimistic':
        this.showOptimistically(request.change);
        break;
      case 'previewed':
        this.previewed.set(request.views);
        this.redrawAll();
        break;
      case 'take-back':
        for (const cached of this.cache.all()) void this.cache.refetchMarks(cached, cached.node);
        break;
      case 'detail':
        void this.surfaces.setDetail(request.surface);
        break;
      case 'pictures':
        this.pictures = request;
        this.redrawAll();
        break;
      case 'surfaces':
        this.surfaces.set(request.surfaces);
        break;
      case 'draw': {
        const view = this.view(request.view);
        view.pending = request;
        if (!view.isDrawing) void this.drawPending(view);
        break;
      }
      case 'ask':
        void this.reply(request.question, request.about).then((answer) =>
          this.answer({ kind: 'answer', serial: request.serial, answer }, []),
        );
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
    this.origin = origin;
    this.clouds = clouds.map((cloud) => ({ cloud, nodes: cloud.nodes.map((node) => sceneNode(node, cloud, origin)) }));
    this.cache.setScene(
      jobId,
      origin,
      this.clouds.flatMap(({ nodes }) => nodes),
    );
    this.redrawAll();
  }

  private setStyle(style: PointStyle): void {
    const before = this.style;
    this.style = style;
    this.edition++;
    // The page sends every style anew, so that what is shown is compared by what it says.
    if (JSON.stringify(before?.visible) !== JSON.stringify(style.visible)) this.show(style.visible);
    this.redrawAll();
  }

  private show(visible: Visible): void {
    // Classes and withheld points are left out as points are coloured; only places are asked about here.
    const { box, focus } = visible;
    const places: Visible = {
      hiddenClasses: [],
      withWithheld: true,
      ...(box && { box }),
      ...(focus && { focus }),
    };
    this.cache.setShown(
      box || focus ? this.prepare([{ how: 'add', shape: { kind: 'all' }, visible: places }]) : undefined,
    );
  }

  private select(selection: Selection): void {
    const wasEmpty = this.selection.length === 0;
    this.selection = selection;
    if (wasEmpty && selection.length === 0) return;
    this.cache.setSelected(selection.length === 0 ? undefined : this.prepare(selection));
    this.redrawQuickly();
  }

  /** A selection made ready, with what lies in front found out; one that is none selects nothing. */
  private prepare(selection: Selection): PreparedSelection | undefined {
    try {
      const prepared = new PreparedSelection(selection);
      if (prepared.needsFronts)
        for (const cached of this.cache.all()) {
          const points = asSelectable(cached);
          if (prepared.reachesFronts(points.box, points.nodeId, points.cloudId)) prepared.addToFronts(points);
        }
      return prepared;
    } catch {
      return undefined;
    }
  }

  /** What the server was asked to do to the selected points, done to those in memory at once; they are selected no more. */
  private showOptimistically({ classCode, setFlags = 0, clearFlags = 0 }: OptimisticChange): void {
    this.selection = [];
    const changed = [...this.cache.all()].filter(({ selected }) => selected !== undefined);
    for (const { selected, classes, flags } of changed)
      for (let i = 0; i < selected!.length; i++) {
        if (selected![i] === 0) continue;
        if (classCode !== undefined) classes[i] = classCode;
        flags[i] = (flags[i]! | setFlags) & ~clearFlags;
      }
    this.cache.setSelected(undefined);
    for (const cached of changed) this.cache.remark(cached);
    this.redrawQuickly();
  }

  /** At once with fewer points, as while the view moves, then in full. */
  private redrawQuickly(): void {
    for (const view of this.views.values()) {
      if (view.last && !view.pending) view.pending = { ...view.last, isMoving: true };
      if (!view.isDrawing) void this.drawPending(view);
    }
    this.redrawSoon();
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
    try {
      while (view.pending) {
        const request = view.pending;
        view.pending = undefined;
        view.last = request;
        await this.draw(view, request);
      }
    } catch (error) {
      // One picture that fails must not be the last.
      this.answer({ kind: 'trouble', message: error instanceof Error ? error.message : String(error) }, []);
    } finally {
      view.isDrawing = false;
    }
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
      this.cache.beginPicture(this.drawCount);
      for (const { cloud, nodes } of this.clouds) {
        const size = style.pointSize || pointSize(matrix, width, cloud.pointSpacing);
        for (const node of wantedNodes(nodes, matrix, width, SPACING_TARGET / style.detail)) {
          const cached = this.cache.get(node.id);
          if (!cached) {
            isComplete = false;
            this.cache.want(cloud, node);
            continue;
          }
          if (isMoving && drawn + node.count > this.movingPoints * style.detail && drawn > 0) {
            isComplete = false;
            continue;
          }
          const missing = missingColumn(cached, style.mode);
          if (missing) {
            isComplete = false;
            void this.cache.fetchColumn(cached, missing);
            continue;
          }
          cached.drawnAt = this.drawCount;
          const shown = this.previewed.of(request.view, cached, `${this.edition}/${this.cache.marksEdition}`);
          colourNode(shown, style, this.edition, this.surfaces.grid);
          picture.points(atCentre(matrix, cached.centre), shown, size);
          drawn += node.count;
          sinceLook += node.count;
          if (!isMoving && sinceLook > SLICE_POINTS) {
            sinceLook = 0;
            if (await this.isOutdated(view)) return;
          }
        }
      }
      this.cache.fetchNext();
      this.cache.makeRoom();
    }
    const frame = picture.finish();
    if (request.showSurface)
      for (const { grid, opacity } of this.surfaces.of(request.view, matrix))
        if (!(await this.drawSurface(frame, grid, opacity, view, request))) return;
    view.frame = frame;
    if (drawn > 0) this.hasDrawnPoints = true;
    const shaded = shadeFrame(frame, request.scale, request.shading * (this.style?.shading ?? 1));
    if (!this.layPictures(shaded, frame, request)) isComplete = false;
    const rgba = request.ground ? this.composed(shaded, frame, request, request.ground) : shaded;
    // Lines and shading take their time too: where there are many, there are fewer points.
    if (isMoving && drawn > 0) this.adaptTo(performance.now() - begun);
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

  /** Pictures of the land over surfaces and under points; false where tiles of them are still on their way. */
  private layPictures(rgba: Uint8ClampedArray, frame: Frame, request: DrawRequest): boolean {
    const { view, matrix, showSurface, ground = PAPER } = request;
    if (!this.pictures || this.pictures.pictures.length === 0) return true;
    const { pictures, wipe, areDraped } = this.pictures;
    const site = { pictures, tiles: this.tiles, origin: this.origin, ground };
    this.tiles.forgetWanted();
    if (showSurface && areDraped && view !== 'section' && view !== 'after') drape(rgba, frame, matrix, site);
    if (view === 'plan') layUnder(rgba, frame, matrix, site, wipe);
    const { isComplete } = this.tiles;
    this.tiles.fetchNext();
    return isComplete;
  }

  /** Lines over the picture, and all of it on its ground. */
  private composed(
    rgba: Uint8ClampedArray<ArrayBuffer>,
    frame: Frame,
    { view, width, height, matrix, isMoving }: DrawRequest,
    ground: readonly [number, number, number],
  ): Uint8ClampedArray<ArrayBuffer> {
    for (const layer of this.lines.values())
      if (layer.views.includes(view)) layer.draw(rgba, frame, matrix, isMoving === true);
    return onGround(rgba, width, height, ground);
  }

  /** Draws the surface into the frame; false where the picture is no longer wanted. */
  private async drawSurface(
    frame: Frame,
    grid: DrawnGrid,
    opacity: number,
    view: ViewState,
    { matrix, isMoving }: DrawRequest,
  ): Promise<boolean> {
    const rows = 64;
    for (let row = 0; row < grid.rows - 1; row += rows) {
      drawGrid(frame, matrix, grid, row, Math.min(grid.rows - 1, row + rows), opacity);
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

  /** Fewer or more points in the next moving picture, by what this one took. */
  private adaptTo(milliseconds: number): void {
    const wanted = this.movingPoints * Math.max(0.6, Math.min(1.25, MOVING_MS / milliseconds));
    this.movingPoints = Math.max(MOVING_POINTS.least, Math.min(MOVING_POINTS.most, wanted));
  }

  private reply<Q extends Question>(question: Q, about: unknown): Promise<unknown> {
    const replies: { [K in Question]: (ask: ViewerQuestions[K]['ask']) => unknown } = {
      pick: (ask) => this.pick(ask),
      details: ({ point }) => pointDetails(this.cache, point),
      preview: async ({ preview }) => {
        if (!preview) this.preview.clear();
        const answer = preview && (await this.preview.run(preview, this.clouds));
        this.redrawAll();
        return answer;
      },
      spread: () => this.spread(),
      contours: (ask) => this.surfaces.contours(ask),
      tinted: () => this.surfaces.spread(),
      profile: ({ line }) => this.surfaces.measured((grid) => profileOver(grid, line)),
      pictureAlong: ({ line, steps }) => {
        if (!this.pictures || this.pictures.pictures.length === 0) return undefined;
        const site = { pictures: this.pictures.pictures, tiles: this.tiles, origin: this.origin };
        const colours = picturesAlong(line, steps, site);
        const { isComplete } = this.tiles;
        this.tiles.fetchNext();
        return { colours, isComplete };
      },
      surfaceAt: ({ at, from }) => this.surfaces.measured((grid) => surfaceAt(grid, at, from, this.origin[2])),
      around: (ask) => groundAround(this.cache, this.clouds, ask),
      area: ({ corners, level }) =>
        this.surfaces.measured((grid) => {
          const outline = new Outline(corners);
          return areaOver(grid, corners, (x, y) => outline.contains(x, y), level - this.origin[2]);
        }),
    };
    return Promise.resolve()
      .then(() => replies[question](about as never))
      .catch(() => undefined);
  }

  private pick({ view, column, row }: ViewerQuestions['pick']['ask']): PickedPoint | undefined {
    const frame = this.views.get(view)?.frame;
    const found = frame && pickPoint(frame, Math.floor(column), Math.floor(row), 5);
    const cached = found && this.cache.at(found.slot);
    return cached && exactPoint(cached, found.index);
  }

  /** How the values are spread over the nodes that the last pictures drew. */
  private spread(): ViewerQuestions['spread']['answer'] {
    const mode = this.style?.mode;
    const facts = mode && colourMode(mode);
    if (!facts || !isRamped(facts)) return undefined;
    const parts: Float64Array[] = [];
    for (const cached of this.cache.all()) {
      if (cached.drawnAt < this.drawCount - 6 || missingColumn(cached, mode)) continue;
      if (cached.values?.mode !== mode || cached.values.grid !== this.surfaces.grid)
        cached.values = { mode, grid: this.surfaces.grid, of: facts.valuesOf(cached, this.surfaces.grid) };
      parts.push(cached.values.of);
    }
    return spreadOf(mode, parts);
  }
}

/** What shows through a picture that is not quite opaque, where lines are not drawn into it. */
const PAPER = [246, 241, 230] as const;

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
