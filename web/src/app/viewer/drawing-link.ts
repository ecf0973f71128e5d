import { Subject } from 'rxjs';
import type { PainterName } from './point-painter';
import type {
  DrawnLines,
  DrawnCloud,
  PickedPoint,
  PointStyle,
  ViewerAnswer,
  ViewerRequest,
  ViewId,
} from './viewer-protocol';

type Picture = Extract<ViewerAnswer, { kind: 'picture' }>;
type Painter = Extract<ViewerAnswer, { kind: 'painter' }>;

/** The page's end of the drawing worker. */
export class DrawingLink {
  private readonly worker = new Worker(new URL('./drawing.worker', import.meta.url), { type: 'module' });
  private serial = 0;
  private readonly picks = new Map<number, (point: PickedPoint | undefined) => void>();
  readonly pictures$ = new Subject<Picture>();
  readonly trouble$ = new Subject<string>();
  readonly painter$ = new Subject<Painter>();

  constructor() {
    this.worker.onmessage = ({ data }: MessageEvent<ViewerAnswer>) => {
      if (data.kind === 'picture') this.pictures$.next(data);
      else if (data.kind === 'painter') this.painter$.next(data);
      else if (data.kind === 'trouble') this.trouble$.next(data.message);
      else {
        this.picks.get(data.serial)?.(data.point);
        this.picks.delete(data.serial);
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

  setSurface(url: string | undefined): void {
    this.send({ kind: 'surface', url });
  }

  draw(request: Omit<Extract<ViewerRequest, { kind: 'draw' }>, 'kind' | 'serial'>): void {
    this.send({ kind: 'draw', serial: ++this.serial, ...request });
  }

  drop(view: ViewId): void {
    this.send({ kind: 'drop', view });
  }

  /** The point drawn at a pixel, row 0 at the bottom. */
  pick(view: ViewId, column: number, row: number): Promise<PickedPoint | undefined> {
    const serial = ++this.serial;
    return new Promise((resolve) => {
      this.picks.set(serial, resolve);
      this.send({ kind: 'pick', view, serial, column, row });
    });
  }

  close(): void {
    this.worker.terminate();
    this.pictures$.complete();
    this.trouble$.complete();
    this.painter$.complete();
  }

  private send(request: ViewerRequest): void {
    this.worker.postMessage(request);
  }
}
