import { buildSurface, type BuildSurfaceParameters, type Figure } from '@pampero/contract';
import { className } from '@pampero/core/cloud';
import { lengthUnits, metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { readClouds } from '../../passes/read-clouds.js';
import { thinnedLand } from '../../passes/thinned-land.js';
import type { RunWork } from '../../runs/run-service.js';
import { storeProduct } from '../../store/product-repository.js';
import { WAITING } from '../../tasks/memory-of-tasks.js';
import type { TriangulateResult } from '../../tasks/surface-tasks.js';
import { readTerrainLines } from '../../store/terrain-lines.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** Two levels of one line's crossing that differ by less agree, metres. */
const CROSSING_TOLERANCE = 0.05;
/** Water whose points spread by more in elevation than this is not level, metres. */
const LEVEL_SPREAD = 0.3;

/** Share of the work that thinning is, where it is done tile by tile. */
const THINNING = 0.4;

/** A TIN from the points of some classes, stored with the grid that shows it. */
function work(parameters: BuildSurfaceParameters, { pool, unit, job: { square }, replaces }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const lines = await readTerrainLines(job.read, parameters.lines);
    const { classes, thinCell: cell, keepBreaks } = parameters;
    // Water is told from all points about it; without thinning all are vertices: then the clouds are read whole.
    const isTiled = cell > 0 && parameters.water === 'as-it-is';
    report(0, isTiled ? 'Thinning' : 'Reading points');
    const wanted = { cloudIds: parameters.clouds, classes, cell, keepBreaks, square };
    const thinned = isTiled
      ? await thinnedLand({ pool, job, signal }, wanted, (share) => report(THINNING * share, 'Thinning'))
      : undefined;
    const { clouds, transfer } = isTiled ? { clouds: [], transfer: [] } : await readClouds(job.read, parameters.clouds);
    const begun = isTiled ? THINNING : 0.05;
    const task = {
      clouds,
      thinned,
      classes: parameters.classes,
      thinCell: parameters.thinCell,
      keepBreaks: parameters.keepBreaks,
      options: {
        maximumEdge: parameters.maximumEdge,
        minimumAngle: parameters.minimumAngle,
        lines: {
          largestStep: parameters.vertexSpacing,
          offset: parameters.lineOffset,
          crossing: parameters.crossing,
          crossingTolerance: CROSSING_TOLERANCE / metresPer(unit),
        },
      },
      lines,
      water: parameters.water,
      metresPerUnit: metresPer(unit),
      edits: parameters.edits,
      square,
    };
    if (pool.mustWait('buildTin', task)) report(begun, WAITING);
    const built = await pool.runWatched(
      'buildTin',
      task,
      signal,
      (share) => report(begun + (0.95 - begun) * (share as number), 'Triangulating'),
      transfer,
    );
    const { tin, grid, crossings: _, facts, waters, origin, ...counts } = built;
    report(0.96, 'Storing surface');
    const name = parameters.name ?? parameters.classes.map(className).join(', ');
    return {
      outcome: `${name}: ${formatCount(facts.facets)} triangles on ${formatCount(facts.points)} points`,
      figures: figuresOf(built, parameters, lines.length > 0, unit),
      store: (models) =>
        storeProduct(models, {
          kind: 'surface',
          name,
          operation: buildSurface.id,
          parameters,
          facts: { ...facts, ...counts, origin: [...origin], ...(waters.length > 0 && { waters: waters.length }) },
          blobs: { tin, grid },
          replaces,
        }),
    };
  };
}

function figuresOf(
  built: TriangulateResult,
  { edits }: BuildSurfaceParameters,
  hasLines: boolean,
  unit: LengthUnit,
): Figure[] {
  const { facts, crossings, waters } = built;
  const { short } = lengthUnits[unit];
  const count = (label: string, value: number): Figure => ({ label, value, quantity: 'count' });
  const length = (label: string, value: number): Figure => ({ label, value, quantity: 'length' });
  const text = (label: string, value: string): Figure => ({ label, value, quantity: 'text' });
  const place = (value: number): string => formatNumber(value, 2);
  return [
    count('Points', facts.points),
    count('Triangles', facts.facets),
    { label: 'Area in plan', value: facts.areaInPlan, quantity: 'area' },
    { label: 'Area on the slope', value: facts.areaOnSlope, quantity: 'area' },
    length('Lowest', facts.lowest),
    length('Highest', facts.highest),
    length('Longest edge', facts.longestEdge),
    count('Points left out by cells', built.pointsThinned),
    count('Points dropped, same place', built.duplicatesDropped),
    count('Triangles left out', built.facetsLeftOut),
    ...(edits.length > 0
      ? [
          count('Edits done again', edits.length - built.editsRefused),
          count('Edits that no longer fit', built.editsRefused),
        ]
      : []),
    ...waters.map(({ level, spread, area }) =>
      text(
        `Water, ${formatNumber(area, 0)} ${short}²`,
        `level ${formatNumber(level, 3)} ${short}${
          spread > LEVEL_SPREAD / metresPer(unit) ? `, its points spread by ${formatNumber(spread, 2)} ${short}` : ''
        }`,
      ),
    ),
    ...(hasLines
      ? [
          count('Edges held along lines', built.edgesHeld),
          count('Edges that could not be held', built.edgesNotHeld),
          count('Points near lines left out', built.pointsNearLines),
          count('Crossings that disagree', crossings.length),
          ...crossings
            .slice(0, 20)
            .map(({ easting, northing, elevations }) =>
              text(
                `Crossing at ${place(easting)} E ${place(northing)} N`,
                elevations.map((z) => formatNumber(z, 3)).join(' and '),
              ),
            ),
        ]
      : []),
  ];
}

export const operation = serverOperation(buildSurface, work);
