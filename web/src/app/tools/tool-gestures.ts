import { effect, inject, Injectable, signal, untracked } from '@angular/core';
import { DrawingLink } from '../viewer/drawing-link';
import { PointerTool, type ToolEvent } from '../viewer/pointer-tool';
import { ViewCameras } from '../viewer/view-cameras';
import { ARROW_STEPS } from '../viewer/view-keys';
import type { PickedPoint } from '../drawing/viewer-questions';
import type { ViewId } from '../drawing/view-id';
import { JobStore } from '../state/job-store';
import { ViewStore } from '../state/view-store';
import { MeasureStore } from './measure-store';
import { NotePen } from './note-pen';
import { SectionPen } from './section-pen';
import { SelectionPen } from './selection-pen';
import type { ToolId } from '../state/tool-id';
import type { ToolHandler } from './tool-handler';
import { toolFacts } from './tools';

type Pixel = readonly [number, number];

/** Pixels within which a click on the first corner closes an outline, and beyond which a press is a drag. */
const CLOSES_WITHIN = 9;
const DRAG_FROM = 5;
/** Places from which on Enter ends what is drawn. */
const ENDED_FROM: Partial<Record<ToolId, number>> = { outline: 3, brush: 1, above: 2, below: 2 };
/** Pixels between the places of a freehand line. */
const FREEHAND_STEP = 4;

/** What the tool in hand is drawing: pointer and keys come in, shapes, marks and sections go out. */
@Injectable()
export class ToolGestures extends PointerTool {
  private readonly store = inject(JobStore);
  private readonly views = inject(ViewStore);
  private readonly cameras = inject(ViewCameras);
  private readonly selecting = inject(SelectionPen);
  private readonly sections = inject(SectionPen);
  private readonly measures = inject(MeasureStore);
  private readonly link = inject(DrawingLink);
  private readonly notes = inject(NotePen);

  /** The view that is drawn in, and the places so far, held so that they stay put when the view moves. */
  override readonly view = signal<ViewId | undefined>(undefined);
  override readonly held = signal<readonly Pixel[]>([]);
  /** Where the pointer, or the keys' own cross, is: pixels of a view. */
  override readonly at = signal<
    { readonly view: ViewId; readonly px: number; readonly py: number; readonly byKeys: boolean } | undefined
  >(undefined);
  /** What a click in Plan does with tools that belong to a stage. */
  private readonly clicks = new Map<ToolId, (place: readonly [number, number]) => void>();
  private readonly pointClicks = new Map<ToolId, (point: PickedPoint) => void>();
  private readonly handlers = new Map<ToolId, ToolHandler>();
  private followed: ToolId = 'look';
  private press: { readonly px: number; readonly py: number; isDrag: boolean } | undefined;

  constructor() {
    super();
    effect(() => {
      this.views.tool();
      untracked(() => this.follow());
    });
  }

  /** Another tool in hand begins anew: told by the effect, or by the first thing done with it, if that is sooner. */
  private follow(): void {
    const tool = this.views.tool();
    if (tool === this.followed) return;
    this.handlers.get(this.followed)?.left?.();
    this.followed = tool;
    this.cancel();
  }

  /** Says what a click on a point of a cloud does, in any view, while a tool is in hand. */
  onPoint(tool: ToolId, act: (point: PickedPoint) => void): void {
    this.pointClicks.set(tool, act);
  }

  /** Says what a click in Plan does, with easting and northing, while a tool is in hand. */
  onClick(tool: ToolId, act: (place: readonly [number, number]) => void): void {
    this.clicks.set(tool, act);
  }

  /** Hands pointer and keys to whoever keeps the state of a tool. */
  handle(tool: ToolId, handler: ToolHandler): void {
    this.handlers.set(tool, handler);
  }

  private get handler(): ToolHandler | undefined {
    return this.handlers.get(this.views.tool());
  }

