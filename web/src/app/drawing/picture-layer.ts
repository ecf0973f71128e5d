import type { ViewerQuestions } from './viewer-questions';
import type { ViewerRequest } from './drawing-protocol';
import { drape, layUnder, picturesAlong } from './picture-painter';
import { PictureTiles } from './picture-tiles';
import type { DrawRequest } from './picture-queue';
import type { Frame } from './frame';

/** What shows through a picture that is not quite opaque, where lines are not drawn into it. */
const PAPER = [246, 241, 230] as const;

/** The pictures of the land: under the points in Plan, over surfaces, along a section's ground line. */
export class PictureLayer {
  private shown: Extract<ViewerRequest, { kind: 'pictures' }> | undefined;
  private readonly tiles: PictureTiles;

  constructor(
    private readonly origin: () => readonly [number, number, number],
    arrived: () => void,
  ) {
    this.tiles = new PictureTiles(arrived);
  }

  set(shown: Extract<ViewerRequest, { kind: 'pictures' }>): void {
    this.shown = shown;
  }

  /** Over surfaces and under points; false where tiles of them are still on their way. */
  lay(rgba: Uint8ClampedArray, frame: Frame, request: DrawRequest): boolean {
    const { view, matrix, showSurface, ground = PAPER } = request;
    if (!this.shown || this.shown.pictures.length === 0) return true;
    const { pictures, wipe, areDraped } = this.shown;
    const site = { pictures, tiles: this.tiles, origin: this.origin(), ground };
    this.tiles.forgetWanted();
    if (showSurface && areDraped && view !== 'section' && view !== 'after') drape(rgba, frame, matrix, site);
    if (view === 'plan') layUnder(rgba, frame, matrix, site, wipe);
    return this.fetchWanted();
  }

  along({ line, steps }: ViewerQuestions['pictureAlong']['ask']): ViewerQuestions['pictureAlong']['answer'] {
    if (!this.shown || this.shown.pictures.length === 0) return undefined;
    const colours = picturesAlong(line, steps, {
      pictures: this.shown.pictures,
      tiles: this.tiles,
      origin: this.origin(),
    });
    return { colours, isComplete: this.fetchWanted() };
  }

  private fetchWanted(): boolean {
    const { isComplete } = this.tiles;
    this.tiles.fetchNext();
    return isComplete;
  }
}
