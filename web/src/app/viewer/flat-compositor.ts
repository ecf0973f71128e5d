import type { DrawingLink } from './drawing-link';
import { paintOf, type LineLayer, type PictureSink, type ViewPlace } from './picture-sink';
import type { ViewId } from '../drawing/view-id';

/** What is seen between the views. */
const BETWEEN = '#8A857A';

/** Shows the worker's pictures as they are, lines and ground in them: nothing of WebGL, little for the page to do. */
export class FlatCompositor implements PictureSink {
  readonly isFlat = true;
  private readonly context: CanvasRenderingContext2D;
  private readonly pictures = new Map<ViewId, ImageData>();

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly link: DrawingLink,
  ) {
    this.context = canvas.getContext('2d', { alpha: false })!;
  }

  resize(width: number, height: number): void {
    this.canvas.width = width;
    this.canvas.height = height;
    this.context.fillStyle = BETWEEN;
    this.context.fillRect(0, 0, width, height);
  }

  setPicture(view: ViewId, width: number, height: number, rgba: Uint8ClampedArray<ArrayBuffer>): void {
    this.pictures.set(view, new ImageData(rgba, width, height));
  }

  setLines(key: string, layer: LineLayer | undefined, views: readonly ViewId[] = ['plan', 'model']): void {
    this.link.setLines(key, layer && { positions: layer.positions, paint: paintOf(layer), views });
  }

  render(view: ViewId, { left, top, width, height }: ViewPlace, _canvasHeight: number, background: string): void {
    const picture = this.pictures.get(view);
    // A picture of another size is on its way out: the next one is being drawn.
    if (picture && picture.width === width && picture.height === height) this.context.putImageData(picture, left, top);
    else {
      this.context.fillStyle = background;
      this.context.fillRect(left, top, width, height);
    }
  }

  dispose(): void {
    this.pictures.clear();
  }
}