  /** Whether the tool in hand works in this view. */
  override worksIn(view: ViewId): boolean {
    const tool = this.views.tool();
    return tool !== 'look' && toolFacts(tool).views.includes(view);
  }

  /** Places drawn so far, in pixels as the view now is. */
  pixels(): Pixel[] {
    const view = this.view();
    return view ? this.held().map((place) => this.cameras.pixelOf(view, place)) : [];
  }

  cancel(): void {
    this.view.set(undefined);
    this.held.set([]);
    this.press = undefined;
  }

  override down(event: ToolEvent): void {
    this.follow();
    const { view, px, py } = event;
    this.press = { px, py, isDrag: false };
    const tool = this.views.tool();
    if (tool === 'brush' || tool === 'box') this.begin(view, [px, py]);
    this.at.set({ view, px, py, byKeys: false });
    this.handler?.down?.(event);
  }

  override move(event: ToolEvent): void {
    const { view, px, py } = event;
    this.at.set({ view, px, py, byKeys: false });
    this.handler?.move?.(event);
    const { press } = this;
    if (!press) {
      const [first, second] = this.held();
      if (this.views.tool() === 'section' && first && !second && this.views.section())
        this.sections.follow(first, this.cameras.hold('plan', px, py));
      return;
    }
    if (!press.isDrag && Math.hypot(px - press.px, py - press.py) < DRAG_FROM) return;
    const tool = this.views.tool();
    if (!press.isDrag) {
      press.isDrag = true;
      if (tool === 'outline' && this.held().length === 0) this.begin(view, [press.px, press.py]);
    }
    if (tool === 'brush' || tool === 'outline') {
      const last = this.pixels().at(-1);
      if (last && Math.hypot(px - last[0], py - last[1]) >= FREEHAND_STEP) this.put([px, py]);
    }
  }

  override up(event: ToolEvent): void {
    const { px, py } = event;
    const wasDrag = this.press?.isDrag ?? false;
    this.press = undefined;
    const tool = this.views.tool();
    this.handler?.up?.(event);
    if (tool === 'brush') this.finish(event);
    else if (tool === 'box') {
      if (wasDrag) {
        this.put([px, py]);
        this.finish(event);
      } else this.cancel();
    } else if (tool === 'outline' && wasDrag && this.held().length > 8) this.finish(event);
    else if (!wasDrag) this.click(event);
  }

  /** Double clicks end lines; the second click of the pair has put a place already. */
  override doubleClick(event: ToolEvent): void {
    if (this.handler) this.handler.doubleClick?.(event);
    else if (this.views.tool() === 'measure') this.measures.end();
    else if (this.held().length > 1) {
      this.held.update((held) => held.slice(0, -1));
      this.finish(event);
    }
  }

  private click(event: ToolEvent): void {
    const { view, px, py } = event;
    if (this.handler) {
      this.handler.click?.(event);
      return;
    }
    switch (this.views.tool()) {
      case 'outline':
        if (this.closes(event)) this.finish(event);
        else this.put([px, py], view);
        break;
      case 'box':
      case 'above':
      case 'below':
        this.put([px, py], view);
        if (this.views.tool() === 'box' && this.held().length === 2) this.finish(event);
        break;
      case 'section':
        this.put([px, py], view);
        this.endSection();
        break;
      case 'touch':
        this.withPoint(view, px, py, (point) => this.selecting.touch(point, event));
        break;
      case 'measure':
        this.withPoint(view, px, py, (point) => this.measures.add([point.easting, point.northing, point.elevation]));
        break;
      case 'note':
        this.withPoint(view, px, py, (point) => this.notes.add(point));
        break;
      default: {
        const onPoint = this.pointClicks.get(this.views.tool());
        if (onPoint) {
          this.withPoint(view, px, py, onPoint);
          break;
        }
        const act = this.clicks.get(this.views.tool());
        if (!act || view !== 'plan') break;
        const [x, y] = this.cameras.hold('plan', px, py);
        const [ox, oy] = this.cameras.origin();
        act([x + ox, y + oy]);
      }
    }
  }

