import type { CrsChoice, FileLook, Finding, Job } from '@pampero/contract';
import { FormatError, type ByteSource } from '@pampero/core/formats';
import { openLas } from '@pampero/core/formats/las';
import { guessTextLayout, type TextLayout } from '@pampero/core/formats/text';
import { lengthUnits, metresPer, planTransform, type LengthUnit } from '@pampero/core/geodesy';
import { PamperoError } from '@pampero/core/task';
import { formatNumber } from '@pampero/core/wording';
import { placeFinding } from '../crs/area.js';
import { chosenSystem, planeSystemOf, type PlaneSystem } from '../crs/plane-system.js';
import { statedCrs } from '../crs/stated-crs.js';
import { openFileSource } from '../files/file-bytes.js';
import { looseKind, openLooseFile, type LooseKind } from './import/loose-file.js';

/** Lines of a text file that are shown. */
const SHOWN_LINES = 40;
/** Enough lines to see how a text file is laid out. */
const HEAD_BYTES = 65_536;
/** Higher and lower than any land. Common practice, no source. */
const [LOWEST_LAND, HIGHEST_LAND] = [-500, 9000];

type Bounds = NonNullable<FileLook['bounds']>;
type Said = Omit<FileLook, 'fileName' | 'fileBytes' | 'findings' | 'boundsInJob'> & { readonly findings?: Finding[] };

export interface LookOptions {
  readonly path: string;
  readonly fileName: string;
  readonly job: Job;
  /** Where the job's clouds lie. */
  readonly jobBounds: Bounds | undefined;
  readonly layout: TextLayout | undefined;
  /** Numbers of scans that are left out, from 1. */
  readonly leaveOut?: readonly number[];
  readonly crs: CrsChoice | undefined;
}

/**
 * What a file says of itself, and what looks wrong, from its header and first points only.
 * @throws FormatError where nothing of it can be used
 */
export async function lookAtFile(options: LookOptions): Promise<FileLook> {
  const { path, fileName, job } = options;
  const source = await openFileSource(path, fileName);
  try {
    const kind = looseKind(fileName);
    const said = kind ? await lookAtLoose(source, kind, options) : await lookAtLas(source);
    const system = options.crs ? chosenSystem(options.crs) : planeSystemOf(said.crs);
    const boundsInJob = said.bounds && inJob(said.bounds, system, job, said.crs?.verticalUnit);
    return {
      fileName,
      fileBytes: source.size,
      ...said,
      ...(boundsInJob && { boundsInJob }),
      findings: [...(said.findings ?? []), ...findingsOf(said, system, boundsInJob, options)],
    };
  } finally {
    await source.close();
  }
}

async function lookAtLas(source: ByteSource): Promise<Said> {
  const las = await openLas(source);
  const { header, columns, crs } = las;
  const kind = las.records.some((r) => r.userId === 'copc') ? 'COPC' : las.chunks ? 'LAZ' : 'LAS';
  return {
    format: `${kind} ${header.versionMajor}.${header.versionMinor}, points ${las.format.id}`,
    pointCount: las.pointCount,
    software: header.generatingSoftware.trim(),
    ...(crs && { crs: statedCrs(crs) }),
    bounds: { min: [header.minX, header.minY, header.minZ], max: [header.maxX, header.maxY, header.maxZ] },
    sampledPoints: 0,
    attributes: [
      'intensity',
      'returns',
      ...(columns.gpsTime ? ['GPS time'] : []),
      ...(columns.rgb ? ['colour'] : []),
      ...(columns.nearInfrared ? ['near infrared'] : []),
      ...(columns.extraBytesLength > 0 ? [`${columns.extraBytesLength} extra bytes`] : []),
    ],
    findings: las.warnings.map(({ message }) => ({ level: 'warning', message })),
  };
}

async function lookAtLoose(
  source: ByteSource,
  kind: LooseKind,
  { layout: given, leaveOut = [] }: Pick<LookOptions, 'layout' | 'leaveOut'>,
): Promise<Said> {
  const head = kind === 'text' ? await headLines(source) : undefined;
  const layout = given ?? (head && guessTextLayout(head));
  const text = head && {
    text: { lines: head.slice(0, SHOWN_LINES), ...(layout && { layout: { ...layout, columns: [...layout.columns] } }) },
  };
  if (kind === 'text' && !layout)
    return {
      format: 'text',
      sampledPoints: 0,
      attributes: [],
      ...text,
      findings: [
        { level: 'warning', message: 'None of the first lines looks like a point: say how the file is laid out.' },
      ],
    };
  const file = await openLooseFile(source, kind, layout, { leaveOut, looksAtScans: true });
  const first = await file.batches.next();
  await file.batches.return(undefined);
  const points = first.done ? undefined : first.value;
  return {
    format: file.format,
    ...(file.pointCount !== undefined && { pointCount: file.pointCount }),
    ...(file.crs && { crs: statedCrs(file.crs) }),
    ...(points && {
      bounds: {
        min: [least(points.easting), least(points.northing), least(points.elevation)],
        max: [most(points.easting), most(points.northing), most(points.elevation)],
      },
    }),
    ...(file.apart?.length && {
      scansApart: file.apart.map(({ number, name, distance }) => ({ number, name, distance })),
    }),
    sampledPoints: points?.count ?? 0,
    attributes: points
      ? [
          ...(points.intensity ? ['intensity'] : []),
          ...(points.red ? ['colour'] : []),
          ...(points.classification ? ['class'] : []),
          ...(points.returns ? ['returns'] : []),
          ...(points.gpsTime ? ['time'] : []),
        ]
      : [],
    ...text,
    findings: [
      ...file.warnings().map(({ message }) => ({ level: 'warning' as const, message })),
      ...(file.apart ?? [])
        .filter(({ number }) => !leaveOut.includes(number))
        .map(({ number, name, distance }) => ({
          level: 'warning' as const,
          message: `Scan ${number}, “${name}”, lies ${formatNumber(distance / 1000, 0)} km from the others: its pose may be lost, or it is in another system. Leave it out, or have it registered again.`,
        })),
      ...(points ? [] : [{ level: 'warning' as const, message: 'No point can be read with this layout.' }]),
    ],
  };
}

