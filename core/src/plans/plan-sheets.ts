import type { PlanBounds } from '../raster/index.js';

/** Sizes of paper, millimetres, the shorter side first: ISO 216, and those in use in North America (ANSI/ASME Y14.1). */
export const PAPERS = {
  A4: [210, 297],
  A3: [297, 420],
  A2: [420, 594],
  A1: [594, 841],
  letter: [215.9, 279.4],
  tabloid: [279.4, 431.8],
  'arch-d': [609.6, 914.4],
} as const satisfies Record<string, readonly [number, number]>;
export type Paper = keyof typeof PAPERS;

export const ORIENTATIONS = ['landscape', 'portrait'] as const;
export type Orientation = (typeof ORIENTATIONS)[number];

/** Scales that plans are drawn at: 1 to so many. In feet those of whole feet an inch. */
export const METRIC_SCALES = [50, 100, 200, 250, 500, 1000, 1250, 2000, 2500, 5000, 10_000, 25_000] as const;
export const FOOT_SCALES = [60, 120, 240, 360, 480, 600, 720, 1200, 2400, 4800, 12_000, 24_000] as const;

/** Border, millimetres: wider on the left, where sheets are filed (ISO 5457). */
const BORDER = { left: 20, other: 10 } as const;
/** Of the strip at the foot with title, legend and scale bar. */
const STRIP = { small: 46, large: 54 } as const;
/** Sheets of one plan lie over each other by so much, millimetres. */
const OVERLAP = 10;
/** No plan has more sheets. */
export const MOST_SHEETS = 120;

/** A box on paper, millimetres from the upper left. */
export interface PaperBox {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

export interface PaperLayout {
  readonly width: number;
  readonly height: number;
  readonly map: PaperBox;
  readonly strip: PaperBox;
}

export function paperLayout(paper: Paper, orientation: Orientation): PaperLayout {
  const [short, long] = PAPERS[paper];
  const [width, height] = orientation === 'landscape' ? [long, short] : [short, long];
  const strip = short < 250 ? STRIP.small : STRIP.large;
  const inner = { x: BORDER.left, width: width - BORDER.left - BORDER.other };
  const mapHeight = height - 2 * BORDER.other - strip;
  return {
    width,
    height,
    map: { ...inner, y: BORDER.other, height: mapHeight },
    strip: { ...inner, y: BORDER.other + mapHeight, height: strip },
  };
}

export interface PlanSheet {
  /** "A1": rows by letter from the north, columns by number from the west. */
  readonly name: string;
  readonly window: PlanBounds;
}

/** The land that the map of a sheet shows at a scale. */
export function windowAt(
  { map }: PaperLayout,
  scale: number,
  metresPerUnit: number,
  east: number,
  north: number,
): PlanBounds {
  const [wide, high] = sizeOnLand(map, scale, metresPerUnit);
  return { west: east - wide / 2, south: north - high / 2, east: east + wide / 2, north: north + high / 2 };
}

/** How much land a millimetre of paper shows, job units. */
export function landPerMillimetre(scale: number, metresPerUnit: number): number {
  return scale / 1000 / metresPerUnit;
}

function sizeOnLand(map: PaperBox, scale: number, metresPerUnit: number): readonly [number, number] {
  const perMillimetre = landPerMillimetre(scale, metresPerUnit);
  return [map.width * perMillimetre, map.height * perMillimetre];
}

/** The largest scale at which land fits one sheet with a little room around it; the smallest there is where none does. */
export function fittingScale(
  layout: PaperLayout,
  land: PlanBounds,
  metresPerUnit: number,
  scales: readonly number[],
): number {
  const fits = scales.find((scale) => {
    const [wide, high] = sizeOnLand(layout.map, scale, metresPerUnit);
    return land.east - land.west <= 0.96 * wide && land.north - land.south <= 0.96 * high;
  });
  return fits ?? scales.at(-1)!;
}

/**
 * The sheets that cover land at a scale, centred on it, from the north-west row by row. Neighbours overlap, so that no line ends at an
 * edge without being seen beyond it. More than {@link MOST_SHEETS} are counted and not laid out.
 */
export function planSheets(
  layout: PaperLayout,
  land: PlanBounds,
  scale: number,
  metresPerUnit: number,
): { readonly sheets: PlanSheet[]; readonly columns: number; readonly rows: number } {
  const [wide, high] = sizeOnLand(layout.map, scale, metresPerUnit);
  const overlap = OVERLAP * landPerMillimetre(scale, metresPerUnit);
  const countOf = (size: number, step: number): number => Math.max(1, Math.ceil((size - overlap) / (step - overlap)));
  const columns = countOf(land.east - land.west, wide);
  const rows = countOf(land.north - land.south, high);
  const middle = [(land.west + land.east) / 2, (land.south + land.north) / 2] as const;
  const at = (k: number, count: number, step: number): number => (k - (count - 1) / 2) * (step - overlap);
  const sheets: PlanSheet[] = [];
  if (columns * rows > MOST_SHEETS) return { sheets, columns, rows };
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++)
      sheets.push({
        name: `${rowName(row)}${column + 1}`,
        window: windowAt(
          layout,
          scale,
          metresPerUnit,
          middle[0] + at(column, columns, wide),
          middle[1] - at(row, rows, high),
        ),
      });
  return { sheets, columns, rows };
}

/** A to Z, then AA, AB ... */
function rowName(row: number): string {
  return row < 26 ? String.fromCharCode(65 + row) : rowName(Math.floor(row / 26) - 1) + rowName(row % 26);
}

/** One, two or five times a power of ten: the round number nearest under a length. */
export function roundUnder(length: number): number {
  const power = 10 ** Math.floor(Math.log10(length) + 1e-9);
  const share = length / power;
  return power * (share >= 5 - 1e-9 ? 5 : share >= 2 - 1e-9 ? 2 : 1);
}

/** Round coordinates within a stretch. */
export function roundPlaces(from: number, to: number, step: number): number[] {
  const first = Math.ceil(from / step - 1e-9);
  const last = Math.floor(to / step + 1e-9);
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, k) => (first + k) * step);
}
