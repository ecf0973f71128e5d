import { Injectable, type OnDestroy } from '@angular/core';
import { Subject } from 'rxjs';
import type { Selection } from '@pampero/core/selection';
import type { PainterName } from '../drawing/painter-name';
import type {
  DrawnCloud,
  DrawnLines,
  DrawnPicture,
  DrawnSurface,
  OptimisticChange,
  PreviewedView,
  PointStyle,
  ViewerAnswer,
  ViewerRequest,
} from '../drawing/drawing-protocol';
import type { PickedPoint, Question, ViewerQuestions } from '../drawing/viewer-questions';
import type { ViewId } from '../drawing/view-id';

type Picture = Extract<ViewerAnswer, { kind: 'picture' }>;
type Painter = Extract<ViewerAnswer, { kind: 'painter' }>;

/** The page's end of the drawing worker. */
@Injectable()
export class DrawingLink implements OnDestroy {
  private readonly worker = new Worker(new URL('../drawing/drawing.worker', import.meta.url), { type: 'module' });
  private serial = 0;
  private readonly waiting = new Map<number, (answer: never) => void>();
  readonly pictures$ = new Subject<Picture>();
  readonly trouble$ = new Subject<string>();
  readonly painter$ = new Subject<Painter>();

  constructor() {
    this.worker.onmessage = ({ data }: MessageEvent<ViewerAnswer>) => {
      if (data.kind === 'picture') this.pictures$.next(data);
      else if (data.kind === 'painter') this.painter$.next(data);
      else if (data.kind === 'trouble') this.trouble$.next(data.message);
      else {
        this.waiting.get(data.serial)?.(data.answer as never);
        this.waiting.delete(data.serial);
      }
    };
  }

  setClouds(jobId: string, origin: readonly [number, number, number], clouds: readonly DrawnCloud[]): void {
    this.send({ kind: 'clouds', jobId, origin, clouds });
  }

  setStyle(style: PointStyle): void {
    this.send({ kind: 'style', style });
  }

  setPainter(name: PainterName): void {
    this.send({ kind: 'painter', name });
  }

  setLines(key: string, layer: DrawnLines | undefined): void {
    this.send({ kind: 'lines', key, layer });
  }

  setSurfaces(surfaces: readonly DrawnSurface[]): void {
    this.send({ kind: 'surfaces', surfaces });
  }

  setPictures(pictures: readonly DrawnPicture[], wipe: number, areDraped: boolean): void {
    this.send({ kind: 'pictures', pictures, wipe, areDraped });
  }

  setDetail(surface: DrawnSurface | undefined): void {
    this.send({ kind: 'detail', surface });
  }

  setSelection(selection: Selection): void {
    this.send({ kind: 'selection', selection });
  }

  showOptimistically(change: OptimisticChange): void {
    this.send({ kind: 'optimistic', change });
  }

  /** Shows the ground in some views as it would be. */
  setPreviewed(views: readonly PreviewedView[]): void {
    this.send({ kind: 'previewed', views });
  }

  takeBack(): void {
    this.send({ kind: 'take-back' });
  }

  draw(request: Omit<Extract<ViewerRequest, { kind: 'draw' }>, 'kind' | 'serial'>): void {
    this.send({ kind: 'draw', serial: ++this.serial, ...request });
  }

  drop(view: ViewId): void {
    this.send({ kind: 'drop', view });
  }

  /** Asks the worker something; it answers when it comes to it. */
  ask<Q extends Question>(question: Q, about: ViewerQuestions[Q]['ask']): Promise<ViewerQuestions[Q]['answer']> {
    const serial = ++this.serial;
    return new Promise((resolve) => {
      this.waiting.set(serial, resolve as (answer: never) => void);
      this.send({ kind: 'ask', serial, question, about });
    });
  }

  /** The point drawn at a pixel, row 0 at the bottom. */
  pick(view: ViewId, column: number, row: number): Promise<PickedPoint | undefined> {
    return this.ask('pick', { view, column, row });
  }

  ngOnDestroy(): void {
    this.worker.terminate();
    this.pictures$.complete();
    this.trouble$.complete();
    this.painter$.complete();
  }

  private send(request: ViewerRequest): void {
    this.worker.postMessage(request);
  }
}
