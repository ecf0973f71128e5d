import { Outline } from '@pampero/core/selection';
import { ChosenPainter } from './chosen-painter';
import { CleaningPreview } from './cleaning-preview';
import { PreviewedGround } from './previewed-ground';
import { groundAround } from './ground-around';
import { DrawnSelection } from './drawn-selection';
import { DrawnSurfaces } from './drawn-surfaces';
import { wantedNodes, type SceneCloud } from './level-of-detail';
import { LineLayer } from './line-layer';
import { onGround } from './line-rasteriser';
import { MovingBudget } from './moving-budget';
import { PictureLayer } from './picture-layer';
import { PictureQueue, type DrawRequest } from './picture-queue';
import { nextTurn } from './next-turn';
import { NodeCache } from './node-cache';
import { pointDetails } from './point-details';
import { colourNode, exactPoint, missingColumn, sceneNode } from './point-cache';
import type { PainterName } from './painter-name';
import { atCentre, pointSize } from './point-scale';
import { colourMode, isRamped } from './colour-modes';
import { spreadOf } from './value-spread';
import { pickPoint, type Frame } from './frame';
import { shadeFrame } from './depth-shading';
import { areaOver, profileOver, surfaceAt } from './surface-grid';
import type { PointStyle, ViewerAnswer, ViewerRequest } from './drawing-protocol';
import type { PickedPoint, Question, ViewerQuestions } from './viewer-questions';
import type { ViewId } from './view-id';

/** Pixels between the samples of a level before the next is wanted. */
const SPACING_TARGET = 1.4;
/** Points between looks at newer requests. */
const SLICE_POINTS = 220_000;

/** The drawing worker's inside: draws pictures of what is in memory, slice by slice, newest request first, and answers questions. */
export class DrawingEngine {
  private origin: readonly [number, number, number] = [0, 0, 0];
  private clouds: readonly SceneCloud[] = [];
  private style: PointStyle | undefined;
  private edition = 0;
  private readonly surfaces = new DrawnSurfaces(
    () => this.origin,
    (isOther) => {
      if (isOther) for (const cached of this.cache.all()) cached.colouredAt = -1;
      this.queue.all();
    },
  );
  private readonly cache: NodeCache;
  private readonly selection: DrawnSelection;
  private readonly preview: CleaningPreview;
  private readonly previewed = new PreviewedGround();
  private readonly queue = new PictureQueue(
    (request, isOutdated) => this.draw(request, isOutdated),
    (message) => this.trouble(message),
  );
  /** What was drawn last in each view, to say which point is at a pixel. */
  private readonly frames = new Map<ViewId, Frame>();
  private readonly moving = new MovingBudget();
  private readonly pictures = new PictureLayer(
    () => this.origin,
    () => this.queue.soon(),
  );
  private readonly lines = new Map<string, LineLayer>();
  private readonly painter = new ChosenPainter((message) => this.trouble(message));
  private drawCount = 0;

