import { unpackArrays } from '@pampero/core/binary';
import { traceGrid } from '@pampero/core/contours';
import { withPart, type GridPart } from '@pampero/core/grids';
import type { RasterFrame } from '@pampero/core/raster';
import { contourSegments } from './contour-lines';
import type { DrawnSurface } from './drawing-protocol';
import type { ViewerQuestions } from './viewer-questions';
import type { DrawRequest } from './picture-queue';
import { drawGrid, type DrawnGrid } from './grid-rasteriser';
import type { Frame, Matrix } from './frame';
import { coversView, shadedGrid, spreadOfValues, tintedValues, windowOf } from './surface-grid';

/** Rows of a surface that are drawn at once, and after how many such bands newer requests are looked at. */
const [BAND_ROWS, BANDS_A_LOOK] = [64, 4];

interface Raster {
  readonly values: Float32Array;
  readonly place: RasterFrame;
}

/** A surface as a grid with its colours, and how solid it is drawn. */
export interface SolidGrid {
  readonly grid: DrawnGrid;
  readonly opacity: number;
}

/** The surfaces and grids that are drawn: fetched as the page names them, coloured, and measured on. */
export class DrawnSurfaces {
  /** The one that heights are measured from. */
  grid: DrawnGrid | undefined;
  /** Done when what was last told of surfaces has come. */
  private settled: Promise<void> = Promise.resolve();
  private gridUrl: string | undefined;
  private colouredFrom: string | undefined;
  private drawn: readonly SolidGrid[] = [];
  /** What the surface that was drawn last is coloured by. */
  private tinted: Float32Array | undefined;
  private serial = 0;
  private detail: DrawnGrid | undefined;
  private detailUrl: string | undefined;
  /** Surfaces among them, by where they are read from. */
  private readonly surfaceOf = new Map<string, number>();
  private readonly rasters = new Map<string, Promise<Raster | undefined>>();

  /**
   * @param origin - of the scene
   * @param changed - what is drawn has come or gone; with `isOther` the heights that points may be coloured by are others
   */
  constructor(
    private readonly origin: () => readonly [number, number, number],
    private readonly changed: (isOther: boolean) => void,
  ) {}

  set(surfaces: readonly DrawnSurface[]): void {
    this.settled = this.read(surfaces).catch(() => undefined);
  }

  async setDetail(surface: DrawnSurface | undefined): Promise<void> {
    this.detailUrl = surface?.url;
    if (!surface) {
      this.detail = undefined;
      return;
    }
    const { url, tint } = surface;
    const raster = await this.readRaster(url);
    const by = typeof tint.by === 'string' ? tint.by : await this.raster(tint.by.url);
    if (url !== this.detailUrl || !raster || !by) return;
    const values = tintedValues(raster.values, raster.place, by);
    this.detail = shadedGrid(raster.values, raster.place, this.origin(), values, tint);
    this.changed(false);
  }

  /** What a view draws: close up in Plan the finer piece of the surface, where that covers it. */
  of(view: string, matrix: Matrix): readonly SolidGrid[] {
    const isClose = view === 'plan' && this.detail && coversView(this.detail, matrix);
    return isClose ? [{ grid: this.detail!, opacity: 1 }] : this.drawn;
  }

  /** Draws the surfaces into the frame; false where the picture is no longer wanted. */
  async draw(
    frame: Frame,
    { view, matrix, isMoving }: DrawRequest,
    isOutdated: () => Promise<boolean>,
  ): Promise<boolean> {
    for (const { grid, opacity } of this.of(view, matrix))
      for (let row = 0; row < grid.rows - 1; row += BAND_ROWS) {
        drawGrid(frame, matrix, grid, row, Math.min(grid.rows - 1, row + BAND_ROWS), opacity);
        if (!isMoving && (row / BAND_ROWS) % BANDS_A_LOOK === BANDS_A_LOOK - 1 && (await isOutdated())) return false;
      }
    return true;
  }

  /** Measures on the surface that heights are from, once it is here: who asks right after it was told is not answered from the one before. */
  async measured<T>(measure: (grid: DrawnGrid) => T): Promise<T | undefined> {
    for (let last; last !== this.settled;) await (last = this.settled);
    return this.grid && measure(this.grid);
  }

