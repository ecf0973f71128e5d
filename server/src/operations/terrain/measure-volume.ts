import { measureVolume, type Figure, type MeasureVolumeParameters } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import type { RunWork } from '../../runs/run-service.js';
import { readProduct, readProductBlob, storeProduct } from '../../store/product-repository.js';
import { readTerrainLines } from '../../store/terrain-lines.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** Earth between a surface and a level, another surface or the base of a heap, kept with its figures. */
function work(parameters: MeasureVolumeParameters, { pool, unit, replaces }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const { surfaceId, against, level, otherId, outline, swell, shrink } = parameters;
    const surface = await readProduct(job.read, surfaceId, 'surface');
    const other = against === 'surface' ? await readProduct(job.read, otherId!, 'surface') : undefined;
    const lines = outline === undefined ? [] : await readTerrainLines(job.read, [outline]);
    report(0.1, 'Measuring');
    const volume = await pool.run(
      'measureVolume',
      {
        tin: await readProductBlob(job.read, surfaceId, 'tin'),
        against:
          against === 'level'
            ? { level: level! }
            : against === 'outline'
              ? 'outline'
              : { tin: await readProductBlob(job.read, otherId!, 'tin') },
        outline: lines,
      },
      signal,
    );
    const { short } = lengthUnits[unit];
    const what = against === 'level' ? `level ${level} ${short}` : against === 'outline' ? 'its base' : other!.name;
    const name = parameters.name ?? `${surface.name} against ${what}`;
    const cubic = (value: number): string => `${value.toFixed(value < 100 ? 2 : 1)} ${short}³`;
    const text = (label: string, value: string): Figure => ({ label, value, quantity: 'text' });
    const figures: Figure[] = [
      text('Cut', cubic(volume.cut)),
      text('Fill', cubic(volume.fill)),
      text('Net, fill less cut', cubic(volume.fill - volume.cut)),
      { label: 'Area of cut', value: volume.cutArea, quantity: 'area' },
      { label: 'Area of fill', value: volume.fillArea, quantity: 'area' },
      ...(swell === 1 ? [] : [text(`Cut, loose (× ${swell})`, cubic(volume.cut * swell))]),
      ...(shrink === 1 ? [] : [text(`Fill to bring (÷ ${shrink})`, cubic(volume.fill / shrink))]),
      ...(volume.uncovered > 0.01
        ? [{ label: 'Left out: no second surface there', value: volume.uncovered, quantity: 'area' as const }]
        : []),
      ...(volume.outlineOff > 0
        ? [{ label: 'Vertices of the outline off the surface', value: volume.outlineOff, quantity: 'count' as const }]
        : []),
    ];
    return {
      outcome: `${name}: cut ${cubic(volume.cut)}, fill ${cubic(volume.fill)}`,
      figures,
      store: (models) =>
        storeProduct(models, {
          kind: 'volume',
          name,
          operation: measureVolume.id,
          parameters,
          facts: { ...volume, figures },
          blobs: {},
          replaces,
        }),
    };
  };
}

export const operation = serverOperation(measureVolume, work);