  constructor(private readonly answer: (answer: ViewerAnswer, transfer: Transferable[]) => void) {
    this.cache = new NodeCache({
      arrived: () => this.queue.soon(),
      forgotten: (slot) => this.painter.forget(slot),
      trouble: (message) => this.trouble(message),
    });
    this.selection = new DrawnSelection(this.cache);
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
        this.queue.soon();
        break;
      case 'painter':
        this.choosePainter(request.name);
        break;
      case 'style':
        this.setStyle(request.style);
        break;
      case 'selection':
        if (this.selection.select(request.selection)) this.queue.quickly();
        break;
      case 'optimistic':
        this.selection.change(request.change);
        this.queue.quickly();
        break;
      case 'previewed':
        this.previewed.set(request.views);
        this.queue.all();
        break;
      case 'take-back':
        for (const cached of this.cache.all()) void this.cache.refetchMarks(cached, cached.node);
        break;
      case 'detail':
        void this.surfaces.setDetail(request.surface);
        break;
      case 'pictures':
        this.pictures.set(request);
        this.queue.all();
        break;
      case 'surfaces':
        this.surfaces.set(request.surfaces);
        break;
      case 'draw':
        this.queue.ask(request);
        break;
      case 'ask':
        void this.reply(request.question, request.about).then((answer) =>
          this.answer({ kind: 'answer', serial: request.serial, answer }, []),
        );
        break;
      case 'drop':
        this.queue.drop(request.view);
        this.frames.delete(request.view);
    }
  }

  private trouble(message: string): void {
    this.answer({ kind: 'trouble', message }, []);
  }

  private setClouds({ jobId, origin, clouds }: Extract<ViewerRequest, { kind: 'clouds' }>): void {
    this.origin = origin;
    this.clouds = clouds.map((cloud) => ({ cloud, nodes: cloud.nodes.map((node) => sceneNode(node, cloud, origin)) }));
    this.cache.setScene(
      jobId,
      origin,
      this.clouds.flatMap(({ nodes }) => nodes),
    );
    this.queue.all();
  }

  private setStyle(style: PointStyle): void {
    const before = this.style;
    this.style = style;
    this.edition++;
    // The page sends every style anew, so that what is shown is compared by what it says.
    if (JSON.stringify(before?.visible) !== JSON.stringify(style.visible)) this.selection.show(style.visible);
    this.queue.all();
  }

  private async draw(request: DrawRequest, isOutdated: () => Promise<boolean>): Promise<void> {
    const begun = performance.now();
    const { width, height, matrix, isMoving } = request;
    const picture = this.painter.get().begin(request.view, width, height);
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
          if (isMoving && drawn + node.count > this.moving.points * style.detail && drawn > 0) {
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
            if (await isOutdated()) return;
          }
        }
      }
      this.cache.fetchNext();
      this.cache.makeRoom();
    }
    const frame = picture.finish();
    if (request.showSurface && !(await this.surfaces.draw(frame, request, isOutdated))) return;
    this.frames.set(request.view, frame);
    if (drawn > 0) this.queue.isFirst = false;
    const shaded = shadeFrame(frame, request.scale, request.shading * (this.style?.shading ?? 1));
    if (!this.pictures.lay(shaded, frame, request)) isComplete = false;
    const rgba = request.ground ? this.composed(shaded, frame, request, request.ground) : shaded;
    // Lines and shading take their time too: where there are many, there are fewer points.
    if (isMoving && drawn > 0) this.moving.learn(performance.now() - begun);
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
    { view, width, height, matrix, isMoving }: DrawRequest,
    ground: readonly [number, number, number],
  ): Uint8ClampedArray<ArrayBuffer> {
    for (const layer of this.lines.values())
      if (layer.views.includes(view)) layer.draw(rgba, frame, matrix, isMoving === true);
    return onGround(rgba, width, height, ground);
  }

  private choosePainter(name: PainterName): void {
    this.painter.choose(name);
    this.moving.reset();
    // Made at once, so that the answer is true.
    this.answer({ kind: 'painter', name: this.painter.get().name }, []);
    this.queue.all();
  }

  private reply<Q extends Question>(question: Q, about: unknown): Promise<unknown> {
    const replies: { [K in Question]: (ask: ViewerQuestions[K]['ask']) => unknown } = {
      pick: (ask) => this.pick(ask),
      details: ({ point }) => pointDetails(this.cache, point),
      preview: async ({ preview }) => {
        if (!preview) this.preview.clear();
        const answer = preview && (await this.preview.run(preview, this.clouds));
        this.queue.all();
        return answer;
      },
      spread: () => this.spread(),
      contours: (ask) => this.surfaces.contours(ask),
      tinted: () => this.surfaces.spread(),
      profile: ({ line }) => this.surfaces.measured((grid) => profileOver(grid, line)),
      pictureAlong: (ask) => this.pictures.along(ask),
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
    const frame = this.frames.get(view);
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