  /** How the values are spread that the surface drawn last is coloured by. */
  spread(): ReturnType<typeof spreadOfValues> | undefined {
    return this.tinted && spreadOfValues(this.tinted);
  }

  /** Quick contours of what is on the screen: the surface as it is drawn, in the window alone. */
  async contours({
    interval,
    base,
    indexEvery,
    window,
  }: ViewerQuestions['contours']['ask']): Promise<ViewerQuestions['contours']['answer']> {
    const raster = this.gridUrl === undefined ? undefined : await this.raster(this.gridUrl);
    if (!raster) return undefined;
    const part = windowOf(raster.values, raster.place, window);
    const set = traceGrid(part.values, part.place, { interval, base, indexEvery, minimumLength: 0 });
    const { index, between } = contourSegments(set, this.origin(), Infinity);
    return { index, between, lines: set.level.length };
  }

  private async read(surfaces: readonly DrawnSurface[]): Promise<void> {
    const serial = ++this.serial;
    const drawn: { grid: DrawnGrid; opacity: number; isFlat: boolean }[] = [];
    for (const { url, tint, opacity, productId, isFlat = false } of surfaces) {
      if (!isFlat) this.surfaceOf.set(url, productId);
      const raster = await this.raster(url);
      const by = typeof tint.by === 'string' ? tint.by : await this.raster(tint.by.url);
      if (serial !== this.serial) return;
      if (!raster || !by) continue;
      const origin = this.origin();
      const values = tintedValues(raster.values, raster.place, by);
      const heights = isFlat ? levelled(raster.values, origin[2]) : raster.values;
      drawn.push({ grid: shadedGrid(heights, raster.place, origin, values, tint), opacity, isFlat });
      this.tinted = values;
    }
    this.forgetOthers(surfaces);
    const before = this.grid?.elevation.length;
    this.drawn = drawn;
    // Heights are measured from surfaces alone.
    this.grid = drawn.findLast((each) => !each.isFlat)?.grid;
    this.gridUrl = surfaces.at(-1)?.url;
    // Points coloured by their height over it are coloured anew; another tint leaves them as they are.
    const isOther = this.gridUrl !== this.colouredFrom || before !== this.grid?.elevation.length;
    this.colouredFrom = this.gridUrl;
    this.changed(isOther);
  }

  private forgetOthers(surfaces: readonly DrawnSurface[]): void {
    const wanted = new Set(
      surfaces.flatMap(({ url, tint }) => (typeof tint.by === 'string' ? [url] : [url, tint.by.url])),
    );
    for (const url of this.rasters.keys())
      if (!wanted.has(url)) {
        this.rasters.delete(url);
        this.surfaceOf.delete(url);
      }
  }

  /** A raster as the server has it for display, fetched once. */
  private raster(url: string): Promise<Raster | undefined> {
    const known = this.rasters.get(url);
    if (known) return known;
    const read = this.readRaster(url);
    this.rasters.set(url, read);
    return read;
  }

  private async readRaster(url: string): Promise<Raster | undefined> {
    // Of a surface that was edited only what differs from the one before is sent.
    const known = this.surfaceOf.has(url)
      ? [...this.rasters.keys()].findLast((key) => key !== url && this.surfaceOf.has(key))
      : undefined;
    const before = known === undefined ? undefined : await this.rasters.get(known);
    const since = before && this.surfaceOf.get(known!);
    const response = await fetch(since === undefined ? url : `${url}?since=${since}`).catch(() => undefined);
    if (!response?.ok) return undefined;
    const { arrays, facts } = unpackArrays(new Uint8Array(await response.arrayBuffer()));
    const values = arrays['elevation'] as Float32Array;
    const { part, ...place } = facts as unknown as RasterFrame & { readonly part?: GridPart };
    return { values: part && before ? withPart(before.values, place.columns, part, values) : values, place };
  }
}

/** A level sheet where there are values. */
function levelled(values: Float32Array, level: number): Float32Array {
  return values.map((value) => (Number.isNaN(value) ? NaN : level));
}
