import type { Cloud, Job } from '@pampero/contract';

/** The system that a cloud's file states, where the job has none and could be in it. */
export function offeredSystem(
  job: Pick<Job, 'crs' | 'unit'> | undefined,
  { source: { crs } }: Pick<Cloud, 'source'>,
): { readonly epsg: number; readonly title: string } | undefined {
  if (!job || job.crs.epsg !== undefined || job.crs.definition !== undefined) return undefined;
  if (crs?.epsg === undefined || crs.isGeographic || (crs.horizontalUnit ?? job.unit) !== job.unit) return undefined;
  return { epsg: crs.epsg, title: crs.name ?? `EPSG:${crs.epsg}` };
}
