import type { Job } from '@pampero/contract';

/** A job's coordinate system, as it is told. */
export function systemOf({ crs }: Job): string {
  if (crs.epsg !== undefined) return `EPSG:${crs.epsg}${crs.name ? `, ${crs.name}` : ''}`;
  return crs.definition ?? crs.name ?? 'local, not named';
}