  /** A click near the first corner of an outline. */
  private closes({ view, px, py }: ToolEvent): boolean {
    const [first, , third] = this.pixels();
    return this.view() === view && !!first && !!third && Math.hypot(px - first[0], py - first[1]) < CLOSES_WITHIN;
  }

  private withPoint(view: ViewId, px: number, py: number, then: (point: PickedPoint) => void): void {
    const { height } = this.cameras.places()[view];
    void this.link.pick(view, px, height - py).then((point) => {
      if (point) then(point);
      else this.store.say('There is no point here. Zoom in, or click nearer to one.');
    });
  }

  private begin(view: ViewId, pixel: Pixel): void {
    this.view.set(view);
    this.held.set([this.cameras.hold(view, ...pixel)]);
  }

  private put(pixel: Pixel, view: ViewId | undefined = this.view()): void {
    if (!view) return;
    if (view !== this.view()) this.begin(view, pixel);
    else this.held.update((held) => [...held, this.cameras.hold(view, ...pixel)]);
  }

  /** Makes a shape of what was drawn and hands it to the selection. */
  finish(event: Pick<ToolEvent, 'shift' | 'alt'>): void {
    const view = this.view();
    const pixels = this.pixels();
    const tool = this.views.tool();
    this.cancel();
    if (!view || pixels.length === 0) return;
    this.selecting.draw(tool, view, pixels, event);
  }

  private endSection(): void {
    const [a, b] = this.held();
    if (!a || !b) return;
    this.cancel();
    this.sections.lay(a, b);
  }

  /** Keys of the tool in hand: arrows move a cross, Enter clicks with it. False where the key is not the tool's. */
  override keyed(event: KeyboardEvent, view: ViewId): boolean {
    this.follow();
    const tool = this.views.tool();
    if (tool === 'look') return false;
    const modifiers = { shift: event.shiftKey, alt: event.altKey };
    if (this.handler?.keyed?.(event, view)) return true;
    if (event.key === 'Escape') {
      if (this.held().length > 0) this.cancel();
      else if (tool === 'measure' && this.measures.places().length > 0) this.measures.clear();
      else this.views.tool.set('look');
      return true;
    }
    if (event.key === '[' || event.key === ']') {
      this.selecting.changeBrush(event.key === '[' ? 0.8 : 1.25);
      return true;
    }
    if (!this.worksIn(view)) return false;
    if (event.key === 'Backspace' && this.held().length > 0) {
      this.held.update((held) => held.slice(0, -1));
      return true;
    }
    const { width, height } = this.cameras.places()[view];
    const present = this.at();
    const [px, py] = present?.view === view ? [present.px, present.py] : [width / 2, height / 2];
    const step = event.shiftKey ? 50 : event.altKey ? 1 : 10;
    const [dx, up] = ARROW_STEPS[event.key] ?? [0, 0];
    if (dx !== 0 || up !== 0) {
      const within = (value: number, size: number): number => Math.max(0, Math.min(size - 1, value));
      const to = { view, px: within(px + dx * step, width), py: within(py - up * step, height), byKeys: true };
      this.at.set(to);
      this.handler?.move?.({ ...to, ...modifiers });
      if (tool === 'brush' && this.held().length > 0) this.put([to.px, to.py]);
      return true;
    }
    if (event.key !== 'Enter' && event.key !== ' ') return false;
    this.at.set({ view, px, py, byKeys: true });
    const tap = { view, px, py, ...modifiers };
    if (event.key === ' ' && tool === 'brush' && this.held().length === 0) this.begin(view, [px, py]);
    else if (event.key === ' ') this.click({ ...tap, shift: false, alt: false });
    else if (tool === 'measure' && this.measures.places().length > 1) this.measures.end();
    else if (this.held().length >= (ENDED_FROM[tool] ?? Infinity)) this.finish(modifiers);
    else this.click(tap);
    return true;
  }
}
