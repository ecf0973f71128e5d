import { elevationOfBin, percentileBin, type CloudStatistics, type Quantisation } from '@pampero/core/cloud';
import { knownDimensions, readExtraDimensions } from '@pampero/core/formats/las';
import { statedCrs } from '../../crs/stated-crs.js';
import type { CloudFacts } from '../../store/cloud-facts.js';
import type { LasFacts } from '../../tasks/reading-tasks.js';
import type { BuiltCloud } from './cloud-builder.js';
import { attributeNamesOf } from './las-source.js';

/** What a cloud says of itself once its points are stored. */
export function factsOf(
  las: LasFacts,
  fileBytes: number,
  built: BuiltCloud,
  { fileName, format, warnings }: { fileName: string; format: string; warnings: CloudFacts['warnings'] },
): CloudFacts {
  const { header, quantisation, columns } = las;
  const { statistics } = built;
  const at = coordinatesOf(quantisation);
  const crs = las.crs;
  return {
    bounds: { min: at(built.min), max: at(built.max) },
    quantisation: { scale: [...quantisation.scale], offset: [...quantisation.offset] },
    columns,
    intensityRange: [percentileBin(statistics.intensities, 0.02), percentileBin(statistics.intensities, 0.98)],
    source: {
      fileName,
      fileBytes,
      format,
      generatingSoftware: header.generatingSoftware.trim(),
      ...(crs && { crs: statedCrs(crs) }),
      elevationRange: elevationRange(statistics, built, quantisation),
      strips: stripsOf(statistics),
    },
    warnings,
    attributeNames: attributeNamesOf(las),
    cube: { low: at(built.cube.low), side: built.cube.side },
    ...knownDimensions(readExtraDimensions(las.records)),
    isStandardGpsTime: (header.globalEncoding & 1) === 1,
    ...(crs?.wkt && { wkt: crs.wkt }),
    records: las.records.map(({ data, ...record }) => ({ ...record, data: Buffer.from(data).toString('base64') })),
  };
}

/** Scaled integers as coordinates. */
export function coordinatesOf({
  scale,
  offset,
}: Quantisation): (integers: readonly number[]) => [number, number, number] {
  return (integers) => integers.map((value, axis) => value * scale[axis]! + offset[axis]!) as [number, number, number];
}

/** 1 to 99 per cent of the elevations. */
function elevationRange(
  { elevations }: CloudStatistics,
  { min, max }: BuiltCloud,
  { scale, offset }: Quantisation,
): [number, number] {
  const at = (share: number): number =>
    elevationOfBin(percentileBin(elevations, share), min[2], max[2]) * scale[2] + offset[2];
  return [at(0.01), at(0.99)];
}

function stripsOf({ sources }: CloudStatistics): number[] {
  const strips: number[] = [];
  for (let id = 0; id < sources.length; id++) if (sources[id]! > 0) strips.push(id);
  return strips;
}
