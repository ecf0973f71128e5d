import { rm } from 'node:fs/promises';
import { basename, extname } from 'node:path';
import { importCloud, type ImportCloudParameters } from '@pampero/contract';
import type { FormatWarning } from '@pampero/core/formats';
import type { TextLayout } from '@pampero/core/formats/text';
import { lengthUnits, type CrsDescription } from '@pampero/core/geodesy';
import type { MemoryPlan } from '../../memory-plan.js';
import { placeFinding } from '../../crs/area.js';
import { chosenSystem, planeSystemOf } from '../../crs/plane-system.js';
import { layoutOfText } from '../../tasks/look-at-file.js';
import type { LasFacts } from '../../tasks/reading-tasks.js';
import type { RunWork } from '../../runs/run-service.js';
import type { CloudFacts } from '../../store/cloud-facts.js';
import { finishCloud, insertImportingCloud, removeCloud } from '../../store/cloud-repository.js';
import { looseKind } from '../../tasks/import/loose-file.js';
import type { TaskPool } from '../../tasks/task-pool.js';
import { fileOperation, type FileSurroundings } from '../server-operation.js';
import { buildCloud, type BuiltCloud } from './cloud-builder.js';
import { type SortedExtent } from './sort-records.js';
import { cloudReport } from './cloud-report.js';
import { FirstSight } from './first-sight.js';
import { coordinatesOf, factsOf } from './imported-facts.js';
import { moveInto, openPath, reproject, type MoveOptions } from './move-into-job.js';
import { stripFinding } from './strip-finding.js';
import { formatCount, formatCounted } from '@pampero/core/wording';
import { lasRecordSource } from './las-source.js';

export interface ImportCloudOptions extends MoveOptions {
  readonly path: string;
  /** Takes away what was received for this run alone; called when it ends. */
  readonly discard: () => Promise<void>;
  readonly name: string | undefined;
  /** How to read a text file, where the surveyor has said so. */
  readonly layout: TextLayout | undefined;
  readonly leaveOutScans?: readonly number[];
  /** Where records are sorted on the way, and, with endings of their own, what the file is turned into; removed in the end. */
  readonly spillPath: string;
  readonly memory: MemoryPlan;
}

/**
 * Stores a file's points node by node under a cloud that counts as "importing" until the last; only then does it exist for
 * anyone. A failure, a cancel or the next start after a kill takes the half cloud away.
 */
export function importCloudWork(pool: TaskPool, options: ImportCloudOptions): RunWork {
  return async (context) => {
    const { job, signal, report, announce } = context;
    const { fileName, memory, spillPath } = options;
    const name = options.name ?? basename(options.fileName, extname(options.fileName));
    let cloudId: number | undefined;
    let sight: FirstSight | undefined;
    try {
      const inSight = { fileName, name, spillPath };
      const sightNow = (sight = new FirstSight(context, { pool, memory }, inSight));
      const { path, format, warnings: conversionWarnings } = await asLas(pool, options, sightNow, signal, report);
      const given = await openPath(pool, path, fileName, signal);
      const move = moveInto(given.las.crs, options);
      const id = (cloudId = await job.write((models) => insertImportingCloud(models, name), { isPromised: false }));
      report(0, 'Taking a first look');
      const formatName = format ?? lasFormat(given.las);
      await sightNow.begin({ path, format: formatName, facts: given, move });
      const toTarget = { path, fileName, target: reprojectedPath(options) };
      const tell = (): void => report(0, 'Moving into the job’s system');
      const las = move ? (await reproject(pool, toTarget, move, signal, tell)).las : given.las;
      const pointsPath = move ? reprojectedPath(options) : path;
      const blockPoints = memory.blockPoints(las.header.recordLength);
      const source = lasRecordSource(las, pointsPath, fileName, pool, signal, blockPoints);
      const onSorted = (sorted: SortedExtent): Promise<void> => sightNow.fill(id, las, sorted);
      const built = await buildCloud(
        { job, pool, cloudId: id, source, spillPath, memory, onSorted },
        signal,
        report,
      ).finally(() => sightNow.stopTelling());
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
        ...placeWarnings(las, built, options),
      ];
      const facts = factsOf({ ...las, crs: given.las.crs, records: given.las.records }, given.size, built, {
        fileName: options.fileName,
        format: formatName,
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
          await sightNow.removeIn(models);
          await finishCloud(models, id, las.pointCount, facts, looked);
          return { effects: [{ kind: 'cloud', id }], productId: id };
        },
      };
    } catch (error) {
      const id = cloudId;
      // First what takes room: where the disk is full, removing the half cloud needs some.
      await removeIntermediate(options);
      await sight?.forget();
      if (id !== undefined) {
        // What cannot be removed now is never shown, and is removed when the job is next opened.
        await job.putJournalBack().catch(() => undefined);
        await job.write((models) => removeCloud(models, id), { isPromised: false }).catch(() => undefined);
        await job.giveBackSpace().catch(() => undefined);
        announce(['clouds']);
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

/** The file itself where it is LAS or LAZ; otherwise a LAS file made from it. */
async function asLas(
  pool: TaskPool,
  options: ImportCloudOptions,
  sight: FirstSight,
  signal: AbortSignal,
  report: (share: number, step: string) => void,
): Promise<{ path: string; format?: string; warnings: readonly FormatWarning[] }> {
  const kind = looseKind(options.fileName);
  if (!kind) return { path: options.path, warnings: [] };
  const layout = kind === 'text' ? (options.layout ?? (await layoutOfText(options))) : undefined;
  const target = convertedPath(options);
  const loose = { path: options.path, fileName: options.fileName, kind, layout, leaveOut: options.leaveOutScans ?? [] };
  report(0, 'Taking a first look');
  await sight.beginLoose(loose, (crs) => moveInto(crs, options));
  report(0, 'Reading the file');
  const task = { ...loose, target };
  return {
    path: target,
    ...(await pool.read('convertToLas', task, {
      ...options,
      signal,
      onMessage: (read) => report(0, `Reading the file, ${formatCount(read as number)} points`),
    })),
  };
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

/** Where the points come to lie, against the area that the job's system is for. */
function placeWarnings(
  { quantisation }: LasFacts,
  { min, max }: BuiltCloud,
  { jobCrs }: ImportCloudOptions,
): CloudFacts['warnings'] {
  const at = coordinatesOf(quantisation);
  const system = planeSystemOf(jobCrs);
  const finding = placeFinding({ min: at(min), max: at(max) }, system);
  return finding === undefined ? [] : [{ code: 'outside-area', message: `Held against ${system!.title}: ${finding}` }];
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
  { name, layout, leaveOutScans, coordinates, crs, heights }: ImportCloudParameters,
  { pool, job, memory, library, incoming, source }: FileSurroundings,
): Promise<RunWork> {
  const geoid = heights.geoid === undefined ? undefined : await incoming.geoids.pathOf(heights.geoid);
  return importCloudWork(pool, {
    path: source.path,
    fileName: source.fileName,
    discard: () => Promise.resolve(),
    layout,
    leaveOutScans,
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
