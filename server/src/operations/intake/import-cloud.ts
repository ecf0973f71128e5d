import { rm } from 'node:fs/promises';
import { basename, extname } from 'node:path';
import { importCloud, type Crs, type ImportCloudParameters } from '@pampero/contract';
import { elevationOfBin, percentileBin, type CloudStatistics, type Quantisation } from '@pampero/core/cloud';
import { FormatError, type FormatWarning } from '@pampero/core/formats';
import { guessTextLayout, type TextLayout } from '@pampero/core/formats/text';
import { confidenceDimension, readExtraDimensions } from '@pampero/core/formats/las';
import { lengthUnits, metresPer, type CrsDescription, type LengthUnit } from '@pampero/core/geodesy';
import { PamperoError } from '@pampero/core/task';
import type { MemoryPlan } from '../../memory-plan.js';
import { chosenSystem, planeSystemOf, type PlaneSystem } from '../../crs/plane-system.js';
import { statedCrs } from '../../crs/stated-crs.js';
import { headLines } from '../../tasks/look-at-file.js';
import type { LasFacts } from '../../tasks/reading-tasks.js';
import type { RunWork } from '../../runs/run-service.js';
import type { CloudFacts } from '../../store/cloud-facts.js';
import { finishCloud, insertImportingCloud, removeCloud } from '../../store/cloud-repository.js';
import { openFileSource } from '../../files/file-bytes.js';
import { looseKind } from '../../tasks/import/loose-file.js';
import type { TaskPool } from '../../tasks/task-pool.js';
import { fileOperation, type FileSurroundings } from '../server-operation.js';
import { buildCloud, type BuiltCloud } from './cloud-builder.js';
import { cloudReport } from './cloud-report.js';
import { stripFinding } from './strip-finding.js';
import { formatCount, formatCounted } from '@pampero/core/wording';
import { attributeNamesOf, lasRecordSource } from './las-source.js';

export interface ImportCloudOptions {
  readonly path: string;
  /** Takes away what was received for this run alone; called when it ends. */
  readonly discard: () => Promise<void>;
  readonly fileName: string;
  readonly name: string | undefined;
  readonly jobCrs: Crs;
  readonly jobUnit: LengthUnit;
  /** Takes the coordinates as they are, whatever system the file says it is in. */
  readonly keepsCoordinates: boolean;
  /** How to read a text file, where the surveyor has said so. */
  readonly layout: TextLayout | undefined;
  /** The system the coordinates are in, in place of what the file says. */
  readonly system: PlaneSystem | undefined;
  readonly heights: HeightChange;
  /** Where records are sorted on the way, and, with endings of their own, what the file is turned into; removed in the end. */
  readonly spillPath: string;
  readonly memory: MemoryPlan;
}

/** What is done to elevations on the way in. */
export interface HeightChange {
  readonly unit: LengthUnit | undefined;
  /** Added, in the job's unit. */
  readonly shift: number;
  /** A GTX file: heights above the ellipsoid become heights above the geoid. */
  readonly geoid: { readonly name: string; readonly path: string } | undefined;
}

/**
 * Stores a file's points node by node under a cloud that counts as "importing" until the last; only then does it exist for
 * anyone. A failure, a cancel or the next start after a kill takes the half cloud away.
 */
