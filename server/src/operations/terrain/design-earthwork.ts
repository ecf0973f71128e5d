import { designEarthwork, type DesignEarthworkParameters, type Figure } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { packLines } from '@pampero/core/lines';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import { readChosenLine } from '../../passes/chosen-line.js';
import type { RunWork } from '../../runs/run-service.js';
import { readProduct, readProductBlob, storeProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** A design by rule from a line of the job, stored as a surface with its earthwork. */
function work(parameters: DesignEarthworkParameters, { pool, unit, replaces }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const { along, key, surfaceId, crestWidth, levels, level, raise, grade, fillSlope, cutSlope, crossfall, step, reach } =
      parameters; // prettier-ignore
    report(0.05, 'Reading the ground');
    const { code, line } = await readChosenLine(job.read, along, key);
    const { name: ground } = await readProduct(job.read, surfaceId, 'surface');
    report(0.2, 'Laying slopes');
    const made = await pool.run(
      'designEarthwork',
      {
        line: packLines([line]),
        ground: await readProductBlob(job.read, surfaceId, 'tin'),
        levels: { rule: levels, raise, grade: grade / 100, ...(level !== undefined && { level }) },
        crestWidth,
        crossfall: crossfall / 100,
        slopes: { fill: fillSlope, cut: cutSlope, step, reach },
      },
      signal,
    );
    const { facts, volume, origin, open } = made;
    const { short } = lengthUnits[unit];
    const cubic = (value: number): string => `${formatNumber(value, value < 100 ? 2 : 1)} ${short}³`;
    const name = parameters.name ?? `${line.isClosed ? 'Pad' : 'Bank'} on ${code}`;
    const figures: Figure[] = [
      { label: 'Cut', value: volume.cut, quantity: 'volume' },
      { label: 'Fill', value: volume.fill, quantity: 'volume' },
      { label: 'Net, fill less cut', value: volume.fill - volume.cut, quantity: 'volume' },
      { label: 'Area in plan', value: facts.areaInPlan, quantity: 'area' },
      { label: 'Lowest', value: facts.lowest, quantity: 'length' },
      { label: 'Highest', value: facts.highest, quantity: 'length' },
      { label: 'Slope lines', value: made.slopeLines, quantity: 'count' },
      ...(open > 0
        ? [{ label: 'Slope lines that do not meet the ground', value: open, quantity: 'count' as const }]
        : []),
    ];
    const left = open === 0 ? '' : `; ${formatCounted(open, 'slope line')} of ${made.slopeLines} did not meet it`;
    return {
      outcome: `${name} on ${ground}: cut ${cubic(volume.cut)}, fill ${cubic(volume.fill)}${left}`,
      figures,
      store: (models) =>
        storeProduct(models, {
          kind: 'surface',
          name,
          operation: designEarthwork.id,
          parameters,
          facts: {
            ...facts,
            origin: [...origin],
            pointsThinned: 0,
            duplicatesDropped: 0,
            facetsLeftOut: 0,
            design: { cut: volume.cut, fill: volume.fill, area: facts.areaInPlan, open },
          },
          blobs: { tin: made.tin, grid: made.grid },
          replaces,
        }),
    };
  };
}

export const operation = serverOperation(designEarthwork, work);
