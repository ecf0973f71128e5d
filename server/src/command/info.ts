import { basename, resolve } from 'node:path';
import type { FileLook, Job } from '@pampero/contract';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { lookAtFile } from '../tasks/look-at-file.js';
import { existing } from './files.js';

/** A job to look from: a local one in metres, so that nothing is said of where a file would lie in it. */
export const NOWHERE: Job = {
  id: 'none',
  name: 'none',
  crs: { horizontalUnit: 'metre', verticalUnit: 'metre' },
  unit: 'metre',
  createdAt: new Date(0).toISOString(),
  changedAt: new Date(0).toISOString(),
  fileBytes: 0,
  cloudCount: 0,
  pointCount: 0,
};

/** What files say of themselves. */
export async function info(files: readonly string[], { json = false }: { readonly json?: boolean }): Promise<void> {
  const looks: FileLook[] = [];
  for (const file of files) {
    const path = await existing(file);
    looks.push(
      await lookAtFile({
        path: resolve(path),
        fileName: basename(path),
        job: NOWHERE,
        jobBounds: undefined,
        layout: undefined,
        crs: undefined,
      }),
    );
  }
  if (json) process.stdout.write(`${JSON.stringify(looks, undefined, 2)}\n`);
  else process.stdout.write(looks.map(asText).join('\n'));
}

function asText({
  fileName,
  fileBytes,
  format,
  pointCount,
  software,
  crs,
  bounds,
  attributes,
  findings,
}: FileLook): string {
  const rows: [string, string][] = [
    ['File', `${fileName}, ${formatCount(fileBytes)} bytes`],
    ['Format', format],
    ['Points', pointCount === undefined ? 'not stated' : formatCount(pointCount)],
    [
      'System',
      crs ? `${crs.epsg ? `EPSG:${crs.epsg} ` : ''}${crs.name ?? ''}`.trim() || 'stated, not known' : 'not stated',
    ],
    ...(bounds
      ? ([
          ['Easting', span(bounds, 0)],
          ['Northing', span(bounds, 1)],
          ['Elevation', span(bounds, 2)],
        ] as [string, string][])
      : []),
    ['Attributes', attributes.join(', ') || 'none'],
    ...(software ? ([['Written by', software]] as [string, string][]) : []),
    ...findings.map(({ level, message }): [string, string] => [level === 'warning' ? 'Warning' : 'Note', message]),
  ];
  return `${rows.map(([label, value]) => `${label.padEnd(11)} ${value}`).join('\n')}\n`;
}

function span({ min, max }: NonNullable<FileLook['bounds']>, axis: 0 | 1 | 2): string {
  return `${formatNumber(min[axis], 3)} to ${formatNumber(max[axis], 3)}`;
}
