import { PamperoError } from '../task/index.js';

/**
 * Where the pixels of a picture lie: pixel coordinates (column, row), counted from the outer corner of the upper left pixel, are at
 * easting = east + column · eastPerColumn + row · eastPerRow and northing = north + column · northPerColumn + row · northPerRow.
 */
export interface Placement {
  readonly east: number;
  readonly eastPerColumn: number;
  readonly eastPerRow: number;
  readonly north: number;
  readonly northPerColumn: number;
  readonly northPerRow: number;
}

/** A picture as a rectangle of pixels on the ground. */
export interface PictureFrame extends Placement {
  readonly columns: number;
  readonly rows: number;
}

/** The frame of something that says more than its frame. */
export function pictureFrameOf(p: PictureFrame): PictureFrame {
  const { columns, rows, east, eastPerColumn, eastPerRow, north, northPerColumn, northPerRow } = p;
  return { columns, rows, east, eastPerColumn, eastPerRow, north, northPerColumn, northPerRow };
}

/** The mean side of a pixel on the ground, job units. */
export function pixelSize(p: Placement): number {
  return Math.sqrt(Math.abs(p.eastPerColumn * p.northPerRow - p.eastPerRow * p.northPerColumn));
}

export function placeOfPixel(p: Placement, column: number, row: number): [number, number] {
  return [
    p.east + column * p.eastPerColumn + row * p.eastPerRow,
    p.north + column * p.northPerColumn + row * p.northPerRow,
  ];
}

/** The other way round, as numbers to multiply with: column = a · (E − east) + b · (N − north), row = c · … + d · …. */
export function pixelOfPlace(p: Placement): (easting: number, northing: number) => [number, number] {
  const { a, b, c, d } = inverseOf(p);
  return (easting, northing) => {
    const [e, n] = [easting - p.east, northing - p.north];
    return [a * e + b * n, c * e + d * n];
  };
}

/** The four numbers of {@link pixelOfPlace}. */
export function inverseOf(p: Placement): {
  readonly a: number;
  readonly b: number;
  readonly c: number;
  readonly d: number;
} {
  const whole = p.eastPerColumn * p.northPerRow - p.eastPerRow * p.northPerColumn;
  if (!(Math.abs(whole) > 0) || !Number.isFinite(whole))
    throw new PamperoError('picture-flat', {
      what: 'The picture’s pixels have no size on the ground.',
      fix: 'Check the six numbers of its georeference.',
    });
  return {
    a: p.northPerRow / whole,
    b: -p.eastPerRow / whole,
    c: -p.northPerColumn / whole,
    d: p.eastPerColumn / whole,
  };
}

/** The box about a picture. */
export function picturePlan(frame: PictureFrame): { west: number; south: number; east: number; north: number } {
  const corners = [
    [0, 0],
    [frame.columns, 0],
    [frame.columns, frame.rows],
    [0, frame.rows],
  ].map(([c, r]) => placeOfPixel(frame, c!, r!));
  const [es, ns] = [corners.map(([e]) => e), corners.map(([, n]) => n)];
  return { west: Math.min(...es), south: Math.min(...ns), east: Math.max(...es), north: Math.max(...ns) };
}

/** A part of a picture, in its pixels from the upper left. */
export interface PicturePart {
  readonly left: number;
  readonly top: number;
  readonly columns: number;
  readonly rows: number;
}

/** The box about a part of a picture. */
export function planOfPart(
  frame: PictureFrame,
  { left, top, columns, rows }: PicturePart,
): ReturnType<typeof picturePlan> {
  const [east, north] = placeOfPixel(frame, left, top);
  return picturePlan({ ...frame, east, north, columns, rows });
}

/** Whether columns run east and rows south, as nearly all pictures have it. */
export function isNorthUp(p: Placement): boolean {
  const least = 1e-9 * pixelSize(p);
  return (
    Math.abs(p.eastPerRow) <= least && Math.abs(p.northPerColumn) <= least && p.eastPerColumn > 0 && p.northPerRow < 0
  );
}