export function importCloudWork(pool: TaskPool, options: ImportCloudOptions): RunWork {
  return async ({ job, signal, report }) => {
    const name = options.name ?? basename(options.fileName, extname(options.fileName));
    let cloudId: number | undefined;
    try {
      const { path, format, warnings: conversionWarnings } = await asLas(pool, options, signal, report);
      const given = await openPath(pool, path, options.fileName, signal);
      const move = moveInto(given.las.crs, options);
      const las = move ? (await reproject(pool, path, move, options, signal, report)).las : given.las;
      const pointsPath = move ? reprojectedPath(options) : path;
      const id = (cloudId = await job.write((models) => insertImportingCloud(models, name), { isPromised: false }));
      const built = await buildCloud(
        {
          job,
          pool,
          cloudId: id,
          source: lasRecordSource(
            las,
            pointsPath,
            options.fileName,
            pool,
            signal,
            options.memory.blockPoints(las.header.recordLength),
          ),
          spillPath: options.spillPath,
          memory: options.memory,
        },
        signal,
        report,
      );
      const warnings = [
        ...conversionWarnings,
        ...given.las.warnings,
        ...boundsWarnings(las, built),
        ...(built.colourDepth === 'full'
          ? []
          : [
              {
                code: 'colours-of-8-bits',
                message: 'Its colours held 8 bits in 16 and would have been too dark; they were brought to full depth.',
              },
            ]),
        ...(built.mixesChannels
          ? [
              {
                code: 'colours-in-doubt',
                message:
                  'The file mixes several scanner channels in a compressed chunk; decoders do not agree on colours and extra bytes there. Check the colours, or import the file as LAS.',
              },
            ]
          : []),
        ...(move ? [move.told] : crsWarnings(given.las.crs, options)),
      ];
      const facts = factsOf({ ...las, crs: given.las.crs, records: given.las.records }, given.size, built, {
        fileName: options.fileName,
        format: format ?? lasFormat(given.las),
        warnings,
      });
      report(0.98, 'Holding strips against each other');
      const told = cloudReport(built, las.quantisation, las.columns.gpsTime);
      const strips =
        facts.source.strips.length < 2
          ? undefined
          : await stripFinding(pool, job.read, id, facts, told, options.jobUnit);
      const looked = strips ? { ...told, findings: [strips, ...told.findings] } : told;
      return {
        outcome: `${formatCount(las.pointCount)} points from ${options.fileName}${warnings.length > 0 ? `, ${formatCounted(warnings.length, 'warning')}` : ''}`,
        figures: [
          { label: 'Points', value: las.pointCount, quantity: 'count' },
          { label: 'Strips', value: facts.source.strips.length, quantity: 'count' },
          ...warnings.map((warning) => ({ label: 'Warning', value: warning.message, quantity: 'text' as const })),
        ],
        store: async (models) => {
          await finishCloud(models, id, las.pointCount, facts, looked);
          return { effects: [{ kind: 'cloud', id }], productId: id };
        },
      };
    } catch (error) {
      const id = cloudId;
      // First what takes room: where the disk is full, removing the half cloud needs some.
      await removeIntermediate(options);
      if (id !== undefined) {
        // What cannot be removed now is never shown, and is removed when the job is next opened.
        await job.putJournalBack().catch(() => undefined);
        await job.write((models) => removeCloud(models, id), { isPromised: false }).catch(() => undefined);
        await job.giveBackSpace().catch(() => undefined);
      }
      throw error;
    } finally {
      await options.discard();
      await removeIntermediate(options);
    }
  };
}

function lasFormat({ header, format, chunks, records }: LasFacts): string {
  const kind = records.some((record) => record.userId === 'copc') ? 'COPC' : chunks ? 'LAZ' : 'LAS';
  return `${kind} ${header.versionMajor}.${header.versionMinor}, points ${format.id}`;
}

/** What the file was turned into on the way. */
async function removeIntermediate(options: ImportCloudOptions): Promise<void> {
  for (const path of [convertedPath(options), reprojectedPath(options)]) await rm(path, { force: true });
}

function convertedPath({ spillPath }: ImportCloudOptions): string {
  return `${spillPath}.converted`;
}

function reprojectedPath({ spillPath }: ImportCloudOptions): string {
  return `${spillPath}.moved`;
}

async function openPath(
  pool: TaskPool,
  path: string,
  fileName: string,
  signal: AbortSignal,
): Promise<{ las: LasFacts; size: number }> {
  const { size, ...las } = await pool.read('factsOfLas', { path, fileName }, { path, fileName, signal });
  return { las, size };
}

