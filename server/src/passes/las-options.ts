import type { Job, PointFileFormat } from '@pampero/contract';
import type { LasWriterOptions } from '@pampero/core/formats/las';
import type { CrsDescription } from '@pampero/core/geodesy';
import { crsByCode } from '../crs/crs-catalogue.js';
import type { CloudFacts } from '../store/cloud-facts.js';
import { quantisationOf } from '../store/cloud-repository.js';

/** The leanest point format that holds the cloud's columns. */
export function lasOptions(
  job: Job,
  facts: CloudFacts,
  { version, format }: { readonly version: '1.2' | '1.4'; readonly format: PointFileFormat },
): LasWriterOptions {
  const { columns } = facts;
  const legacy = (columns.gpsTime ? 1 : 0) + (columns.rgb ? 2 : 0);
  const extended = columns.nearInfrared ? 8 : columns.rgb ? 7 : 6;
  return {
    version,
    pointFormat: version === '1.2' ? legacy : extended,
    quantisation: quantisationOf(facts),
    isCompressed: format === 'laz',
    extraBytesLength: columns.extraBytesLength,
    crs: crsOf(job, facts),
    isStandardGpsTime: facts.isStandardGpsTime,
    records: facts.records.map((record) => ({ ...record, data: new Uint8Array(Buffer.from(record.data, 'base64')) })),
  };
}

/** The job's system, since that is what the coordinates are in; the file's own text where it says the same. */
export function crsOf(job: Job, facts: CloudFacts): CrsDescription {
  const { epsg, name, horizontalUnit, verticalUnit } = job.crs;
  // A system of one's own has no well-known text here, and the file's would name the system its points were moved out of.
  const wkt = job.crs.definition
    ? undefined
    : epsg === undefined || facts.source.crs?.epsg === epsg
      ? (facts.wkt ?? (epsg === undefined ? undefined : crsByCode(epsg).wkt))
      : crsByCode(epsg).wkt;
  return {
    ...(epsg !== undefined && { epsg }),
    ...(name !== undefined && { name }),
    ...(horizontalUnit && { horizontalUnit }),
    ...(verticalUnit && { verticalUnit }),
    ...(wkt && { wkt }),
  };
}