/** Whole lines of the beginning of a text file. */
export async function headLines(source: ByteSource): Promise<string[]> {
  const lines = Buffer.from(await source.read(0, Math.min(source.size, HEAD_BYTES)))
    .toString('latin1')
    .split(/\r?\n/);
  return source.size > HEAD_BYTES ? lines.slice(0, -1) : lines;
}

/** How a text file is laid out, told by its first lines. @throws FormatError where none of them looks like a point */
export async function layoutOfText({
  path,
  fileName,
}: {
  readonly path: string;
  readonly fileName: string;
}): Promise<TextLayout> {
  const source = await openFileSource(path, fileName);
  try {
    const layout = guessTextLayout(await headLines(source));
    if (!layout)
      throw new FormatError('not-this-format', {
        what: 'None of the first lines looks like a point.',
        where: fileName,
        fix: 'Set the delimiter, the columns and the lines to skip.',
      });
    return layout;
  } finally {
    await source.close();
  }
}

function findingsOf(
  { bounds, crs }: Said,
  system: PlaneSystem | undefined,
  boundsInJob: Bounds | undefined,
  { job, jobBounds }: LookOptions,
): Finding[] {
  const findings: Finding[] = [];
  const warn = (message: string): void => void findings.push({ level: 'warning', message });
  const jobSystem = planeSystemOf(job.crs);
  if (crs?.isGeographic) warn('The file’s coordinates are degrees; no surface can be built from them.');
  else if (!system)
    findings.push({
      level: 'note',
      message: `The file states no coordinate system that is known here; it is taken to be in the job’s, ${job.crs.name ?? 'local'}, unless you choose another.`,
    });
  const home = system ?? jobSystem;
  const place = crs?.isGeographic ? undefined : placeFinding(bounds, home);
  if (place !== undefined) warn(place);
  else if (
    system &&
    jobSystem &&
    system.proj4 !== jobSystem.proj4 &&
    placeFinding(boundsInJob, jobSystem) !== undefined
  )
    warn(`Moved into the job’s system it would lie outside the area that ${jobSystem.title} is for.`);
  if (crs?.horizontalUnit && system && crs.horizontalUnit !== system.unit)
    warn(
      `The file says ${lengthUnits[crs.horizontalUnit].name}, its coordinate system ${system.title} is in ${lengthUnits[system.unit].name}.`,
    );
  if (bounds) {
    const metres = lengthUnits[crs?.verticalUnit ?? home?.unit ?? job.unit].metres;
    const [low, high] = [bounds.min[2] * metres, bounds.max[2] * metres];
    if (low < LOWEST_LAND || high > HIGHEST_LAND)
      warn(
        `Elevations from ${Math.round(low)} to ${Math.round(high)} m are not those of any land: stray points, or another unit.`,
      );
  }
  if (boundsInJob && jobBounds) {
    const gap = [0, 1].map((axis) =>
      Math.max(0, boundsInJob.min[axis]! - jobBounds.max[axis]!, jobBounds.min[axis]! - boundsInJob.max[axis]!),
    );
    const away = Math.hypot(gap[0]!, gap[1]!);
    const size = Math.hypot(jobBounds.max[0] - jobBounds.min[0], jobBounds.max[1] - jobBounds.min[1]);
    if (away > size)
      warn(
        `It would lie ${Math.round(away).toLocaleString('en')} ${lengthUnits[job.unit].short} away from the job’s other clouds.`,
      );
    else if (away === 0) {
      const rise = Math.max(boundsInJob.min[2] - jobBounds.max[2], jobBounds.min[2] - boundsInJob.max[2]);
      if (rise > jobBounds.max[2] - jobBounds.min[2])
        warn('It would lie far above or below the job’s other clouds: another height datum, or another unit.');
    }
  }
  return findings;
}

/** Bounds as they would be in the job: moved by their corners, elevations in its unit. */
function inJob(
  { min, max }: Bounds,
  from: PlaneSystem | undefined,
  job: Job,
  verticalUnit: LengthUnit | undefined,
): Bounds | undefined {
  const to = planeSystemOf(job.crs);
  if (!from || !to) return { min, max };
  const up = metresPer(verticalUnit ?? from.unit) / metresPer(job.unit);
  const [e, n] = [Float64Array.of(min[0], max[0], min[0], max[0]), Float64Array.of(min[1], min[1], max[1], max[1])];
  try {
    if (from.proj4 !== to.proj4) planTransform(from.proj4, to.proj4)(e, n);
  } catch (error) {
    if (error instanceof PamperoError) return undefined;
    throw error;
  }
  return { min: [least(e), least(n), min[2] * up], max: [most(e), most(n), max[2] * up] };
}

function least(values: Float64Array): number {
  return values.reduce((a, b) => Math.min(a, b), Infinity);
}
function most(values: Float64Array): number {
  return values.reduce((a, b) => Math.max(a, b), -Infinity);
}