/** How a file's points come into the job's system, and what the surveyor is told of it. */
interface Move {
  readonly plan: { readonly from: string; readonly to: string } | undefined;
  readonly elevationFactor: number;
  readonly shift: number;
  readonly geoid: { readonly path: string; readonly system: string; readonly metresPerUnit: number } | undefined;
  readonly told: CloudFacts['warnings'][number];
}

/** What has to be done to bring a file into the job's system; nothing where they are the same or one of them is not known. */
function moveInto(
  file: CrsDescription | undefined,
  { jobCrs, jobUnit, keepsCoordinates, system, heights, fileName }: ImportCloudOptions,
): Move | undefined {
  const to = planeSystemOf(jobCrs);
  const from = system ?? (file && planeSystemOf(statedCrs(file)));
  const isElsewhere = !keepsCoordinates && from !== undefined && to !== undefined && from.proj4 !== to.proj4;
  // Without a system nothing is known of the file's unit, and what is not known is not turned.
  const upUnit = heights.unit ?? (keepsCoordinates || !from || !to ? jobUnit : (file?.verticalUnit ?? from.unit));
  if (!isElsewhere && upUnit === jobUnit && heights.shift === 0 && !heights.geoid) return undefined;
  const place = keepsCoordinates ? to : (from ?? to);
  if (heights.geoid && !place)
    throw new PamperoError('geoid-wrong', {
      what: 'A geoid grid needs a coordinate system, and neither the file nor the job states one.',
      where: fileName,
      fix: 'Choose the file’s coordinate system, or leave the geoid out.',
    });
  const said = ({ title, unit }: PlaneSystem): string => `${title}, ${lengthUnits[unit].name}`;
  const unitName = lengthUnits[jobUnit];
  const parts = [
    isElsewhere && `Moved from ${said(from)}, to the job’s ${said(to)}.`,
    upUnit !== jobUnit && `Elevations turned from ${lengthUnits[upUnit].name} into ${unitName.name}.`,
    heights.geoid && `Heights above the ellipsoid became heights above the geoid ${heights.geoid.name}.`,
    heights.shift !== 0 && `${heights.shift} ${unitName.short} was added to every elevation.`,
    isElsewhere && !heights.geoid && 'The height datum was left as it is.',
  ];
  return {
    plan: isElsewhere ? { from: from.proj4, to: to.proj4 } : undefined,
    elevationFactor: metresPer(upUnit) / metresPer(jobUnit),
    shift: heights.shift,
    geoid: heights.geoid && { path: heights.geoid.path, system: place!.proj4, metresPerUnit: metresPer(jobUnit) },
    told: { code: 'moved', message: parts.filter(Boolean).join(' ') },
  };
}

async function reproject(
  pool: TaskPool,
  path: string,
  { told: _, ...move }: Move,
  options: ImportCloudOptions,
  signal: AbortSignal,
  report: (share: number, step: string) => void,
): Promise<{ las: LasFacts; size: number }> {
  const target = reprojectedPath(options);
  const { fileName } = options;
  await pool.read(
    'reprojectLas',
    { path, fileName, target, ...move },
    { path, fileName, signal, onMessage: () => report(0, 'Moving into the job’s system') },
  );
  return openPath(pool, target, options.fileName, signal);
}

/** The file itself where it is LAS or LAZ; otherwise a LAS file made from it. */
async function asLas(
  pool: TaskPool,
  options: ImportCloudOptions,
  signal: AbortSignal,
  report: (share: number, step: string) => void,
): Promise<{ path: string; format?: string; warnings: readonly FormatWarning[] }> {
  const kind = looseKind(options.fileName);
  if (!kind) return { path: options.path, warnings: [] };
  const layout = kind === 'text' ? (options.layout ?? (await guessedLayout(options))) : undefined;
  const target = convertedPath(options);
  report(0, 'Reading the file');
  const task = { path: options.path, fileName: options.fileName, kind, layout, target };
  return {
    path: target,
    ...(await pool.read('convertToLas', task, {
      ...options,
      signal,
      onMessage: (read) => report(0, `Reading the file, ${formatCount(read as number)} points`),
    })),
  };
}

