import { columnFrom } from '@pampero/core/columns';
import type { ClientViewFacts, ClientViewOptions, Job } from '@pampero/contract';
import { unpackArrays } from '@pampero/core/binary';
import type { ViewContent, ViewLines } from '@pampero/core/client-view';
import { unpackContours } from '@pampero/core/contours';
import { lengthUnits } from '@pampero/core/geodesy';
import { fillElevations, simplifyLine, type LineShape } from '@pampero/core/lines';
import type { RasterFrame } from '@pampero/core/raster';
import { hexOf, rampColour } from '@pampero/core/tints';
import { formatCount } from '@pampero/core/wording';
import { readCodes } from '../store/code-repository.js';
import { readLines } from '../store/line-repository.js';
import type { Models } from '../store/models.js';
import { listPins } from '../store/pin-repository.js';
import { listProducts, readProduct, readProductBlob, readShownPart } from '../store/product-repository.js';
import { gatherPoints } from './gather-points.js';

const RAMP_STEPS = 32;
const [CONTOUR, INDEX_CONTOUR] = ['#7a5a2e', '#5b3d16'];
/** Vertices of contours and lines in all; beyond it they are simplified further. */
const MOST_VERTICES = 600_000;

export interface GatheredView {
  readonly content: ViewContent;
  readonly facts: Omit<ClientViewFacts, 'hasPicture'>;
}

/** What a client is shown of a job, with at most so many points. */
export async function gatherView(
  models: Models,
  job: Job,
  options: ClientViewOptions,
  mostPoints: number,
): Promise<GatheredView> {
  const surface = await readProduct(models, options.surfaceId, 'surface');
  const grid = unpackArrays(await readShownPart(models, 'surface', surface.id, 'grid'));
  const frame = grid.facts as RasterFrame;
  const elevation = grid.arrays['elevation'] as Float32Array;
  const base = Math.floor(surface.facts.lowest);
  const heights = elevation.map((z) => z - base);
  const drawn = await gatherLines(models, options, frame);
  const points = await gatherPoints(models, options.clouds, frame, base, mostPoints);
  const pins = options.withPlaces ? await listPins(models) : [];
  const remarks = [
    ...(surface.isStale ? ['What the surface was made from has changed since it was made.'] : []),
    ...(points.of > points.x.length
      ? [`${formatCount(points.x.length)} of ${formatCount(points.of)} measured points are shown, evenly chosen.`]
      : []),
    'Heights between measured points are interpolated. Where there is a gap, nothing was measured.',
  ];
  return {
    content: { frame, base, heights, lines: packedLines(drawn.lines, frame, base), points },
    facts: {
      title: options.title ?? job.name,
      words: options.words,
      madeAt: new Date().toISOString().slice(0, 10),
      unit: { short: lengthUnits[job.unit].short, name: lengthUnits[job.unit].name },
      system:
        job.crs.epsg === undefined
          ? (job.crs.name ?? 'a local system')
          : `EPSG:${job.crs.epsg}${job.crs.name ? `, ${job.crs.name}` : ''}`,
      kinds: drawn.kinds,
      ramp: Array.from({ length: RAMP_STEPS }, (_, k) => hexOf(rampColour('land', k / (RAMP_STEPS - 1)))),
      pointCount: points.x.length,
      pointsOf: points.of,
      places: pins.flatMap(({ kind, name, body }) => {
        const at = body['place'] as readonly [number, number, number] | undefined;
        return kind === 'note' && at
          ? [{ words: name, at: [at[0] - frame.east, at[1] - frame.north, at[2] - base] as const }]
          : [];
      }),
      remarks,
    },
  };
}

interface DrawnLine extends LineShape {
  readonly kind: number;
}

async function gatherLines(
  models: Models,
  { contoursId, withLines }: ClientViewOptions,
  frame: RasterFrame,
): Promise<{ lines: DrawnLine[]; kinds: { name: string; colour: string; isContour: boolean }[] }> {
  const kinds = [
    { name: 'Contours', colour: CONTOUR, isContour: true },
    { name: 'Index contours', colour: INDEX_CONTOUR, isContour: true },
  ];
  const lines: DrawnLine[] = [];
  if (contoursId !== undefined) {
    const set = unpackContours(
      await readProductBlob(models, (await readProduct(models, contoursId, 'contours')).id, 'lines'),
    );
    for (let k = 0; k < set.level.length; k++) {
      const [from, to] = [set.starts[k]!, set.starts[k + 1] ?? set.easting.length];
      lines.push({
        kind: set.isIndex[k] === 1 ? 1 : 0,
        easting: set.easting.slice(from, to).map((x) => x + set.origin[0]),
        northing: set.northing.slice(from, to).map((y) => y + set.origin[1]),
        elevation: new Float64Array(to - from).fill(set.level[k]!),
        source: new Uint8Array(to - from),
        isClosed: false,
      });
    }
  }
  if (withLines) {
    const codes = await readCodes(models);
    for (const product of await listProducts(models)) {
      if (product.kind !== 'lines') continue;
      const { code } = product.facts;
      const known = codes.find((each) => each.code === code);
      kinds.push({ name: known?.meaning || code, colour: known?.colour ?? '#c8452f', isContour: false });
      for (const line of await readLines(models, product.id))
        lines.push({ ...fillElevations(line), kind: kinds.length - 1 });
    }
  }
  return { lines: simplified(lines, frame), kinds };
}

/** As fine as a screen can show, coarser where there would be too many vertices. */
function simplified(lines: readonly DrawnLine[], frame: RasterFrame): DrawnLine[] {
  const extent = Math.max(frame.columns, frame.rows) * frame.cell;
  for (let tolerance = extent / 40_000; ; tolerance *= 2) {
    const out = lines.map((line) => ({ ...simplifyLine(line, tolerance), kind: line.kind }));
    if (out.reduce((sum, { easting }) => sum + easting.length, 0) <= MOST_VERTICES || tolerance > extent) return out;
  }
}

function packedLines(lines: readonly DrawnLine[], frame: RasterFrame, base: number): ViewLines {
  const starts = new Uint32Array(lines.length + 1);
  const lengthOf = ({ easting, isClosed }: DrawnLine): number => easting.length + (isClosed ? 1 : 0);
  lines.forEach((line, k) => (starts[k + 1] = starts[k]! + lengthOf(line)));
  const total = starts[lines.length]!;
  const [x, y, z] = [new Float32Array(total), new Float32Array(total), new Float32Array(total)];
  lines.forEach((line, k) => {
    for (let i = 0; i < lengthOf(line); i++) {
      const from = i % line.easting.length;
      x[starts[k]! + i] = line.easting[from]! - frame.east;
      y[starts[k]! + i] = line.northing[from]! - frame.north;
      z[starts[k]! + i] = line.elevation[from]! - base;
    }
  });
  return { starts, kind: columnFrom(Uint8Array, lines, ({ kind }) => Math.min(255, kind)), x, y, z };
}
