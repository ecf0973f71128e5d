import type { HandedOver, Job } from '@pampero/contract';
import { className } from '@pampero/core/cloud';
import { lengthUnits } from '@pampero/core/geodesy';
import { formatCount, GAP } from '@pampero/core/wording';
import { systemOf } from '../crs/system-words.js';
import { listClouds } from '../store/cloud-repository.js';
import type { Models } from '../store/models.js';
import { readJobClasses } from '../store/pin-repository.js';
import { listSheetRuns } from '../store/sheet-run-repository.js';

export interface PackageFacts {
  readonly job: Job;
  readonly models: Models;
  readonly note: string;
  readonly files: HandedOver['files'];
  readonly missing: HandedOver['missing'];
}

/** What the files are, in words for whoever opens them: units, systems, the meaning of classes, what is not certain. */
export async function packageReadme({ job, models, note, files, missing }: PackageFacts): Promise<string> {
  const { name, short } = lengthUnits[job.unit];
  const clouds = await listClouds(models);
  const own = await readJobClasses(models);
  const codes = [...new Set(clouds.flatMap(({ classCounts }) => Object.keys(classCounts).map(Number)))].sort(
    (a, b) => a - b,
  );
  const waved = (await listSheetRuns(models)).flatMap(({ gates }) =>
    Object.values(gates).filter(({ state }) => state === 'accepted'),
  );
  const lines = [
    job.name,
    '='.repeat(Math.min(78, job.name.length)),
    '',
    ...(note ? [note, ''] : []),
    `Coordinate system: ${systemOf(job)}`,
    `Lengths and elevations: ${name} (${short})`,
    `Put together: ${new Date().toISOString().slice(0, 10)} with Pampero`,
    '',
    'Files',
    '-----',
    ...files.flatMap((file) => [`${file.name}  (${sizeOf(file.bytes)})`, `    ${file.what}`]),
    ...(missing.length > 0
      ? ['', 'Not in this package', '-------------------', ...missing.flatMap((m) => [m.name, `    ${m.because}`])]
      : []),
    ...(codes.length > 0
      ? [
          '',
          'Classes of points (ASPRS LAS 1.4)',
          '---------------------------------',
          ...codes.map(
            (code) => `${String(code).padStart(3)}  ${own.find((each) => each.code === code)?.name ?? className(code)}`,
          ),
        ]
      : []),
    ...(waved.length > 0
      ? [
          '',
          'Accepted though a limit did not hold',
          '------------------------------------',
          ...waved.flatMap(({ outcome, reason }) => [outcome, `    Reason given: ${reason ?? ''}`]),
        ]
      : []),
    '',
    'To check that no file was changed on its way: sha256sum -c SHA256SUMS.txt',
    '',
  ];
  // Plain spaces: old editors show a narrow one as a box.
  return lines.join('\r\n').replaceAll(GAP, ' ');
}

function sizeOf(bytes: number): string {
  if (bytes < 1000) return `${bytes} bytes`;
  return bytes < 1e6 ? `${(bytes / 1000).toFixed(0)} kB` : `${formatCount(Math.round(bytes / 1e5) / 10)} MB`;
}