async function guessedLayout({ path, fileName }: ImportCloudOptions): Promise<TextLayout> {
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

function factsOf(
  las: LasFacts,
  fileBytes: number,
  built: BuiltCloud,
  { fileName, format, warnings }: { fileName: string; format: string; warnings: CloudFacts['warnings'] },
): CloudFacts {
  const { header, quantisation, columns } = las;
  const { statistics } = built;
  const confidence = confidenceDimension(readExtraDimensions(las.records));
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
    ...(confidence && { confidence }),
    isStandardGpsTime: (header.globalEncoding & 1) === 1,
    ...(crs?.wkt && { wkt: crs.wkt }),
    records: las.records.map(({ data, ...record }) => ({ ...record, data: Buffer.from(data).toString('base64') })),
  };
}

function coordinatesOf({ scale, offset }: Quantisation): (integers: readonly number[]) => [number, number, number] {
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

/** The header's bounds against the points' own, to a step and a half of the scale. */
function boundsWarnings({ header, quantisation }: LasFacts, built: BuiltCloud): CloudFacts['warnings'] {
  const at = coordinatesOf(quantisation);
  const [min, max] = [at(built.min), at(built.max)];
  const off = [
    header.minX - min[0],
    header.minY - min[1],
    header.minZ - min[2],
    header.maxX - max[0],
    header.maxY - max[1],
    header.maxZ - max[2],
  ];
  const isTrue = off.every((difference, i) => Math.abs(difference) <= 1.5 * quantisation.scale[i % 3]!);
  return isTrue
    ? []
    : [{ code: 'bounds-lie', message: 'The header’s bounds are not those of the points. The points’ own are used.' }];
}

/** The file's system against the job's: nothing is moved, but a difference is said aloud. */
function crsWarnings(
  file: CrsDescription | undefined,
  { jobCrs, jobUnit, system }: ImportCloudOptions,
): { code: string; message: string }[] {
  if (system) return [];
  if (!file || (file.epsg === undefined && file.horizontalUnit === undefined)) {
    return [
      {
        code: 'crs-missing',
        message: `The file states no coordinate system; it is taken to be in the job’s, ${jobCrs.name ?? 'local'}.`,
      },
    ];
  }
  const warnings: { code: string; message: string }[] = [];
  if (file.isGeographic)
    warnings.push({
      code: 'crs-geographic',
      message: 'The file’s coordinates are degrees; no surface can be built from them.',
    });
  if (file.epsg !== undefined && jobCrs.epsg !== undefined && file.epsg !== jobCrs.epsg) {
    warnings.push({
      code: 'crs-differs',
      message: `The file is in EPSG:${file.epsg}, the job in EPSG:${jobCrs.epsg}. The coordinates were taken as they are.`,
    });
  }
  if (file.horizontalUnit && file.horizontalUnit !== jobUnit) {
    warnings.push({
      code: 'unit-differs',
      message: `The file is in ${lengthUnits[file.horizontalUnit].name}, the job in ${lengthUnits[jobUnit].name}. The coordinates were taken as they are.`,
    });
  }
  return warnings;
}

/** The import of a file that was found, with what the surveyor said of it. */
async function begin(
  { name, layout, coordinates, crs, heights }: ImportCloudParameters,
  { pool, job, memory, library, incoming, source }: FileSurroundings,
): Promise<RunWork> {
  const geoid = heights.geoid === undefined ? undefined : await incoming.geoids.pathOf(heights.geoid);
  return importCloudWork(pool, {
    path: source.path,
    fileName: source.fileName,
    discard: () => Promise.resolve(),
    layout,
    keepsCoordinates: coordinates === 'kept',
    system: crs && chosenSystem(crs),
    heights: {
      unit: heights.unit,
      shift: heights.shift,
      geoid: geoid === undefined ? undefined : { name: heights.geoid!, path: geoid },
    },
    name,
    jobCrs: job.crs,
    jobUnit: job.unit,
    spillPath: library.scratchPath('.spill'),
    memory,
  });
}

export const operation = fileOperation(importCloud, begin);
