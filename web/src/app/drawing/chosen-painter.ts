import { GraphicsPainter } from './graphics-painter';
import type { PainterName } from './painter-name';
import { ProcessorPainter, type PointPainter } from './point-painter';

/** The painter that is asked for, if it can be had; the processor draws whatever happens. */
export class ChosenPainter {
  private readonly processor = new ProcessorPainter();
  private graphics: GraphicsPainter | undefined;
  private wanted: PainterName = 'processor';

  constructor(private readonly trouble: (message: string) => void) {}

  choose(name: PainterName): void {
    this.wanted = name;
  }

  get(): PointPainter {
    if (this.wanted === 'graphics' && !(this.graphics?.isLost ?? false)) {
      try {
        return (this.graphics ??= new GraphicsPainter());
      } catch (error) {
        this.trouble((error as Error).message);
        this.wanted = 'processor';
      }
    }
    return this.processor;
  }

  /** A node is out of memory: so is what the graphics hold of it. */
  forget(slot: number): void {
    this.graphics?.forget(slot);
  }
}
